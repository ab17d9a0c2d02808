"""What of a graph takes keys: its parameters, and the light, the eye, the lamps and the decals of its scene.

A target is a text: the id of a parameter, or ``scene/light``, ``scene/eye``, ``scene/sun``, ``scene/lamp_1``, or
``decal/`` with the id of a decal and one of its parts, such as ``decal/splash_1/tint``.
"""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, replace
from typing import Annotated, Generic, TypeVar

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.base.records import Text
from velvet_moth.core.document.tracks.track import Takes
from velvet_moth.core.document.values import RefersTo, Value
from velvet_moth.core.emitting.emitter import EmitterSource
from velvet_moth.core.forms.view import Camera, Rig, direction
from velvet_moth.core.language.inputs import MOST_LAMPS
from velvet_moth.core.lighting.decals import Decal

Target = Annotated[Text, RefersTo("target")]
SCENE, DECAL = "scene/", "decal/"
Numbers = tuple[float, ...]


@dataclass(frozen=True)
class Stood:
    """What of a scene takes keys, at one moment."""

    camera: Camera
    rig: Rig
    decals: tuple[Decal, ...] = ()
    source: EmitterSource | None = None


Of = TypeVar("Of")


@dataclass(frozen=True)
class KeyedPart(Generic[Of]):
    """A part of the scene, or of a decal, that takes keys: its name, its numbers with the ends they may have, what they are put into."""

    name: str
    parts: Mapping[str, tuple[float, float]]
    put: Callable[[Of, Numbers], Of]
    is_colour: bool = False


_FAR, _AROUND = (-1e4, 1e4), (-36000.0, 36000.0)
_SIZE, _SHARE = (0.01, 20.0), (0.0, 1.0)


def _with_eye(stood: Stood, value: Numbers) -> Stood:
    turn, tilt, distance, field, x, y, z = value
    return replace(stood, camera=Camera(turn, tilt, max(distance, 0.05), min(max(field, 1.0), 120.0), (x, y, z)))


def _with_source(stood: Stood, value: Numbers) -> Stood:
    if stood.source is None:
        return stood
    x, y, z, turn, tilt, strength = value
    return replace(
        stood, source=replace(stood.source, place=(x, y, z), way=direction(turn, tilt), strength=max(strength, 0.0))
    )


def _lamp(number: int) -> KeyedPart[Stood]:
    """The strength of one lamp of the rig, as a factor; a rig may have fewer."""

    def put(stood: Stood, value: Numbers) -> Stood:
        lamps = stood.rig.lamps
        if number > len(lamps):
            return stood
        red, green, blue = (part * max(value[0], 0.0) for part in lamps[number - 1].colour)
        made = replace(lamps[number - 1], colour=(red, green, blue))
        return replace(stood, rig=replace(stood.rig, lamps=(*lamps[: number - 1], made, *lamps[number:])))

    return KeyedPart(f"Lamp {number}", {"Strength": (0.0, 100.0)}, put)


SCENE_TARGETS: Mapping[str, KeyedPart[Stood]] = {
    "scene/light": KeyedPart(
        "Light",
        {"Turn": _AROUND, "Tilt": (-89.9, 89.9)},
        lambda stood, value: replace(stood, rig=replace(stood.rig, turn=value[0], tilt=value[1])),
    ),
    "scene/sun": KeyedPart(
        "Main light",
        {"Strength": (0.0, 100.0)},
        lambda stood, value: replace(stood, rig=replace(stood.rig, strength=stood.rig.strength * max(value[0], 0.0))),
    ),
    **{f"scene/lamp_{number}": _lamp(number) for number in range(1, MOST_LAMPS + 1)},
    "scene/eye": KeyedPart(
        "Eye",
        {
            "Turn": _AROUND,
            "Tilt": (-89.9, 89.9),
            "Distance": (0.1, 100.0),
            "Field": (1.0, 120.0),
            **dict.fromkeys(("Target x", "Target y", "Target z"), _FAR),
        },
        _with_eye,
    ),
    "scene/emitter": KeyedPart(
        "Emitter",
        {
            **dict.fromkeys(("Place x", "Place y", "Place z"), _FAR),
            "Turn": _AROUND,
            "Tilt": (-90.0, 90.0),
            "Strength": (0.0, 20.0),
        },
        _with_source,
    ),
}


