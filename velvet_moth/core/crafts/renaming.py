"""New names everywhere at once: cards, parameters and their groups, frames, bookmarks and variants."""

from dataclasses import dataclass, replace
from typing import Literal

from velvet_moth.core.errors import OperationRefused
from velvet_moth.core.graph import LONGEST_NAME, Graph
from velvet_moth.core.marks import Mark, Note
from velvet_moth.core.operations import Batch, EditParameter, LabelNode, Operation, PutMarks, RenameVariant


@dataclass(frozen=True)
class RenameEverywhere:
    """Replaces ``find`` in every name of the graph, and in its notes."""

    find: str
    replace_with: str
    craft: Literal["rename_everywhere"] = "rename_everywhere"

    def batch(self, graph: Graph) -> Batch:
        if not self.find.strip():
            raise OperationRefused("Nothing to look for.", graph.title, "Type the part of the names to replace.")
        steps: list[Operation] = []
        for node in graph.nodes.values():
            if self.find in node.label:
                steps.append(LabelNode(node.id, self._renamed(node.label)))
        for parameter in graph.parameters:
            name, group = self._renamed(parameter.name), self._renamed(parameter.group)
            if (name, group) != (parameter.name, parameter.group):
                steps.append(EditParameter(replace(parameter, name=name, group=group)))
        marks: list[Mark] = []
        for mark in graph.marks.values():
            if isinstance(mark, Note):
                if self.find in mark.text:
                    marks.append(replace(mark, text=mark.text.replace(self.find, self.replace_with)))
            elif self.find in mark.title:
                marks.append(replace(mark, title=self._renamed(mark.title)))
        if marks:
            steps.append(PutMarks(tuple(marks)))
        for variant in graph.variants:
            if self.find in variant.name:
                steps.append(RenameVariant(variant.id, self._renamed(variant.name)))
        if not steps:
            raise OperationRefused(f"No name holds “{self.find}”.", graph.title, "Capitals count; try a shorter part.")
        return Batch(tuple(steps), f"renamed {self.find} to {self.replace_with} everywhere")

    def _renamed(self, name: str) -> str:
        if self.find not in name:
            return name
        made = name.replace(self.find, self.replace_with).strip()[:LONGEST_NAME]
        if not made:
            raise OperationRefused(f"“{name}” would have no name left.", name, "Type what to put instead.")
        return made
