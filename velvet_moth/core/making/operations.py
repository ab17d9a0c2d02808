"""All that is done to stacks: what every stack takes, and the size of the textures that one makes."""

from dataclasses import dataclass, replace
from typing import Annotated, Literal

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.base.records import Whole
from velvet_moth.core.document.values import RefersTo
from velvet_moth.core.making.recipe import Recipe, wrong_size
from velvet_moth.core.stacks.operations.operation import AnyStackOperation, AppliedToStack, StackOperation
from velvet_moth.core.stacks.stack import Stack

__all__ = ["AnyStackOperation", "SetStackSize", "StackOperation"]

Side = Annotated[Whole, RefersTo("side")]


@dataclass(frozen=True)
class SetStackSize(StackOperation):
    """Gives the textures another size in pixels."""

    columns: Side
    rows: Side
    op: Literal["set_stack_size"] = "set_stack_size"

    def apply(self, stack: Stack) -> AppliedToStack:
        if not isinstance(stack, Recipe):
            raise OperationRefused("This stack makes no textures.", stack.name, "Set the size of one that does.")
        if wrong := wrong_size(self.columns, self.rows):
            raise OperationRefused(wrong, stack.name, "Choose another size.")
        after = replace(stack, columns=self.columns, rows=self.rows)
        return after, SetStackSize(stack.columns, stack.rows)

    def words(self, stack: Stack) -> str:
        return f"set the size to {self.columns} × {self.rows}"
