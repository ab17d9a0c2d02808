"""Forms that grow: blades with vertex colours for wind."""

import math
from dataclasses import replace

import numpy as np

from velvet_moth.core.forms.mesh import Mesh, declared_form, grid, joined, square, with_data
from velvet_moth.core.forms.view import Camera

BLADES = 34


@declared_form("Reed clump", Camera(turn=200.0, tilt=8.0, distance=4.0))
def reeds() -> Mesh:
    """Bent blades on a round of 0.5 metres, up to 1.6 metres high, seen from both sides.

    Vertex colours: red from 0 at the foot to 1 at the tip, green one random number for each blade,
    blue from 0 in the middle of a blade to 1 at its edges.
    """
    source = np.random.default_rng(11)
    return joined([_blade(source) for _ in range(BLADES)])


@declared_form("Broad leaf", Camera(turn=-24.0, tilt=40.0, distance=2.75, target=(0.05, -0.14, 0.0)))
def broad_leaf() -> Mesh:
    """One leaf of 2 metres on a curved card, folded along its rib, seen from both sides; its stem at the near end.

    Vertex colours: red from 0 at the stem to 1 at the tip, green 0 at the rib to 1 at the edges.
    """
    u, v = square(65, 33)
    across = u * 2 - 1
    x = across * 0.62
    y = 0.22 * np.abs(across) - 0.5 * (v - 0.35) ** 2 + 0.02 * np.sin(v * 26) * np.abs(across)
    z = 1.0 - v * 2.0
    made = grid(np.stack((x, y, z), axis=-1), np.stack((u, v), axis=-1))
    return with_data(made, v, np.abs(across))


@declared_form("Leaf spray", Camera(turn=24.0, tilt=26.0, distance=4.9))
def leaf_spray() -> Mesh:
    """Leaves on cards along a bent twig, seen from both sides.

    Vertex colours: red from 0 at the twig's foot to 1 at its end, green one random number a leaf, blue from 0 at a
    leaf's stem to 1 at its tip.
    """
    source = np.random.default_rng(8)
    return joined([_leaf_card(source, index / 17) for index in range(18)])


def _leaf_card(source: np.random.Generator, along: float) -> Mesh:
    u, v = square(9, 5)
    foot = np.array([0.75 * along**1.4 - 0.35, 1.7 * along - 0.85, 0.25 * math.sin(along * 3)])
    turn = along * 17 * 2.4 + source.uniform(-0.3, 0.3)
    lift, size = source.uniform(0.1, 0.5), (1.0 - 0.35 * along) * source.uniform(0.85, 1.15)
    out = np.array([math.sin(turn) * math.cos(lift), math.sin(lift), math.cos(turn) * math.cos(lift)])
    side = np.cross(out, (0.0, 1.0, 0.0))
    side /= np.linalg.norm(side)
    up = np.cross(side, out)
    across = (u * 2 - 1) * 0.5
    sag = -0.35 * v**2 + 0.12 * np.abs(u * 2 - 1)
    positions = foot + size * (out * v[..., None] + side * (across * 0.7)[..., None] + up * sag[..., None])
    made = grid(positions, np.stack((u, v), axis=-1))
    return with_data(made, along, source.uniform(), v)


def _blade(source: np.random.Generator) -> Mesh:
    turn, reach = source.uniform(0, 2 * math.pi), 0.5 * math.sqrt(source.uniform(0.02, 1))
    height, lean, width = source.uniform(0.9, 1.6), source.uniform(0.05, 0.45), source.uniform(0.035, 0.06)
    facing = turn + source.uniform(-0.7, 0.7)
    v, u = np.meshgrid(np.linspace(0, 1, 17), np.linspace(0, 1, 5), indexing="ij")
    outward = np.array([math.sin(turn), 0.0, math.cos(turn)])
    across = np.array([math.cos(facing), 0.0, -math.sin(facing)])
    foot = outward * reach + np.array([0.0, -0.8, 0.0])
    # Narrower to the tip, and never quite closed, so that every triangle keeps an area.
    half = width * (0.04 + 0.96 * np.sqrt(np.clip(1 - v**2, 0, 1)))
    positions = foot + across * ((u * 2 - 1) * half)[..., None] + outward * (lean * v**2)[..., None]
    positions = positions + np.array([0.0, 1.0, 0.0]) * (height * v * (1 - 0.12 * lean * v))[..., None]
    made = grid(positions, np.stack((u, v), axis=-1))
    data = np.stack((v, np.full_like(v, source.uniform()), np.abs(u * 2 - 1), np.ones_like(v)), axis=-1)
    return replace(made, colours=data.reshape(-1, 4).astype(np.float32))
