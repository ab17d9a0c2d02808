"""Operations on stacks: the only way a kept stack changes. Each is checked, applied, put into words, and inverted."""

from velvet_moth.core.making.operations.batch import StackBatch
from velvet_moth.core.making.operations.operation import AnyStackOperation, StackOperation
from velvet_moth.core.making.operations.outputs import AddOutput, EditOutput, RemoveOutput, SetStackName, SetStackSize
from velvet_moth.core.making.operations.steps import AddStep, MoveStep, RemoveStep, SetStepSetting, replace_texture

__all__ = [
    "AddOutput",
    "AddStep",
    "AnyStackOperation",
    "EditOutput",
    "MoveStep",
    "RemoveOutput",
    "RemoveStep",
    "SetStackName",
    "SetStackSize",
    "SetStepSetting",
    "StackBatch",
    "StackOperation",
    "replace_texture",
]
