"""What an emitter is set to, and the sources it has."""

from collections.abc import Hashable, Mapping
from dataclasses import dataclass
from functools import lru_cache
from typing import Annotated

import numpy as np

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.base.points import Axis, check_points
from velvet_moth.core.base.records import Number, OneOf, Text, Three, Two
from velvet_moth.core.forms.view import direction
from velvet_moth.core.language.expr import Array
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.lighting.stage_textures import stage_texture

EMITTER_CURVES = stage_texture(
    "emitter_curves",
    "by the share of an instance's life along U: its eight numbers in two rows, what chance takes of each in two, its size in red",
)
EMITTER_SOURCES = stage_texture(
    "emitter_sources",
    "a row for each source: place in metres and the second it begins; unit direction and seed; strength in red",
)
MOST_NUMBERS, LONGEST_NAME = 8, 24
# All sources together have at most so many instances.
MOST_INSTANCES = 20_000
# Rows of the curves: the numbers in two, then what chance takes, then the size.
CHANCE_ROW, SIZE_ROW, CURVE_ROWS = 2, 4, 5
# Into so many places a curve is sampled, straight between them.
_SAMPLES = 128

# How the strip of a ribbon runs; where it is free an instance is a form that flies by itself.
PATHS: Mapping[str, str] = {
    "free": "By itself",
    "straight": "Along a line",
    "spiral": "Along a spiral",
    "fountain": "Along a fountain",
    "behind": "Behind a moving piece",
}
FACINGS: Mapping[str, str] = {"eye": "To the eye", "along": "Along its way", "tumble": "Any way, spinning"}
PathKey = Annotated[Text, OneOf(PATHS)]
FacingKey = Annotated[Text, OneOf(FACINGS)]


@dataclass(frozen=True)
class InstanceNumber:
    """One of the numbers each instance is given: what it means, and points (share of life, number), straight between them.

    ``chance`` (0 to 1) is by which share of itself it is less for some instances.
    """

    name: Text
    points: tuple[Two, ...] = ((0.0, 0.0), (1.0, 1.0))
    chance: Number = 0.0


@dataclass(frozen=True)
class Emitter:
    """A source of instances of the graph's form; none where ``rate`` (a second) and ``burst`` (at once) are 0.

    It emits for ``duration`` seconds (0: all the time). Pairs are from, to, by chance: ``life`` (s), ``speed`` (m/s),
    ``spin`` (degrees a second), ``size`` (factor on the form). They leave within ``cone`` (degrees, half the angle) about a
    direction (``turn``, ``tilt``, degrees) from a disc of ``radius`` about ``place`` (metres); ``gravity`` pulls down (m/s²), ``drag``
    slows them (1/s). ``size_curve`` is a factor by the share of life. A ribbon follows a ``path``: its ``length`` in metres, or
    behind a moving piece in seconds; spirals have a ``path_radius`` (m), ``turns``, and go round by ``swirl`` (turns a second).
    """

    rate: Number = 0.0
    burst: Number = 0.0
    duration: Number = 0.0
    life: Two = (1.0, 1.6)
    speed: Two = (0.8, 1.4)
    cone: Number = 18.0
    radius: Number = 0.02
    gravity: Number = 9.81
    drag: Number = 0.4
    spin: Two = (0.0, 0.0)
    size: Two = (0.03, 0.06)
    size_curve: tuple[Two, ...] = ((0.0, 1.0), (0.7, 1.0), (1.0, 0.0))
    numbers: tuple[InstanceNumber, ...] = ()
    facing: FacingKey = "eye"
    path: PathKey = "free"
    length: Number = 1.0
    path_radius: Number = 0.12
    turns: Number = 2.0
    swirl: Number = 0.0
    place: Three = (0.0, 0.0, 0.0)
    turn: Number = 0.0
    tilt: Number = 90.0
    seed: Number = 1.0

    @property
    def is_on(self) -> bool:
        """Whether there are any instances."""
        return self.rate > 0.0 or self.burst > 0.0

    @property
    def streaming(self) -> int:
        """How many instances of the stream can live at one moment."""
        lasts = self.life[1] if self.duration == 0.0 else min(self.life[1], self.duration)
        return int(np.ceil(self.rate * lasts)) + 1 if self.rate > 0.0 else 0

    @property
    def slots(self) -> int:
        """How many instances each source has room for."""
        return int(self.burst) + self.streaming

    @property
    def inputs(self) -> dict[str, Array]:
        """What a draw knows of it."""
        vectors = {
            "emitter_births": (self.rate, float(int(self.burst)), self.duration),
            "emitter_life": (*self.life, *self.size),
            "emitter_start": (*self.speed, np.radians(self.cone), self.radius),
            "emitter_forces": (self.gravity, self.drag, *np.radians(self.spin)),
            "emitter_path": (self.length, self.path_radius, self.turns, self.swirl),
        }
        found = {name: np.array(v, dtype=np.float32).reshape(-1, 1, 1) for name, v in vectors.items()}
        return {**found, "emitter_slots": np.array(max(self.slots, 1), dtype=np.float32)}

    @property
    def own_source(self) -> "EmitterSource":
        """The source it has where nothing is thrown."""
        return EmitterSource(self.place, direction(self.turn, self.tilt), 0.0, self.seed)


