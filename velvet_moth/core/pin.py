"""The pin: what every output of a graph is at one pixel of the stage, with the GPU's own neighbours of that pixel."""

from collections.abc import Hashable, Mapping
from dataclasses import dataclass

import numpy as np

from velvet_moth.core.backdrop import BACKDROP
from velvet_moth.core.expr import Array, Expr
from velvet_moth.core.forms import form
from velvet_moth.core.graph import Source, Value
from velvet_moth.core.interpreters.evaluate import evaluate
from velvet_moth.core.lighting.model import facing_normal, lit_picture, moving, radiance
from velvet_moth.core.lowered import LoweredGraph
from velvet_moth.core.rays import cast, inputs_at, quads_of, resting_scene, shaped, traced_scene
from velvet_moth.core.reference import Scene, draw_inputs, moved_positions, scene_textures, uniform_arrays
from velvet_moth.core.surroundings import Surroundings
from velvet_moth.core.texture.image import Texture
from velvet_moth.core.types import FLOATS


@dataclass(frozen=True)
class Pinned:
    """What lies at a pixel: the place on the form (metres), the light it sends and how that is shown (sRGB, 0..1),

    and the components of every output that is numbers.
    """

    place: tuple[float, ...]
    light: tuple[float, ...]
    shown: tuple[float, ...]
    values: Mapping[Source, tuple[float, ...]]


def pinned(
    lowered: LoweredGraph,
    scene: Scene,
    pixel: tuple[int, int],
    size: tuple[int, int],
    values: Mapping[tuple[str, str], Value],
    textures: Mapping[Hashable, Texture],
) -> Pinned | None:
    """What lies at a pixel (column, row from the bottom) of a picture of ``size``; None where nothing is hit."""
    mesh, uniforms = form(scene.form), uniform_arrays(values)
    bound = {**textures, **scene_textures(scene, size)}
    offset = moving(lowered.surface)
    moved = moved_positions(mesh, offset, scene, uniforms, bound)
    traced = resting_scene(scene.form) if offset is None else traced_scene(mesh, moved)
    hits = cast(traced, scene.camera, np.array([pixel]), size)
    if not hits.hit[0]:
        return None
    quad = quads_of(mesh, moved, scene.camera, hits, np.array([0]), size)
    points = shaped(inputs_at(mesh, moved, quad, size), 2, 2)
    behind = bound[BACKDROP].levels[0][3]
    if behind.shape != (1, 1) and behind[pixel[1], pixel[0]] < points["camera_distance"][pixel[1] % 2, pixel[0] % 2]:
        return None
    sources = {s: e for s, e in lowered.outputs.items() if isinstance(e, Expr) and e.type in FLOATS}
    sources |= {Source("dock", key): e for key, e in lowered.surface.channels.items()}
    own = facing_normal(offset)
    kind = lowered.graph.kind
    wanted = [radiance(lowered.surface, own), lit_picture(lowered.surface, kind), *sources.values()]
    around = Surroundings({**points, **draw_inputs(scene, mesh, size)}, uniforms, bound)
    row, column = pixel[1] % 2, pixel[0] % 2

    def at(found: Array) -> tuple[float, ...]:
        wide = np.broadcast_to(found, (found.shape[0] if found.ndim == 3 else 1, 2, 2))
        return tuple(float(c) for c in wide[:, row, column])

    light, shown, *rest = (at(found) for found in evaluate(wanted, around))
    return Pinned(at(points["moved_position"]), light, shown, dict(zip(sources, rest, strict=True)))
