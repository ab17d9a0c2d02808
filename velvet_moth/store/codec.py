"""Operations to and from plain data. The dataclasses of the core are the schema; pydantic checks against them."""

from typing import Any

from pydantic import TypeAdapter

from velvet_moth.core.operations import AnyOperation, Operation

OPERATION: TypeAdapter[Operation] = TypeAdapter(AnyOperation)


def operation_to_json(operation: Operation) -> dict[str, Any]:
    dumped: dict[str, Any] = OPERATION.dump_python(operation, mode="json")
    return dumped


def operation_from_json(data: Any) -> Operation:
    """Raises pydantic.ValidationError for data that is no operation."""
    return OPERATION.validate_python(data)
