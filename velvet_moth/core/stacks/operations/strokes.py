"""Operations on the strokes of a painted step."""

from dataclasses import dataclass, replace
from typing import Annotated, Literal

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.base.records import Whole
from velvet_moth.core.document.values import RefersTo
from velvet_moth.core.stacks.operations.operation import (
    LAST,
    AppliedToStack,
    StackOperation,
    StepId,
    check_place,
    inserted,
    place_of,
)
from velvet_moth.core.stacks.stack import Stack, Use
from velvet_moth.core.stacks.stroke import Stroke

StrokePlace = Annotated[Whole, RefersTo("stroke")]


def _drawn(stack: Stack, step: str) -> tuple[Use, str, tuple[Stroke, ...]]:
    """A step, the setting that holds its strokes, and these; OperationRefused for a step that nothing is drawn on."""
    use = stack.steps[place_of(stack, step)]
    key = next((s.key for s in use.kind.settings.values() if s.kind == "strokes"), "")
    if not key:
        raise OperationRefused(f"Nothing can be drawn on {use.kind.name}.", use.id, "Choose a painted step.")
    return use, key, use.strokes(key)


def _with(stack: Stack, use: Use, key: str, strokes: tuple[Stroke, ...]) -> Stack:
    if wrong := use.kind.settings[key].check(strokes):
        raise OperationRefused(wrong, use.kind.name, "Use another step.")
    values = {name: held for name, held in use.values.items() if name != key}
    if strokes:
        values[key] = strokes
    return replace(stack, steps=tuple(replace(u, values=values) if u.id == use.id else u for u in stack.steps))


@dataclass(frozen=True)
class AddStroke(StackOperation):
    """Lays a stroke onto a painted step, before the one at ``place`` (0 is the first), or over all others."""

    step: StepId
    stroke: Stroke
    place: Whole = LAST
    op: Literal["add_stroke"] = "add_stroke"

    def apply(self, stack: Stack) -> AppliedToStack:
        use, key, strokes = _drawn(stack, self.step)
        after = inserted(strokes, self.place, self.stroke, use.kind.name)
        place = len(strokes) if self.place == LAST else self.place
        return _with(stack, use, key, after), RemoveStroke(self.step, place)

    def words(self, stack: Stack) -> str:
        what = f"filled the {self.stroke.fill}" if self.stroke.fill else "a stroke"
        if self.stroke.mode == "comb":
            return f"{what}: comb"
        return f"{what}: {self.stroke.mode} {', '.join(self.stroke.touches)}"


@dataclass(frozen=True)
class RemoveStroke(StackOperation):
    """Takes the stroke at ``place`` away, the first being 0."""

    step: StepId
    place: StrokePlace
    op: Literal["remove_stroke"] = "remove_stroke"

    def apply(self, stack: Stack) -> AppliedToStack:
        use, key, strokes = _drawn(stack, self.step)
        check_place(self.place, len(strokes) - 1, use.kind.name)
        rest = (*strokes[: self.place], *strokes[self.place + 1 :])
        return _with(stack, use, key, rest), AddStroke(self.step, strokes[self.place], self.place)

    def words(self, stack: Stack) -> str:
        return f"removed stroke {self.place + 1}"


@dataclass(frozen=True)
class MoveStroke(StackOperation):
    """Moves a stroke to another place, of another painted step too."""

    step: StepId
    place: StrokePlace
    to: StepId
    to_place: Whole = LAST
    op: Literal["move_stroke"] = "move_stroke"

    def apply(self, stack: Stack) -> AppliedToStack:
        _, _, strokes = _drawn(stack, self.step)
        without, _ = RemoveStroke(self.step, self.place).apply(stack)
        after, back = AddStroke(self.to, strokes[self.place], self.to_place).apply(without)
        assert isinstance(back, RemoveStroke), "what is added is taken back by removing it"
        return after, MoveStroke(self.to, back.place, self.step, self.place)

    def words(self, stack: Stack) -> str:
        return f"moved stroke {self.place + 1}" + ("" if self.to == self.step else " to another painted step")
