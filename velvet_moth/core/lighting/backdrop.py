"""What lies behind a surface, as the stage tells it: a picture the size of the screen, of light and distances.

The stage draws its backdrop into it; swatches, which have no scene, and tests read the one made here.
"""

import math
from functools import lru_cache

import numpy as np

from velvet_moth.core.forms.view import BACKGROUND
from velvet_moth.core.language.expr import Expr, constant, sampler
from velvet_moth.core.language.inputs import surface
from velvet_moth.core.language.primitives import clamp, combine, cross, dot, length, less, maximum, sample
from velvet_moth.core.language.texture import Texture, srgb_to_linear
from velvet_moth.core.language.trace import emitted_function
from velvet_moth.core.lighting.stage_textures import stage_texture

BACKDROP = stage_texture(
    "backdrop", "what lies behind, linear light in RGB and metres from the eye in alpha, as large as the screen"
)
FAR = 1000.0
SIZE = 128


def seen_behind(at: Expr) -> Expr:
    """Linear light (rgb) and distance from the eye (a, metres) of the backdrop at a place of the screen, 0..1."""
    return sample(sampler(BACKDROP, ("clamp", "clamp"), 0.0, FAR), at, constant(0.0))


@emitted_function("Where a place in the world lies on the screen")
def screen_place(place: Expr) -> Expr:
    """0..1 from the left and from the bottom; places beside and behind the eye are pulled to the edge."""
    right, up, lens = surface("camera_right"), surface("camera_up"), surface("lens")
    away = place - (surface("moved_position") + surface("view_direction") * surface("camera_distance"))
    forward = maximum(dot(away, cross(up, right)), 0.01)
    at = combine(dot(away, right) / (forward * lens.x), dot(away, up) / (forward * lens.y))
    return clamp(at * 0.5 + 0.5, 0.0, 1.0)


@emitted_function("Metres to what lies behind")
def depth_behind(at: Expr) -> Expr:
    """Along the view ray, exact for any camera since the backdrop keeps distances from the eye; at least 0."""
    return maximum(seen_behind(at).w - surface("camera_distance"), 0.0)


def is_behind() -> Expr:
    """Whether anything lies behind at the pixel itself."""
    return less(seen_behind(surface("screen_position")).w, FAR)


def forward_behind() -> Expr:
    """Metres straight ahead, not along the ray, to what lies behind at the pixel itself."""
    ray = (surface("screen_position") * 2.0 - 1.0) * surface("lens")
    return seen_behind(surface("screen_position")).w / length(combine(ray, 1.0))


def even(red: float, green: float, blue: float, alpha: float) -> Texture:
    """A picture that is the same everywhere."""
    return Texture((np.array((red, green, blue, alpha), dtype=np.float32).reshape(4, 1, 1),))


def grey_light(exposure: float) -> tuple[float, float, float]:
    """The light that the tone curve and the exposure show as the stage's own grey.

    The inverse of ``lighting.shown.tone_curve``, a quadratic in the light.
    """
    shown = srgb_to_linear(np.array(BACKGROUND, dtype=np.float32) / np.float32(255)).astype(np.float64)
    a, b, c = 2.43 * shown - 2.51, 0.59 * shown - 0.03, 0.14 * shown
    found = (-b - np.sqrt(b * b - 4 * a * c)) / (2 * a) / exposure
    return float(found[0]), float(found[1]), float(found[2])


def nothing_behind(exposure: float) -> Texture:
    """The stage's grey, as far as one can see."""
    return even(*grey_light(exposure), FAR)


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
