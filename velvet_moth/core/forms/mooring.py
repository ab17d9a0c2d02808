"""The test form: a mooring head with flats, bevels, a groove, a dome and a scooped cavity."""

import math

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.forms.mesh import Mesh, declared_form, grid, joined

# Pieces of the outline from the foot to the bottom of the scoop. Each is (radius, height, squareness)
# at its ends; "arc" pieces bend by a quarter turn. Pieces meet in hard edges.
_FLAT, _ROUND = 1.0, 0.0
_OUTLINE = (
    ((0.0, -0.95, _FLAT), (0.80, -0.95, _FLAT), "line"),
    ((0.80, -0.95, _FLAT), (0.88, -0.87, _FLAT), "line"),
    ((0.88, -0.87, _FLAT), (0.88, -0.28, _FLAT), "line"),
    ((0.88, -0.28, _FLAT), (0.80, -0.20, 0.8), "line"),
    ((0.80, -0.20, 0.8), (0.62, -0.06, 0.3), "in"),
    ((0.62, -0.06, 0.3), (0.84, 0.12, _ROUND), "in"),
    ((0.84, 0.12, _ROUND), (0.48, 0.66, _ROUND), "out"),
    ((0.48, 0.66, _ROUND), (0.42, 0.66, _ROUND), "line"),
    ((0.42, 0.66, _ROUND), (0.0, 0.34, _ROUND), "bowl"),
)

# Sized to fill the stage's first view, its middle at the origin.
_SCALE, _LIFT = 0.92, 0.13


def _piece(start: tuple[float, float, float], end: tuple[float, float, float], bend: str) -> NDArray[np.float64]:
    """Radius, height, squareness along one piece, (steps, 3)."""
    t = np.linspace(0, 1, 5 if bend == "line" else 25)
    sine, cosine = np.sin(t * math.pi / 2), 1 - np.cos(t * math.pi / 2)
    across, up = {"line": (t, t), "in": (cosine, sine), "out": (cosine, sine), "bowl": (cosine, sine)}[bend]
    if bend == "in" and end[0] < start[0]:
        across, up = sine, cosine
    a, b = np.array(start), np.array(end)
    mixed = a + (b - a) * t[:, None]
    return np.stack((a[0] + (b[0] - a[0]) * across, a[1] + (b[1] - a[1]) * up, mixed[:, 2]), axis=-1)


def _section(turn: NDArray[np.float64], squareness: NDArray[np.float64]) -> NDArray[np.float64]:
    """Distance to a rounded square's edge at an angle: 1 at the flats, up to 1.25 at the corners."""
    power = 2 + 6 * squareness
    return np.asarray((np.abs(np.cos(turn)) ** power + np.abs(np.sin(turn)) ** power) ** (-1 / power))


@declared_form("Mooring head")
def mooring() -> Mesh:
    """About 1.7 metres across and 1.5 high; u around twice, v along the outline."""
    columns = 193
    u = np.linspace(0, 1, columns)
    turn = (u * 2 + 1) * math.pi  # the seam lies at the back
    parts, travelled = [], 0.0
    for start, end, bend in _OUTLINE:
        outline = _piece(start, end, bend) * (_SCALE, _SCALE, 1.0) + (0.0, _LIFT, 0.0)
        steps = np.linalg.norm(np.diff(outline[:, :2], axis=0), axis=1)
        lengths = travelled + np.concatenate(([0.0], np.cumsum(steps)))
        travelled = float(lengths[-1])
        radius = outline[:, :1] * _section(turn[None, :], outline[:, 2:])
        positions = np.stack(
            (radius * np.sin(turn), np.broadcast_to(outline[:, 1:2], radius.shape), radius * np.cos(turn)), axis=-1
        )
        uvs = np.stack(
            (np.broadcast_to(u * 2, radius.shape), np.broadcast_to(lengths[:, None] / 2.4, radius.shape)), axis=-1
        )
        parts.append(grid(positions, uvs, closed=True))
    return joined(parts)
