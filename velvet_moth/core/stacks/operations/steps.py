"""Operations on the steps of a stack and what is set on them."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Any, Literal

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.base.records import Text, Whole
from velvet_moth.core.stacks.operations.batch import StackBatch
from velvet_moth.core.stacks.operations.operation import (
    LAST,
    AppliedToStack,
    StackOperation,
    StepId,
    StepKey,
    StepSettingKey,
    check_place,
    held_of,
    inserted,
    named,
    new_id,
    place_of,
)
from velvet_moth.core.stacks.operations.outputs import AddOutput
from velvet_moth.core.stacks.plain import value_to_json
from velvet_moth.core.stacks.stack import MOST_STEPS, Held, Stack, TakenFrom, Tile, Use
from velvet_moth.core.stacks.step import Step


@dataclass(frozen=True)
class AddStep(StackOperation):
    """Adds a step before the one at ``place`` (0 is the first), or at the end. Without an id it gets a fresh one."""

    step: StepKey
    place: Whole = LAST
    id: Text = ""
    values: Mapping[Text, Any] | None = None
    op: Literal["add_step"] = "add_step"

    def apply(self, stack: Stack) -> AppliedToStack:
        kind = stack.family.steps.get(self.step)
        if kind is None:
            raise OperationRefused(f"There is no step {self.step[:40]!r}.", stack.name, "Choose one of the list.")
        if len(stack.steps) >= MOST_STEPS:
            raise OperationRefused(f"A stack has at most {MOST_STEPS} steps.", stack.name, "Remove one first.")
        key = new_id(self.id, self.step, (use.id for use in stack.steps), kind.name)
        use = Use(key, kind, {name: held_of(kind, name, value) for name, value in (self.values or {}).items()})
        return replace(stack, steps=inserted(stack.steps, self._fitting(stack, kind), use, kind.name)), RemoveStep(key)

    def _fitting(self, stack: Stack, kind: Step) -> int:
        """The nearest place where it may stand: what reshapes comes before all that needs what it gives."""
        reshaping, count = stack.reshaping(), len(stack.steps)
        if kind.reshapes:
            return reshaping if self.place == LAST or reshaping < self.place <= count else self.place
        return max(self.place, reshaping) if self.place != LAST else LAST

    def words(self, stack: Stack) -> str:
        kind = stack.family.steps.get(self.step)
        return f"added {kind.name if kind else self.step}"


@dataclass(frozen=True)
class RemoveStep(StackOperation):
    """Takes a step away, with what comes of it; what was taken from it no longer is."""

    id: StepId
    op: Literal["remove_step"] = "remove_step"

    def apply(self, stack: Stack) -> AppliedToStack:
        place = place_of(stack, self.id)
        if len(stack.steps) <= stack.family.fewest:
            raise OperationRefused("A stack has at least one step.", stack.name, "Add another one first.")
        gone = stack.steps[place]
        plain = {name: value_to_json(value) for name, value in gone.values.items()}
        undo: list[StackOperation] = [AddStep(gone.kind.key, place, gone.id, plain)]
        steps = []
        for use in (*stack.steps[:place], *stack.steps[place + 1 :]):
            values = dict(_without_step(use.values, gone.id))
            before = {name: held for name, held in use.values.items() if values.get(name) != held}
            undo += [SetStepSetting(use.id, name, value_to_json(held)) for name, held in before.items()]
            steps.append(replace(use, values=values) if before else use)
        made = [(at, output) for at, output in enumerate(stack.outputs) if output.step == gone.id]
        undo += [AddOutput(o.step, o.layer, o.id, o.name, o.depth, at) for at, o in made]
        outputs = tuple(output for output in stack.outputs if output.step != gone.id)
        return replace(stack, steps=tuple(steps), outputs=outputs), StackBatch(tuple(undo))

    def words(self, stack: Stack) -> str:
        return f"removed {named(stack, self.id)}"


@dataclass(frozen=True)
class MoveStep(StackOperation):
    """Moves a step to another place, the first being 0."""

    id: StepId
    place: Whole
    op: Literal["move_step"] = "move_step"

    def apply(self, stack: Stack) -> AppliedToStack:
        before = place_of(stack, self.id)
        check_place(self.place, len(stack.steps) - 1, named(stack, self.id))
        steps = list(stack.steps)
        steps.insert(self.place, steps.pop(before))
        if any(later.kind.reshapes and not earlier.kind.reshapes for earlier, later in pairwise(steps)):
            raise OperationRefused(
                "Steps that change the form come before those that need it.",
                named(stack, self.id),
                "Choose another place.",
            )
        return replace(stack, steps=tuple(steps)), MoveStep(self.id, before)

    def words(self, stack: Stack) -> str:
        return f"moved {named(stack, self.id)} to place {self.place + 1}"


@dataclass(frozen=True)
class SetStepSetting(StackOperation):
    """Sets something on a step, as plain data; None takes it back to the step's own default."""

    step: StepId
    setting: StepSettingKey
    value: Any
    op: Literal["set_step_setting"] = "set_step_setting"

    def apply(self, stack: Stack) -> AppliedToStack:
        place = place_of(stack, self.step)
        use = stack.steps[place]
        values = {name: held for name, held in use.values.items() if name != self.setting}
        if self.value is not None:
            values[self.setting] = held_of(use.kind, self.setting, self.value)
        elif self.setting not in use.kind.settings:
            raise OperationRefused(f"{use.kind.name} has no setting {self.setting[:40]!r}.", use.id, "Choose another.")
        before = use.values.get(self.setting)
        undo = SetStepSetting(use.id, self.setting, None if before is None else value_to_json(before))
        steps = (*stack.steps[:place], replace(use, values=values), *stack.steps[place + 1 :])
        return replace(stack, steps=steps), undo

    def words(self, stack: Stack) -> str:
        use = stack.use(self.step)
        if use is None or self.setting not in use.kind.settings:
            return "set something of a step"
        name = f"{use.kind.settings[self.setting].name} of {use.kind.name}"
        if self.value is None:
            return f"reset {name}"
        return f"set {name} to {self.value:.4g}" if isinstance(self.value, (int, float)) else f"set {name}"


