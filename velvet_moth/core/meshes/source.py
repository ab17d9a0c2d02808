"""A mesh as its file holds it, before anything is guessed, made or turned."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.base.errors import FileRefused

Floats = NDArray[np.float32]
Indices = NDArray[np.uint32]

# How numbers at vertices are kept: whole numbers over 0..1, or floats of any range.
DEPTHS: dict[str, np.dtype[Any]] = {"8 bit": np.dtype("u1"), "16 bit": np.dtype("<u2"), "float": np.dtype("<f4")}

# A mesh of more would not be drawn fluently by any device that it is meant for.
MOST_VERTICES = 4_000_000
MOST_TRIANGLES = 8_000_000


@dataclass(frozen=True, eq=False)
class Materials:
    """The looks of a whole mesh: ``materials`` as glTF 2.0 writes them, whose textures count into ``pictures``, PNG files.

    The first is what is seen; ``variants`` are names, each with the number of its material. ``has_levels``: smaller levels of the
    pictures are read too, which mix neighbouring pixels.
    """

    materials: tuple[Mapping[str, Any], ...]
    pictures: tuple[bytes, ...]
    variants: tuple[tuple[str, int], ...] = ()
    has_levels: bool = False


@dataclass(frozen=True, eq=False)
class SourceMesh:
    """``positions`` (n, 3) in the file's own unit and axes, ``triangles`` (m, 3), and what else it carries; None for nothing.

    ``normals`` (n, 3), ``tangents`` (n, 4), two sets of ``uvs`` (n, 2) with V up, ``colours`` (n, 4) in 0..1 with the
    name of the ``depth`` they are kept in (one of ``DEPTHS``), ``second_colours`` (n, 4), always floats, ``more``: further numbers at the vertices by name, (n,) each. ``part_of`` (m,)
    counts into ``part_names``. ``left_out``: sentences about what was not taken over. ``looks``: of the whole, where it is sent out with them.
    """

    positions: Floats
    triangles: Indices
    normals: Floats | None = None
    tangents: Floats | None = None
    uvs: Floats | None = None
    second_uvs: Floats | None = None
    colours: Floats | None = None
    second_colours: Floats | None = None
    depth: str = ""
    more: Mapping[str, Floats] = field(default_factory=dict)
    part_of: NDArray[np.int32] | None = None
    part_names: tuple[str, ...] = ()
    left_out: tuple[str, ...] = ()
    looks: Materials | None = None


def checked(mesh: SourceMesh, where: str) -> SourceMesh:
    """The mesh, if it can be drawn: something is there, indices are in range, and every number is one."""
    again = "Export it again from where it was made."
    if not len(mesh.positions) or not len(mesh.triangles):
        raise FileRefused("The file holds no triangles.", where, "Export the mesh itself, not only points or curves.")
    check_counts(len(mesh.positions), len(mesh.triangles), where)
    if mesh.triangles.max() >= len(mesh.positions):
        what = f"A triangle uses vertex {int(mesh.triangles.max())}, but there are {len(mesh.positions)}."
        raise FileRefused(what, where, again)
    kept = {
        "position": mesh.positions,
        "normal": mesh.normals,
        "tangent": mesh.tangents,
        "UV": mesh.uvs,
        "second UV": mesh.second_uvs,
        "colour": mesh.colours,
        "second colour": mesh.second_colours,
        **mesh.more,
    }
    for name, values in kept.items():
        if values is None:
            continue
        if len(values) != len(mesh.positions):
            what = f"There are {len(values)} values of {name} for {len(mesh.positions)} vertices."
            raise FileRefused(what, where, again)
        if not np.isfinite(values).all():
            at = int(np.argmin(np.isfinite(values.reshape(len(values), -1)).all(axis=1)))
            raise FileRefused(f"The {name} of vertex {at} is no number.", where, again)
    if np.abs(mesh.positions).max() > 1e7:
        raise FileRefused("A vertex is more than ten million units away.", where, "Move the mesh to the origin.")
    return mesh


def stored(values: Floats, depth: str) -> NDArray[Any]:
    """Numbers as they are kept in a depth; whole numbers are rounded and stop at 0 and 1."""
    kind = DEPTHS.get(depth, DEPTHS["float"])
    if kind.kind == "f":
        return values.astype(kind)
    most = np.iinfo(kind).max
    return np.asarray(np.rint(np.clip(values, 0.0, 1.0) * np.float64(most)), dtype=kind)


def check_counts(vertices: int, triangles: int, where: str) -> None:
    """FileRefused where a mesh has, or says it has, more than can be kept."""
    for count, most, what in ((vertices, MOST_VERTICES, "vertices"), (triangles, MOST_TRIANGLES, "triangles")):
        if count > most:
            raise FileRefused(f"The mesh has {count:,} {what}; at most {most:,} are read.", where, "Simplify it first.")
