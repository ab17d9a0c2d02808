"""Changing colours, and laying one over another."""

import math
from collections.abc import Callable, Mapping
from typing import Annotated as A

from velvet_moth.core import primitives as p
from velvet_moth.core.catalogue import node
from velvet_moth.core.expr import Expr
from velvet_moth.core.ports import COLOUR_OUT, choice, colour, number

GROUP = "Colour"
Grey = A[Expr, colour(0.5, 0.5, 0.5)]


@node("Hue turn", GROUP, ("hue shift", "rotate hue"), ("change a colour without changing its brightness",))
def hue_turn(
    colour: Grey, turn: A[Expr, number(0.0, -1.0, 1.0, 0.005, words="In whole turns; 0.5 is the opposite hue.")]
) -> A[Expr, COLOUR_OUT]:
    """Turns a colour around the grey axis.

    Formula: c cos t + (k x c) sin t + k (k . c)(1 - cos t), k = (1, 1, 1)/sqrt(3), t = 2 pi turn
    Use: One texture in several hues; a variant's own tint.
    See: saturation
    """
    angle = turn * (2.0 * math.pi)
    cosine, along = p.cosine(angle), p.dot(colour, p.combine(1.0, 1.0, 1.0)) / 3.0
    across = (colour.zxy - colour.yzx) * (1.0 / math.sqrt(3.0))
    return colour * cosine + across * p.sine(angle) + along * (1.0 - cosine)


@node("Saturation", GROUP, ("vividness", "desaturate"), ("make a colour greyer", "make a colour stronger"))
def saturation(
    colour: Grey, amount: A[Expr, number(1.0, 0.0, 2.0, words="0 is grey, 1 unchanged, above 1 stronger.")]
) -> A[Expr, COLOUR_OUT]:
    """Moves a colour towards or away from its own grey.

    Formula: grey + (c - grey) * amount, grey = luminance of c
    Use: Calm a texture, or let a tint sing.
    See: hue_turn, contrast
    """
    return p.mix(p.splat(p.luminance(colour), 3), colour, amount)


@node("Contrast", GROUP, ("punch",), ("pull light and dark apart",))
def contrast(
    colour: Grey,
    amount: A[Expr, number(1.2, 0.0, 3.0, words="0 is flat, 1 unchanged.")],
    middle: A[Expr, number(0.18, words="The brightness that stays; 0.18 is middle grey in linear light.")],
) -> A[Expr, COLOUR_OUT]:
    """Pulls values away from a middle, or towards it.

    Formula: (c - middle) * amount + middle
    Use: Sharpen a mask or a texture; clamp where it must stay in 0..1.
    See: saturation, remap
    """
    return (colour - middle) * amount + middle


def _overlay(a: Expr, b: Expr) -> Expr:
    low, high = a * b * 2.0, 1.0 - (1.0 - a) * (1.0 - b) * 2.0
    return p.combine(*(p.select(p.less(a[i], 0.5), low[i], high[i]) for i in range(3)))


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

    Formula: base + (meet(base, top) - base) * amount; multiply b t, screen 1 - (1-b)(1-t), overlay either by base
    Use: Dirt by multiply, glints by screen, grain by overlay.
    See: mix, multiply
    """
    return p.mix(base, _MODES[mode](base, top), amount)