def replace_texture(stack: Stack, old: str, new: str) -> StackBatch:
    """The operations that read the texture ``new`` wherever the stack reads ``old``."""
    made = []
    for use in stack.steps:
        for name, held in use.values.items():
            after = _reading(held, old, new)
            if after != held:
                made.append(SetStepSetting(use.id, name, value_to_json(after)))
    if not made:
        raise OperationRefused("The stack does not read this texture.", stack.name, "Choose one that it reads.")
    return StackBatch(tuple(made), "replaced a texture by another")


def _without_step(values: Mapping[str, Held], step: str) -> Iterator[tuple[str, Held]]:
    """What is set on a step, without the pictures that come from another one."""
    for name, held in values.items():
        if isinstance(held, TakenFrom) and held.step == step:
            continue
        if isinstance(held, tuple):
            yield name, tuple(_tile_without(part, step) if isinstance(part, Tile) else part for part in held)  # type: ignore[misc] # all of one kind
        else:
            yield name, held


def _tile_without(tile: Tile, step: str) -> Tile:
    kept = tuple((key, held) for key, held in tile.maps if not (isinstance(held, TakenFrom) and held.step == step))
    return replace(tile, maps=kept)


def _reading(held: Any, old: str, new: str) -> Any:
    if isinstance(held, TakenFrom):
        return TakenFrom(texture=new) if held.texture == old else held
    if isinstance(held, Tile):
        return Tile(held.name, tuple((key, _reading(part, old, new)) for key, part in held.maps))
    return tuple(_reading(part, old, new) for part in held) if isinstance(held, tuple) else held
