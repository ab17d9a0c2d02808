"""A painted step of a stack as a brush meets it: what is there before the stroke that is about to be drawn."""

from collections.abc import Hashable

from velvet_moth.core.baking.by_hand import BY_HAND, Hand, opacity_of
from velvet_moth.core.baking.painting.drawing import Drawing
from velvet_moth.core.baking.stack import MeshStack, evaluate
from velvet_moth.core.baking.step import BakingContext
from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.forms.mesh import Mesh
from velvet_moth.core.stacks.stack import sources


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


def drawing_on(stack: MeshStack, step: str, mesh: Mesh, mark: Hashable, context: BakingContext) -> Drawing:
    """A stroke that begins on a painted step; refused as ``hand_on``."""
    hand = hand_on(stack, step, mesh, mark, context)
    return Drawing(hand.on.surface, hand.before, hand.under, hand.opacity, hand.kind.medium)
