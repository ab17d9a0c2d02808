"""Directions by rule: along the UVs, around a place or a part, downhill, swirling, and between those that are given."""

from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Annotated as A

import numpy as np

from velvet_moth.core.baking.directions import (
    Vectors,
    along_surface,
    flow_of,
    headed,
    rising,
    tangent_frames,
    turned,
)
from velvet_moth.core.baking.nearest import nearest_on
from velvet_moth.core.baking.relaxing import relaxed, spread_to_places
from velvet_moth.core.baking.step import MESHES, OnMesh, step
from velvet_moth.core.baking.steps import patterns
from velvet_moth.core.baking.steps.shape import AXES
from velvet_moth.core.catalogue.settings import choice, directions, number, part, values, whole
from velvet_moth.core.forms.mesh import Floats

assert patterns, "the noises are steps"

GROUP = "Directions"
GIVEN = {"directions": "directions"}
Given = A[Floats, directions("the directions that are changed")]
Speed = A[float, number(0, 1, "1 is the fastest")]
Place = A[float, number(-10000, 10000, "", "m")]
Turn = A[float, number(-180, 180, "how far it is turned to the left, seen from outside", "°")]

# What runs around, away from or towards something, of the vectors away from it and the axes that it turns about.
_ROUND: Mapping[str, Callable[[Vectors, Vectors], Vectors]] = {
    "around": lambda away, axes: np.cross(axes, away),
    "away": lambda away, axes: away,
    "towards": lambda away, axes: -away,
}
Way = A[str, choice(*_ROUND, words="around is to the left, seen from the end of the axis or from outside")]


@step("Along U or V", GROUP, layers=GIVEN)
def along_uvs(
    on: OnMesh,
    axis: A[str, choice("U", "V", words="which of the UVs grows along it")] = "U",
    turn: Turn = 0.0,
    speed: Speed = 1.0,
) -> Floats:
    """Along the UVs: how hair, cloth and boards are laid out."""
    frames = tangent_frames(on.mesh.normals.astype(np.float64), on.mesh.tangents.astype(np.float64))
    return turned(on.mesh, frames["UV".index(axis)] * speed, turn)


@step("Around a point", GROUP, layers=GIVEN)
def around_point(
    on: OnMesh,
    x: Place = 0.0,
    y: Place = 0.0,
    z: Place = 0.0,
    axis: A[str, choice("y", "x", "z", words="the axis that it turns about")] = "y",
    way: Way = "around",
    turn: Turn = 0.0,
    speed: Speed = 1.0,
) -> Floats:
    """Around an axis through a point, away from it or towards it: a whirl, a drain, the crown of a head."""
    off = on.mesh.positions.astype(np.float64) - (x, y, z)
    at = AXES.index(axis)
    off[:, at] = 0.0
    return turned(on.mesh, headed(on.mesh, _ROUND[way](off, np.eye(3)[at]), speed), turn)


@step("Downhill", GROUP, layers=GIVEN)
def downhill(
    on: OnMesh,
    height: A[Floats | None, values("what it runs down; the height in the world for nothing", optional=True)] = None,
    speeds: A[str, choice("even", "by steepness", words="by steepness the steepest is the fastest")] = "even",
    turn: Turn = 0.0,
    speed: Speed = 1.0,
) -> Floats:
    """The way that a drop runs: down the surface itself, or from high numbers to low ones."""
    falling = np.tile((0.0, -1.0, 0.0), (on.count, 1)) if height is None else -rising(on.skin, height)
    even = headed(on.mesh, falling, 1.0)
    steep = np.sum(even * falling, axis=1)
    rate = np.ones(on.count) if speeds == "even" else steep / max(float(steep.max(initial=0.0)), 1e-9)
    return turned(on.mesh, even * (rate * speed)[:, None].astype(np.float32), turn)


@step("Swirls", GROUP, layers=GIVEN)
def swirls(
    on: OnMesh,
    size: A[float, number(0.001, 1000, "about how far one swirl is from the next", "m")] = 0.5,
    seed: A[int, whole(0, 999)] = 0,
    speed: Speed = 1.0,
) -> Floats:
    """Swirling noise without sources: around the hills of a noise in space, everywhere as much flows in as out."""
    reach = np.float32(size * 0.01)

    def noise(axis: int, way: int) -> Vectors:
        places = on.mesh.positions.copy()
        places[:, axis] += way * reach
        moved = replace(on, mesh=replace(on.mesh, positions=places))
        found = MESHES.steps["noise_in_space"].run(moved, scale=1.0 / size, seed=seed, repeat=0, kind="gradient")
        return np.asarray(found[0], dtype=np.float64)

    slope = np.stack([noise(axis, 1) - noise(axis, -1) for axis in range(3)], axis=1)
    around = np.cross(on.mesh.normals.astype(np.float64), slope)
    fastest = max(float(np.quantile(np.linalg.norm(around, axis=1), 0.95)), 1e-12)
    return along_surface(on.mesh, around / fastest) * np.float32(speed)


