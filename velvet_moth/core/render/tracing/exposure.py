"""Automatic exposure: how much of a scene's light is shown, so that its middle is neither dark nor glaring."""

from collections.abc import Hashable, Mapping

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.document.values import Value
from velvet_moth.core.language.expr import constant
from velvet_moth.core.language.texture import ALPHA_CUTOFF, LUMINANCE, Floats, Texture
from velvet_moth.core.lighting.backdrop import BACKDROP, FAR
from velvet_moth.core.lighting.kinds import KINDS
from velvet_moth.core.lighting.layers import facing_normal
from velvet_moth.core.lighting.shown import appearance
from velvet_moth.core.lowering.lowered import LoweredGraph
from velvet_moth.core.render.tracing.behind import decals_on
from velvet_moth.core.render.tracing.reference import placed, stage_of
from velvet_moth.core.render.tracing.scene import Scene

# What the middle of a picture is brought to, before the tone curve; and within what bounds.
KEY = 0.2
LEAST, MOST = 0.05, 20.0
# So many pixels wide and high is what the light is measured in.
METERED = (48, 36)


def automatic_exposure(light: Floats, seen: NDArray[np.bool_]) -> float:
    """The exposure for linear light (3, rows, columns) where a surface is ``seen``; 1 where none is.

    The key over the mean of the logarithm of the luminance.
    Source: E. Reinhard et al., "Photographic Tone Reproduction for Digital Images", 2002.
    """
    if not seen.any():
        return 1.0
    luminance = np.tensordot(np.array(LUMINANCE), np.maximum(light, 0.0), axes=1)[seen]
    return float(np.clip(KEY / np.exp(np.mean(np.log(luminance + 1e-4))), LEAST, MOST))


def metered(
    lowered: LoweredGraph,
    scene: Scene,
    values: Mapping[tuple[str, str], Value],
    textures: Mapping[Hashable, Texture],
) -> float:
    """The exposure that suits what a scene shows of a graph: its surface and what lies behind."""
    kind, lamps = KINDS[lowered.graph.kind], len(scene.rig.lamps)
    shown = appearance(lowered.surface, None, kind.key, lamps)
    at_hand = placed(scene, shown, values, textures, METERED)
    if kind.is_projected:
        behind = decals_on(shown, scene, at_hand, METERED)
        return automatic_exposure(behind[:3], behind[3] < FAR)
    behind = at_hand.textures[BACKDROP].levels[0]
    stage = stage_of(scene, shown, at_hand, METERED)
    own = kind.lights(lowered.surface, facing_normal(), lamps)
    light, opacity = stage.evaluate([kind.meets(own, lowered.surface), shown.opacity or constant(1.0)])
    is_form = stage.hit & (opacity >= ALPHA_CUTOFF) & (stage.seen.points["camera_distance"] <= behind[3])
    return automatic_exposure(np.where(is_form, light, behind[:3]), is_form | (behind[3] < FAR))