@dataclass(frozen=True)
class EmitterSource:
    """Where instances come from: a place, the unit direction they leave in, when it begins (s), a seed, a factor on their speed."""

    place: Three
    way: Three
    born: Number = 0.0
    seed: Number = 1.0
    strength: Number = 1.0


NO_EMITTER = Emitter()
# What an instance knows where no emitter feeds it: far enough apart to tell its numbers from each other.
INSTANCE: Mapping[str, tuple[float, ...]] = {
    "instance_data": (0.2, 0.4, 0.6, 0.8),
    "second_instance_data": (0.3, 0.5, 0.7, 0.9),
    "instance_life": (0.5, 0.37),
    "instance_age": (1.0,),
}


def _input(value: tuple[float, ...]) -> Array:
    """Numbers as an input of a draw: () for one, (components, 1, 1) for more."""
    return np.array(value[0] if len(value) == 1 else value, dtype=np.float32).reshape(
        (-1, 1, 1) if len(value) > 1 else ()
    )


IDLE_INPUTS: Mapping[str, Array] = {
    **{name: _input(value) for name, value in INSTANCE.items()},
    "instance_slot": np.array(0.0, dtype=np.float32),
    **NO_EMITTER.inputs,
}


@lru_cache(maxsize=64)
def curves_texture(emitter: Emitter) -> Texture:
    """The curves over life as a texture of ``CURVE_ROWS`` (see ``EMITTER_CURVES``)."""
    share = np.arange(_SAMPLES) / (_SAMPLES - 1)
    level = np.zeros((4, CURVE_ROWS, _SAMPLES), dtype=np.float32)
    for number, one in enumerate(emitter.numbers):
        row, part = divmod(number, 4)
        level[part, row] = np.interp(share, *np.array(one.points).T)
        level[part, CHANCE_ROW + row] = one.chance
    level[0, SIZE_ROW] = np.interp(share, *np.array(emitter.size_curve).T)
    return Texture((level,), wrap=("clamp", "clamp"))


def sources_texture(sources: tuple[EmitterSource, ...]) -> Texture:
    """Sources as a texture, a row each (see ``EMITTER_SOURCES``)."""
    level = np.zeros((4, max(len(sources), 1), 3), dtype=np.float32)
    for row, one in enumerate(sources):
        level[:, row, 0] = (*one.place, one.born)
        level[:, row, 1] = (*one.way, one.seed)
        level[0, row, 2] = one.strength
    return Texture((level,), wrap=("clamp", "clamp"), filter="pixels")


def emitter_textures(emitter: Emitter, sources: tuple[EmitterSource, ...]) -> dict[Hashable, Texture]:
    """The stage's textures that a draw of it reads."""
    return {EMITTER_CURVES: curves_texture(emitter), EMITTER_SOURCES: sources_texture(sources)}


