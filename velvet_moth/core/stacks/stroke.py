"""A stroke: what a hand did with a brush on a surface, kept in space, so that it can be laid onto any mesh."""

import base64
import binascii
import hashlib
from dataclasses import dataclass, fields
from functools import cached_property
from typing import Annotated, Literal, get_args

import numpy as np
import orjson
from annotated_types import Ge, Le, MaxLen, MinLen
from numpy.typing import NDArray
from pydantic import AfterValidator
from pydantic_core import PydanticCustomError

from velvet_moth.core.base.records import LARGEST_NUMBER, Number
from velvet_moth.core.document.values import RefersTo

# The numbers of a point: place (3) and normal (3) of the surface, radius, strength and pressure of the brush.
WIDTH = 9
MOST_POINTS = 4000
LARGEST_RADIUS = 100.0
# What a painted step has; channels of the mesh are made of any of them.
PAINTED = ("red", "green", "blue", "alpha")

Mode = Literal["set", "add", "take away", "soften", "sharpen", "erase", "invert", "comb"]
Side = Literal["this side", "through"]
Extent = Literal["", "part", "island"]
Fill = Literal["", "mesh", "part", "island"]
Mirror = Literal["", "x", "y", "z"]
Painted = Literal["red", "green", "blue", "alpha"]
assert get_args(Painted) == PAINTED


def points_of(text: str) -> NDArray[np.float32]:
    """The points of a stroke, (n, 9), of their text: base64 of float32, the least byte first."""
    return np.frombuffer(base64.b64decode(text, validate=True), dtype="<f4").reshape(-1, WIDTH)


def text_of(points: NDArray[np.float32]) -> str:
    """The text of points (n, 9), which ``points_of`` reads."""
    return base64.b64encode(np.ascontiguousarray(points, dtype="<f4").tobytes()).decode()


def _check_points(text: str) -> str:
    try:
        points = points_of(text)
    except (ValueError, binascii.Error):
        raise PydanticCustomError("broken_points", f"The points are not {WIDTH} numbers each.") from None
    if not 1 <= len(points) <= MOST_POINTS:
        raise PydanticCustomError("many_points", f"A stroke has 1 to {MOST_POINTS} points.")
    if not np.isfinite(points).all() or np.abs(points).max() > LARGEST_NUMBER:
        raise PydanticCustomError("endless_points", "A point of the stroke is no place.")
    if not ((points[:, 6] > 0) & (points[:, 6] <= LARGEST_RADIUS)).all():
        raise PydanticCustomError("wide_points", f"A brush has a radius of at most {LARGEST_RADIUS:g} m, and of some.")
    if not ((points[:, 7:] >= 0) & (points[:, 7:] <= 1)).all():
        raise PydanticCustomError("strong_points", "Strength and pressure are 0 to 1.")
    return text


@dataclass(frozen=True)
class Stroke:
    """A stroke with its brush. ``points`` is text that ``points_of`` reads; neighbours are joined by straight lines.

    ``touches`` are the painted layers that ``value`` (0..1) goes to; of directions it is the speed, and there is one layer. ``softness`` is the share of the radius over which the
    brush fades. ``side``: only where the surface faces as it does under the brush, or through to the other side. ``held`` to
    the part or island where it begins; ``fill`` covers a whole one, or the mesh. ``mirror`` lays it on the other side of
    that axis too.
    """

    points: Annotated[str, MaxLen(MOST_POINTS * WIDTH * 6), AfterValidator(_check_points), RefersTo("points")]
    touches: Annotated[tuple[Painted, ...], MinLen(1), MaxLen(len(PAINTED))]
    mode: Mode = "set"
    value: Annotated[Number, Ge(0), Le(1)] = 1.0
    softness: Annotated[Number, Ge(0), Le(1)] = 0.5
    side: Side = "this side"
    held: Extent = ""
    fill: Fill = ""
    mirror: Mirror = ""

    @cached_property
    def rows(self) -> NDArray[np.float32]:
        """Its points, (n, 9)."""
        return points_of(self.points)

    @cached_property
    def packed(self) -> bytes:
        """All of it, the same bytes for the same stroke."""
        return orjson.dumps({one.name: getattr(self, one.name) for one in fields(self)})

    @cached_property
    def mark(self) -> str:
        """What tells it apart from every other: the SHA-256 of its bytes."""
        return hashlib.sha256(self.packed).hexdigest()

    def __hash__(self) -> int:
        return hash(self.mark)

    def __repr__(self) -> str:
        return f"Stroke({self.mark[:16]})"
