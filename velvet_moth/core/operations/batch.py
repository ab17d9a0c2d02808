"""Several operations on a graph as one step."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

from velvet_moth.core.base.operation import BatchOf
from velvet_moth.core.base.records import Text
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.operations.operation import AnyOperation, Operation


@dataclass(frozen=True)
class Batch(BatchOf[Graph], Operation):
    """Several operations as one step: all of them or none."""

    operations: tuple[AnyOperation, ...]
    summary: Text = ""
    op: Literal["batch"] = "batch"

    @classmethod
    def of(cls, operations: Sequence[Any], summary: str = "") -> "Batch":
        return cls(tuple(operations), summary)
