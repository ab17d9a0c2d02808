"""Closed intervals of numbers, the values of range analysis. A vector's interval is the hull of its components."""

import math
from collections.abc import Callable, Iterable
from dataclasses import dataclass

# Of 32 bits.
LARGEST_FLOAT = 3.4028234e38


@dataclass(frozen=True)
class Interval:
    """All numbers from ``low`` to ``high``, both included; either may be infinite."""

    low: float
    high: float

    def hull(self, other: "Interval") -> "Interval":
        """The smallest range that holds both."""
        return Interval(min(self.low, other.low), max(self.high, other.high))

    def within(self, low: float, high: float, slack: float = 1e-6) -> bool:
        """Whether it is inside low..high, give or take ``slack``."""
        return self.low >= low - slack and self.high <= high + slack

    def meet(self, low: float, high: float) -> "Interval":
        """This interval clamped to low..high."""
        return Interval(min(max(self.low, low), high), max(min(self.high, high), low))

    @property
    def single(self) -> "Interval":
        """The same where a 32-bit float can hold its ends; beyond, they are infinite."""
        if self.low >= -LARGEST_FLOAT and self.high <= LARGEST_FLOAT:
            return self
        low = -math.inf if self.low < -LARGEST_FLOAT else self.low
        return Interval(low, math.inf if self.high > LARGEST_FLOAT else self.high)


EVERYTHING = Interval(-math.inf, math.inf)
UNIT = Interval(0.0, 1.0)
SIGNED_UNIT = Interval(-1.0, 1.0)


def point(value: float) -> Interval:
    """The range of one value."""
    return Interval(value, value)


def spanning(values: Iterable[float]) -> Interval:
    """The smallest interval that holds all values; NaN (from inf - inf, 0 * inf) widens to everything."""
    found = list(values)
    if not found or any(math.isnan(v) for v in found):
        return EVERYTHING
    return Interval(min(found), max(found))


def monotone(function: Callable[[float], float], x: Interval) -> Interval:
    """The range of a rising or falling function over x."""
    return spanning((function(x.low), function(x.high)))


def product(a: Interval, b: Interval) -> Interval:
    """The range of a product of two values."""
    # 0 * inf is 0 here: the infinite end stands for "arbitrarily large", never for a real infinity.
    return spanning(0.0 if x == 0.0 or y == 0.0 else x * y for x in (a.low, a.high) for y in (b.low, b.high))


def total(a: Interval, b: Interval) -> Interval:
    """The range of a sum of two values."""
    return Interval(a.low + b.low, a.high + b.high)


def negated(a: Interval) -> Interval:
    """The range of a value with its sign changed."""
    return Interval(-a.high, -a.low)


def inverse(a: Interval) -> Interval:
    """1/a, where the guarded 1/0 is 0."""
    if a.low > 0 or a.high < 0:
        return Interval(1 / a.high, 1 / a.low)
    if a.low == 0 and a.high == 0:
        return point(0.0)
    if a.low == 0:
        return Interval(0.0, math.inf)
    if a.high == 0:
        return Interval(-math.inf, 0.0)
    return EVERYTHING
