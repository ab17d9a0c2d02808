"""A track: the keys of one value, as the document keeps them."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Annotated, Literal

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.base.records import OMITTED, Number, OneOf, Text
from velvet_moth.core.base.ways import HOLD, WAY_NAMES
from velvet_moth.core.document.values import Value

MOST_TRACKS = 256
MOST_KEYS = 1000
# In seconds.
LAST_TIME = 3600.0
NEAREST = 0.001

Outside = Literal["hold", "again", "there_and_back"]
Path = Literal["light", "hue"]
WayKey = Annotated[Text, OneOf(WAY_NAMES)]


@dataclass(frozen=True)
class Key:
    """What a value is at ``time`` (seconds), and by which ``way`` it goes on to the next key.

    ``arriving`` and ``leaving`` are its slopes just before and just after, by component and second; they count where the
    way there or on is drawn by hand, and are 0 where they are not given.
    """

    time: Number
    value: Value
    way: WayKey = "smooth"
    arriving: Annotated[tuple[Number, ...], OMITTED] = ()
    leaving: Annotated[tuple[Number, ...], OMITTED] = ()


@dataclass(frozen=True)
class Track:
    """Keys in the order of their times, and what the value is ``before`` the first and ``after`` the last.

    A colour goes from key to key as linear light, or with the ``path`` ``hue`` around the circle of hues.
    """

    keys: tuple[Key, ...]
    before: Outside = "hold"
    after: Outside = "hold"
    path: Path = "light"

    def mapped(self, change: Callable[[Value], Value]) -> "Track":
        """The same track with other values."""
        return replace(self, keys=tuple(replace(key, value=change(key.value)) for key in self.keys))

    def changed(self, remove: Iterable[float], put: Iterable[Key]) -> "Track":
        """Without the keys at some times, and with others, each in the place of one at its time."""
        by_time = {key.time: key for key in self.keys}
        for time in remove:
            by_time.pop(time, None)
        by_time |= {key.time: key for key in put}
        return replace(self, keys=tuple(key for _, key in sorted(by_time.items(), key=lambda entry: entry[0])))


@dataclass(frozen=True)
class Takes:
    """What the keys of one target may hold: ``check`` refuses a value.

    ``parts`` name the numbers of a value. ``in_steps``: there is nothing between two of its values. ``stop`` is the number of components of each stop of a list,
    ``is_colour`` whether a value may go around the circle of hues.
    """

    name: str
    check: Callable[[Value], None]
    parts: tuple[str, ...] = ()
    in_steps: bool = False
    stop: int = 0
    is_colour: bool = False


def checked_track(track: Track, takes: Takes) -> Track:
    """The track as it is kept; OperationRefused says which key does not fit."""
    keys, where = track.keys, takes.name
    if not 1 <= len(keys) <= MOST_KEYS:
        raise OperationRefused(f"A track has 1 to {MOST_KEYS} keys.", where, "Remove some, or remove the track.")
    for key in keys:
        at = f"{where}, key at {key.time:g} s"
        if not 0.0 <= key.time <= LAST_TIME:
            raise OperationRefused(f"A key is at 0 to {LAST_TIME:g} seconds.", at, "Move it.")
        takes.check(key.value)
        if len(key.value) != len(keys[0].value) and not isinstance(key.value, str):
            raise OperationRefused(
                f"Each key holds as many {'stops' if takes.stop else 'numbers'} as the first.",
                at,
                "Give all keys the same number of stops, or remove the other keys first.",
            )
        if key.way not in WAY_NAMES:
            raise OperationRefused(f"There is no way {key.way[:40]!r}.", at, f"Choose one of {', '.join(WAY_NAMES)}.")
        if takes.in_steps and key.way != HOLD:
            raise OperationRefused("There is nothing between two of its values, so its keys hold.", at, "Choose Hold.")
        if any(slopes and len(slopes) != len(key.value) for slopes in (key.arriving, key.leaving)):
            raise OperationRefused("A slope has a number for each of the value.", at, "Draw the curve again.")
    for one, other in pairwise(keys):
        if not other.time - one.time >= NEAREST:
            raise OperationRefused(
                "Two keys are less than a thousandth of a second apart, or out of order.",
                f"{where}, key at {other.time:g} s",
                "Move one of them.",
            )
    if track.path == "hue" and not takes.is_colour:
        raise OperationRefused("Only a colour goes around the circle of hues.", where, "Choose linear light.")
    return track
