"""Small curves with units: what each part of a rule makes of a measured number."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Annotated

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.base.points import Axis, check_points
from velvet_moth.core.base.records import OneOf, Text, Two


@dataclass(frozen=True)
class Between:
    """How a curve goes from one point to the next: its name, and the share of the rise by the share of the way."""

    name: str
    words: str
    share: Callable[[float], float]


BETWEEN: Mapping[str, Between] = {
    "straight": Between("Straight", "in straight lines", lambda x: x),
    "smooth": Between("Smooth", "level at each point", lambda x: x * x * (3.0 - 2.0 * x)),
    "steps": Between("Steps", "keeps its height until the next point", lambda x: float(x >= 1.0)),
}
BetweenKey = Annotated[Text, OneOf({key: way.name for key, way in BETWEEN.items()})]


@dataclass(frozen=True)
class RuleCurve:
    """Points (x, y) in the units of a part of a rule, x rising; before the first and after the last the ends hold."""

    points: tuple[Two, ...]
    between: BetweenKey = "straight"

    def at(self, x: float) -> float:
        """The height at a place."""
        before, *rest = self.points
        if x <= before[0]:
            return before[1]
        for after in rest:
            if x < after[0]:
                share = BETWEEN[self.between].share((x - before[0]) / (after[0] - before[0]))
                return before[1] + (after[1] - before[1]) * share
            before = after
        return before[1]


def checked_curve(curve: RuleCurve, across: Axis, up: Axis, where: str) -> RuleCurve:
    """The curve; OperationRefused where its points do not fit its axes."""
    if curve.between not in BETWEEN:
        raise OperationRefused(
            f"A curve cannot go {curve.between[:40]!r}.", where, f"Choose one of {', '.join(BETWEEN)}."
        )
    check_points(curve.points, across, up, where)
    return curve
