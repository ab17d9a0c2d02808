"""Operations to and from plain data. The dataclasses of the core are the schema; pydantic checks against them."""

from typing import Annotated, Any, Union

from pydantic import Field, TypeAdapter

from velvet_moth.core.operations import SINGLE_OPERATIONS, Batch, Operation, Reversible

# A checker cannot follow a union built from a tuple; Operation is the same union written out.
_TAGGED: Any = Annotated[Union[(*SINGLE_OPERATIONS, Batch)], Field(discriminator="op")]
OPERATION: TypeAdapter[Operation] = TypeAdapter(_TAGGED)


def operation_to_json(operation: Reversible) -> dict[str, Any]:
    every: Any = OPERATION
    dumped: dict[str, Any] = every.dump_python(operation, mode="json")
    return dumped


def operation_from_json(data: Any) -> Operation:
    """Raises pydantic.ValidationError for data that is no operation."""
    return OPERATION.validate_python(data)
