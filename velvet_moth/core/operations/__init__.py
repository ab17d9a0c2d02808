"""Operations: the only way a graph changes. Each is checked, applied, put into words, and inverted."""

from velvet_moth.core.operations.batch import Batch
from velvet_moth.core.operations.fields import SetField, set_field
from velvet_moth.core.operations.marks import PutMarks
from velvet_moth.core.operations.nodes import AddNode, LabelNode, MoveNodes, MuteNodes, RemoveNodes, RestoreNodes
from velvet_moth.core.operations.operation import OPERATIONS, AnyOperation, Applied, Operation
from velvet_moth.core.operations.parameters import AddParameter, EditParameter, OrderParameter, RemoveParameter
from velvet_moth.core.operations.tracks import ChangeKeys, SetTrack
from velvet_moth.core.operations.variants import (
    AddVariant,
    DescribeVariant,
    RemoveVariant,
    RenameVariant,
    SetOverride,
)
from velvet_moth.core.operations.wires import SetSetting, SetValue, Unwire, Wire

__all__ = [
    "OPERATIONS",
    "AddNode",
    "AddParameter",
    "AddVariant",
    "AnyOperation",
    "Applied",
    "Batch",
    "ChangeKeys",
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
    "RenameVariant",
    "RestoreNodes",
    "SetField",
    "SetOverride",
    "SetSetting",
    "SetTrack",
    "SetValue",
    "Unwire",
    "Wire",
    "set_field",
]
