"""Comparing two states of a graph: what differs, in words, and what turns one into the other."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from typing import Any

from velvet_moth.core.document.graph import FIELDS, Graph, Node, Source
from velvet_moth.core.document.tracks.track import Track
from velvet_moth.core.document.values import shown_value
from velvet_moth.core.nodes.surfaces import DOCK
from velvet_moth.core.operations import (
    AddNode,
    AddParameter,
    Batch,
    Operation,
    RemoveNodes,
    RemoveParameter,
    SetTrack,
    SetValue,
    Unwire,
    Wire,
    set_field,
)
from velvet_moth.core.operations.marks import putting_back
from velvet_moth.core.operations.variants import adding, removing


@dataclass(frozen=True)
class Differences:
    """What differs from one state to a later one: nodes by id, with sentences for those that changed."""

    added: tuple[str, ...]
    removed: tuple[str, ...]
    changed: Mapping[str, tuple[str, ...]]
    elsewhere: tuple[str, ...]


def differences(before: Graph, after: Graph) -> Differences:
    """Where a card lies is no difference."""
    shared = [key for key in after.nodes if key in before.nodes]
    told = {key: tuple(_node_changes(before, after, key)) for key in shared}
    return Differences(
        tuple(key for key in after.nodes if key not in before.nodes),
        tuple(key for key in before.nodes if key not in after.nodes),
        {key: words for key, words in told.items() if words},
        tuple(_other_changes(before, after)),
    )


def _wire_words(graph: Graph, source: Source | None) -> str:
    if source is None:
        return "not wired"
    node = graph.nodes[source.node]
    return f"from {node.name}" + (f" ({node.kind.outputs[source.output].name})" if len(node.kind.outputs) > 1 else "")


def _node_changes(before: Graph, after: Graph, key: str) -> Iterator[str]:
    old, new = before.nodes[key], after.nodes[key]
    if old.type != new.type:
        yield f"is now {new.kind.name}, was {old.kind.name}"
        return
    if old.label != new.label:
        yield f"named {new.name}, was {old.name}"
    if old.muted != new.muted:
        yield "muted" if new.muted else "no longer muted"
    for name, declared in new.kind.inputs.items():
        was, now = old.wires.get(name), new.wires.get(name)
        if was != now:
            yield f"{declared.name} {_wire_words(after, now)}, was {_wire_words(before, was)}"
        elif now is None and name in old.kind.inputs and old.value(name) != new.value(name):
            yield f"{declared.name} {shown_value(new.value(name))}, was {shown_value(old.value(name))}"
    for name, setting in new.kind.settings.items():
        was_set, now_set = (n.settings.get(name, setting.default) for n in (old, new))
        if was_set != now_set:
            yield f"{setting.name} {now_set}, was {was_set}"


def _other_changes(before: Graph, after: Graph) -> Iterator[str]:
    for what in ("parameter", "variant"):
        old: dict[str, Any] = {p.id: p for p in getattr(before, f"{what}s")}
        new: dict[str, Any] = {p.id: p for p in getattr(after, f"{what}s")}
        for key, found in new.items():
            if key not in old:
                yield f"new {what} {found.name}"
            elif old[key] != found:
                yield f"{what} {found.name} changed"
        yield from (f"{what} {found.name} is gone" for key, found in old.items() if key not in new)
    for target in sorted({*before.tracks, *after.tracks}):
        was_keyed, is_keyed = before.tracks.get(target), after.tracks.get(target)
        if was_keyed != is_keyed:
            takes = (after if is_keyed else before).takes(target)
            yield f"{takes.name if takes else target} {_keys(is_keyed)}, was {_keys(was_keyed)}"
    if before.marks != after.marks:
        yield "frames, notes or bookmarks changed"
    for name, field in FIELDS.items():
        was, now = getattr(before, name), getattr(after, name)
        if field.differs and was != now:
            yield field.differs(was, now)


def _keys(track: Track | None) -> str:
    if track is None:
        return "not keyed"
    number = len(track.keys)
    times = ", ".join(f"{key.time:.3g}" for key in track.keys[:6])
    return f"keyed at {times}{' and more' if number > 6 else ''} s"


def _bare(node: Node) -> Node:
    return replace(node, wires={})


def operations_between(before: Graph, after: Graph, words: str) -> Batch:
    """What turns one state into another: all of it but the title, which names the graph as it is now."""
    stale = {
        key
        for key, node in before.nodes.items()
        if key != DOCK and (key not in after.nodes or _bare(node) != _bare(after.nodes[key]))
    }
    steps: list[Operation] = []
    opened = before.parameters != after.parameters or any(p.node in stale for p in before.parameters)
    if opened or before.variants != after.variants:
        steps += removing(before.variants)
        opened = True
    if opened:
        steps += [RemoveParameter(p.id) for p in before.parameters]
    if stale:
        steps.append(RemoveNodes(tuple(sorted(stale))))
    steps += [AddNode(_bare(n)) for key, n in after.nodes.items() if key in stale or key not in before.nodes]
    now = before
    for step in steps:
        now, _ = step.apply(now)
    old_dock, new_dock = now.nodes[DOCK].values, after.nodes[DOCK].values
    fine = [
        SetValue(DOCK, key, new_dock.get(key))
        for key in {**old_dock, **new_dock}
        if old_dock.get(key) != new_dock.get(key)
    ]
    # Wires that go come first: those that stay and those that come never close a loop.
    drop = [
        Unwire(node.id, key)
        for node in now.nodes.values()
        for key, source in node.wires.items()
        if after.nodes[node.id].wires.get(key) != source
    ]
    join = [
        Wire.of(node.id, key, source)
        for node in after.nodes.values()
        for key, source in node.wires.items()
        if now.nodes[node.id].wires.get(key) != source
    ]
    steps += [*fine, *drop, *join]
    if opened:
        steps += [AddParameter(p) for p in after.parameters]
    steps += [
        SetTrack(target, after.tracks.get(target))
        for target in {**now.tracks, **after.tracks}
        if now.tracks.get(target) != after.tracks.get(target)
    ]
    if opened:
        steps += adding(after.variants)
    steps += [
        set_field(name, getattr(after, name))
        for name, field in FIELDS.items()
        if field.differs and getattr(before, name) != getattr(after, name)
    ]
    # Frames have lost the cards that went; nothing else changed a mark on the way.
    if now.marks != after.marks:
        steps.append(putting_back(after.marks, now.marks))
    return Batch(tuple(steps), words)