def _from_part(on: OnMesh, name: str) -> tuple[Vectors, Vectors]:
    """Unit vectors away from the nearest place of a part, (n, 3), and how far it is in metres, (n,)."""
    triangles = on.mesh.triangles[on.part(name)] if name else on.mesh.triangles
    near = nearest_on(on.mesh.positions, on.mesh.positions, triangles)
    off = on.mesh.positions.astype(np.float64) - near.mixed(triangles, on.mesh.positions)
    return headed(on.mesh, off, 1.0).astype(np.float64), near.distance


Reach = A[float, number(0.001, 10000, "how far from the part it is felt", "m")]
Part = A[str, part("the part that it is about")]


@step("Around a part", GROUP, layers=GIVEN)
def around_part(on: OnMesh, part: Part, way: Way = "around", reach: Reach = 1.0, speed: Speed = 1.0) -> Floats:
    """Around a part of the mesh, away from it or towards it; fastest beside it, still from the reach on."""
    away, distance = _from_part(on, part)
    rate = np.clip(1.0 - distance / reach, 0.0, 1.0) * speed
    return headed(on.mesh, _ROUND[way](away, on.mesh.normals.astype(np.float64)), rate)


@step("Pass by a part", GROUP, layers=GIVEN)
def pass_by(on: OnMesh, given: Given, part: Part, reach: Reach = 1.0) -> Floats:
    """What would run into a part turned to pass beside it, more the nearer it is. The speed stays."""
    away, distance = _from_part(on, part)
    into = np.minimum(np.sum(given * away, axis=1), 0.0) * np.clip(1.0 - distance / reach, 0.0, 1.0)
    aside = given - away * into[:, None]
    return headed(on.mesh, aside, np.linalg.norm(given, axis=1))


@step("Relaxed", GROUP, layers=GIVEN)
def relaxed_directions(
    on: OnMesh,
    given: A[Floats, directions("what is given, such as a few strokes")],
    known: A[
        Floats | None, values("where above a half it is given; for nothing, wherever it moves", optional=True)
    ] = None,
    rim: A[str, choice("free", "runs along it", words="what becomes of it at open edges")] = "free",
) -> Floats:
    """What is given stays, and all between is as smooth as it can be over the surface: a few strokes make a whole flow."""
    skin = on.skin
    at = spread_to_places(skin, given)
    moves = np.linalg.norm(at, axis=1) > 1e-4
    is_known = moves if known is None else skin.at_places(known) > 0.5
    return along_surface(on.mesh, relaxed(skin, at, is_known, rim == "runs along it")[skin.place_of])


@step("Turned", GROUP, layers=GIVEN)
def turned_directions(on: OnMesh, given: Given, turn: Turn = 90.0) -> Floats:
    """Directions turned in the surface: by 90° what ran around something leads to it."""
    return turned(on.mesh, given, turn)


@step("Speed", GROUP, layers=GIVEN)
def speed_by(
    on: OnMesh,
    given: Given,
    by: A[Floats | None, values("a factor for the speed at each place", optional=True)] = None,
    factor: A[float, number(0, 10, "a factor for the speed everywhere")] = 1.0,
) -> Floats:
    """The same directions at another speed: slow in the shallows, fast in the narrows."""
    rate = np.float32(factor) if by is None else np.maximum(by, 0)[:, None] * np.float32(factor)
    return along_surface(on.mesh, given * rate)


@step("Mix directions", GROUP, layers=GIVEN)
def mix_directions(
    on: OnMesh,
    one: A[Floats, directions("the directions where the mask is 0")],
    other: A[Floats, directions("those where it is 1")],
    mask: A[Floats | None, values("0 the one, 1 the other", optional=True)] = None,
    amount: A[float, number(0, 1, "how much of the other at most")] = 1.0,
) -> Floats:
    """One flow where a mask is 0, another one where it is 1."""
    share = np.float32(amount) * (np.ones(on.count, np.float32) if mask is None else np.clip(mask, 0, 1))
    return along_surface(on.mesh, one + (other - one) * share[:, None])


@step("Along U and V", GROUP, layers=("along_u", "along_v", "speed"))
def flow_numbers(on: OnMesh, given: A[Floats, directions("what is made numbers of")]) -> tuple[Floats, Floats, Floats]:
    """Directions as numbers for channels, as flow maps keep them: along U and V, a half is still; and the speed.

    Decode flow makes a direction of the two again.
    """
    u, v, speed = np.ascontiguousarray(flow_of(on.mesh, given).T)
    return u, v, speed
