"""Operations on keys: of the graph, or of one variant."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Literal

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.base.records import Number
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.document.tracks.targets import Target
from velvet_moth.core.document.tracks.track import MOST_TRACKS, Key, Takes, Track, checked_track
from velvet_moth.core.document.values import VariantId
from velvet_moth.core.operations.checks import without
from velvet_moth.core.operations.operation import Applied, Operation


def takes_of(graph: Graph, target: str) -> Takes:
    """What the keys of a target hold; OperationRefused where it is gone, or cannot be keyed."""
    takes = graph.takes(target)
    if takes is None:
        raise OperationRefused("This parameter is gone.", target, "Undo brings it back.")
    return takes


def tracks_in(graph: Graph, variant: str) -> Mapping[str, Track]:
    """The tracks of the graph (""), or those that a variant has of its own."""
    if not variant:
        return graph.tracks
    found = graph.variant(variant)
    if found is None:
        raise OperationRefused("This variant is gone.", variant, "Undo brings it back.")
    return found.tracks


def checked_tracks(graph: Graph, tracks: Mapping[str, Track], where: str) -> dict[str, Track]:
    """Tracks as they are kept."""
    if len(tracks) > MOST_TRACKS:
        raise OperationRefused(f"At most {MOST_TRACKS} values are keyed.", where, "Remove the keys of some.")
    return {target: checked_track(track, takes_of(graph, target)) for target, track in tracks.items()}


def with_tracks(graph: Graph, variant: str, tracks: Mapping[str, Track]) -> Graph:
    """The graph with other tracks in one place."""
    if not variant:
        return replace(graph, tracks=tracks)
    made = tuple(replace(v, tracks=tracks) if v.id == variant else v for v in graph.variants)
    return replace(graph, variants=made)


def _put(graph: Graph, variant: str, target: str, track: Track | None) -> Applied:
    before = tracks_in(graph, variant)
    takes = takes_of(graph, target)
    tracks = without(before, target)
    if track is not None:
        tracks[target] = checked_track(track, takes)
        if len(tracks) > MOST_TRACKS:
            raise OperationRefused(f"At most {MOST_TRACKS} values are keyed.", takes.name, "Remove the keys of some.")
    return with_tracks(graph, variant, tracks), SetTrack(target, before.get(target), variant)


def _called(graph: Graph, target: str, variant: str) -> str:
    """What is keyed, for the history."""
    try:
        takes = graph.takes(target)
    except OperationRefused:
        takes = None
    of = graph.variant(variant) if variant else None
    return f"{takes.name if takes else target}{f' in {of.name}' if of else ''}"


@dataclass(frozen=True)
class SetTrack(Operation):
    """Sets all keys of a target, of the graph ("") or a variant; None takes them away."""

    target: Target
    track: Track | None
    variant: VariantId = ""
    op: Literal["set_track"] = "set_track"

    def apply(self, graph: Graph) -> Applied:
        return _put(graph, self.variant, self.target, self.track)

    def words(self, graph: Graph) -> str:
        called = _called(graph, self.target, self.variant)
        return f"changed the keys of {called}" if self.track else f"took the keys of {called} away"


@dataclass(frozen=True)
class ChangeKeys(Operation):
    """Removes the keys at some times and puts others, each in the place of one at its time.

    Where the target has no keys there yet, it gets those that hold otherwise: a variant those of the graph, so that its own
    track begins as what it was. Without any key left the track is gone.
    """

    target: Target
    put: tuple[Key, ...] = ()
    remove: tuple[Number, ...] = ()
    variant: VariantId = ""
    op: Literal["change_keys"] = "change_keys"

    def apply(self, graph: Graph) -> Applied:
        before = tracks_in(graph, self.variant).get(self.target)
        began = before or graph.tracks_of(self.variant).get(self.target) or Track(())
        made = began.changed(self.remove, self.put)
        return _put(graph, self.variant, self.target, made if made.keys else None)

    def words(self, graph: Graph) -> str:
        called = _called(graph, self.target, self.variant)
        if not self.put:
            return f"removed {_counted(len(self.remove))} of {called}"
        if self.remove:
            return f"moved {_counted(len(self.put))} of {called}"
        return f"set {_counted(len(self.put))} of {called} at {self.put[0].time:.3g} s"


def _counted(number: int) -> str:
    return "a key" if number == 1 else f"{number} keys"
