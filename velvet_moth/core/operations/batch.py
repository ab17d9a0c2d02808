"""Several operations as one step."""

from dataclasses import dataclass
from typing import Literal

from velvet_moth.core.base.records import Text
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.operations.operation import AnyOperation, Applied, Operation


@dataclass(frozen=True)
class Batch(Operation):
    """Several operations as one step: all of them or none."""

    operations: tuple[AnyOperation, ...]
    summary: Text = ""
    op: Literal["batch"] = "batch"

    def apply(self, graph: Graph) -> Applied:
        undo: list[Operation] = []
        for operation in self.operations:
            graph, inverse = operation.apply(graph)
            undo.insert(0, inverse)
        return graph, Batch(tuple(undo))

    def words(self, graph: Graph) -> str:
        if self.summary or not self.operations:
            return self.summary or "nothing"
        first, more = self.operations[0].words(graph), len(self.operations) - 1
        return f"{first} and {more} more" if more else first
