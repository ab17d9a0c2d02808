"""The family of operations on graphs. Each of them is part of the interface, the history and the tests by being declared."""

from abc import abstractmethod
from typing import Annotated

from velvet_moth.core.base.operation import AnyOf, DocumentOperation
from velvet_moth.core.document.graph import Graph


class Operation(DocumentOperation[Graph], family=True):
    """A change of a graph."""

    @abstractmethod
    def apply(self, graph: Graph) -> "Applied":
        """The changed graph and what takes the change back; OperationRefused where it does not fit."""

    @abstractmethod
    def words(self, graph: Graph) -> str:
        """What it does to the graph as it is before, as a line of the history."""


Applied = tuple[Graph, Operation]
OPERATIONS: list[type[Operation]] = Operation.kinds
# An operation as it is read from plain data and written.
AnyOperation = Annotated[Operation, AnyOf(Operation)]
