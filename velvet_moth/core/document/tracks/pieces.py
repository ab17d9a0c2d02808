"""A track as polynomial pieces: the one meaning of keys, played by NumPy, by the stage, and by engines from files."""

import math
from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from itertools import pairwise
from typing import Any, Literal

from pydantic import TypeAdapter

from velvet_moth.core.base.ways import Cubic, between
from velvet_moth.core.document.tracks.track import Key, Outside, Takes, Track
from velvet_moth.core.document.values import Value

# How the numbers of the pieces become a value: as they are; as light, which is never negative; hue (turns), saturation
# and value of linear light; or stops, whose places stay in order between 0 and 1.
Reading = Literal["plain", "light", "hue", "stops"]


@dataclass(frozen=True)
class Pieces:
    """A value over time: from each of ``times`` (seconds) on, a cubic of the seconds since then for each component.

    The last piece stands for the end, and is constant. Outside of the first and last time the value is as ``before`` and
    ``after`` say. Texts have no cubics: ``texts`` holds one for each time. ``stop`` is the width of a stop.
    """

    times: tuple[float, ...]
    cubics: tuple[tuple[Cubic, ...], ...]
    texts: tuple[str, ...] = ()
    before: Outside = "hold"
    after: Outside = "hold"
    reading: Reading = "plain"
    stop: int = 0

    def at(self, time: float) -> Value:
        """The value at a time, in seconds."""
        inside = self._inside(time)
        piece = max(bisect_right(self.times, inside) - 1, 0)
        if self.texts:
            return self.texts[piece]
        x = inside - self.times[piece]
        numbers = tuple(c[0] + x * (c[1] + x * (c[2] + x * c[3])) for c in self.cubics[piece])
        if self.reading == "light":
            return tuple(max(number, 0.0) for number in numbers)
        if self.reading == "hue":
            return light_of(*numbers)
        return _in_order(numbers, self.stop) if self.reading == "stops" else numbers

    def _inside(self, time: float) -> float:
        """The time between the first and the last key that has the same value."""
        first, last = self.times[0], self.times[-1]
        span = last - first
        if first <= time <= last and not (time == last and self.after == "again"):
            return time
        outside: Outside = self.before if time < first else self.after
        if outside == "hold" or span == 0.0:
            return min(max(time, first), last)
        passed = time - first
        if outside == "again":
            return first + (passed - span * math.floor(passed / span))
        there = passed - 2.0 * span * math.floor(passed / (2.0 * span))
        return first + min(there, 2.0 * span - there)


# What the numbers of a colour are called that goes around the circle of hues.
HUE_PARTS = ("Hue", "Saturation", "Value")
PIECES: TypeAdapter[Pieces] = TypeAdapter(Pieces)


def pieces_to_json(pieces: Pieces) -> dict[str, Any]:
    """Pieces as plain data; docs/tracks.md says how they are played."""
    written: dict[str, Any] = PIECES.dump_python(pieces, mode="json")
    return written


@lru_cache(maxsize=4096)
def pieces_of(track: Track, reading: Reading, stop: int = 0) -> Pieces:
    """The pieces of a track; ``reading`` is ``hue`` for a colour that goes around, ``stops`` for lists of them."""
    times = tuple(key.time for key in track.keys)
    if isinstance(track.keys[0].value, str):
        texts = tuple(str(key.value) for key in track.keys)
        return Pieces(times, (), texts, track.before, track.after)
    numbers: list[Sequence[float]] = [key.value for key in track.keys if not isinstance(key.value, str)]
    if reading == "hue":
        numbers = _around([hue_of(value) for value in numbers])
    cubics = [
        _piece(one, other, start, end) for (one, start), (other, end) in pairwise(zip(track.keys, numbers, strict=True))
    ]
    cubics.append(tuple((number, 0.0, 0.0, 0.0) for number in numbers[-1]))
    return Pieces(times, tuple(cubics), (), track.before, track.after, reading, stop)


def reading_of(track: Track, takes: Takes) -> Reading:
    """How the pieces of a track are read."""
    if takes.stop:
        return "stops"
    return "hue" if track.path == "hue" else "light" if takes.is_colour else "plain"


def pieces_for(track: Track, takes: Takes) -> Pieces:
    """The pieces of a track of a target."""
    return pieces_of(track, reading_of(track, takes), takes.stop)


def with_slopes(track: Track, takes: Takes) -> Track:
    """The same track, each key with the slopes that its value has there now; as it is for what goes in steps."""
    pieces = pieces_for(track, takes)
    if pieces.texts:
        return track
    keys = list(track.keys)
    for at, cubics in enumerate(pieces.cubics[:-1]):
        x = pieces.times[at + 1] - pieces.times[at]
        keys[at] = replace(keys[at], leaving=tuple(c[1] for c in cubics))
        arriving = tuple(c[1] + x * (2.0 * c[2] + 3.0 * c[3] * x) for c in cubics)
        keys[at + 1] = replace(keys[at + 1], arriving=arriving)
    return replace(track, keys=tuple(keys))


def _piece(one: Key, other: Key, start: Sequence[float], end: Sequence[float]) -> tuple[Cubic, ...]:
    width = len(start)
    leaving, arriving = one.leaving or (0.0,) * width, other.arriving or (0.0,) * width
    seconds = other.time - one.time
    return tuple(between(one.way, start[i], end[i], leaving[i], arriving[i], seconds) for i in range(width))


def hue_of(light: Sequence[float]) -> tuple[float, float, float]:
    """Hue (turns, 0..1), saturation (0..1) and value (the largest part) of linear light (Smith 1978)."""
    red, green, blue = light[:3]
    high = max(red, green, blue)
    span = high - min(red, green, blue)
    if span <= 0.0:
        return 0.0, 0.0, high
    if high == red:
        turn = (green - blue) / span
    else:
        turn = (blue - red) / span + 2.0 if high == green else (red - green) / span + 4.0
    return (turn / 6.0) % 1.0, span / high if high > 0.0 else 0.0, high


def light_of(hue: float, saturation: float, value: float) -> tuple[float, float, float]:
    """Linear light of a hue (turns, any number), saturation and value: what ``hue_of`` takes apart."""
    kept, high = min(max(saturation, 0.0), 1.0), max(value, 0.0)

    def part(offset: float) -> float:
        sector = offset + 6.0 * (hue - math.floor(hue))
        k = sector - 6.0 * math.floor(sector / 6.0)
        return high - high * kept * max(0.0, min(k, 4.0 - k, 1.0))

    return part(5.0), part(3.0), part(1.0)


def _around(colours: list[tuple[float, float, float]]) -> list[Sequence[float]]:
    """Each hue by the shorter way from the one before; a grey has the hue that it comes from, or goes to."""
    hues = [hue if saturation > 0.0 else None for hue, saturation, _ in colours]
    now = next((hue for hue in hues if hue is not None), 0.0)
    found: list[Sequence[float]] = []
    for hue, (_, saturation, value) in zip(hues, colours, strict=True):
        if hue is not None:
            now += (hue - now + 0.5) % 1.0 - 0.5
        found.append((now, saturation, value))
    return found


def _in_order(numbers: tuple[float, ...], stop: int) -> tuple[float, ...]:
    """Stops whose places are between 0 and 1 and never go back."""
    made, least = list(numbers), 0.0
    for at in range(0, len(made), stop):
        least = made[at] = min(max(made[at], least), 1.0)
    return tuple(made)
