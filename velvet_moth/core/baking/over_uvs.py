"""The channels of a mesh and its stack as a texture: what was painted is laid onto the pixels, as fine as they are."""

from collections.abc import Hashable

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.baking.brush import drawing_on
from velvet_moth.core.baking.nearest import Nearest
from velvet_moth.core.baking.painting.laying import laid, over
from velvet_moth.core.baking.painting.surface import AtSpots
from velvet_moth.core.baking.stack import MeshStack, baked
from velvet_moth.core.baking.step import BakingContext
from velvet_moth.core.baking.to_texture import channels_over_uvs
from velvet_moth.core.forms.mesh import Mesh
from velvet_moth.core.making.layer import Layer
from velvet_moth.core.stacks.stack import Output
from velvet_moth.core.stacks.stroke import PAINTED


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
    layers: dict[str, NDArray[np.float32]] = {}

    def painted(output: Output, spots: Nearest) -> NDArray[np.float32]:
        if output.step not in layers:
            use = stack.use(output.step)
            assert use is not None, "an output comes from a step of its stack"
            drawing = drawing_on(stack, output.step, mesh, mark, context)
            surface = drawing.surface
            under = spots.mixed(surface.mesh.triangles, drawing.under).astype(np.float32)
            made = laid(use.strokes("lines"), under, under, AtSpots(surface.mesh, surface.skin, spots))
            layers[output.step] = over(under, made, drawing.opacity)
        return np.clip(layers[output.step][:, PAINTED.index(output.layer)], 0.0, 1.0)

    def finer(channel: str, spots: Nearest) -> NDArray[np.float32] | None:
        output = stack.output(channel)
        use = stack.use(output.step) if output else None
        return painted(output, spots) if output and use and use.strokes("lines") else None

    return channels_over_uvs(baked(stack, mesh, mark, context), channels, size, padding, finer)
