"""Several operations on a stack as one step of its history."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

from velvet_moth.core.base.operation import BatchOf
from velvet_moth.core.base.records import Text
from velvet_moth.core.stacks.operations.operation import AnyStackOperation, StackOperation
from velvet_moth.core.stacks.stack import Stack


@dataclass(frozen=True)
class StackBatch(BatchOf[Stack], StackOperation):
    """Several operations as one step: all of them or none."""

    operations: tuple[AnyStackOperation, ...]
    summary: Text = ""
    op: Literal["batch"] = "batch"

    @classmethod
    def of(cls, operations: Sequence[Any], summary: str = "") -> "StackBatch":
        return cls(tuple(operations), summary)
