"""What an operation is, whatever kind of document it changes. Each class registers itself with its family."""

from abc import ABC, abstractmethod
from collections.abc import Sequence
from typing import Annotated, Any, ClassVar, Generic, TypeVar, Union

from pydantic import Field, GetCoreSchemaHandler
from pydantic_core import CoreSchema

Document = TypeVar("Document")


class DocumentOperation(ABC, Generic[Document]):
    """A change of a document that knows its inverse and puts itself into words.

    A kind of document has a family of operations: a subclass with ``family=True``, which lists in ``kinds`` every
    subclass of its own. Those are frozen dataclasses; their last field ``op`` is a literal that names them in plain data.
    """

    op: Any
    kinds: ClassVar[list[type[Any]]]

    def __init_subclass__(cls, family: bool = False, abstract: bool = False) -> None:
        if family:
            cls.kinds = []
        elif not abstract:
            cls.kinds.append(cls)

    @abstractmethod
    def apply(self, document: Document) -> "tuple[Document, DocumentOperation[Document]]":
        """The changed document and what takes the change back; OperationRefused where it does not fit."""

    @abstractmethod
    def words(self, document: Document) -> str:
        """What it does to the document as it is before, as a line of the history."""


class AnyOf:
    """Marks a family: plain data is read as the operation of it that ``op`` names."""

    def __init__(self, family: type[DocumentOperation[Any]]) -> None:
        self.family = family

    def __get_pydantic_core_schema__(self, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        return handler.generate_schema(Annotated[Union[tuple(self.family.kinds)], Field(discriminator="op")])


class BatchOf(DocumentOperation[Document], abstract=True):
    """Several operations as one step: all of them or none."""

    operations: Sequence[Any]
    summary: str

    @classmethod
    @abstractmethod
    def of(cls, operations: Sequence[Any], summary: str = "") -> "BatchOf[Document]":
        """A batch of the operations of its family."""

    def apply(self, document: Document) -> Any:
        undo: list[Any] = []
        for operation in self.operations:
            document, inverse = operation.apply(document)
            undo.insert(0, inverse)
        return document, type(self).of(undo)

    def words(self, document: Document) -> str:
        if self.summary or not self.operations:
            return self.summary or "nothing"
        first, more = self.operations[0].words(document), len(self.operations) - 1
        return f"{first} and {more} more" if more else str(first)
