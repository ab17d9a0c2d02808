"""Forms that grow: blades with vertex colours for wind."""

import math
from dataclasses import replace

import numpy as np

from velvet_moth.core.forms.mesh import Mesh, declared_form, grid, joined
from velvet_moth.core.view import Camera

BLADES = 34


@declared_form("Reed clump", Camera(turn=200.0, tilt=8.0, distance=4.0))
def reeds() -> Mesh:
    """Bent blades on a round of 0.5 metres, up to 1.6 metres high, seen from both sides.

    Vertex colours: red from 0 at the foot to 1 at the tip, green one random number for each blade,
    blue from 0 in the middle of a blade to 1 at its edges.
    """
    source = np.random.default_rng(11)
    return joined([_blade(source) for _ in range(BLADES)])


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
