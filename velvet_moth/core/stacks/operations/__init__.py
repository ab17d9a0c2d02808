"""Operations on stacks: the only way a kept stack changes. Each is checked, applied, put into words, and inverted."""

from velvet_moth.core.stacks.operations.batch import StackBatch
from velvet_moth.core.stacks.operations.operation import AnyStackOperation, StackOperation
from velvet_moth.core.stacks.operations.outputs import AddOutput, EditOutput, RemoveOutput, SetStackName
from velvet_moth.core.stacks.operations.steps import AddStep, MoveStep, RemoveStep, SetStepSetting, replace_texture
from velvet_moth.core.stacks.operations.strokes import AddStroke, MoveStroke, RemoveStroke

__all__ = [
    "AddOutput",
    "AddStep",
    "AddStroke",
    "AnyStackOperation",
    "EditOutput",
    "MoveStep",
    "MoveStroke",
    "RemoveOutput",
    "RemoveStep",
    "RemoveStroke",
    "SetStackName",
    "SetStepSetting",
    "StackBatch",
    "StackOperation",
    "replace_texture",
]
