"""A mesh as blocks of a chosen size: the cells its surface goes through, and those it encloses."""

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

import igl
import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.blocks.cells import MOST_ENTRIES, SIDE, Blocks, Cells
from velvet_moth.core.blocks.model import ORIGIN
from velvet_moth.core.forms.mesh import Mesh

_Numbers = NDArray[np.float64]
_Whole = NDArray[np.int64]
# Samples of the surface are so many blocks apart; there are at most so many.
_APART, _MOST_SAMPLES = 0.45, 12_000_000


@dataclass(frozen=True)
class Given:
    """What entries are made from: samples of a mesh's surface as triangles (n,) with weights (n, 3), and the palette's mean
    colours (entries, 3), linear light."""

    mesh: Mesh
    triangle: _Whole
    weights: _Numbers
    colours: _Numbers

    def mixed(self, values: NDArray[Any]) -> _Numbers:
        """Numbers at vertices (n, width) where the samples are."""
        found: _Numbers = np.einsum("nk,nkc->nc", self.weights, values[self.mesh.triangles[self.triangle]])
        return found


@dataclass(frozen=True)
class By:
    """A way to find entries: its name for people, and the entry of each sample."""

    name: str
    entries: Callable[[Given], _Whole]


def _of_parts(given: Given) -> _Whole:
    part = given.mesh.part_of
    if part is None:
        raise OperationRefused("The mesh has no parts.", "mesh", "Take the entries from its colours.")
    return np.asarray(part[given.triangle] % MOST_ENTRIES + 1, dtype=np.int64)


def _of_colours(given: Given) -> _Whole:
    if not len(given.colours):
        raise OperationRefused("Colours need a palette to be found in.", "palette", "Choose a palette first.")
    return nearest_entries(given.mixed(given.mesh.colours)[:, :3], given.colours)


BY: Mapping[str, By] = {
    "one": By("One entry", lambda given: np.ones(len(given.triangle), dtype=np.int64)),
    "parts": By("Its parts", _of_parts),
    "colours": By("Its colours", _of_colours),
}


def nearest_entries(colours: _Numbers, palette: _Numbers) -> _Whole:
    """The entries whose mean colours are nearest to some, (n, 3) linear light each; compared by their square roots, as eyes do."""
    known, back = np.unique(np.round(np.sqrt(np.clip(colours, 0, 1)) * 255), axis=0, return_inverse=True)
    off = np.linalg.norm(known[:, None] / 255 - np.sqrt(np.clip(palette, 0, 1)), axis=-1)
    return np.asarray(off.argmin(axis=1)[back.reshape(-1)] + 1, dtype=np.int64)


def carried_size(mesh: Mesh) -> float | None:
    """The side of a block (m) of a mesh that was made of blocks, which carries its entries; None of any other."""
    if mesh.second is None or not len(mesh.second):
        return None
    entries, sizes = mesh.second.T
    size = float(sizes[0])
    is_whole = bool((np.abs(entries - np.round(entries)) < 1e-3).all() and entries.min() >= 1)
    is_one = bool(size > 0 and (np.abs(sizes - size) < 1e-4 * size).all() and entries.max() <= MOST_ENTRIES)
    places = mesh.positions / max(size, 1e-9)
    return size if is_whole and is_one and np.abs(places - np.round(places)).max() < 1e-2 else None


