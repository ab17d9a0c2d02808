"""Moving and limiting ranges, mixing, thresholds."""

import math
from collections.abc import Callable, Mapping
from typing import Annotated as A

from velvet_moth.core.catalogue.ports import (
    BOOL_OUT,
    FLEXIBLE_OUT,
    NUMBER_OUT,
    Output,
    flexible,
    mask,
    number,
    toggle,
)
from velvet_moth.core.catalogue.registry import node
from velvet_moth.core.catalogue.settings import choice
from velvet_moth.core.language import primitives as p
from velvet_moth.core.language.expr import Expr
from velvet_moth.core.language.types import P_NUMBER

GROUP = "Ranges and mixing"
Any = A[Expr, flexible(0.0, -1.0, 1.0)]
Result = A[Expr, FLEXIBLE_OUT]


@node("Mix", GROUP, ("blend", "lerp", "interpolate", "crossfade"), ("fade between two colours by a mask",))
def mix(
    a: A[Expr, flexible(0.0)],
    b: A[Expr, flexible(1.0)],
    amount: A[Expr, mask(0.5, words="0 gives A, 1 gives B.", beyond="the mix goes past A or B there")],
) -> Result:
    """Fades from A to B.

    Formula: A + (B - A) amount
    Use: Two colours by a mask, two roughnesses by dirt.
    See: mix_surfaces, smooth_step
    """
    return p.mix(a, b, amount)


@node("Clamp", GROUP, ("limit", "saturate"), ("keep a value in range",))
def clamp(value: Any, low: A[Expr, number(0.0, -1, 1)], high: A[Expr, number(1.0, -1, 1)]) -> Result:
    """Keeps a value between two limits.

    Formula: min(max(value, low), high)
    Use: Before Power, before a channel that must stay in 0..1.
    See: remap, minimum, maximum
    """
    return p.clamp(value, low, high)


@node("Remap", GROUP, ("range", "map range", "rescale", "levels"), ("stretch a mask to full range",))
def remap(
    value: Any,
    from_low: A[Expr, number(0.0, -1, 1)],
    from_high: A[Expr, number(1.0, -1, 1)],
    to_low: A[Expr, number(0.0, -1, 1)],
    to_high: A[Expr, number(1.0, -1, 1)],
    ends: A[str, choice("clamped", "open", words="Whether values beyond the range stop at its ends.")],
) -> Result:
    """Moves a value from one range to another.

    Formula: clamped: to low + (to high - to low) clamp(t, 0, 1); open: to low + (to high - to low) t, t = (value -
    from low) / (from high - from low)
    Use: Stretch a weak mask to full black and white; turn -1..1 into 0..1.
    See: clamp, smooth_step
    """
    t = (value - from_low) / (from_high - from_low)
    return p.mix(to_low, to_high, p.saturate(t) if ends == "clamped" else t)


@node("Smooth step", GROUP, ("smoothstep", "soft threshold", "ease"), ("make a soft edge",))
def smooth_step(value: Any, low: A[Expr, number(0.0, -1, 1)], high: A[Expr, number(1.0, -1, 1)]) -> Result:
    """0 below the low end, 1 above the high end, a soft bend between.

    Formula: t t (3 - 2 t), t = clamp((value - low) / (high - low), 0, 1)
    Use: Soft edges of masks.
    See: step, remap
    """
    return p.smoothstep(low, high, value)


@node("Step", GROUP, ("threshold", "hard edge", "cutoff"), ("make a hard edge",))
def step(
    value: A[Expr, number(0.5, words="What is compared.")], edge: A[Expr, number(0.5, words="Where 1 begins.")]
) -> A[Expr, NUMBER_OUT]:
    """0 below the edge, 1 from it on.

    Formula: value < edge ? 0 : 1
    Use: Hard masks; Smooth step where the edge must not flicker.
    See: smooth_step, choose
    """
    return p.step(edge, value)


