"""Operations on marks: frames, notes and bookmarks."""

from collections.abc import Collection, Mapping
from dataclasses import dataclass, replace
from typing import Literal

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.document.checks import check_id, check_place, checked_name, checked_note
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.document.marks import MOST_MARKS, TINTS, Frame, Mark, Note
from velvet_moth.core.document.values import MarkId
from velvet_moth.core.nodes.surfaces import DOCK
from velvet_moth.core.operations.checks import node_of
from velvet_moth.core.operations.operation import Applied, Operation


def emptied(marks: Mapping[str, Mark], nodes: Collection[str], but: Collection[str] = ()) -> dict[str, Mark]:
    """The marks with ``nodes`` taken out of every frame, save the frames ``but``; a frame without cards goes."""
    out: dict[str, Mark] = {}
    for key, mark in marks.items():
        if isinstance(mark, Frame) and key not in but and not set(mark.nodes).isdisjoint(nodes):
            left = tuple(n for n in mark.nodes if n not in nodes)
            if left:
                out[key] = replace(mark, nodes=left)
        else:
            out[key] = mark
    return out


def _checked(graph: Graph, mark: Mark) -> Mark:
    check_id(mark.id, mark.kind)
    if isinstance(mark, Frame):
        nodes = tuple(dict.fromkeys(node_of(graph, key).id for key in mark.nodes if key != DOCK))
        if not nodes:
            raise OperationRefused("A frame holds at least one card.", mark.title, "Select the cards it is to hold.")
        if mark.tint not in TINTS:
            raise OperationRefused(f"There is no tint {mark.tint!r}.", mark.title, f"Choose {', '.join(TINTS)}.")
        return replace(mark, title=checked_name(mark.title, "frame"), nodes=nodes)
    check_place(mark.place, f"{mark.kind} {mark.id}")
    if isinstance(mark, Note):
        text = checked_note(mark.text, "note")
        if not text:
            raise OperationRefused("A note has at least one letter.", "note", "Write something, or remove it.")
        return replace(mark, text=text)
    if not 0.05 <= mark.zoom <= 4:
        raise OperationRefused("A view is 0.05 to 4 times full size.", mark.title, "Zoom nearer or farther first.")
    return replace(mark, title=checked_name(mark.title, "bookmark"))


@dataclass(frozen=True)
class PutMarks(Operation):
    """Sets marks, new ones or in place of those of the same id, and removes others, as one step.

    A card is in one frame at most: a frame takes its cards out of those that had them.
    """

    marks: tuple[Mark, ...] = ()
    remove: tuple[MarkId, ...] = ()
    op: Literal["put_marks"] = "put_marks"

    def apply(self, graph: Graph) -> Applied:
        after = dict(graph.marks)
        for key in self.remove:
            if after.pop(key, None) is None:
                raise OperationRefused("This mark is gone.", key, "Undo brings it back.")
        for mark in self.marks:
            made = _checked(graph, mark)
            if isinstance(made, Frame):
                after = emptied(after, made.nodes, (made.id,))
            after[made.id] = made
        if len(after) > MOST_MARKS:
            raise OperationRefused(f"A graph holds at most {MOST_MARKS} marks.", graph.title, "Remove some first.")
        return replace(graph, marks=after), putting_back(graph.marks, after)

    def words(self, graph: Graph) -> str:
        changes = [("changed" if m.id in graph.marks else "added", m) for m in self.marks]
        changes += [("removed", graph.marks[key]) for key in self.remove if key in graph.marks]
        if not changes:
            return "changed no mark"
        verb, mark = changes[0]
        named = f"a {mark.kind}" if isinstance(mark, Note) else f"the {mark.kind} {mark.title}"
        return f"{verb} {named}" + (f" and {len(changes) - 1} more" if len(changes) > 1 else "")


def putting_back(before: Mapping[str, Mark], after: Mapping[str, Mark]) -> PutMarks:
    """What brings the marks ``before`` back."""
    changed = tuple(mark for key, mark in before.items() if after.get(key) != mark)
    return PutMarks(changed, tuple(key for key in after if key not in before))
