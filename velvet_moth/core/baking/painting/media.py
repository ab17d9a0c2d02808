"""What can be painted at a spot, and what each brush makes of it: four numbers, or a direction."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np

from velvet_moth.core.baking.painting.surface import Numbers
from velvet_moth.core.stacks.stroke import PAINTED, Stroke

# The columns of a direction: its three numbers, and how much of it was combed.
WAY = 3


@dataclass(frozen=True, eq=False)
class Touched:
    """What a brush meets: at k spots the columns that it paints, as they are before the stroke and under all strokes.

    ``cover`` (k, 1) is how much of them it covers, ``normals`` (k, 3) how the surface faces, ``run`` (k, 3) the way the
    brush went, ``mean`` gives what is around each.
    """

    stroke: Stroke
    before: Numbers
    under: Numbers
    cover: Numbers
    normals: Numbers
    run: Numbers | None
    mean: Callable[[], Numbers]

    def to(self, other: Numbers | float) -> Numbers:
        """As it is before, or where it is covered, something else."""
        return self.before + (other - self.before) * self.cover


Brush = Callable[[Touched], Numbers]


@dataclass(frozen=True)
class Medium:
    """``columns`` of the four at each spot are what a stroke paints; ``brushes`` by the mode of a stroke.

    ``name`` tells it apart from others, in every process.
    """

    name: str
    columns: Callable[[Stroke], list[int]]
    brushes: Mapping[str, Brush]


NUMBERS = Medium(
    "numbers",
    lambda stroke: [PAINTED.index(name) for name in stroke.touches],
    {
        "set": lambda t: t.to(t.stroke.value),
        "add": lambda t: np.minimum(t.before + t.stroke.value * t.cover, np.maximum(t.before, 1.0)),
        "take away": lambda t: np.maximum(t.before - t.stroke.value * t.cover, np.minimum(t.before, 0.0)),
        "soften": lambda t: t.to(t.mean()),
        "sharpen": lambda t: np.clip(t.before + (t.before - t.mean()) * t.cover, 0.0, 1.0),
        "erase": lambda t: t.to(t.under),
        "invert": lambda t: t.to(1.0 - t.before),
    },
)


def flattened(vectors: Numbers, normals: Numbers) -> Numbers:
    """What of vectors (k, 3) runs along the surface, whose unit normals are (k, 3)."""
    return np.asarray(vectors - normals * np.sum(vectors * normals, axis=1, keepdims=True))


def _combed(t: Touched) -> Numbers:
    """The way the brush went, at the speed of its value. A press that goes nowhere combs nothing."""
    assert t.run is not None, "strokes that comb have a way"
    way = flattened(t.run, t.normals)
    length = np.linalg.norm(way, axis=1, keepdims=True)
    goes = length > 1e-9
    aim = np.concatenate((way / np.maximum(length, 1e-9) * t.stroke.value, np.ones_like(length)), axis=1)
    return np.where(goes, t.to(aim), t.before)


def _at_speed(change: Callable[[Numbers, Touched], Numbers]) -> Brush:
    """A brush that leaves directions as they are and changes their speed, 0..1."""

    def brush(t: Touched) -> Numbers:
        speed = np.linalg.norm(t.before[:, :WAY], axis=1, keepdims=True)
        share = np.clip(change(speed, t), 0.0, 1.0) / np.maximum(speed, 1e-9)
        return np.concatenate((t.before[:, :WAY] * np.where(speed > 1e-9, share, 1.0), t.before[:, WAY:]), axis=1)

    return brush


def _softened(t: Touched) -> Numbers:
    made = t.to(t.mean())
    made[:, :WAY] = flattened(made[:, :WAY], t.normals)
    made[:, WAY:] = t.before[:, WAY:]
    return made


def _turned_round(t: Touched) -> Numbers:
    return np.concatenate((t.before[:, :WAY] * (1.0 - 2.0 * t.cover), t.before[:, WAY:]), axis=1)


DIRECTIONS = Medium(
    "directions",
    lambda stroke: list(range(WAY + 1)),
    {
        "comb": _combed,
        "set": _at_speed(lambda speed, t: speed + (t.stroke.value - speed) * t.cover),
        "add": _at_speed(lambda speed, t: speed + t.stroke.value * t.cover),
        "take away": _at_speed(lambda speed, t: speed - t.stroke.value * t.cover),
        "soften": _softened,
        "erase": lambda t: t.to(t.under),
        "invert": _turned_round,
    },
)