def blocks_of_mesh(mesh: Mesh, size: float, by: str, colours: _Numbers) -> Blocks:
    """The blocks of a mesh; its lowest layer stands on the ground, about the middle.

    One that carries entries is taken back as it was, whatever ``size`` and ``by`` say. OperationRefused where it needs
    more than 256 blocks along a side.
    """
    carried = carried_size(mesh)
    side = carried or size
    low = mesh.positions.min(axis=0).astype(np.float64)
    extent = mesh.positions.max(axis=0) - low
    if not side > 0 or math.ceil(float(extent.max()) / side) > SIDE - 2:
        needed = float(extent.max()) / (SIDE - 2)
        raise OperationRefused(
            f"The mesh is more than {SIDE - 2} blocks long.", "size of a block", f"Choose {needed:.3g} m or more."
        )
    triangle, weights = _samples(mesh, side * _APART)
    given = Given(mesh, triangle, weights, colours)
    normals = _face_normals(mesh)[triangle]
    # A face of blocks is between two cells: half a block below it is the one it belongs to.
    points = given.mixed(mesh.positions) - normals * side * (0.5 if carried else 1e-3)
    if carried:
        entries = np.round(given.mixed(mesh.second if mesh.second is not None else mesh.uvs)[:, 0]).astype(np.int64)
        shift = np.zeros(3)
    else:
        entries = BY[by].entries(given)
        middle = low + extent / 2
        shift = np.array((-middle[0], -low[1], -middle[2]))
    cells = np.floor((points + shift) / side + 1e-6).astype(np.int64) + np.array(ORIGIN)
    first = cells.min(axis=0) - 1
    shell = _most_frequent(cells - first, entries)
    filled = _filled(mesh, shell, (first - np.array(ORIGIN)) * side - shift, side)
    places = np.argwhere(filled)
    found = filled[tuple(places.T)]
    places = places + first
    if (places < 0).any() or (places >= SIDE).any():
        raise OperationRefused("The mesh is beyond the bounds of a model.", "mesh", "Move it to the origin.")
    return Blocks().with_cells(places, found)


def _face_normals(mesh: Mesh) -> _Numbers:
    corners = mesh.positions[mesh.triangles].astype(np.float64)
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    return np.asarray(normals / np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-30))


def _samples(mesh: Mesh, apart: float) -> tuple[_Whole, _Numbers]:
    """Places all over the surface, at most so far apart (m): triangles, and barycentric weights."""
    corners = mesh.positions[mesh.triangles].astype(np.float64)
    longest = np.linalg.norm(corners - np.roll(corners, -1, axis=1), axis=2).max(axis=1)
    steps = np.maximum(np.ceil(longest / apart).astype(np.int64), 1)
    if int((steps.astype(np.float64) ** 2).sum() / 2) > _MOST_SAMPLES:
        raise OperationRefused(
            "The mesh has too large a surface for blocks so small.", "size of a block", "Choose larger ones."
        )
    triangles: list[_Whole] = []
    weights: list[_Numbers] = []
    for count in np.unique(steps):
        # The middles of the small triangles that a grid divides it into: none of them is on an edge.
        u, v = (a.ravel() for a in np.meshgrid(np.arange(count), np.arange(count), indexing="ij"))
        lower = np.stack((u, v), axis=1)[u + v < count] + 1 / 3
        upper = np.stack((u, v), axis=1)[u + v < count - 1] + 2 / 3
        share = np.concatenate((lower, upper)) / count
        own = np.flatnonzero(steps == count)
        triangles.append(np.repeat(own, len(share)))
        every = np.stack((1 - share.sum(axis=1), share[:, 0], share[:, 1]), axis=1)
        weights.append(np.tile(every, (len(own), 1)))
    return np.concatenate(triangles), np.concatenate(weights)


def _most_frequent(cells: _Whole, entries: _Whole) -> Cells:
    """A whole array of the cells that hold samples, each with the entry that most of them have."""
    shape = tuple(int(n) for n in cells.max(axis=0) + 2)
    key = np.ravel_multi_index(tuple(cells.T), shape) * (MOST_ENTRIES + 1) + entries
    found, counts = np.unique(key, return_counts=True)
    order = np.argsort(counts, kind="stable")
    made = np.zeros(int(np.prod(shape)), dtype=np.uint16)
    made[found[order] // (MOST_ENTRIES + 1)] = found[order] % (MOST_ENTRIES + 1)
    return made.reshape(shape)


def _filled(mesh: Mesh, shell: Cells, origin: _Numbers, side: float) -> Cells:
    """With the cells that the surface encloses, each of the entry of the nearest that it goes through."""
    maybe = np.argwhere(ndimage.binary_fill_holes(shell > 0) & (shell == 0))
    if not len(maybe):
        return shell
    middles = origin + (maybe + 0.5) * side
    winding = igl.fast_winding_number(
        mesh.positions.astype(np.float64), mesh.triangles.astype(np.int64), np.ascontiguousarray(middles)
    )
    inside = maybe[np.abs(np.asarray(winding).reshape(-1)) > 0.5]
    nearest = ndimage.distance_transform_edt(shell == 0, return_distances=False, return_indices=True)
    made = shell.copy()
    made[tuple(inside.T)] = shell[tuple(nearest[(slice(None), *inside.T)])]
    return made