# What a hand on the stage moves too: there the hand is right until time goes on.
LOOKS = frozenset({"scene/light", "scene/eye"})


def _three(value: Numbers) -> tuple[float, float, float]:
    x, y, z = value
    return x, y, z


DECAL_PARTS: Mapping[str, KeyedPart[Decal]] = {
    "place": KeyedPart(
        "place",
        dict.fromkeys("xyz", _FAR),
        lambda decal, value: replace(decal, place=_three(value)),
    ),
    "turn": KeyedPart(
        "turn",
        dict.fromkeys(("Turn", "Tilt", "Roll"), _AROUND),
        lambda decal, value: replace(decal, turn=value[0], tilt=value[1], roll=value[2]),
    ),
    "size": KeyedPart(
        "size",
        dict.fromkeys(("Width", "Height", "Depth"), _SIZE),
        lambda decal, value: replace(decal, size=_three(tuple(max(side, 0.001) for side in value))),
    ),
    "index": KeyedPart(
        "number",
        {"Number": (0.0, 4096.0)},
        lambda decal, value: replace(decal, index=value[0]),
    ),
    "strength": KeyedPart(
        "strength",
        {"Strength": _SHARE},
        lambda decal, value: replace(decal, strength=value[0]),
    ),
    "numbers": KeyedPart(
        "numbers",
        dict.fromkeys(("First", "Second", "Third", "Fourth"), (-1e6, 1e6)),
        lambda decal, value: replace(decal, numbers=(value[0], value[1], value[2], value[3])),
    ),
    "tint": KeyedPart(
        "tint",
        dict.fromkeys(("Red", "Green", "Blue"), _SHARE),
        lambda decal, value: replace(decal, tint=_three(value)),
        is_colour=True,
    ),
}


def _takes(name: str, parts: Mapping[str, tuple[float, float]], is_colour: bool) -> Takes:
    def check(value: Value) -> None:
        if isinstance(value, str) or len(value) != len(parts):
            raise OperationRefused(f"{name} takes {len(parts)} numbers.", name, "Set the key again on the timeline.")
        for (part, (low, high)), number in zip(parts.items(), value, strict=True):
            if not low <= number <= high:
                raise OperationRefused(f"{part} is {low:g} to {high:g}.", name, "Type another number.")

    return Takes(name, check, tuple(parts), is_colour=is_colour)


def is_of_scene(target: str) -> bool:
    """Whether a target is a part of the scene, and no parameter."""
    return target.startswith((SCENE, DECAL))


def scene_takes(target: str, decals: Iterable[Decal]) -> Takes:
    """What a target of the scene takes; OperationRefused where there is none of that name. A decal may be gone."""
    found = SCENE_TARGETS.get(target)
    if found is not None:
        return _takes(found.name, found.parts, found.is_colour)
    _, _, of = target.partition(DECAL)
    key, _, part = of.partition("/")
    on_decal = DECAL_PARTS.get(part)
    if not target.startswith(DECAL) or not key or on_decal is None:
        raise OperationRefused(
            f"There is nothing called {target[:60]!r} to be keyed.",
            "tracks",
            f"Choose a parameter, {', '.join(SCENE_TARGETS)}, or a part of a decal ({', '.join(DECAL_PARTS)}).",
        )
    number = next((at for at, decal in enumerate(decals, 1) if decal.id == key), None)
    called = f"Decal {number}" if number else "A decal that is gone"
    return _takes(f"{called}, {on_decal.name}", on_decal.parts, on_decal.is_colour)


def stood_with(stood: Stood, values: Mapping[str, Value]) -> Stood:
    """The scene with the values of its targets at one moment; those of parameters are not looked at."""
    for target, scene_target in SCENE_TARGETS.items():
        value = values.get(target)
        if value is not None and not isinstance(value, str):
            stood = scene_target.put(stood, value)
    return replace(stood, decals=tuple(_decal_with(decal, values) for decal in stood.decals))


def _decal_with(decal: Decal, values: Mapping[str, Value]) -> Decal:
    for part, on_decal in DECAL_PARTS.items():
        value = values.get(f"{DECAL}{decal.id}/{part}") if decal.id else None
        if value is not None and not isinstance(value, str):
            decal = on_decal.put(decal, value)
    return decal
