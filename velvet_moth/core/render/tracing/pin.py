"""The pin: what every output of a graph is at one pixel of the stage, with the GPU's own neighbours of that pixel."""

from collections.abc import Hashable, Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.document.graph import Source
from velvet_moth.core.document.values import Value
from velvet_moth.core.language.expr import Array, Expr, constant
from velvet_moth.core.language.inputs import Bindings
from velvet_moth.core.language.interpreters.evaluate import evaluate
from velvet_moth.core.language.texture import ALPHA_CUTOFF, Texture
from velvet_moth.core.language.types import FLOATS
from velvet_moth.core.lighting.backdrop import BACKDROP
from velvet_moth.core.lighting.kinds import KINDS
from velvet_moth.core.lighting.layers import facing_normal
from velvet_moth.core.lighting.shown import Appearance, appearance, lit_picture, shown_light
from velvet_moth.core.lowering.lowered import LoweredGraph
from velvet_moth.core.render.tracing.behind import decals_on
from velvet_moth.core.render.tracing.projecting import in_window, topmost
from velvet_moth.core.render.tracing.rays import view_of
from velvet_moth.core.render.tracing.reference import placed
from velvet_moth.core.render.tracing.scene import Scene, draw_inputs
from velvet_moth.core.render.tracing.sheets import in_quads, look_through
from velvet_moth.core.render.tracing.staged import Placed
from velvet_moth.core.render.tracing.window import Window


@dataclass(frozen=True)
class Pinned:
    """What lies at a pixel: the place on the form (metres), the light it sends and how that is shown (sRGB, 0..1),

    and the components of every output that is numbers.
    """

    place: tuple[float, ...]
    light: tuple[float, ...]
    shown: tuple[float, ...]
    values: Mapping[Source, tuple[float, ...]]


def _on_form(
    shown: Appearance,
    at_hand: Placed,
    scene: Scene,
    draw: Mapping[str, Array],
    pixel: tuple[int, int],
    size: tuple[int, int],
) -> Mapping[str, Array] | None:
    """The surface inputs of a pixel's quad, (components, 2, 2), where the form is seen there past what is cut away."""
    points: Mapping[str, Array] | None = None
    pixels = np.array([pixel])

    def shade(rays: NDArray[np.int64], found: Mapping[str, Array]) -> NDArray[np.bool_]:
        nonlocal points
        kept = np.ones(1, dtype=np.bool_)
        if shown.opacity is not None:
            around = at_hand.bindings(draw).at(found)
            kept = np.broadcast_to(in_quads(evaluate([shown.opacity], around)[0], pixels) >= ALPHA_CUTOFF, 1)
        points = found if kept[0] else None
        return kept

    look_through(
        at_hand.mesh,
        at_hand.moved,
        traced=at_hand.traced,
        view=view_of(scene.camera, size),
        pixels=pixels,
        size=size,
        shade=shade,
        outputs=None,
    )
    if points is None:
        return None
    behind = at_hand.textures[BACKDROP].levels[0][3]
    if behind.shape != (1, 1) and behind[pixel[1], pixel[0]] < points["camera_distance"][pixel[1] % 2, pixel[0] % 2]:
        return None
    return points


def _on_decals(
    shown: Appearance,
    at_hand: Placed,
    scene: Scene,
    draw: Mapping[str, Array],
    pixel: tuple[int, int],
    size: tuple[int, int],
) -> Mapping[str, Array] | None:
    """As ``_on_form``, of the topmost decal there."""
    screen = in_window(Window.quad_of(pixel), size)
    points, covered = topmost(scene.decals, screen, Bindings(draw, at_hand.uniforms, at_hand.textures))
    return points if covered[pixel[1] % 2, pixel[0] % 2] else None


def pinned(
    lowered: LoweredGraph,
    scene: Scene,
    pixel: tuple[int, int],
    size: tuple[int, int],
    values: Mapping[tuple[str, str], Value],
    textures: Mapping[Hashable, Texture],
) -> Pinned | None:
    """What lies at a pixel (column, row from the bottom) of a picture of ``size``; None where nothing is hit."""
    kind = lowered.graph.kind
    lamps = len(scene.rig.lamps)
    shown = appearance(lowered.surface, None, kind, lamps)
    at_hand = placed(scene, shown, values, textures, size)
    draw = draw_inputs(scene, at_hand.mesh, size)
    points = (_on_decals if shown.is_projected else _on_form)(shown, at_hand, scene, draw, pixel, size)
    if points is None:
        return None
    sources = {s: e for s, e in lowered.outputs.items() if isinstance(e, Expr) and e.type in FLOATS}
    sources |= {Source("dock", key): e for key, e in lowered.surface.channels.items()}
    own = facing_normal()
    if shown.is_projected:
        quad = decals_on(shown, scene, at_hand, size, Window.quad_of(pixel))
        left = quad[:, pixel[1] % 2, pixel[0] % 2]
        seen = shown_light(constant(*(float(part) for part in left[:3])))
    else:
        seen = lit_picture(lowered.surface, kind, lamps)
    wanted = [KINDS[kind].lights(lowered.surface, own, lamps), seen, *sources.values()]
    around = at_hand.bindings(draw).at(points)
    row, column = pixel[1] % 2, pixel[0] % 2

    def at(found: Array) -> tuple[float, ...]:
        wide = np.broadcast_to(found, (found.shape[0] if found.ndim == 3 else 1, 2, 2))
        return tuple(float(c) for c in wide[:, row, column])

    light, colour, *rest = (at(found) for found in evaluate(wanted, around))
    return Pinned(at(points["moved_position"]), light, colour, dict(zip(sources, rest, strict=True)))