def seconds_seen(emitter: Emitter) -> float:
    """A moment (s) at which there is much to see of it."""
    lasts = max(emitter.life[0], 0.05)
    return lasts * (0.4 if emitter.rate == 0.0 else 1.0)


def reach_of(emitter: Emitter, source: EmitterSource, form: float) -> float:
    """How far from the origin anything of it can be (m), where the form itself reaches ``form`` metres from its middle.

    Without drag it flies farthest; a curve of its size is highest at one of its points.
    """
    life, speed = emitter.life[1], emitter.speed[1] * abs(source.strength)
    flown = speed * life + abs(emitter.gravity) * life * life / 2
    along = {"straight": emitter.length, "spiral": emitter.length + emitter.path_radius}
    size = emitter.size[1] * max(y for _, y in emitter.size_curve)
    away = float(np.linalg.norm(source.place))
    return away + emitter.radius + along.get(emitter.path, flown) + form * size


_LIFE = Axis("The share of its life", "", 0.0, 1.0)
_NUMBER, _SIZE = Axis("A number over life", "", -100.0, 100.0), Axis("The size over life", "", 0.0, 20.0)
# The ends that single numbers and both of each pair may have, with their units.
_ENDS: Mapping[str, tuple[float, float, str]] = {
    "rate": (0.0, 2000.0, "a second"),
    "burst": (0.0, 5000.0, "instances"),
    "duration": (0.0, 600.0, "s"),
    "life": (0.02, 60.0, "s"),
    "speed": (0.0, 100.0, "m/s"),
    "cone": (0.0, 180.0, "degrees"),
    "radius": (0.0, 20.0, "m"),
    "gravity": (-100.0, 100.0, "m/s²"),
    "drag": (0.0, 50.0, "a second"),
    "spin": (-3600.0, 3600.0, "degrees a second"),
    "size": (0.0, 50.0, ""),
    "length": (0.01, 50.0, "m"),
    "path_radius": (0.0, 20.0, "m"),
    "turns": (-50.0, 50.0, ""),
    "swirl": (-20.0, 20.0, "turns a second"),
    "seed": (0.0, 65535.0, ""),
}


def checked_emitter(emitter: Emitter, title: str) -> Emitter:
    """The emitter; OperationRefused where a number of it does not fit."""
    for name, (low, high, unit) in _ENDS.items():
        value = getattr(emitter, name)
        numbers = value if isinstance(value, tuple) else (value,)
        spoken = name.replace("_", " ").capitalize()
        if any(not low <= number <= high for number in numbers):
            raise OperationRefused(f"{spoken} is {low:g} to {high:g} {unit}".rstrip() + ".", title, "Type another one.")
        if isinstance(value, tuple) and value[0] > value[1]:
            raise OperationRefused(f"{spoken} goes from the smaller number to the larger.", title, "Swap the two.")
    if emitter.path not in PATHS or emitter.facing not in FACINGS:
        raise OperationRefused("An emitter knows no such path or facing.", title, f"Choose one of {', '.join(PATHS)}.")
    if emitter.slots > MOST_INSTANCES:
        raise OperationRefused(
            f"{emitter.slots:,} instances at once are more than the {MOST_INSTANCES:,} that are drawn.",
            title,
            "Lower the rate, the burst, or the life.",
        )
    if len(emitter.numbers) > MOST_NUMBERS:
        raise OperationRefused(f"An instance is given at most {MOST_NUMBERS} numbers.", title, "Remove one.")
    for one in emitter.numbers:
        if not one.name.strip() or len(one.name) > LONGEST_NAME:
            raise OperationRefused(f"A number has a name of 1 to {LONGEST_NAME} letters.", title, "Type another one.")
        if not 0.0 <= one.chance <= 1.0:
            raise OperationRefused("A chance is 0 to 1.", one.name, "Type another one.")
        check_points(one.points, _LIFE, _NUMBER, one.name, least=2)
    check_points(emitter.size_curve, _LIFE, _SIZE, "size over life", least=2)
    if any(not abs(part) <= 1e4 for part in (*emitter.place, emitter.turn, emitter.tilt)):
        raise OperationRefused("The emitter is too far away.", title, "Place it nearer.")
    return emitter
