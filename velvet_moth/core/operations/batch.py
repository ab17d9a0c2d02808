"""Several operations as one step, and the union of them all."""

from dataclasses import dataclass
from typing import Literal, Union, get_args

from velvet_moth.core.document.graph import Graph
from velvet_moth.core.operations.checks import Applied, Reversible
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

Single = Union[
    AddNode,
    RemoveNodes,
    RestoreNodes,
    LabelNode,
    MoveNodes,
    MuteNodes,
    Rename,
    ChooseForm,
    SetDecals,
    SetScene,
    SetSurroundings,
    SetViews,
    SetWears,
    Wire,
    Unwire,
    SetValue,
    SetSetting,
    AddParameter,
    EditParameter,
    RemoveParameter,
    OrderParameter,
    AddVariant,
    RenameVariant,
    DescribeVariant,
    RemoveVariant,
    SetOverride,
    PutMarks,
]
SINGLE_OPERATIONS = get_args(Single)


@dataclass(frozen=True)
class Batch:
    """Several operations as one step: all of them or none."""

    operations: tuple["Operation", ...]
    summary: str = ""
    op: Literal["batch"] = "batch"

    def apply(self, graph: Graph) -> Applied:
        undo: list[Reversible] = []
        for operation in self.operations:
            graph, inverse = operation.apply(graph)
            undo.insert(0, inverse)
        return graph, Batch(tuple(undo))  # type: ignore[arg-type] # every inverse is an operation

    def words(self, graph: Graph) -> str:
        if self.summary or not self.operations:
            return self.summary or "nothing"
        first, more = self.operations[0].words(graph), len(self.operations) - 1
        return f"{first} and {more} more" if more else first


Operation = Union[Single, Batch]
