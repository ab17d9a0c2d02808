"""Levels of detail: simpler meshes for larger distances, and what of each channel is lost on the way."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from itertools import pairwise
from typing import Annotated

import numpy as np
from annotated_types import Ge, Le

from velvet_moth.core.baking.nearest import Nearest, nearest_on, spread_over
from velvet_moth.core.baking.simplifying import CHANNELS_COUNT, simplified
from velvet_moth.core.baking.skin import Skin
from velvet_moth.core.base.records import Number
from velvet_moth.core.forms.mesh import VERTEX_CHANNELS, Floats, Mesh

MOST_LEVELS = 5
# Places on the full mesh where the loss is measured.
_SAMPLES = 40_000
# The picture that levels are chosen for: so many pixels high, and an error of one of them is not seen.
_PIXELS = 1080.0
# Losses that are worth a sentence, as root mean square of a number from 0 to 1.
_WORTH = 0.03
# Softening by these, in mean lengths of a level's edges, is tried.
_SOFTER = (0.5, 1.0, 2.0, 4.0)


@dataclass(frozen=True)
class LevelWanted:
    """A level of detail as it is asked for: the share of the triangles, and the size on screen below which it is shown.

    The size is that of the bounds beside the height of the picture; 0 finds it by the error.
    """

    share: Annotated[Number, Ge(0.0005), Le(1)]
    screen: Annotated[Number, Ge(0), Le(1)] = 0.0


def wrong_levels(levels: tuple[LevelWanted, ...]) -> str:
    """Why levels cannot follow each other so; empty where they can."""
    if len(levels) > MOST_LEVELS:
        return f"A mesh has at most {MOST_LEVELS} levels."
    if any(after.share >= before.share for before, after in pairwise(levels)):
        return "Each level has fewer triangles than the one before."
    return ""


@dataclass(frozen=True)
class Loss:
    """How far a channel of a level is off, over the surface: root mean square, and what 99 of 100 places stay below.

    ``soften`` is the blur in metres that halves it; 0 where none that was tried does.
    """

    channel: str
    rms: float
    most: float
    soften: float = 0.0


@dataclass(frozen=True, eq=False)
class Level:
    """A level of detail: its mesh, how far its form is off at most (metres), from when it is shown, and its losses."""

    mesh: Mesh
    share: float
    error: float
    screen: float
    losses: tuple[Loss, ...]


def size_of(mesh: Mesh) -> float:
    """The diameter of a ball about the bounds, metres."""
    low, high = mesh.box
    return float(np.linalg.norm(high - low))


def levels_of(
    mesh: Mesh,
    wanted: tuple[LevelWanted, ...],
    weights: Mapping[str, float] | None = None,
    hears: Callable[[float], None] = lambda share: None,
) -> tuple[Level, ...]:
    """The levels of a mesh, each made of the full one. ``weights`` say how much a channel counts, 1 as usual.

    The error of the form is measured from places spread over the full mesh to the level, and so is every loss.
    """
    at = spread_over(mesh, _SAMPLES)
    places = at.mixed(mesh.triangles, mesh.positions).astype(np.float32)
    carried = [channel for channel in VERTEX_CHANNELS if mesh.carried is None or channel in mesh.carried]
    counts = tuple(CHANNELS_COUNT * (weights or {}).get(c, 1.0) if c in carried else 0.0 for c in VERTEX_CHANNELS)
    skin = Skin.of(mesh)
    found = []
    for number, one in enumerate(wanted):
        level, _ = simplified(mesh, one.share, 1.0, counts)
        near = nearest_on(places, level.positions, level.triangles)
        error = float(near.distance.max())
        screen = one.screen or min(1.0, size_of(mesh) / max(error * _PIXELS, 1e-9))
        losses = tuple(_loss(mesh, level, channel, at, near, skin) for channel in carried)
        found.append(Level(level, one.share, error, screen, losses))
        hears((number + 1) / len(wanted))
    return tuple(found)


def _loss(mesh: Mesh, level: Mesh, channel: str, at: Nearest, near: Nearest, skin: Skin) -> Loss:
    column = VERTEX_CHANNELS.index(channel)
    full, simple = mesh.data[:, column], level.data[:, column]
    off = _off(mesh, level, full, simple, at, near)
    rms, most = _measured(off)
    if rms < _WORTH:
        return Loss(channel, rms, most)
    where = _vertices_of(mesh, level)
    edges = level.positions[level.triangles] - np.roll(level.positions[level.triangles], -1, axis=1)
    length = float(np.linalg.norm(edges, axis=-1).mean())
    for factor in _SOFTER:
        soft = skin.at_vertices(skin.blurred(skin.at_places(full), length * factor))
        if _measured(_off(mesh, level, soft, soft[where], at, near))[0] <= rms / 2:
            return Loss(channel, rms, most, soften=length * factor)
    return Loss(channel, rms, most)


def loss_at_vertices(mesh: Mesh, level: Mesh, channel: str) -> Floats:
    """How far a channel of a level is off at each vertex of the full mesh, (n,)."""
    column = VERTEX_CHANNELS.index(channel)
    near = nearest_on(mesh.positions, level.positions, level.triangles)
    off = mesh.data[:, column] - near.mixed(level.triangles, level.data[:, column])
    return np.abs(off).astype(np.float32)


def _off(mesh: Mesh, level: Mesh, full: Floats, simple: Floats, at: Nearest, near: Nearest) -> Floats:
    return np.asarray(at.mixed(mesh.triangles, full) - near.mixed(level.triangles, simple), dtype=np.float32)


def _measured(off: Floats) -> tuple[float, float]:
    return float(np.sqrt(np.mean(np.square(off, dtype=np.float64)))), float(np.quantile(np.abs(off), 0.99))


def _vertices_of(mesh: Mesh, level: Mesh) -> np.ndarray[tuple[int, ...], np.dtype[np.int64]]:
    """For each vertex of a level the one of the full mesh that it is."""
    rows = {row.tobytes(): index for index, row in enumerate(_rows(mesh))}
    return np.array([rows[row.tobytes()] for row in _rows(level)], dtype=np.int64)


def _rows(mesh: Mesh) -> Floats:
    return np.ascontiguousarray(np.concatenate((mesh.positions, mesh.normals, mesh.uvs, mesh.data), axis=1))


def words_of(number: int, loss: Loss, name: str) -> str:
    """A loss of the level ``number`` (0 the nearest) as a sentence; empty where it is not worth one. ``name``: what the channel means."""
    if loss.rms < _WORTH:
        return ""
    what = f"{name} in {loss.channel}" if name else loss.channel.capitalize()
    advice = (
        f"soften it by {length_words(loss.soften)}, or keep it in a texture" if loss.soften else "keep it in a texture"
    )
    return f"{what} loses {loss.rms:.2f} at level {number + 1}: {advice}."


def length_words(metres: float) -> str:
    """A length as people say it, in the unit that suits it."""
    return (
        f"{metres:.2g} m" if metres >= 1 else f"{metres * 100:.2g} cm" if metres >= 0.01 else f"{metres * 1000:.2g} mm"
    )
