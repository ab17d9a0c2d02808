"""Operations on the textures a stack makes, and on what they share: its name and their size."""

from dataclasses import dataclass, replace
from typing import Literal

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.base.records import Text, Whole
from velvet_moth.core.document.values import LONGEST_NAME, Name
from velvet_moth.core.making.exchange import DEPTHS
from velvet_moth.core.making.operations.operation import (
    LAST,
    AppliedToStack,
    Depth,
    LayerName,
    OutputId,
    Side,
    StackOperation,
    StepId,
    inserted,
    named,
    new_id,
    output_of,
    place_of,
)
from velvet_moth.core.making.recipe import MOST_OUTPUTS, Output, Recipe, wrong_size


def _checked_name(name: str, where: str) -> str:
    name = name.strip()
    if not name or len(name) > LONGEST_NAME:
        raise OperationRefused(f"A name has 1 to {LONGEST_NAME} letters.", where, "Choose another name.")
    return name


def _check_depth(depth: str, where: str) -> None:
    if depth not in DEPTHS:
        raise OperationRefused(f"There is no depth {depth[:40]!r}.", where, f"Use one of {', '.join(DEPTHS)}.")


@dataclass(frozen=True)
class SetStackName(StackOperation):
    """Gives the stack another name."""

    name: Name
    op: Literal["set_stack_name"] = "set_stack_name"

    def apply(self, recipe: Recipe) -> AppliedToStack:
        return replace(recipe, name=_checked_name(self.name, recipe.name)), SetStackName(recipe.name)

    def words(self, recipe: Recipe) -> str:
        return f"renamed to {self.name.strip()}"


@dataclass(frozen=True)
class SetStackSize(StackOperation):
    """Gives the textures another size in pixels."""

    columns: Side
    rows: Side
    op: Literal["set_stack_size"] = "set_stack_size"

    def apply(self, recipe: Recipe) -> AppliedToStack:
        if wrong := wrong_size(self.columns, self.rows):
            raise OperationRefused(wrong, recipe.name, "Choose another size.")
        after = replace(recipe, columns=self.columns, rows=self.rows)
        return after, SetStackSize(recipe.columns, recipe.rows)

    def words(self, recipe: Recipe) -> str:
        return f"set the size to {self.columns} × {self.rows}"


@dataclass(frozen=True)
class AddOutput(StackOperation):
    """Makes a texture of a layer of a step. Id, name, depth and place follow where they are not given."""

    step: StepId
    layer: LayerName
    id: Text = ""
    name: Text = ""
    depth: Depth = DEPTHS[0]
    place: Whole = LAST
    op: Literal["add_output"] = "add_output"

    def apply(self, recipe: Recipe) -> AppliedToStack:
        use = recipe.steps[place_of(recipe, self.step)]
        if self.layer not in use.kind.layers:
            raise OperationRefused(
                f"{use.kind.name} has no layer {self.layer[:40]!r}.", use.id, f"It has {', '.join(use.kind.layers)}."
            )
        if any(output.step == use.id and output.layer == self.layer for output in recipe.outputs):
            raise OperationRefused("This layer is made a texture already.", use.kind.name, "Choose another layer.")
        if len(recipe.outputs) >= MOST_OUTPUTS:
            raise OperationRefused(f"A stack makes at most {MOST_OUTPUTS} textures.", recipe.name, "Remove one first.")
        key = new_id(self.id, self.layer, (output.id for output in recipe.outputs), use.kind.name)
        _check_depth(self.depth, use.kind.name)
        words = self.layer.replace("_", " ")
        usual = recipe.name if self.layer == use.kind.layers[0] else f"{recipe.name} {words}"[:LONGEST_NAME]
        made = Output(key, _checked_name(self.name or usual, recipe.name), use.id, self.layer, self.depth)
        return replace(recipe, outputs=inserted(recipe.outputs, self.place, made, made.name)), RemoveOutput(key)

    def words(self, recipe: Recipe) -> str:
        return f"made a texture of {self.layer.replace('_', ' ')} of {named(recipe, self.step)}"


@dataclass(frozen=True)
class RemoveOutput(StackOperation):
    """Makes a texture no longer. One that was made stays as it is."""

    id: OutputId
    op: Literal["remove_output"] = "remove_output"

    def apply(self, recipe: Recipe) -> AppliedToStack:
        gone = output_of(recipe, self.id)
        place = recipe.outputs.index(gone)
        undo = AddOutput(gone.step, gone.layer, gone.id, gone.name, gone.depth, place)
        return replace(recipe, outputs=(*recipe.outputs[:place], *recipe.outputs[place + 1 :])), undo

    def words(self, recipe: Recipe) -> str:
        found = recipe.output(self.id)
        return f"no longer makes {found.name if found else self.id[:40]}"


@dataclass(frozen=True)
class EditOutput(StackOperation):
    """Names a texture that is made, and chooses its depth."""

    id: OutputId
    name: Name
    depth: Depth
    op: Literal["edit_output"] = "edit_output"

    def apply(self, recipe: Recipe) -> AppliedToStack:
        before = output_of(recipe, self.id)
        _check_depth(self.depth, before.name)
        after = replace(before, name=_checked_name(self.name, before.name), depth=self.depth)
        outputs = tuple(after if output.id == self.id else output for output in recipe.outputs)
        return replace(recipe, outputs=outputs), EditOutput(self.id, before.name, before.depth)

    def words(self, recipe: Recipe) -> str:
        return f"{self.name.strip()} has {self.depth}"
