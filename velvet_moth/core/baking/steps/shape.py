"""What the shape itself tells: how it bends, how high, where it faces, how steep, how far from its ends."""

from typing import Annotated as A

import numpy as np

from velvet_moth.core.baking.curvature import curvature as curvature_of
from velvet_moth.core.baking.nearest import distance_to
from velvet_moth.core.baking.skin import Values
from velvet_moth.core.baking.step import OnMesh, in_range, step
from velvet_moth.core.catalogue.settings import choice, number, part
from velvet_moth.core.forms.mesh import Floats

GROUP = "Shape"
AXES = ("x", "y", "z")
Metres = A[float, number(0, 100, "the distance that is 1; 0 for the largest of the mesh", "m")]


@step("Curvature", GROUP)
def curvature(
    on: OnMesh,
    radius: A[float, number(0, 2, "over how much surface it is seen; 0 for the vertex itself", "m")] = 0.0,
    shows: A[str, choice("both", "ridges", "hollows", words="both: 0.5 is flat, ridges above, hollows below")] = "both",
    one_is: A[float, number(0, 10000, "the curvature that is full; 0 for nearly the largest of the mesh", "1/m")] = 0.0,
) -> Floats:
    """How the surface bends: ridges wear, hollows gather dirt. 1/metres of the mean curvature, a ball of radius r has 1/r."""
    bends = on.skin.at_vertices(curvature_of(on.skin, radius))
    full = one_is or float(np.quantile(np.abs(bends), 0.98)) or 1.0
    if shows == "both":
        return in_range(bends, -full, full)
    return in_range(bends if shows == "ridges" else -bends, 0.0, full)


@step("Height", GROUP)
def height(
    on: OnMesh,
    axis: A[str, choice(*AXES, words="along which axis")] = "y",
    of: A[str, choice("mesh", "each island", words="from the lowest to the highest of what")] = "mesh",
) -> Floats:
    """How high in the bounds: 0 at the lowest place, 1 at the highest."""
    along = on.mesh.positions[:, AXES.index(axis)]
    if of == "mesh":
        return in_range(along, float(along.min()), float(along.max()))
    return over_islands(on, along.astype(np.float64))


@step("Direction", GROUP)
def direction(
    on: OnMesh,
    turn: A[float, number(-180, 180, "where from, seen from above: 0 from +z, 90 from +x", "°")] = 0.0,
    rise: A[float, number(-90, 90, "how high it comes from: 90 from above", "°")] = 90.0,
    shows: A[str, choice("all round", "facing only", words="all round: 0.5 is sideways")] = "facing only",
) -> Floats:
    """How far the surface faces a direction: snow from above, moss from the north, weather from the sea."""
    a, e = np.radians(turn), np.radians(rise)
    to = np.array((np.sin(a) * np.cos(e), np.sin(e), np.cos(a) * np.cos(e)))
    facing = on.mesh.normals.astype(np.float64) @ to
    return in_range(facing, -1.0 if shows == "all round" else 0.0, 1.0)


@step("Slope", GROUP)
def slope(on: OnMesh) -> Floats:
    """How steep the surface stands: 0 level, facing up or down; 1 upright."""
    up = np.clip(np.abs(on.mesh.normals[:, 1].astype(np.float64)), 0.0, 1.0)
    return np.asarray(np.arccos(up) / (np.pi / 2), dtype=np.float32)


@step("Distance to open edges", GROUP)
def edge_distance(on: OnMesh, one_is: Metres = 0.0) -> Floats:
    """How far along the surface to where it ends: 0 at open edges. 1 all over where the mesh is closed."""
    found = on.skin.at_vertices(np.minimum(on.skin.distances(on.skin.rim), 1e6))
    return _full(found, one_is)


@step("Distance to a part", GROUP, wrong=lambda values: "" if values["to"] else "Choose the part to measure to.")
def part_distance(on: OnMesh, to: A[str, part("the part that is measured to")] = "", one_is: Metres = 0.0) -> Floats:
    """How far in space to the nearest place of another part: 0 where they touch. For rust below straps, dirt beside posts."""
    return _full(distance_to(on.mesh.positions, on.mesh.positions, on.mesh.triangles[on.part(to)]), one_is)


def _full(found: Floats, one_is: float) -> Floats:
    reached = found[found < 1e6]
    return in_range(found, 0.0, one_is or float(np.max(reached, initial=0.0)) or 1.0)


def over_islands(on: OnMesh, values: Values) -> Floats:
    """Values at the vertices, (n,), as 0 to 1 from the least to the most of each island; what is endless is 0."""
    island = on.skin.island[on.skin.place_of]
    count = int(island.max(initial=0)) + 1
    reached = np.isfinite(values)
    low, high = np.full(count, np.inf), np.full(count, -np.inf)
    np.minimum.at(low, island[reached], values[reached])
    np.maximum.at(high, island[reached], values[reached])
    span = np.maximum(np.where(np.isfinite(low), high - low, 0.0), 1e-12)[island]
    above = np.where(reached, values, 0.0) - np.where(np.isfinite(low), low, 0.0)[island]
    return np.where(reached, np.clip(above / span, 0.0, 1.0), 0.0).astype(np.float32)