@node("Choose", GROUP, ("switch", "if", "toggle", "branch"), ("switch a part on or off",))
def choose(
    condition: A[Expr, toggle(True, "Which of the two passes.")],
    yes: A[Expr, flexible(1.0)],
    no: A[Expr, flexible(0.0)],
) -> Result:
    """One of two values by a yes or no.

    Formula: condition ? yes : no
    Use: Switch a part of a shader; unwired, the switch is settled at build and costs nothing.
    See: compare, mix
    """
    return p.select(condition, yes, no)


_COMPARISONS: Mapping[str, Callable[[Expr, Expr, Expr], Expr]] = {
    "below": lambda a, b, _: p.less(a, b),
    "above": lambda a, b, _: p.less(b, a),
    "near": lambda a, b, margin: p.logical_not(p.less(margin, p.absolute(a - b))),
}


@node("Compare", GROUP, ("less than", "greater than", "equals"), ("ask whether a value is below another",))
def compare(
    a: A[Expr, number(0.5)],
    b: A[Expr, number(0.5)],
    margin: A[Expr, number(0.01, words="How far apart still counts as near.")],
    asks: A[str, choice(*_COMPARISONS, words="What is asked of A.")],
) -> A[Expr, BOOL_OUT]:
    """Yes where A lies below B, above it, or near it.

    Formula: below: A < B; above: A > B; near: |A - B| <= margin
    Use: The condition of Choose.
    See: choose, step, both
    """
    return _COMPARISONS[asks](a, b, margin)


@node("Both", GROUP, ("and",), ("ask whether two things hold at once",))
def both(a: A[Expr, toggle(True)], b: A[Expr, toggle(True)]) -> A[Expr, BOOL_OUT]:
    """Yes where both answers are yes.

    Formula: A and B
    Use: A condition made of two.
    See: either, opposite, choose
    """
    return p.logical_and(a, b)


@node("Either", GROUP, ("or",), ("ask whether one of two things holds",))
def either(a: A[Expr, toggle(False)], b: A[Expr, toggle(False)]) -> A[Expr, BOOL_OUT]:
    """Yes where at least one answer is yes.

    Formula: A or B
    Use: A condition that two ways can meet.
    See: both, opposite, choose
    """
    return p.logical_or(a, b)


@node("Opposite", GROUP, ("not", "negate a toggle"), ("turn yes into no",))
def opposite(answer: A[Expr, toggle(False)]) -> A[Expr, BOOL_OUT]:
    """No where the answer is yes, and yes where it is no.

    Formula: not A
    Use: Switch one part off where another is on.
    See: both, either, choose
    """
    return p.logical_not(answer)


@node("Bias", GROUP, ("gamma", "bend", "midpoint"), ("brighten a mask without moving its ends",))
def bias(
    value: A[Expr, number(0.5, words="0..1.")],
    middle: A[Expr, number(0.5, 0.01, 0.99, words="Where a half goes: above 0.5 brightens.")],
) -> A[Expr, NUMBER_OUT]:
    """Bends a 0..1 value so that a half becomes the middle you set; the ends stay.

    Formula: t / ((1 / m - 2)(1 - t) + 1), t = clamp(value, 0, 1), m = clamp(middle, 0.01, 0.99). C. Schlick, "Fast
    Alternatives to Perlin's Bias and Gain", 1994
    Use: Tune a mask's balance without touching black and white.
    See: power, smooth_step
    """
    t, m = p.saturate(value), p.clamp(middle, 0.01, 0.99)
    return p.assume(t / ((1.0 / m - 2.0) * (1.0 - t) + 1.0), 0.0, 1.0)


@node("Gain", GROUP, ("s-curve", "contrast of a mask"), ("pull a mask apart at its middle",))
def gain(
    value: A[Expr, number(0.5, words="0..1.")],
    sharpness: A[Expr, number(0.7, 0.01, 0.99, words="Above 0.5 steepens the middle, below flattens it.")],
) -> A[Expr, NUMBER_OUT]:
    """Steepens or flattens a 0..1 value around a half; the ends and the middle stay.

    Formula: t < 1/2 ? a / (k (1 - a) + 1) / 2 : 1 - c / (k (1 - c) + 1) / 2, a = 2 t, c = 2 - 2 t, k = 1 / m - 2, m
    = 1 - clamp(sharpness, 0.01, 0.99), t = clamp(value, 0, 1). C. Schlick, 1994 (see Bias)
    Use: Sharpen a mask without clipping it.
    See: bias, smooth_step, levels
    """
    t, m = p.saturate(value), 1.0 - p.clamp(sharpness, 0.01, 0.99)
    slope = 1.0 / m - 2.0
    low = t * 2.0 / (slope * (1.0 - t * 2.0) + 1.0) * 0.5
    other = 2.0 - t * 2.0
    high = 1.0 - other / (slope * (1.0 - other) + 1.0) * 0.5
    return p.assume(p.select(p.less(t, 0.5), low, high), 0.0, 1.0)


