"""The operations that set a field of the document as a whole: one for each that the document declares."""

from collections.abc import Mapping
from dataclasses import dataclass, make_dataclass, replace
from typing import Any, ClassVar, Literal

from velvet_moth.core.document.graph import FIELD_TYPES, FIELDS, Graph
from velvet_moth.core.operations.operation import Applied, Operation


@dataclass(frozen=True)
class SetField(Operation, abstract=True):
    """Sets one field. Its subclasses are called ``set_`` and the field's name, and know the type of the value."""

    value: Any
    name: ClassVar[str]

    def apply(self, graph: Graph) -> Applied:
        value = FIELDS[self.name].check(self.value, graph.title)
        return replace(graph, **{self.name: value}), set_field(self.name, getattr(graph, self.name))

    def words(self, graph: Graph) -> str:
        return FIELDS[self.name].did(getattr(graph, self.name), self.value)


def _operation(name: str) -> type[SetField]:
    op = f"set_{name}"
    made: type[SetField] = make_dataclass(
        "".join(word.capitalize() for word in op.split("_")),
        [("value", FIELD_TYPES[name]), ("op", Literal[op], op)],
        bases=(SetField,),
        namespace={"name": name, "__doc__": f"Sets the {name.replace('_', ' ')} of the graph."},
        frozen=True,
    )
    return made


_BY_FIELD: Mapping[str, type[SetField]] = {name: _operation(name) for name in FIELDS}


def set_field(name: str, value: Any) -> SetField:
    """The operation that sets a field of the document."""
    return _BY_FIELD[name](value)
