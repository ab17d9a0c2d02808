"""A painted step of a stack as a brush meets it: what is there before the stroke that is about to be drawn."""

from collections.abc import Hashable
from dataclasses import dataclass

from velvet_moth.core.baking.by_hand import BY_HAND, Hand, opacity_of
from velvet_moth.core.baking.painting.drawing import Drawing
from velvet_moth.core.baking.painting.laying import Painted
from velvet_moth.core.baking.painting.surface import Indices
from velvet_moth.core.baking.stack import MeshStack, evaluate
from velvet_moth.core.baking.step import BakingContext
from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.forms.mesh import Mesh
from velvet_moth.core.stacks.stack import TakenFrom, sources
from velvet_moth.core.stacks.stroke import PAINTED, Stroke


def hand_on(stack: MeshStack, step: str, mesh: Mesh, mark: Hashable, context: BakingContext) -> Hand:
    """A painted step on the mesh; OperationRefused where it is gone, is not painted, or cannot be computed."""
    at = next((at for at, use in enumerate(stack.steps) if use.id == step), None)
    use = stack.steps[at] if at is not None else None
    kind = BY_HAND.get(use.kind.key) if use else None
    if at is None or use is None or kind is None:
        raise OperationRefused("There is no painted step of that name.", f"step {step[:40]}", "Choose one of the list.")
    taken = sources(stack, at)
    made, ground = evaluate(stack, mesh, mark, context, {source.step for source in taken.values()})
    given = {key: ground.layer(made[source.step], source.layer)() for key, source in taken.items()}
    return Hand(kind, ground, use.strokes("lines"), kind.below(ground, given), opacity_of(**use.settled()))


@dataclass(frozen=True, eq=False)
class Drawn:
    """A stroke under way on a painted step."""

    hand: Hand
    drawing: Drawing

    def go_on(self, brush: Stroke) -> tuple[Indices, Painted]:
        """As ``Drawing.go_on``, and of what is seen what channels keep of it."""
        vertex, seen = self.drawing.go_on(brush)
        return vertex, self.hand.kind.shown(self.hand.on.mesh, vertex, seen)


def drawing_on(stack: MeshStack, step: str, mesh: Mesh, mark: Hashable, context: BakingContext) -> Drawn:
    """A stroke that begins on a painted step; refused as ``hand_on``."""
    hand = hand_on(stack, step, mesh, mark, context)
    return Drawn(hand, Drawing(hand.on.surface, hand.before, hand.under, hand.opacity, hand.kind.medium))


def channels_shown(stack: MeshStack, step: str) -> dict[str, int]:
    """Which of the four numbers that a brush shows at a vertex each channel keeps, by the channel's place.

    Those of the step itself, and those of directions made numbers of it.
    """
    use = stack.use(step)
    columns = {(step, layer): at for at, layer in enumerate(PAINTED)}
    if use is not None and use.kind.gives.get("directions"):
        columns = {(step, "combed"): 3}
        for at, later in enumerate(stack.steps):
            if later.kind.key == "flow_numbers" and sources(stack, at).get("given", TakenFrom()).step == step:
                columns |= {(later.id, layer): column for column, layer in enumerate(later.kind.layers)}
    return {o.id: columns[o.step, o.layer] for o in stack.outputs if (o.step, o.layer) in columns}
