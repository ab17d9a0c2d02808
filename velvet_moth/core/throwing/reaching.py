"""How far a splash reaches in its own plane: to where surfaces end, turn away, or are hidden from the place it hit."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.lighting.decals import REACH_DIRECTIONS, Decal
from velvet_moth.core.throwing.surroundings import Surroundings, Vectors

# Between two directions that a decal knows, so many are looked at; along each so many places, then halves of a step.
_FINER, _STEPS, _HALVES = 2, 16, 6
# How thick what is thrown is taken to be (m): a place is seen where that far above it can be seen.
_THICK = 0.005
# Where neighbouring directions differ by more than this factor something's outline lies between them.
_JUMP = 1.25


@dataclass(frozen=True, eq=False)
class Laid:
    """What of a decal's plane lands on surfaces, a row for each place: where, the normal there, how deep below the plane (m).

    ``is_there``: there is a surface within its depth. ``is_seen``: nothing is between it and where the splash hit.
    ``faces``: it is not turned away from the decal.
    """

    places: Vectors
    normals: Vectors
    depth: Vectors
    is_there: NDArray[np.bool_]
    is_seen: NDArray[np.bool_]
    faces: NDArray[np.bool_]

    @property
    def is_good(self) -> NDArray[np.bool_]:
        """Where it may be painted."""
        return self.is_there & self.is_seen & self.faces


def laid(surroundings: Surroundings, decal: Decal, hit: Vectors, across: Vectors, up: Vectors) -> Laid:
    """What places of a decal's plane, metres from its middle along its axes, land on; ``hit`` is where the splash begins."""
    right, upward, out = decal.axes
    half = decal.size[2] / 2
    plane = np.array(decal.place) + across[:, None] * right + up[:, None] * upward
    met = surroundings.meet(plane + out * half, np.broadcast_to(-out, plane.shape), 2 * half)
    is_seen = np.zeros(len(plane), dtype=np.bool_)
    is_seen[met.hit] = surroundings.sees(hit, (met.places + met.normals * _THICK)[met.hit])
    faces = met.normals @ out > np.cos(np.radians(decal.fade[1]))
    return Laid(met.places, met.normals, met.reach - half, met.hit, is_seen=is_seen, faces=faces)


def reach_of(surroundings: Surroundings, decal: Decal, hit: Vectors) -> tuple[tuple[float, ...], float]:
    """How far a decal may reach (m) in each of ``REACH_DIRECTIONS``, and how deep it must be for that (m, both sides of its plane).

    All 0 where its middle itself is not good.
    """
    count = REACH_DIRECTIONS * _FINER
    angles = np.arange(count) * (2 * np.pi / count)
    cosine, sine = np.cos(angles), np.sin(angles)
    # To the edge of the box, which the decal never passes.
    edge = np.minimum(
        decal.size[0] / 2 / np.maximum(np.abs(cosine), 1e-9), decal.size[1] / 2 / np.maximum(np.abs(sine), 1e-9)
    )
    middle = laid(surroundings, decal, hit, np.zeros(1), np.zeros(1))
    if not middle.is_good[0]:
        return (0.0,) * REACH_DIRECTIONS, 0.0
    shares = np.arange(1, _STEPS + 1) / _STEPS
    radii = edge[:, None] * shares
    flat = laid(surroundings, decal, hit, (radii * cosine[:, None]).ravel(), (radii * sine[:, None]).ravel())
    good = np.logical_and.accumulate(flat.is_good.reshape(radii.shape), axis=1)
    steps = good.sum(axis=1)
    low, high = edge * steps / _STEPS, edge * np.minimum(steps + 1, _STEPS) / _STEPS
    for _ in range(_HALVES):
        half = (low + high) / 2
        is_good = laid(surroundings, decal, hit, half * cosine, half * sine).is_good
        low, high = np.where(is_good, half, low), np.where(is_good, high, half)
    low = np.where(steps == _STEPS, edge, low)
    deepest = np.abs(flat.depth.reshape(radii.shape)[good]).max(initial=abs(float(middle.depth[0])))
    return tuple(round(float(far), 4) for far in _known(low)), 2.0 * deepest


def _known(fine: Vectors) -> Vectors:
    """The reach in the directions that a decal knows. Beside an outline it is the smallest around, so that what is read between

    two directions never goes past it.
    """
    known = fine[::_FINER]
    window = np.stack([np.roll(fine, shift)[::_FINER] for shift in range(-_FINER, _FINER + 1)])
    ratio = window[1:] / np.maximum(window[:-1], 1e-6)
    jumps = ((ratio > _JUMP) | (ratio < 1 / _JUMP)).any(axis=0)
    return np.where(jumps, window.min(axis=0), known)
