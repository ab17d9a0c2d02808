"""A mesh as one connected surface: vertices at the same place are one, whatever seams of UVs and normals run there."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array, csr_array, diags_array
from scipy.sparse.csgraph import connected_components, dijkstra
from scipy.sparse.linalg import cg
from scipy.spatial import cKDTree

from velvet_moth.core.forms.mesh import Mesh, unit_vectors
from velvet_moth.core.meshes.normals import around_edges, corner_angles, face_normals, places_of
from velvet_moth.core.meshes.source import Floats, Indices

Values = NDArray[np.float64]

# Of the error of a solution that is found step by step.
_EXACT = 1e-4
_MOST_STEPS = 400
# One Gaussian is so many even steps of diffusion after each other.
_DIFFUSIONS = 4
# The largest cotangent that is taken of an angle, of 1e-4 radians.
_STEEPEST = 1e4
# Of the size of a mesh: what is nearer is at the same place.
_ROUNDING = 2e-7


@dataclass(frozen=True, eq=False)
class Skin:
    """``place_of`` (n,) numbers the place of each vertex; ``positions`` (p, 3) in metres; ``triangles`` (m, 3) count places."""

    place_of: NDArray[np.int64]
    positions: NDArray[np.float64]
    triangles: NDArray[np.int64]

    @classmethod
    def of(cls, mesh: Mesh) -> "Skin":
        """The surface of a mesh; open edges that lie on each other but for a rounding are joined."""
        place_of = _closed(mesh.positions, mesh.triangles, places_of(mesh.positions))
        _, first = np.unique(place_of, return_index=True)
        return cls(place_of, mesh.positions[first].astype(np.float64), place_of[mesh.triangles])

    @property
    def count(self) -> int:
        """How many places there are."""
        return len(self.positions)

    @cached_property
    def _faces(self) -> tuple[Values, Values]:
        """Unit normals (m, 3) and areas (m,) of the triangles."""
        return face_normals(self.positions.astype(np.float32), self.triangles.astype(np.uint32))

    @cached_property
    def normals(self) -> Values:
        """Unit normals at the places, (p, 3): the mean of the faces there, weighed by their angles.

        Source: G. Thürmer, C. Wüthrich, "Computing Vertex Normals from Polygonal Facets", 1998.
        """
        faces, _ = self._faces
        angles = corner_angles(self.positions.astype(np.float32), self.triangles.astype(np.uint32))
        flat = self.triangles.reshape(-1)
        weighed = (faces[:, None] * angles[..., None]).reshape(-1, 3)
        return unit_vectors(np.stack([np.bincount(flat, weighed[:, i], self.count) for i in range(3)], axis=1))

    @cached_property
    def areas(self) -> Values:
        """How much surface belongs to each place, (p,) square metres: a third of its triangles."""
        _, area = self._faces
        return np.maximum(np.bincount(self.triangles.reshape(-1), np.repeat(area / 3, 3), self.count), 1e-18)

    @cached_property
    def laplacian(self) -> csr_array:
        """Minus the cotangent Laplacian, without what would make it grow where triangles are obtuse.

        Source: M. Meyer et al., "Discrete Differential-Geometry Operators for Triangulated 2-Manifolds", 2003.
        """
        rows, columns, weights = [], [], []
        corners = self.positions[self.triangles]
        _, area = self._faces
        for i in range(3):
            a, b = (corners[:, (i + step) % 3] - corners[:, i] for step in (1, 2))
            cotangent = np.clip(np.einsum("ij,ij->i", a, b) / np.maximum(2 * area, 1e-300), -_STEEPEST, _STEEPEST)
            rows.append(self.triangles[:, (i + 1) % 3])
            columns.append(self.triangles[:, (i + 2) % 3])
            weights.append(cotangent / 2)
        a, b, w = np.concatenate(rows), np.concatenate(columns), np.concatenate(weights)
        both = coo_array((np.concatenate((w, w)), (np.concatenate((a, b)), np.concatenate((b, a)))), (self.count,) * 2)
        joined = both.tocsr()
        joined.data = np.maximum(joined.data, 0.0)
        return csr_array(diags_array(joined.sum(axis=1)) - joined)

    def blurred(self, values: Values, radius: float) -> Values:
        """Values at the places, (p,), blurred over the surface by a Gaussian of that standard deviation (metres).

        It is the distance along the surface that counts, not the number of triangles: diffusion for half the square of the
        radius, in a few even steps, each solved for its end. Source: M. Desbrun et al., "Implicit Fairing of Irregular
        Meshes using Diffusion and Curvature Flow", 1999. The mean over the surface stays.
        """
        if radius <= 0:
            return values
        step = radius * radius / 2 / _DIFFUSIONS
        whole = csr_array(diags_array(self.areas) + step * self.laplacian)
        inverse = diags_array(1.0 / whole.diagonal())
        before = found = values
        for _ in range(_DIFFUSIONS):
            # Steps resemble each other: one more like the last is near the solution.
            guess = 2 * found - before
            before = found
            found, _ = cg(whole, self.areas * found, x0=guess, rtol=_EXACT, maxiter=_MOST_STEPS, M=inverse)
        return np.asarray(found)

    def at_places(self, values: NDArray[np.float32]) -> Values:
        """Values at the vertices, (n,), as values at the places: their means."""
        counts = np.bincount(self.place_of, minlength=self.count)
        return np.asarray(np.bincount(self.place_of, values, self.count) / counts)

    def at_vertices(self, values: Values) -> NDArray[np.float32]:
        """Values at the places, (p,), as values at the vertices."""
        return values[self.place_of].astype(np.float32)

    @cached_property
    def edges(self) -> NDArray[np.int64]:
        """Pairs of places that are joined, (k, 2), each once."""
        return self._pairs[0]

    @cached_property
    def _pairs(self) -> tuple[NDArray[np.int64], NDArray[np.int64], NDArray[np.int64]]:
        """The edges (k, 2); the order in which the sides of all triangles, the first of each first, follow those; and where each begins in it.

        As one number for a pair, which sorts many times as fast as rows do.
        """
        sides = np.concatenate([self.triangles[:, (i, (i + 1) % 3)] for i in range(3)])
        key = sides.min(axis=1) * self.count + sides.max(axis=1)
        order = np.argsort(key, kind="stable")
        found = key[order]
        first = np.flatnonzero(np.concatenate(([True], found[1:] != found[:-1])))
        edges = np.stack((found[first] // self.count, found[first] % self.count), axis=1)
        return edges, order, first

    @cached_property
    def rim(self) -> NDArray[np.int64]:
        """The places at open edges, where the surface ends."""
        edges, order, first = self._pairs
        return np.unique(edges[np.diff(np.append(first, len(order))) == 1])

    @cached_property
    def island(self) -> NDArray[np.int64]:
        """The number of the piece of surface that each place belongs to, (p,), from 0 as the places come."""
        a, b = self.edges.T
        joined = coo_array((np.ones(len(a), dtype=np.int8), (a, b)), (self.count, self.count))
        return np.asarray(connected_components(joined, directed=False)[1], dtype=np.int64)

    @cached_property
    def _ways(self) -> csr_array:
        """Lengths between places along the surface: of edges, and across each edge from corner to corner, laid flat."""
        sides = np.concatenate([self.triangles[:, (i, (i + 1) % 3)] for i in range(3)])
        others = np.concatenate([self.triangles[:, (i + 2) % 3] for i in range(3)])
        edges, order, starts = self._pairs
        same = np.ones(len(order), dtype=bool)
        same[starts] = False
        second = order[same]
        first = order[np.flatnonzero(same) - 1]
        a, b = self.positions[sides.min(axis=1)[first]], self.positions[sides.max(axis=1)[first]]
        p, q = self.positions[others[first]], self.positions[others[second]]
        across = _laid_flat(a, b, p, q)
        straight = np.linalg.norm(self.positions[edges[:, 0]] - self.positions[edges[:, 1]], axis=1)
        fits = np.isfinite(across)
        rows = np.concatenate((edges[:, 0], others[first][fits]))
        columns = np.concatenate((edges[:, 1], others[second][fits]))
        lengths = np.maximum(np.concatenate((straight, across[fits])), 1e-9)
        # Where two ways join the same places, the sum that the matrix would hold is none of them.
        low, high = np.minimum(rows, columns), np.maximum(rows, columns)
        pair = low * self.count + high
        order = np.argsort(pair)
        first_of = np.flatnonzero(np.concatenate(([True], np.diff(pair[order]) > 0)))
        keep = order[first_of]
        return csr_array((np.minimum.reduceat(lengths[order], first_of), (low[keep], high[keep])), (self.count,) * 2)

    def distances(self, sources: NDArray[np.int64]) -> Values:
        """Metres along the surface from each place to the nearest of the ``sources``, (p,); infinity where no way leads to one.

        By the shortest way over edges and from corner to corner across them: up to a tenth longer than the shortest of all.
        """
        if not len(sources):
            return np.full(self.count, np.inf)
        return np.asarray(dijkstra(self._ways, directed=False, indices=sources, min_only=True))


def frames(normals: Values) -> tuple[Values, Values]:
    """Two unit vectors square to each unit normal, (n, 3), and to each other."""
    axis = np.where(np.abs(normals[:, :1]) < 0.7, (1.0, 0.0, 0.0), (0.0, 1.0, 0.0))
    first = unit_vectors(np.cross(normals, axis))
    return first, np.cross(normals, first)


def _closed(positions: Floats, triangles: Indices, place_of: NDArray[np.int64]) -> NDArray[np.int64]:
    """The places of vertices, with those at open edges made one that are apart by no more than a rounding."""
    _, edge = around_edges(place_of, triangles)
    _, which, sides = np.unique(edge, return_inverse=True, return_counts=True)
    start, end = triangles.reshape(-1), np.roll(triangles, -1, axis=1).reshape(-1)
    is_open = sides[which] == 1
    rim = np.unique(np.concatenate((start[is_open], end[is_open])))
    size = float(np.ptp(positions, axis=0).max())
    if not len(rim):
        return place_of
    near: NDArray[np.int64] = cKDTree(positions[rim]).query_pairs(size * _ROUNDING, output_type="ndarray")
    a, b = place_of[rim[near[:, 0]]], place_of[rim[near[:, 1]]]
    count = int(place_of.max()) + 1
    joined = coo_array((np.ones(len(a), dtype=np.int8), (a, b)), (count, count))
    return np.asarray(connected_components(joined, directed=False)[1], dtype=np.int64)[place_of]


def _laid_flat(a: Values, b: Values, p: Values, q: Values) -> Values:
    """The length from p to q over the edge a-b between them, laid flat; infinite where the way would miss the edge."""
    along = b - a
    length = np.maximum(np.linalg.norm(along, axis=1), 1e-12)
    way = along / length[:, None]
    one, other = np.sum((p - a) * way, axis=1), np.sum((q - a) * way, axis=1)
    high = np.linalg.norm(p - a - one[:, None] * way, axis=1)
    low = np.linalg.norm(q - a - other[:, None] * way, axis=1)
    crossing = one + (other - one) * high / np.maximum(high + low, 1e-12)
    fits = (crossing >= 0) & (crossing <= length)
    return np.where(fits, np.hypot(other - one, high + low), np.inf)
