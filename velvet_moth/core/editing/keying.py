"""What hands do to chosen keys on the timeline: move, scale, reverse, line up, ease, paste, remove."""

import math
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.base.records import Number
from velvet_moth.core.base.ways import BY_HAND, WAYS
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.document.scene import Timing
from velvet_moth.core.document.tracks.pieces import with_slopes
from velvet_moth.core.document.tracks.targets import Target
from velvet_moth.core.document.tracks.track import NEAREST, Key, Takes, Track, WayKey
from velvet_moth.core.document.values import VariantId
from velvet_moth.core.operations import Batch, ChangeKeys, Operation
from velvet_moth.core.operations.tracks import takes_of

# What a way is when time runs backwards; others are drawn by hand then.
_BACKWARDS = {"hold": "hold", "straight": "straight", "smooth": "smooth", "gather": "settle", "settle": "gather"}


@dataclass(frozen=True)
class KeysOf:
    """Some keys of a target, by their times."""

    target: Target
    times: tuple[Number, ...]


def snapped(time: float, timing: Timing) -> float:
    """The time of the nearest frame; between two the later one, as pages have it."""
    return math.floor(time * timing.rate + 0.5) / timing.rate


def _track(graph: Graph, variant: str, target: str) -> Track:
    found = graph.tracks_of(variant).get(target)
    if found is None:
        raise OperationRefused("These keys are gone.", target, "Undo brings them back.")
    return found


def _found(track: Track, times: Iterable[float]) -> list[Key]:
    wanted = set(times)
    return [key for key in track.keys if key.time in wanted]


Change = Callable[[list[Key]], list[Key]]


def _changed(
    graph: Graph,
    variant: str,
    chosen: Sequence[KeysOf],
    change: Change,
    words: str,
    prepared: Callable[[Track, Takes], Track] = lambda track, takes: track,
) -> Batch:
    """A batch that puts other keys in the place of the chosen ones. What they come to stand on gives way."""
    steps: list[Operation] = []
    for some in chosen:
        track = prepared(_track(graph, variant, some.target), takes_of(graph, some.target))
        before = _found(track, some.times)
        after = change(before) if before else []
        put = tuple(key for key in after if key not in before)
        kept = {key.time for key in after}
        gone = [key.time for key in before if key.time not in kept]
        others = (key.time for key in track.keys if key not in before)
        under = [time for time in others if any(abs(time - key.time) < NEAREST for key in put)]
        if put:
            steps.append(ChangeKeys(some.target, put, (*gone, *under), variant))
    if not steps:
        raise OperationRefused("This changes nothing.", graph.title, "Choose other keys, or another time.")
    return Batch(tuple(steps), words)


def _counted(chosen: Sequence[KeysOf]) -> str:
    number = sum(len(some.times) for some in chosen)
    return "a key" if number == 1 else f"{number} keys"


@dataclass(frozen=True)
class MoveKeys:
    """Moves keys by some seconds, none to before the start; with ``snap`` each to the nearest frame."""

    chosen: tuple[KeysOf, ...]
    by: Number
    variant: VariantId = ""
    snap: bool = True
    craft: Literal["move_keys"] = "move_keys"

    def batch(self, graph: Graph) -> Batch:
        first = min((time for some in self.chosen for time in some.times), default=0.0)
        by = max(self.by, -first)
        return _changed(
            graph,
            self.variant,
            self.chosen,
            lambda keys: [_at(graph, key, key.time + by, self.snap) for key in keys],
            f"moved {_counted(self.chosen)}",
        )


def _at(graph: Graph, key: Key, time: float, snap: bool) -> Key:
    return replace(key, time=max(snapped(time, graph.timing) if snap else time, 0.0))


@dataclass(frozen=True)
class ScaleKeys:
    """Brings keys nearer to a time or farther from it, by a factor; slopes drawn by hand follow."""

    chosen: tuple[KeysOf, ...]
    about: Number
    factor: Number
    variant: VariantId = ""
    snap: bool = True
    craft: Literal["scale_keys"] = "scale_keys"

    def batch(self, graph: Graph) -> Batch:
        if not 0.01 <= self.factor <= 100.0:
            raise OperationRefused("Keys are scaled by 0.01 to 100.", graph.title, "Type another factor.")

        def change(keys: list[Key]) -> list[Key]:
            return [
                replace(
                    _at(graph, key, self.about + (key.time - self.about) * self.factor, self.snap),
                    arriving=tuple(slope / self.factor for slope in key.arriving),
                    leaving=tuple(slope / self.factor for slope in key.leaving),
                )
                for key in keys
            ]

        return _changed(graph, self.variant, self.chosen, change, f"scaled {_counted(self.chosen)}")


