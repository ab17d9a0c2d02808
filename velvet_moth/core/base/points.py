"""Points of small curves that people set by hand, checked against the axes they stand on."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from velvet_moth.core.base.errors import OperationRefused

MOST_POINTS = 8


@dataclass(frozen=True)
class Axis:
    """What the numbers along one side of a curve are: a name, a unit, and the ends they may have."""

    name: str
    unit: str
    low: float
    high: float


def check_points(points: Sequence[tuple[float, float]], across: Axis, up: Axis, where: str, least: int = 1) -> None:
    """Refuses (OperationRefused) points (x, y) that are too few or too many, out of order, or beyond the ends of an axis."""
    if not least <= len(points) <= MOST_POINTS:
        raise OperationRefused(f"A curve has {least} to {MOST_POINTS} points.", where, "Add or remove points.")
    places = [x for x, _ in points]
    if any(after - before < 1e-6 for before, after in pairwise(places)):
        raise OperationRefused("Two points of a curve are at the same place, or out of order.", where, "Move one.")
    for axis, numbers in ((across, places), (up, [y for _, y in points])):
        if any(not axis.low <= number <= axis.high for number in numbers):
            unit = f" {axis.unit}" if axis.unit else ""
            raise OperationRefused(
                f"{axis.name} is {axis.low:g} to {axis.high:g}{unit}.", where, "Move the point, or type another number."
            )
