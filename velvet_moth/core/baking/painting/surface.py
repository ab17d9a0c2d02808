"""What strokes need to know of a mesh: where its vertices are, which way they face, what belongs together."""

from dataclasses import dataclass
from functools import cached_property
from itertools import chain

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from velvet_moth.core.baking.nearest import nearest_on
from velvet_moth.core.baking.skin import Skin
from velvet_moth.core.forms.mesh import Mesh
from velvet_moth.core.stacks.stroke import Stroke

Numbers = NDArray[np.float64]
Indices = NDArray[np.int64]
# Of a stroke, where it is looked for whether it meets a surface.
_LOOKED_AT = 64


@dataclass(frozen=True, eq=False)
class Surface:
    """The vertices of a mesh as strokes meet them."""

    mesh: Mesh
    skin: Skin

    @cached_property
    def tree(self) -> cKDTree:
        return cKDTree(self.mesh.positions)

    @cached_property
    def positions(self) -> Numbers:
        return self.mesh.positions.astype(np.float64)

    @cached_property
    def normals(self) -> Numbers:
        return self.mesh.normals.astype(np.float64)

    @cached_property
    def areas(self) -> Numbers:
        """How much surface belongs to each vertex, (n,) square metres."""
        return self.skin.areas[self.skin.place_of]

    def count_within(self, centres: Numbers, radii: Numbers) -> Indices:
        """How many vertices are no farther from each centre (k, 3) than its radius, (k,)."""
        return np.asarray(self.tree.query_ball_point(centres, radii, return_length=True), dtype=np.int64)

    def within(self, centres: Numbers, radii: Numbers) -> tuple[Indices, Indices]:
        """All pairs of a centre (k, 3) and a vertex that is no farther from it than its radius: (pairs,) each."""
        found = self.tree.query_ball_point(centres, radii, return_sorted=False)
        counts = np.fromiter((len(one) for one in found), dtype=np.int64, count=len(found))
        vertices = np.fromiter(chain.from_iterable(found), dtype=np.int64, count=int(counts.sum()))
        return np.repeat(np.arange(len(found)), counts), vertices

    @cached_property
    def _island_of(self) -> Indices:
        return self.skin.island[self.skin.place_of]

    @cached_property
    def _part_of(self) -> Indices:
        """The part of one of the triangles at each vertex, (n,)."""
        found = np.zeros(len(self.positions), dtype=np.int64)
        if self.mesh.part_of is not None:
            found[self.mesh.triangles] = self.mesh.part_of[:, None]
        return found

    def extent(self, name: str, place: Numbers) -> NDArray[np.bool_]:
        """Which vertices belong to the ``part`` or ``island`` that is nearest to a place, (n,); all of them for any other name."""
        groups = {"part": "_part_of", "island": "_island_of"}.get(name)
        if groups is None:
            return np.ones(len(self.positions), dtype=bool)
        numbers: Indices = getattr(self, groups)
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
