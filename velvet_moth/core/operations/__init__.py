"""Operations: the only way a graph changes. Each is checked, applied, put into words, and inverted."""

from velvet_moth.core.operations.batch import SINGLE_OPERATIONS, Batch, Operation, Single
from velvet_moth.core.operations.checks import Reversible
from velvet_moth.core.operations.marks import PutMarks
from velvet_moth.core.operations.nodes import (
    AddNode,
    ChooseForm,
    LabelNode,
    MoveNodes,
    MuteNodes,
    RemoveNodes,
    Rename,
    RestoreNodes,
)
from velvet_moth.core.operations.parameters import AddParameter, EditParameter, OrderParameter, RemoveParameter
from velvet_moth.core.operations.scene import SetDecals, SetScene, SetSurroundings, SetViews, SetWears
from velvet_moth.core.operations.variants import (
    AddVariant,
    DescribeVariant,
    RemoveVariant,
    RenameVariant,
    SetOverride,
)
from velvet_moth.core.operations.wires import SetSetting, SetValue, Unwire, Wire

__all__ = [
    "SINGLE_OPERATIONS",
    "AddNode",
    "AddParameter",
    "AddVariant",
    "Batch",
    "ChooseForm",
    "DescribeVariant",
    "EditParameter",
    "LabelNode",
    "MoveNodes",
    "MuteNodes",
    "Operation",
    "OrderParameter",
    "PutMarks",
    "RemoveNodes",
    "RemoveParameter",
    "RemoveVariant",
    "Rename",
    "RenameVariant",
    "RestoreNodes",
    "Reversible",
    "SetDecals",
    "SetOverride",
    "SetScene",
    "SetSetting",
    "SetSurroundings",
    "SetValue",
    "SetViews",
    "SetWears",
    "Single",
    "Unwire",
    "Wire",
]
