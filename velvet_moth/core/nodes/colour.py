"""Changing colours, and laying one over another."""

import math
from collections.abc import Callable, Mapping
from typing import Annotated as A

from velvet_moth.core.catalogue.ports import COLOUR_OUT, colour, number
from velvet_moth.core.catalogue.registry import node
from velvet_moth.core.catalogue.settings import choice
from velvet_moth.core.language import primitives as p
from velvet_moth.core.language.expr import Expr

GROUP = "Colour"
Grey = A[Expr, colour(0.5, 0.5, 0.5)]


@node("Hue turn", GROUP, ("hue shift", "rotate hue"), ("change a colour without changing its brightness",))
def hue_turn(
    colour: Grey, turn: A[Expr, number(0.0, -1.0, 1.0, 0.005, words="In whole turns; 0.5 is the opposite hue.")]
) -> A[Expr, COLOUR_OUT]:
    """Turns a colour around the grey axis.

    Formula: c cos(t) + cross(k, c) sin(t) + k dot(k, c) (1 - cos(t)), c = colour, k = (1, 1, 1) / sqrt(3), t = 2 pi
    turn
    Use: One texture in several hues; a variant's own tint.
    See: saturation
    """
    angle = turn * (2.0 * math.pi)
    cosine, along = p.cosine(angle), p.dot(colour, p.combine(1.0, 1.0, 1.0)) / 3.0
    across = (colour.zxy - colour.yzx) * (1.0 / math.sqrt(3.0))
    turned = colour * cosine + across * p.sine(angle) + along * (1.0 - cosine)
    # Each component is a sum with the weights 1/3 + 2/3 cos(t - 120 degrees k), of which the positive reach 4/3.
    return p.assume(turned, -1.0 / 3.0, 4.0 / 3.0, (colour, 0.0, 1.0))


@node("Saturation", GROUP, ("vividness", "desaturate"), ("make a colour greyer", "make a colour stronger"))
def saturation(
    colour: Grey, amount: A[Expr, number(1.0, 0.0, 2.0, words="0 is grey, 1 unchanged, above 1 stronger.")]
) -> A[Expr, COLOUR_OUT]:
    """Moves a colour towards or away from its own grey.

    Formula: g + (colour - g) amount, g = luminance(colour)
    Use: Calm a texture, or let a tint sing.
    See: hue_turn, contrast
    """
    return p.mix(p.splat(p.luminance(colour), 3), colour, amount)


@node("Contrast", GROUP, ("punch", "washed out"), ("pull light and dark apart",))
def contrast(
    colour: Grey,
    amount: A[Expr, number(1.2, 0.0, 3.0, words="0 is flat, 1 unchanged.")],
    middle: A[Expr, number(0.18, words="The brightness that stays; 0.18 is middle grey in linear light.")],
) -> A[Expr, COLOUR_OUT]:
    """Pulls values away from a middle, or towards it.

    Formula: (colour - middle) amount + middle
    Use: Sharpen a mask or a texture; clamp where it must stay in 0..1.
    See: saturation, remap
    """
    return (colour - middle) * amount + middle


def _overlay(a: Expr, b: Expr) -> Expr:
    low, high = a * b * 2.0, 1.0 - (1.0 - a) * (1.0 - b) * 2.0
    return p.where_less(a, 0.5, low, high)


_MODES: Mapping[str, Callable[[Expr, Expr], Expr]] = {
    "multiply": lambda a, b: a * b,
    "screen": lambda a, b: 1.0 - (1.0 - a) * (1.0 - b),
    "overlay": _overlay,
    "darken": p.minimum,
    "lighten": p.maximum,
    "add": lambda a, b: a + b,
    "difference": lambda a, b: p.absolute(a - b),
}


@node("Lay over", GROUP, ("blend mode", "multiply", "screen", "overlay"), ("darken with a second colour",))
def lay_over(
    base: Grey,
    top: Grey,
    amount: A[Expr, number(1.0, words="0 shows the base alone.")],
    mode: A[str, choice(*_MODES, words="How the two meet.")],
) -> A[Expr, COLOUR_OUT]:
    """Lays one colour over another in one of seven ways.

    Formula: base + (m - base) amount with m by mode: base top; 1 - (1 - base)(1 - top); either of the two, twice as
    strong, by base (overlay); the least; the most; the sum; the difference
    Use: Dirt by multiply, glints by screen, grain by overlay.
    See: mix, multiply
    """
    return p.mix(base, _MODES[mode](base, top), amount)


@node(
    "Brightness",
    GROUP,
    ("exposure", "gain", "darken", "too dark", "too bright", "lighten"),
    ("make a colour lighter or darker",),
)
def brightness(
    colour: Grey, stops: A[Expr, number(0.0, -4.0, 4.0, 0.05, words="Doublings of the light; -1 is half as bright.")]
) -> A[Expr, COLOUR_OUT]:
    """Makes a colour lighter or darker in photographic stops.

    Formula: colour * 2 ^ stops
    Use: Darken a texture that is too bright; lift emissive.
    See: contrast, saturation, luminance
    """
    return colour * p.exponential(stops * math.log(2.0))


def _to_hsv(c: Expr) -> Expr:
    """Hue, saturation, value, each 0..1. Source: A. R. Smith, "Color Gamut Transform Pairs", 1978."""
    high = p.maximum(p.maximum(c.r, c.g), c.b)
    low = p.minimum(p.minimum(c.r, c.g), c.b)
    spread = p.maximum(high - low, 1e-6)
    red, green, blue = (c.g - c.b) / spread, (c.b - c.r) / spread + 2.0, (c.r - c.g) / spread + 4.0
    is_red = p.less(p.maximum(c.g, c.b), c.r)
    sector = p.select(is_red, red, p.select(p.less(c.b, c.g), green, blue))
    hue = p.select(p.less(high - low, 1e-6), 0.0, p.fract(sector * (1.0 / 6.0)))
    return p.combine(hue, p.saturate((high - low) / p.maximum(high, 1e-6)), high)


def _from_hsv(c: Expr) -> Expr:
    def ramp(shift: float) -> Expr:
        return p.saturate(p.absolute(p.fract(c.x + shift) * 6.0 - 3.0) - 1.0)

    pure = p.combine(ramp(0.0), ramp(2.0 / 3.0), ramp(1.0 / 3.0))
    return p.mix(p.combine(1.0, 1.0, 1.0), pure, p.saturate(c.y)) * c.z


_WAYS: Mapping[str, Callable[[Expr], Expr]] = {
    "linear to sRGB": p.srgb_encoded,
    "sRGB to linear": p.srgb_decoded,
    "RGB to HSV": _to_hsv,
    "HSV to RGB": _from_hsv,
}


@node(
    "Colour space",
    GROUP,
    ("gamma", "srgb", "hsv", "convert colour", "linear", "washed out"),
    ("mend a colour read the wrong way",),
)
def colour_space(colour: Grey, way: A[str, choice(*_WAYS, words="From which form to which.")]) -> A[Expr, COLOUR_OUT]:
    """A colour told in another way: as light, as display values, or as hue, saturation and value.

    Formula: IEC 61966-2-1 between linear and sRGB; A. R. Smith 1978 between RGB and HSV
    Use: Mend a texture read with the wrong role; pick by hue.
    See: hue_turn, brightness
    """
    return _WAYS[way](colour)