@node(
    "Levels",
    GROUP,
    ("black point", "white point", "gamma", "washed out", "banding"),
    ("set black, white and middle of a mask",),
)
def levels(
    value: Any,
    black: A[Expr, number(0.0, words="What becomes 0.")],
    white: A[Expr, number(1.0, words="What becomes 1.")],
    middle: A[Expr, number(1.0, 0.1, 4.0, words="Above 1 brightens the middle.")],
) -> Result:
    """Sets what is black, what is white, and how bright the middle is.

    Formula: max(clamp((value - black) / (white - black), 0, 1), 1.1755e-38) ^ (1 / max(middle, 0.01))
    Use: Make a photographed mask usable.
    See: remap, bias, curve
    """
    t = p.saturate((value - black) / (white - black))
    return p.power(t, 1.0 / p.maximum(middle, 0.01))


Height = A[Expr, number(0.0, words="0..1, such as a noise.")]
Strength = A[
    Expr,
    number(0.5, 0.0, 2.0, words="Metres, or any unit you like; turning it up leaves the others' balance."),
]


@node("Sum of heights", GROUP, ("add noises", "layered noise", "combine heights"), ("add several noises up",))
def sum_of_heights(
    first: Height,
    first_strength: Strength,
    second: Height,
    second_strength: Strength,
    third: Height,
    third_strength: Strength,
) -> tuple[A[Expr, Output(P_NUMBER, "Height")], A[Expr, Output(P_NUMBER, "Share")]]:
    """Adds heights by their strengths: Height runs from 0 to the sum of the strengths, Share from 0 to 1.

    Formula: Height = clamp(first, 0, 1) first strength + clamp(second, 0, 1) second strength + clamp(third, 0, 1)
    third strength; Share = clamp(height / max(first strength + second strength + third strength, 0.00001), 0, 1)
    Use: Relief from several noises: turning one up never changes how the others stand to each other.
    See: fractal_noise, remap, along_normal
    """
    total = p.saturate(first) * first_strength + p.saturate(second) * second_strength
    total = total + p.saturate(third) * third_strength
    whole = first_strength + second_strength + third_strength
    return total, p.saturate(total / p.maximum(whole, 1e-5))


_WAVES: Mapping[str, Callable[[Expr], Expr]] = {
    "sine": lambda t: 0.5 - 0.5 * p.cosine(t * (2.0 * math.pi)),
    "triangle": lambda t: 1.0 - p.absolute(t * 2.0 - 1.0),
    "saw": lambda t: t,
    "pulse": lambda t: p.select(p.less(t, 0.5), 1.0, 0.0),
}


@node(
    "Wave",
    GROUP,
    ("oscillator", "triangle", "saw", "square", "pulse", "flicker", "blink"),
    ("make it come and go", "make stripes"),
)
def wave(
    value: A[Expr, number(0.0, 0.0, 10.0)],
    frequency: A[Expr, number(1.0, 0.0, 16.0, 0.05, words="Waves for each unit of the value.")],
    shape: A[str, choice(*_WAVES, words="The form of one wave.")],
) -> A[Expr, NUMBER_OUT]:
    """A repeating wave between 0 and 1.

    Formula: sine: (1 - cos(2 pi t)) / 2; triangle: 1 - |2 t - 1|; saw: t; pulse: t < 1/2 ? 1 : 0, t = fract(value
    frequency)
    Use: With Time for a blinking lantern, with UV for stripes.
    See: sine, fract
    """
    return p.assume(_WAVES[shape](p.fract(value * frequency)), 0.0, 1.0)
