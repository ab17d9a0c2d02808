"""What an operation is. Each class registers itself, and is from then on part of the interface, the history and the tests."""

from abc import ABC, abstractmethod
from typing import Annotated, Any, Union

from pydantic import Field, GetCoreSchemaHandler
from pydantic_core import CoreSchema

from velvet_moth.core.document.graph import Graph

OPERATIONS: list[type["Operation"]] = []


class Operation(ABC):
    """A change of a graph that knows its inverse and puts itself into words.

    A subclass is a frozen dataclass; its last field ``op`` is a literal that names it in plain data.
    """

    op: Any

    def __init_subclass__(cls, abstract: bool = False) -> None:
        if not abstract:
            OPERATIONS.append(cls)

    @abstractmethod
    def apply(self, graph: Graph) -> "Applied":
        """The changed graph and what takes the change back; OperationRefused where it does not fit."""

    @abstractmethod
    def words(self, graph: Graph) -> str:
        """What it does to the graph as it is before, as a line of the history."""


Applied = tuple[Graph, Operation]


class _Registered:
    """Stands for all operations there are once plain data is read."""

    def __get_pydantic_core_schema__(self, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        return handler.generate_schema(Annotated[Union[tuple(OPERATIONS)], Field(discriminator="op")])


# An operation as it is read from plain data and written.
AnyOperation = Annotated[Operation, _Registered()]
