"""What the stack of a mesh makes as a texture over its UVs: what was painted is laid onto the pixels, as fine as they are."""

from collections.abc import Hashable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.baking.brush import hand_on
from velvet_moth.core.baking.by_hand import BY_HAND
from velvet_moth.core.baking.directions import in_tangent_space
from velvet_moth.core.baking.nearest import Nearest
from velvet_moth.core.baking.painting.laying import Painted
from velvet_moth.core.baking.painting.media import WAY
from velvet_moth.core.baking.painting.surface import AtSpots
from velvet_moth.core.baking.stack import MeshStack, baked, directions_of, evaluate
from velvet_moth.core.baking.step import BakingContext
from velvet_moth.core.baking.to_texture import channels_over_uvs, over_uvs
from velvet_moth.core.forms.mesh import Mesh, unit_vectors
from velvet_moth.core.making.layer import Layer
from velvet_moth.core.stacks.stroke import PAINTED


@dataclass(eq=False)
class _Fine:
    """What painted steps have at places on the mesh, laid there itself; each step once."""

    stack: MeshStack
    mesh: Mesh
    mark: Hashable
    context: BakingContext
    _found: dict[str, Painted] = field(default_factory=dict)

    def of(self, step: str, spots: Nearest) -> Painted | None:
        """(k, 4) at the spots; None for a step that nothing is drawn on."""
        use = self.stack.use(step)
        if use is None or use.kind.key not in BY_HAND or not use.strokes("lines"):
            return None
        if step not in self._found:
            hand = hand_on(self.stack, step, self.mesh, self.mark, self.context)
            mesh, skin = hand.on.mesh, hand.on.skin
            under = spots.mixed(mesh.triangles, hand.under).astype(np.float32)
            self._found[step] = hand.seen_at(AtSpots(mesh, skin, spots), under)
        return self._found[step]


def stack_over_uvs(
    stack: MeshStack,
    mesh: Mesh,
    mark: Hashable,
    context: BakingContext,
    channels: tuple[str, ...],
    size: int,
    padding: int,
) -> Layer:
    """As ``channels_over_uvs`` of the mesh that a stack makes; painted channels do not depend on how fine the mesh is."""
    fine = _Fine(stack, mesh, mark, context)

    def finer(channel: str, spots: Nearest) -> NDArray[np.float32] | None:
        output = stack.output(channel)
        painted = fine.of(output.step, spots) if output and output.layer in PAINTED else None
        return None if painted is None or output is None else np.clip(painted[:, PAINTED.index(output.layer)], 0.0, 1.0)

    return channels_over_uvs(baked(stack, mesh, mark, context), channels, size, padding, finer)


def flow_over_uvs(
    stack: MeshStack, mesh: Mesh, mark: Hashable, context: BakingContext, step: str, size: int, padding: int
) -> Layer:
    """The directions of a step as a flow map of ``size`` pixels a side, in tangent space: along U, along V, -1..1 each.

    Combed directions do not depend on how fine the mesh is. Around islands the nearest values go on for ``padding`` pixels,
    beyond that it is still. Raises OperationRefused where the step gives no directions, or as ``over_uvs`` does.
    """
    layer = directions_of(stack, step)
    made, ground = evaluate(stack, mesh, mark, context, {step})
    directions, full = made[step][layer], ground.mesh
    fine = _Fine(stack, mesh, mark, context)

    def flow(spots: Nearest) -> NDArray[np.float32]:
        combed = fine.of(step, spots)
        vectors = combed[:, :WAY] if combed is not None else spots.mixed(full.triangles, directions)
        normals = unit_vectors(spots.mixed(full.triangles, full.normals))
        tangents = spots.mixed(full.triangles, full.tangents)
        found = in_tangent_space(vectors.astype(np.float64), normals, tangents)
        speed = np.linalg.norm(found, axis=1, keepdims=True)
        return np.asarray((found / np.maximum(speed, 1.0)).T, dtype=np.float32)

    return Layer(over_uvs(full, size, padding, 2, flow), "flow")
