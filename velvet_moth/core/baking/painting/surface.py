"""What strokes need to know of a surface at the spots where they are laid: vertices, or the pixels of a texture."""

from abc import ABC, abstractmethod
from dataclasses import dataclass
from functools import cached_property
from itertools import chain

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from velvet_moth.core.baking.nearest import Nearest, nearest_on
from velvet_moth.core.baking.skin import Skin
from velvet_moth.core.forms.mesh import Floats, Mesh, unit_vectors
from velvet_moth.core.meshes.normals import face_normals
from velvet_moth.core.stacks.stroke import Stroke

Numbers = NDArray[np.float64]
Indices = NDArray[np.int64]
# Of a stroke, where it is looked for whether it meets a surface.
_LOOKED_AT = 64


@dataclass(frozen=True, eq=False)
class Surface(ABC):
    """Spots on a mesh, as strokes meet them."""

    mesh: Mesh
    skin: Skin

    @property
    @abstractmethod
    def positions(self) -> Numbers:
        """Where the spots are, (n, 3) metres."""

    @property
    @abstractmethod
    def normals(self) -> Numbers:
        """Which way the surface faces there, (n, 3)."""

    @property
    @abstractmethod
    def areas(self) -> Numbers:
        """How much surface belongs to each, (n,) square metres."""

    @abstractmethod
    def groups(self, name: str) -> Indices:
        """The number of the ``part`` or ``island`` that each belongs to, (n,)."""

    @abstractmethod
    def blurred(self, values: Floats, spread: float) -> Numbers:
        """Numbers at the spots, (n,), blurred over the surface by a Gaussian of that deviation (metres)."""

    @cached_property
    def position_rows(self) -> Numbers:
        """The positions number by number, (3, n)."""
        return np.ascontiguousarray(self.positions.T)

    @cached_property
    def normal_rows(self) -> Numbers:
        """The normals number by number, (3, n)."""
        return np.ascontiguousarray(self.normals.T)

    @cached_property
    def tree(self) -> cKDTree:
        return cKDTree(self.positions)

    def count_within(self, centres: Numbers, radii: Numbers) -> Indices:
        """How many spots are no farther from each centre (k, 3) than its radius, (k,)."""
        return np.asarray(self.tree.query_ball_point(centres, radii, return_length=True), dtype=np.int64)

    def within(self, centres: Numbers, radii: Numbers) -> tuple[Indices, Indices]:
        """All pairs of a centre (k, 3) and a spot that is no farther from it than its radius: (pairs,) each."""
        found = self.tree.query_ball_point(centres, radii, return_sorted=False)
        counts = np.fromiter((len(one) for one in found), dtype=np.int64, count=len(found))
        spots = np.fromiter(chain.from_iterable(found), dtype=np.int64, count=int(counts.sum()))
        return np.repeat(np.arange(len(found)), counts), spots

    def extent(self, name: str, place: Numbers) -> NDArray[np.bool_]:
        """Which spots belong to the ``part`` or ``island`` that is nearest to a place, (n,); all of them for any other name."""
        if name not in ("part", "island"):
            return np.ones(len(self.positions), dtype=bool)
        numbers = self.groups(name)
        return np.asarray(numbers == numbers[self.tree.query(place)[1]])

    def misses(self, strokes: tuple[Stroke, ...]) -> list[int]:
        """The places of strokes in the list that meet no surface: every point is farther from it than the radius there.

        Of long strokes some of the points are looked at.
        """
        if not strokes:
            return []
        some = [stroke.rows[:: len(stroke.rows) // _LOOKED_AT + 1] for stroke in strokes]
        rows, owner = np.concatenate(some), np.repeat(np.arange(len(strokes)), [len(one) for one in some])
        far = nearest_on(rows[:, :3], self.mesh.positions, self.mesh.triangles).distance > rows[:, 6]
        met = np.bincount(owner, ~far, len(strokes)) > 0
        return [at for at, stroke in enumerate(strokes) if not met[at] and not stroke.fill]


@dataclass(frozen=True, eq=False)
class AtVertices(Surface):
    """The vertices of a mesh."""

    @cached_property
    def positions(self) -> Numbers:
        return self.mesh.positions.astype(np.float64)

    @cached_property
    def normals(self) -> Numbers:
        return self.mesh.normals.astype(np.float64)

    @cached_property
    def areas(self) -> Numbers:
        return self.skin.areas[self.skin.place_of]

    def groups(self, name: str) -> Indices:
        if name == "island":
            return self.skin.island[self.skin.place_of]
        found = np.zeros(len(self.positions), dtype=np.int64)
        if self.mesh.part_of is not None:
            # A vertex belongs to the part of one of its triangles.
            found[self.mesh.triangles] = self.mesh.part_of[:, None]
        return found

    def blurred(self, values: Floats, spread: float) -> Numbers:
        skin = self.skin
        return np.asarray(skin.blurred(skin.at_places(values), spread)[skin.place_of])


@dataclass(frozen=True, eq=False)
class AtSpots(Surface):
    """Places on the triangles of a mesh, such as those that the pixels of a texture are at."""

    spots: Nearest

    @cached_property
    def positions(self) -> Numbers:
        return self.spots.mixed(self.mesh.triangles, self.mesh.positions)

    @cached_property
    def normals(self) -> Numbers:
        return unit_vectors(self.spots.mixed(self.mesh.triangles, self.mesh.normals))

    @cached_property
    def areas(self) -> Numbers:
        _, area = face_normals(self.mesh.positions, self.mesh.triangles)
        counts = np.bincount(self.spots.faces, minlength=len(area))
        return np.asarray((area / np.maximum(counts, 1))[self.spots.faces])

    def groups(self, name: str) -> Indices:
        if name == "island":
            return np.asarray(self.skin.island[self.skin.triangles[self.spots.faces, 0]])
        if self.mesh.part_of is None:
            return np.zeros(len(self.spots.faces), dtype=np.int64)
        return np.asarray(self.mesh.part_of[self.spots.faces], dtype=np.int64)

    def blurred(self, values: Floats, spread: float) -> Numbers:
        # On the mesh itself: a blur so wide needs no more. Where no spot is near a vertex, its neighbours fill in.
        faces, weights = self.spots.faces, self.spots.weights
        at = self.skin.triangles[faces, np.argmax(weights, axis=1)]
        counts = np.bincount(at, minlength=self.skin.count)
        means = np.bincount(at, values, self.skin.count) / np.maximum(counts, 1)
        known = (counts > 0).astype(np.float64)
        shares = np.maximum(self.skin.blurred(known, spread), 1e-9)
        found = self.skin.blurred(means * known, spread) / shares
        return np.asarray(np.einsum("pk,pk->p", weights, found[self.skin.triangles[faces]]))
