"""Operations on what comes of a stack, and on its name."""

from dataclasses import dataclass, replace
from typing import Literal

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.base.records import Text, Whole
from velvet_moth.core.document.values import LONGEST_NAME, Name
from velvet_moth.core.stacks.operations.operation import (
    LAST,
    AppliedToStack,
    Depth,
    LayerName,
    OutputId,
    StackOperation,
    StepId,
    inserted,
    named,
    new_id,
    output_of,
    place_of,
)
from velvet_moth.core.stacks.plain import no_output
from velvet_moth.core.stacks.stack import Output, Stack


def _checked_name(name: str, where: str) -> str:
    name = name.strip()
    if not name or len(name) > LONGEST_NAME:
        raise OperationRefused(f"A name has 1 to {LONGEST_NAME} letters.", where, "Choose another name.")
    return name


def _check_depth(depth: str, depths: tuple[str, ...], where: str) -> None:
    if depth not in depths:
        raise OperationRefused(f"There is no depth {depth[:40]!r}.", where, f"Use one of {', '.join(depths)}.")


@dataclass(frozen=True)
class SetStackName(StackOperation):
    """Gives the stack another name."""

    name: Name
    op: Literal["set_stack_name"] = "set_stack_name"

    def apply(self, stack: Stack) -> AppliedToStack:
        return replace(stack, name=_checked_name(self.name, stack.name)), SetStackName(stack.name)

    def words(self, stack: Stack) -> str:
        return f"renamed to {self.name.strip()}"


@dataclass(frozen=True)
class AddOutput(StackOperation):
    """Has a layer of a step come of the stack. Id, name, depth and place follow where they are not given."""

    step: StepId
    layer: LayerName
    id: Text = ""
    name: Text = ""
    depth: Depth = ""
    place: Whole = LAST
    op: Literal["add_output"] = "add_output"

    def apply(self, stack: Stack) -> AppliedToStack:
        use = stack.steps[place_of(stack, self.step)]
        family = stack.family
        if self.layer not in use.kind.layers or use.kind.reshapes:
            raise OperationRefused(
                f"{use.kind.name} has no layer {self.layer[:40]!r}.", use.id, f"It has {', '.join(use.kind.layers)}."
            )
        if use.kind.gives[self.layer] != family.layer:
            raise OperationRefused(no_output(family, use.kind, self.layer), use.id, family.instead)
        if any(output.step == use.id and output.layer == self.layer for output in stack.outputs):
            raise OperationRefused(
                f"This layer is made a {family.noun} already.", use.kind.name, "Choose another layer."
            )
        if len(stack.outputs) >= family.most_outputs:
            raise OperationRefused(
                f"A stack makes at most {family.most_outputs} {family.noun}s.", stack.name, "Remove one first."
            )
        taken = {output.id for output in stack.outputs}
        free = next((place for place in family.places if place not in taken), "")
        key = new_id(self.id or free, self.layer, taken, use.kind.name)
        if family.places and key not in family.places:
            raise OperationRefused(
                f"There is no place {key!r} for a {family.noun}.", use.kind.name, f"Use {', '.join(family.places)}."
            )
        depth = self.depth or family.depths[0]
        _check_depth(depth, family.depths, use.kind.name)
        words = self.layer.replace("_", " ")
        of = use.kind.name if family.places else stack.name
        usual = of if self.layer == use.kind.layers[0] else f"{of} {words}"[:LONGEST_NAME]
        made = Output(key, _checked_name(self.name or usual, stack.name), use.id, self.layer, depth)
        return replace(stack, outputs=inserted(stack.outputs, self.place, made, made.name)), RemoveOutput(key)

    def words(self, stack: Stack) -> str:
        return f"made a {stack.family.noun} of {self.layer.replace('_', ' ')} of {named(stack, self.step)}"


@dataclass(frozen=True)
class RemoveOutput(StackOperation):
    """Has something come of the stack no longer. What was made already stays as it is."""

    id: OutputId
    op: Literal["remove_output"] = "remove_output"

    def apply(self, stack: Stack) -> AppliedToStack:
        gone = output_of(stack, self.id)
        place = stack.outputs.index(gone)
        undo = AddOutput(gone.step, gone.layer, gone.id, gone.name, gone.depth, place)
        return replace(stack, outputs=(*stack.outputs[:place], *stack.outputs[place + 1 :])), undo

    def words(self, stack: Stack) -> str:
        found = stack.output(self.id)
        return f"no longer makes {found.name if found else self.id[:40]}"


@dataclass(frozen=True)
class EditOutput(StackOperation):
    """Names what comes of a stack, and chooses its depth."""

    id: OutputId
    name: Name
    depth: Depth
    op: Literal["edit_output"] = "edit_output"

    def apply(self, stack: Stack) -> AppliedToStack:
        before = output_of(stack, self.id)
        _check_depth(self.depth, stack.family.depths, before.name)
        after = replace(before, name=_checked_name(self.name, before.name), depth=self.depth)
        outputs = tuple(after if output.id == self.id else output for output in stack.outputs)
        return replace(stack, outputs=outputs), EditOutput(self.id, before.name, before.depth)

    def words(self, stack: Stack) -> str:
        return f"{self.name.strip()} has {self.depth}"
