"""All that is done to stacks: what those of textures take, and the levels of detail of meshes."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Annotated, Literal

from annotated_types import Ge, Le

from velvet_moth.core.baking.levels import LevelWanted, wrong_levels
from velvet_moth.core.baking.stack import MeshStack
from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.base.records import Number, Text
from velvet_moth.core.document.values import RefersTo
from velvet_moth.core.forms.mesh import VERTEX_CHANNELS
from velvet_moth.core.making.operations import AnyStackOperation
from velvet_moth.core.stacks.operations.operation import AppliedToStack, StackOperation
from velvet_moth.core.stacks.stack import Stack

__all__ = ["AnyStackOperation", "SetChannelWeight", "SetLevels"]

VertexChannel = Annotated[Text, RefersTo("vertex_channel")]
Weight = Annotated[Number, Ge(0), Le(100)]


def _on_mesh(stack: Stack) -> MeshStack:
    if not isinstance(stack, MeshStack):
        raise OperationRefused("This stack stands on no mesh.", stack.name, "Do it to the stack of a mesh.")
    return stack


@dataclass(frozen=True)
class SetLevels(StackOperation):
    """Sets the levels of detail, the nearest first."""

    levels: tuple[LevelWanted, ...]
    op: Literal["set_levels"] = "set_levels"

    def apply(self, stack: Stack) -> AppliedToStack:
        before = _on_mesh(stack)
        if wrong := wrong_levels(self.levels):
            raise OperationRefused(wrong, before.name, "Choose other shares.")
        return replace(before, levels=self.levels), SetLevels(before.levels)

    def words(self, stack: Stack) -> str:
        before, now = len(_on_mesh(stack).levels), len(self.levels)
        return (
            "set the levels" if before == now else f"set {now} level{'' if now == 1 else 's'} in the place of {before}"
        )


@dataclass(frozen=True)
class SetChannelWeight(StackOperation):
    """Sets how much a channel counts in what is given up for a level, 1 being usual."""

    channel: VertexChannel
    weight: Weight
    op: Literal["set_channel_weight"] = "set_channel_weight"

    def apply(self, stack: Stack) -> AppliedToStack:
        before = _on_mesh(stack)
        if self.channel not in VERTEX_CHANNELS:
            known = ", ".join(VERTEX_CHANNELS)
            raise OperationRefused(f"There is no channel {self.channel[:40]!r}.", before.name, f"Use one of {known}.")
        undo = SetChannelWeight(self.channel, before.weights.get(self.channel, 1.0))
        weights: Mapping[str, float] = {**before.weights, self.channel: self.weight}
        return replace(before, weights={k: w for k, w in weights.items() if w != 1.0}), undo

    def words(self, stack: Stack) -> str:
        return f"{self.channel} counts {self.weight:.3g} times in the levels"
