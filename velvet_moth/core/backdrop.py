"""What lies behind the surface: a picture of the backdrop as the eye sees it, with its distance in metres.

The stage draws its backdrop into such a picture; until there is one, and in tests, the one made here stands in.
"""

import math
from functools import lru_cache

import numpy as np

from velvet_moth.core.expr import Expr, constant, sampler
from velvet_moth.core.primitives import maximum, sample
from velvet_moth.core.surroundings import surface
from velvet_moth.core.texture.image import Texture
from velvet_moth.core.trace import emitted_function

BACKDROP = "backdrop"
FAR = 1000.0
SIZE = 128


def seen_behind(at: Expr) -> Expr:
    """Linear light (rgb) and distance from the eye (a, metres) of the backdrop at a place of the screen, 0..1."""
    return sample(sampler(BACKDROP, ("clamp", "clamp"), 0.0, FAR), at, constant(0.0))


@emitted_function("Metres to what lies behind")
def depth_behind(at: Expr) -> Expr:
    """Along the view ray, exact for any camera since the backdrop keeps distances from the eye; at least 0."""
    return maximum(seen_behind(at).w - surface("camera_distance"), 0.0)


@lru_cache(maxsize=1)
def synthetic_backdrop() -> Texture:
    """A bed that slopes away, in bands of sand and slate, 3 to 9 metres off; rounded to half floats, row 0 low."""
    at = (np.arange(SIZE) + 0.5) / SIZE
    u, v = np.meshgrid(at, at)
    distance = 3.0 + 6.0 * v + 0.4 * np.sin(2 * math.pi * (u * 2 + v))
    band = 0.5 + 0.5 * np.sin(2 * math.pi * (v * 9 + 0.6 * np.sin(2 * math.pi * u)))
    sand, slate = np.array([0.42, 0.33, 0.20]), np.array([0.07, 0.10, 0.11])
    light = slate[:, None, None] + (sand - slate)[:, None, None] * band
    whole = np.concatenate((light, distance[None])).astype(np.float16).astype(np.float32)
    return Texture((np.ascontiguousarray(whole),))
