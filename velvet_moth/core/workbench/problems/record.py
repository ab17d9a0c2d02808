"""What a problem is, and how ranges are put into words."""

import math
from dataclasses import dataclass
from typing import Literal

from velvet_moth.core.editing.mends import Mend
from velvet_moth.core.language.expr import Domain, Expr
from velvet_moth.core.language.interval import Interval

Severity = Literal["error", "warning", "may", "note"]


@dataclass(frozen=True)
class Problem:
    """``severity`` is ``error`` (the wire is ignored), ``warning`` (it happens), ``may`` (it can happen) or ``note``.

    ``suspect`` and ``domain`` let samples confirm a range warning.
    """

    code: str
    severity: Severity
    node: str
    input: str
    what: str
    where: str
    mends: tuple[Mend, ...] = ()
    suspect: Expr | None = None
    domain: Domain | None = None


# From here on fractions say nothing.
_WHOLE = 1e4


def end(value: float) -> str:
    """An end of a range for people."""
    if math.isinf(value):
        return "−∞" if value < 0 else "∞"
    return (f"{value:.2f}" if abs(value) < _WHOLE else f"{value:,.0f}").replace("-", "−")


def span(interval: Interval) -> str:
    """A range for people."""
    return end(interval.low) if interval.low == interval.high else f"{end(interval.low)} … {end(interval.high)}"


def runs(interval: Interval) -> str:
    """A range as the end of a sentence."""
    return f"is {end(interval.low)}" if interval.low == interval.high else f"runs over {span(interval)}"


def severity_of(interval: Interval) -> Severity:
    """A single value is a fact; a range only says what may be, until samples confirm it."""
    return "warning" if interval.low == interval.high else "may"