@dataclass(frozen=True)
class ReverseKeys:
    """Turns keys round in time, between the first and the last of them, and each way between two of them too."""

    chosen: tuple[KeysOf, ...]
    variant: VariantId = ""
    craft: Literal["reverse_keys"] = "reverse_keys"

    def batch(self, graph: Graph) -> Batch:
        times = [time for some in self.chosen for time in some.times]
        ends = min(times, default=0.0) + max(times, default=0.0)
        return _changed(
            graph,
            self.variant,
            self.chosen,
            lambda keys: _reversed(keys, ends),
            f"reversed {_counted(self.chosen)}",
            with_slopes,
        )


def _reversed(keys: list[Key], ends: float) -> list[Key]:
    """Keys mirrored in time, with slopes where they are needed; the way on from the last of them stays."""
    ways = [*(_BACKWARDS.get(key.way, BY_HAND) for key in reversed(keys[:-1])), keys[-1].way]
    found = []
    for at, key in enumerate(reversed(keys)):
        arriving = tuple(-slope for slope in key.leaving) if at and ways[at - 1] == BY_HAND else ()
        leaving = tuple(-slope for slope in key.arriving) if ways[at] == BY_HAND else ()
        found.append(Key(ends - key.time, key.value, ways[at], arriving, leaving))
    return found


@dataclass(frozen=True)
class LineUpKeys:
    """Moves the chosen keys of each target so that their first is at a time."""

    chosen: tuple[KeysOf, ...]
    time: Number
    variant: VariantId = ""
    craft: Literal["line_up_keys"] = "line_up_keys"

    def batch(self, graph: Graph) -> Batch:
        def change(keys: list[Key]) -> list[Key]:
            return [replace(key, time=self.time + (key.time - keys[0].time)) for key in keys]

        return _changed(graph, self.variant, self.chosen, change, f"lined up {_counted(self.chosen)}")


@dataclass(frozen=True)
class EaseKeys:
    """Has values go on from the chosen keys another way. By hand they begin with the curve there is."""

    chosen: tuple[KeysOf, ...]
    way: WayKey
    variant: VariantId = ""
    craft: Literal["ease_keys"] = "ease_keys"

    def batch(self, graph: Graph) -> Batch:
        steps: list[Operation] = []
        for some in self.chosen:
            takes = takes_of(graph, some.target)
            track = _track(graph, self.variant, some.target)
            drawn = with_slopes(track, takes) if self.way == BY_HAND else track
            times = set(some.times)
            after = [
                replace(one, way=self.way, leaving=drawn.keys[at].leaving) if one.time in times else one
                for at, one in enumerate(track.keys)
            ]
            for at in range(1, len(after)):
                if track.keys[at - 1].time in times:
                    after[at] = replace(after[at], arriving=drawn.keys[at].arriving)
            put = tuple(key for key, before in zip(after, track.keys, strict=True) if key != before)
            if put:
                steps.append(ChangeKeys(some.target, put, (), self.variant))
        if not steps:
            raise OperationRefused("They go on this way already.", graph.title, "Choose other keys.")
        name = WAYS[self.way].name.lower() if self.way in WAYS else self.way
        return Batch(tuple(steps), f"made {_counted(self.chosen)} {name}")


@dataclass(frozen=True)
class CopiedKeys:
    """Keys of a target as they were copied."""

    target: Target
    keys: tuple[Key, ...]


@dataclass(frozen=True)
class PasteKeys:
    """Puts copied keys where the first of them comes to stand at a time; ``onto`` is another target than theirs."""

    copied: tuple[CopiedKeys, ...]
    time: Number
    onto: Target | None = None
    variant: VariantId = ""
    craft: Literal["paste_keys"] = "paste_keys"

    def batch(self, graph: Graph) -> Batch:
        times = [key.time for some in self.copied for key in some.keys]
        if not times:
            raise OperationRefused("No keys were copied.", graph.title, "Choose keys and copy them first.")
        if self.onto and len(self.copied) > 1:
            raise OperationRefused(
                "Keys of several values cannot go onto one.", graph.title, "Copy the keys of one value."
            )
        by = self.time - min(times)
        steps: list[Operation] = []
        for some in self.copied:
            target = self.onto or some.target
            put = tuple(replace(key, time=key.time + by) for key in some.keys)
            there = graph.tracks_of(self.variant).get(target)
            under = tuple(
                key.time
                for key in (there.keys if there else ())
                if any(abs(key.time - one.time) < NEAREST for one in put)
            )
            steps.append(ChangeKeys(target, put, under, self.variant))
        return Batch(tuple(steps), f"pasted {'a key' if len(times) == 1 else f'{len(times)} keys'}")
