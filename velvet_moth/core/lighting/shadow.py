"""The sun's shadows: how far along the sun's direction the first surface lies, as a picture, and how it is read.

The picture is seen from the sun, without perspective, about the origin: each pixel keeps the largest distance along the
sun's direction at which a ray from the sun meets something. The stage draws it, the reference picture traces it.
"""

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.language.expr import Expr, constant, sampler
from velvet_moth.core.language.inputs import surface
from velvet_moth.core.language.primitives import combine, dot, sample, saturate
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.language.trace import emitted_function
from velvet_moth.core.lighting.stage_textures import stage_texture

SUN_DEPTH = stage_texture(
    "sun_depth", "metres towards the sun of what it sees first, in red, as large as the sun's picture"
)
SIZE = 512
NOTHING = -1000.0
# Room for what an offset moves, in metres around the boxes of what casts shadows.
MARGIN = 0.3
# How far a place is lifted off its own surface, and over which depth a shadow sets in, in metres.
_LIFT, _FADE = 0.014, 0.025
# Four places around, as multiples of a pixel of the map.
_TAPS = ((-1.6, -0.6), (0.6, -1.6), (1.6, 0.6), (-0.6, 1.6))


def sun_axes(sun: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Right and up of the picture that the sun sees."""
    helper = np.array((1.0, 0.0, 0.0)) if abs(sun[1]) > 0.99 else np.array((0.0, 1.0, 0.0))
    right = np.cross(helper, sun)
    right /= np.linalg.norm(right)
    return right, np.cross(sun, right)


def reach_of(*boxes: tuple[NDArray[np.float32], NDArray[np.float32]]) -> float:
    """Half the side of the picture (metres): boxes, by their lowest and highest corners, lie inside it from any side."""
    corners = [np.maximum(np.abs(low), np.abs(high)) for low, high in boxes]
    return max((float(np.linalg.norm(c)) for c in corners), default=1.0) + MARGIN


@lru_cache(maxsize=1)
def nothing_casts() -> Texture:
    """What the sun sees where nothing keeps it off."""
    return Texture((np.full((4, 1, 1), NOTHING, dtype=np.float32),), wrap=("clamp", "clamp"))


@emitted_function("How much of the sun arrives past what casts shadows")
def sun_arrives(place: Expr, normal: Expr) -> Expr:
    """1 in the open, 0 in full shadow; ``place`` lies on a surface of the unit ``normal``.

    A place is lifted along its normal, more where the sun grazes (D. Holbert, "Saying goodbye to shadow acne", 2011).
    """
    sun, half = surface("sun_direction"), surface("sun_half")
    grazing = saturate(1.0 - dot(normal, sun))
    lifted = place + normal * (grazing * _LIFT + _LIFT * 0.4)
    at = combine(dot(lifted, surface("sun_right")), dot(lifted, surface("sun_up"))) / (half * 2.0) + 0.5
    own = dot(lifted, sun)
    total = constant(0.0)
    for x, y in _TAPS:
        tap = at + constant(x / SIZE, y / SIZE)
        first = sample(sampler(SUN_DEPTH, ("clamp", "clamp"), NOTHING, 100.0), tap, constant(0.0)).r
        total = total + saturate((first - own) * (1.0 / _FADE))
    return 1.0 - total * 0.25
