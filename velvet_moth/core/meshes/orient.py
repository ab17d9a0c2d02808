"""Which axis of a file is up and what its unit is: as the format says, or guessed, with the reason."""

from dataclasses import dataclass
from typing import Literal, get_args

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.meshes.source import Floats, SourceMesh

Up = Literal["x", "y", "z"]
Unit = Literal["m", "cm", "mm", "in", "ft"]
UPS: tuple[Up, ...] = get_args(Up)
METRES: dict[Unit, float] = {"m": 1.0, "cm": 0.01, "mm": 0.001, "in": 0.0254, "ft": 0.3048}
UNIT_NAMES: dict[Unit, str] = {"m": "metres", "cm": "centimetres", "mm": "millimetres", "in": "inches", "ft": "feet"}

# Larger than this a thing is unlikely to be in metres, in metres.
_LARGE = 25.0
# An underside counts where so much of the whole area faces one way at the lowest place.
_UNDERSIDE = 0.04


@dataclass(frozen=True)
class Orientation:
    """``up``: the axis of the file that points up; ``unit``: its unit of length; and for people how they were found."""

    up: Up
    unit: Unit
    why_up: str
    why_unit: str


def turned(vectors: NDArray[np.float32], up: Up) -> Floats:
    """Vectors (n, 3) with the file's axis ``up`` turned to y; turned, so that nothing is mirrored."""
    x, y, z = (vectors[:, i] for i in range(3))
    columns = {"y": (x, y, z), "z": (x, z, -y), "x": (-y, x, z)}[up]
    return np.ascontiguousarray(np.stack(columns, axis=1), dtype=np.float32)


def guessed(mesh: SourceMesh, up: str, unit: str, format_name: str) -> Orientation:
    """The orientation of a mesh of a format that says ``up`` and ``unit``, or nothing ("")."""
    found_up, why_up = (next(u for u in UPS if u == up), f"{format_name} has Y up.") if up else _guessed_up(mesh)
    if unit:
        found_unit: Unit = next(u for u in METRES if u == unit)
        return Orientation(found_up, found_unit, why_up, f"{format_name} is in {UNIT_NAMES[found_unit]}.")
    size = float(np.ptp(mesh.positions, axis=0).max())
    if size <= _LARGE:
        return Orientation(found_up, "m", why_up, f"It measures {size:.3g}: taken as metres.")
    likely: Unit = "cm" if size <= 100 * _LARGE else "mm"
    return Orientation(
        found_up, likely, why_up, f"It measures {size:,.0f}: in metres that would be large, so {UNIT_NAMES[likely]}."
    )


def _guessed_up(mesh: SourceMesh) -> tuple[Up, str]:
    """By a flat underside: things that stand have one at their lowest place. Y where neither Y nor Z shows one."""
    corners = mesh.positions[mesh.triangles].astype(np.float64)
    across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    area = np.linalg.norm(across, axis=1)
    whole = area.sum()
    if not whole > 0:
        return "y", "Nothing in it says which axis is up: Y is taken."
    shares = {}
    for axis, name in ((1, "y"), (2, "z")):
        heights = corners[:, :, axis]
        low, high = heights.min(), heights.max()
        lies = heights.max(axis=1) <= low + 0.01 * (high - low)
        shares[name] = float(area[lies & (across[:, axis] < -0.9 * area)].sum() / whole) if high > low else 0.0
    if shares["z"] > max(_UNDERSIDE, 2 * shares["y"]):
        return "z", "Its flat underside faces along -Z: Z is taken as up."
    if shares["y"] > max(_UNDERSIDE, 2 * shares["z"]):
        return "y", "Its flat underside faces along -Y: Y is taken as up."
    return "y", "Nothing in it says which axis is up: Y is taken."
