"""The family of operations on stacks of steps, and what several of them check."""

from abc import abstractmethod
from collections.abc import Iterable
from typing import Annotated, Any, TypeVar

from velvet_moth.core.base.errors import FileRefused, OperationRefused
from velvet_moth.core.base.operation import AnyOf, DocumentOperation
from velvet_moth.core.base.records import Text
from velvet_moth.core.document.values import RefersTo, fresh_id
from velvet_moth.core.stacks.plain import value_from_json
from velvet_moth.core.stacks.stack import LONGEST_ID, Held, Output, Stack, Use
from velvet_moth.core.stacks.step import Step

Entry = TypeVar("Entry")
# In the place of a number: after all others.
LAST = -1
StepId = Annotated[Text, RefersTo("step")]
StepKey = Annotated[Text, RefersTo("step_kind")]
StepSettingKey = Annotated[Text, RefersTo("step_setting")]
LayerName = Annotated[Text, RefersTo("layer")]
OutputId = Annotated[Text, RefersTo("stack_output")]
Depth = Annotated[Text, RefersTo("depth")]


class StackOperation(DocumentOperation[Stack], family=True):
    """A change of a stack of steps."""

    @abstractmethod
    def apply(self, stack: Stack) -> "AppliedToStack":
        """The changed stack and what takes the change back; OperationRefused where it does not fit."""

    @abstractmethod
    def words(self, stack: Stack) -> str:
        """What it does to the stack as it is before, as a line of the history."""


AppliedToStack = tuple[Stack, StackOperation]
# An operation as it is read from plain data and written.
AnyStackOperation = Annotated[StackOperation, AnyOf(StackOperation)]


def place_of(stack: Stack, key: str) -> int:
    """The place of the step of that id; OperationRefused where it is gone."""
    for place, use in enumerate(stack.steps):
        if use.id == key:
            return place
    raise OperationRefused("This step is no longer in the stack.", f"step {key[:40]}", "Undo brings it back.")


def output_of(stack: Stack, key: str) -> Output:
    """The output of that id; OperationRefused where it is gone."""
    found = stack.output(key)
    if found is None:
        raise OperationRefused(
            f"The stack no longer makes this {stack.family.noun}.", f"output {key[:40]}", "Undo brings it back."
        )
    return found


def check_place(place: int, count: int, name: str) -> None:
    """OperationRefused where something cannot be put at that place among so many."""
    if not 0 <= place <= count:
        raise OperationRefused(f"There is no place {place + 1}.", name, f"Choose 1 to {count + 1}.")


def new_id(wanted: str, stem: str, taken: Iterable[str], name: str) -> str:
    """The id of something new: the wanted one, or a fresh one of the stem; OperationRefused where it cannot be had."""
    others = set(taken)
    key = wanted or fresh_id(stem, others)
    if len(key) > LONGEST_ID or key in others:
        raise OperationRefused(f"Something new cannot have the id {key[:40]!r}.", name, "Choose another id.")
    return key


def inserted(entries: tuple[Entry, ...], place: int, entry: Entry, name: str) -> tuple[Entry, ...]:
    """The entries with another one at a place, or at the end for LAST; OperationRefused where there is no such place."""
    place = len(entries) if place == LAST else place
    check_place(place, len(entries), name)
    return (*entries[:place], entry, *entries[place:])


def held_of(kind: Step, setting: str, value: Any) -> Held:
    """What a value in plain data sets on a step of that kind; OperationRefused where it does not take it."""
    name = kind.settings[setting].name if setting in kind.settings else setting[:40]
    try:
        return value_from_json(value, kind, setting, f"{kind.name}, {name}")
    except FileRefused as error:
        raise OperationRefused(error.what, error.where, error.mend) from error


def named(stack: Stack, key: str) -> str:
    """The name of a step for people, also where it is gone."""
    found: Use | None = stack.use(key)
    return found.kind.name if found else key[:40]
