"""A brush put to a painted step of a stack: what lies there before the stroke that is about to be drawn."""

from collections.abc import Hashable

from velvet_moth.core.baking.painting.drawing import Drawing
from velvet_moth.core.baking.stack import MeshStack, evaluate
from velvet_moth.core.baking.step import BakingContext
from velvet_moth.core.baking.steps.paint import below, opacity_of, painted_by
from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.forms.mesh import Mesh
from velvet_moth.core.stacks.stack import sources
from velvet_moth.core.stacks.stroke import PAINTED


def drawing_on(stack: MeshStack, step: str, mesh: Mesh, mark: Hashable, context: BakingContext) -> Drawing:
    """A stroke that begins on a painted step; OperationRefused where the step is gone, is not painted, or cannot be computed."""
    at = next((at for at, use in enumerate(stack.steps) if use.id == step), None)
    use = stack.steps[at] if at is not None else None
    if at is None or use is None or "lines" not in use.kind.settings:
        raise OperationRefused("There is no painted step of that name.", f"step {step[:40]}", "Choose one of the list.")
    taken = sources(stack, at)
    made, ground = evaluate(stack, mesh, mark, context, {source.step for source in taken.values()})

    given = (
        ground.layer(made[taken[layer].step], taken[layer].layer)() if layer in taken else None for layer in PAINTED
    )
    under = below(ground, *given)
    before = painted_by(ground, use.strokes("lines"), under)
    return Drawing(ground.surface, before, under, opacity_of(**use.settled()))
