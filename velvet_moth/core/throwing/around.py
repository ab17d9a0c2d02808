"""What stands around the place that a throw hits: walls, posts, and how far they are."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.throwing.surroundings import Met, Surroundings, Vectors

# So many rays look around, and so many more between two of them for the nearest place of something round.
_RAYS, _CLOSER = 64, 33
# Two neighbouring rays meet one body where its normals differ by no more than this (degrees), without a gap; and wherever they
# meet one plane (m).
_ONE_BODY, _GAP, _ONE_PLANE = 50.0, 0.35, 0.005
# How high a body is, is looked at in so many places.
_HEIGHTS = 24
# A body is flat where no normal differs from the nearest by more than this; and it stands up where its normal is that far
# from the normal of the ground (degrees).
_FLAT, _STANDS = 15.0, 60.0


def unit(vector: Vectors) -> Vectors:
    """A vector, or each of some, (..., 3), at length one."""
    return np.asarray(vector / np.maximum(np.linalg.norm(vector, axis=-1, keepdims=True), 1e-12))


@dataclass(frozen=True, eq=False)
class Ground:
    """Where a throw hits: the place, the surface's unit normal, a unit direction along it, and how far above it rays look (m)."""

    place: Vectors
    normal: Vectors
    along: Vectors
    lift: float

    @property
    def across(self) -> Vectors:
        """The other direction along the surface, to the left of ``along`` for who stands on it."""
        return np.cross(self.normal, self.along)

    @property
    def lifted(self) -> Vectors:
        """The place from which it is looked around."""
        return np.asarray(self.place + self.normal * self.lift)


@dataclass(frozen=True, eq=False)
class Body:
    """Something that stands on the ground: the nearest place of it, its normal there, and the distance from the hit (m).

    For what is flat that is the distance to its plane. ``width`` is how wide it is seen to be (m), across the way to it;
    ``height`` how high above the ground it goes on straight up, up to the height that was asked for.
    """

    place: Vectors
    normal: Vectors
    distance: float
    width: float
    height: float
    is_flat: bool

    def towards(self, ground: Ground) -> Vectors:
        """The unit direction along the ground from it to the hit."""
        return unit(self.normal - ground.normal * float(self.normal @ ground.normal))


def looked_around(surroundings: Surroundings, ground: Ground, farthest: float, high: float) -> list[Body]:
    """The bodies that stand around the hit within so many metres, the nearest first; looked at up to ``high`` metres."""
    angles = np.arange(_RAYS) * (2.0 * np.pi / _RAYS)
    ways = np.cos(angles)[:, None] * ground.along + np.sin(angles)[:, None] * ground.across
    met = surroundings.meet(np.broadcast_to(ground.lifted, ways.shape), ways, farthest)
    steepest = np.cos(np.radians(_STANDS))
    stands = met.hit & (np.abs(met.normals @ ground.normal) < steepest)
    runs = _one_for_each_plane(met, _runs(met, stands))
    found = [_body(surroundings, ground, ways=ways, met=met, run=run, farthest=farthest, high=high) for run in runs]
    return sorted(found, key=lambda body: body.distance)


def _on_one_plane(met: Met, one: int, other: int) -> bool:
    """Whether two rays meet the same plane."""
    normal = met.normals[one]
    is_level = abs(float((met.places[one] - met.places[other]) @ normal)) < _ONE_PLANE
    return is_level and bool(normal @ met.normals[other] > np.cos(np.radians(_FLAT)))


def _one_for_each_plane(met: Met, runs: list[list[int]]) -> list[list[int]]:
    """Runs of one plane together: something in front of a wall does not make two of it."""
    found: list[list[int]] = []
    for run in runs:
        same = next((kept for kept in found if all(_on_one_plane(met, kept[0], k) for k in (*kept, *run))), None)
        if same is None:
            found.append(run)
        else:
            same.extend(run)
    return found


def _runs(met: Met, stands: NDArray[np.bool_]) -> list[list[int]]:
    """The neighbouring rays that meet one body, as lists of their numbers around the circle."""
    count = len(stands)
    least = np.cos(np.radians(_ONE_BODY))

    def goes_on(one: int, other: int) -> bool:
        if not (stands[one] and stands[other]):
            return False
        if _on_one_plane(met, one, other):
            return True
        gap = float(np.linalg.norm(met.places[one] - met.places[other]))
        near = max(met.reach[one], met.reach[other]) * _GAP
        return bool(met.normals[one] @ met.normals[other] > least) and gap < near

    starts = [k for k in range(count) if stands[k] and not goes_on(k - 1, k)]
    if not starts:
        return [list(range(count))] if stands.all() else []
    runs = []
    for start in starts:
        run = [start]
        while goes_on(run[-1], (run[-1] + 1) % count) and len(run) < count:
            run.append((run[-1] + 1) % count)
        runs.append(run)
    return runs


def _body(
    surroundings: Surroundings,
    ground: Ground,
    ways: Vectors,
    met: Met,
    run: Sequence[int],
    farthest: float,
    high: float,
) -> Body:
    nearest = min(run, key=lambda k: float(met.reach[k]))
    normal = met.normals[nearest]
    is_flat = bool((met.normals[list(run)] @ normal > np.cos(np.radians(_FLAT))).all())
    sideways = unit(np.cross(ground.normal, normal))
    spans = met.places[list(run)] @ sideways
    width = float(np.ptp(spans))
    if is_flat:
        straight = -unit(normal - ground.normal * float(normal @ ground.normal))
        tried, within = straight[None], 1e-3
    else:
        turn = 2.0 * np.pi / len(ways) * np.linspace(-1, 1, _CLOSER)
        centre, side = ways[nearest], np.cross(ground.normal, ways[nearest])
        tried, within = np.cos(turn)[:, None] * centre + np.sin(turn)[:, None] * side, np.inf
    closer = surroundings.meet(np.broadcast_to(ground.lifted, tried.shape), tried, farthest)
    # Straight ahead a wall may have ended already.
    same = closer.hit & (np.abs((closer.places - met.places[nearest]) @ normal) < within)
    if same.any():
        best = int(np.argmin(np.where(same, closer.reach, np.inf)))
        if is_flat or closer.reach[best] < met.reach[nearest]:
            place, normal, away = closer.places[best], closer.normals[best], float(closer.reach[best])
            height = _height(surroundings, ground, place, away, high)
            return Body(place, normal, away, width, height, is_flat)
    place, away = met.places[nearest], float(met.reach[nearest])
    return Body(place, normal, away, width, _height(surroundings, ground, place, away, high), is_flat)


def _height(surroundings: Surroundings, ground: Ground, place: Vectors, away: float, high: float) -> float:
    """How high above the ground a body goes on straight up at its nearest place (m), up to ``high``."""
    heights = np.linspace(ground.lift, max(high, ground.lift), _HEIGHTS)
    starts = ground.place + heights[:, None] * ground.normal
    met = surroundings.meet(starts, np.broadcast_to(unit(place - ground.lifted), starts.shape), away + 0.02)
    goes_on = np.logical_and.accumulate(met.hit & (met.reach > away - 0.02))
    return float(heights[goes_on].max(initial=0.0))
