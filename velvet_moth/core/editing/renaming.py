"""New names by find and replace: for copies, and everywhere at once."""

from dataclasses import dataclass, replace
from typing import Literal

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.document.marks import Mark, Note
from velvet_moth.core.document.values import LONGEST_NAME
from velvet_moth.core.operations import Batch, EditParameter, LabelNode, Operation, PutMarks, RenameVariant


@dataclass(frozen=True)
class Renaming:
    """``find`` replaced by ``replace_with``, or that put behind where there is nothing to find.

    A name that would be left empty stays as it is.
    """

    find: str = ""
    replace_with: str = ""

    def __call__(self, name: str) -> str:
        if not name or not self.find + self.replace_with:
            return name
        changed = name.replace(self.find, self.replace_with) if self.find else f"{name} {self.replace_with}"
        return changed.strip()[:LONGEST_NAME] or name


@dataclass(frozen=True)
class RenameEverywhere:
    """Replaces ``find`` in the names of cards, parameters, groups, frames, bookmarks and variants, and in notes."""

    find: str
    replace_with: str
    craft: Literal["rename_everywhere"] = "rename_everywhere"

    def batch(self, graph: Graph) -> Batch:
        if not self.find.strip():
            raise OperationRefused("Nothing to look for.", graph.title, "Type the part of the names to replace.")
        renamed = Renaming(self.find, self.replace_with)
        steps: list[Operation] = [
            LabelNode(node.id, renamed(node.label)) for node in graph.nodes.values() if self.find in node.label
        ]
        for parameter in graph.parameters:
            called = replace(parameter, name=renamed(parameter.name), group=renamed(parameter.group))
            if called != parameter:
                steps.append(EditParameter(called))
        marks = tuple(new for old in graph.marks.values() if (new := _retitled(old, renamed)) != old)
        if marks:
            steps.append(PutMarks(marks))
        steps += [RenameVariant(v.id, renamed(v.name)) for v in graph.variants if self.find in v.name]
        if not steps:
            raise OperationRefused(f"No name holds “{self.find}”.", graph.title, "Capitals count; try a shorter part.")
        return Batch(tuple(steps), f"renamed {self.find} to {self.replace_with} everywhere")


def _retitled(mark: Mark, renamed: Renaming) -> Mark:
    if isinstance(mark, Note):
        return replace(mark, text=mark.text.replace(renamed.find, renamed.replace_with))
    return replace(mark, title=renamed(mark.title))
