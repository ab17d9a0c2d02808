"""Triangle meshes with everything a surface point needs, and their making from grids of positions."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.forms.view import Camera

Floats = NDArray[np.float32]
# Two sets of four numbers at each vertex, by name.
VERTEX_CHANNELS = ("red", "green", "blue", "alpha", "second red", "second green", "second blue", "second alpha")


@dataclass(frozen=True, eq=False)
class Mesh:
    """``positions``, ``normals`` (n, 3), ``tangents`` (n, 4; w the sign of the bitangent), ``uvs`` (n, 2),

    ``colours`` (n, 4), all float32, metres, y up; ``triangles`` (m, 3) uint32, counter-clockwise from outside.
    Vertex colours are data: white where nothing was baked or painted. ``scale`` is how much larger it is than the form
    it was made from, ``unposed`` that form. ``second``: other texture coordinates (n, 2), where it has any. ``part_of`` (m,)
    counts into ``part_names``, where it has parts. ``second_colours``: four more numbers at each vertex (n, 4), where it has any.
    ``instance``: what the instance of each vertex knows, by the name of the surface input, (n, components), where a form is drawn many
    times. ``carried``: the channels it has numbers for, each with what these mean, which may be empty; None where nobody knows.
    """

    positions: Floats
    normals: Floats
    tangents: Floats
    uvs: Floats
    colours: Floats
    triangles: NDArray[np.uint32]
    scale: tuple[float, float, float] = (1.0, 1.0, 1.0)
    unposed: "Mesh | None" = None
    second: Floats | None = None
    part_of: NDArray[np.int32] | None = None
    part_names: tuple[str, ...] = ()
    second_colours: Floats | None = None
    carried: Mapping[str, str] | None = None
    instance: Mapping[str, Floats] | None = None

    @property
    def own(self) -> "Mesh":
        """The form by itself, where this one has been scaled and turned."""
        return self.unposed or self

    @property
    def data(self) -> Floats:
        """All numbers at the vertices, (n, 8): both sets of four; 1 where there is no second."""
        return np.concatenate((self.colours, self.second_data), axis=1)

    @property
    def second_data(self) -> Floats:
        """The second four numbers at the vertices, (n, 4); 1 where there are none."""
        return white(len(self.positions)) if self.second_colours is None else self.second_colours

    @property
    def second_uvs(self) -> Floats:
        """The second set of texture coordinates; the first where it has no other."""
        return self.uvs if self.second is None else self.second

    def only(self, kept: NDArray[np.bool_]) -> "Mesh":
        """The mesh of the vertices that are ``kept``, which are all that its triangles use."""
        place = (np.cumsum(kept) - 1).astype(np.uint32)
        return replace(self.taken(np.flatnonzero(kept)), triangles=place[self.triangles])

    def taken(self, at: NDArray[np.int64]) -> "Mesh":
        """The same triangles with other vertices: for each the one of this mesh that it is."""
        return replace(
            self,
            positions=self.positions[at],
            normals=self.normals[at],
            tangents=self.tangents[at],
            uvs=self.uvs[at],
            colours=self.colours[at],
            second=None if self.second is None else self.second[at],
            second_colours=None if self.second_colours is None else self.second_colours[at],
        )

    @cached_property
    def box(self) -> tuple[Floats, Floats]:
        """The lowest and highest corner, (3,) each."""
        return self.positions.min(axis=0), self.positions.max(axis=0)

    @cached_property
    def is_closed(self) -> bool:
        """Whether the surface ends nowhere, so that from outside only its front is seen.

        Then each side of a triangle is met by that of another one which runs the other way, to a hundredth of a millimetre.
        """
        place = np.unique(np.round(self.positions, 5), axis=0, return_inverse=True)[1].reshape(-1).astype(np.int64)
        start, end = place[self.triangles], place[np.roll(self.triangles, -1, axis=1)]
        count = len(place)
        there, back = (pair[start != end] for pair in (start * count + end, end * count + start))
        return np.array_equal(np.sort(there), np.sort(back))


def with_faces(mesh: Mesh) -> tuple[Mesh, Floats]:
    """The mesh with a vertex of its own as the last corner of every triangle; and for each vertex what a GPU takes of that one

    for the whole triangle, (n, 4): the triangle's middle (metres) and its number.
    """
    count, own = len(mesh.positions), len(mesh.positions) + np.arange(len(mesh.triangles), dtype=np.uint32)
    at = np.concatenate((np.arange(count), mesh.triangles[:, 2].astype(np.int64)))
    faces = np.zeros((len(at), 4), dtype=np.float32)
    faces[count:, :3] = mesh.positions[mesh.triangles].mean(axis=1)
    faces[count:, 3] = np.arange(len(own))
    return replace(mesh.taken(at), triangles=np.stack((*mesh.triangles.T[:2], own), axis=1)), faces


def white(count: int) -> Floats:
    """Vertex colours where nothing was baked or painted, (count, 4)."""
    return np.ones((count, 4), dtype=np.float32)


def square(rows: int, columns: int) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """u along columns and v up the rows, 0..1, (rows, columns) each."""
    v, u = np.meshgrid(np.linspace(0, 1, rows), np.linspace(0, 1, columns), indexing="ij")
    return u, v


def with_normals(made: Mesh, outward: NDArray[np.float64]) -> Mesh:
    """The mesh with exact normals in the place of those found by differences; tangents are turned square to them."""
    normals = unit_vectors(outward.reshape(-1, 3))
    along = made.tangents[:, :3] - normals * np.sum(made.tangents[:, :3] * normals, axis=1, keepdims=True)
    tangents = np.concatenate((unit_vectors(along), made.tangents[:, 3:]), axis=1)
    return replace(made, normals=normals.astype(np.float32), tangents=tangents.astype(np.float32))


def with_data(made: Mesh, *channels: NDArray[np.float64] | float) -> Mesh:
    """The mesh with up to four numbers at its vertices; the others are 1."""
    count = len(made.positions)
    data = np.ones((count, 4), dtype=np.float32)
    for index, channel in enumerate(channels):
        data[:, index] = np.broadcast_to(np.asarray(channel, dtype=np.float32).ravel(), count)
    return replace(made, colours=data)


def joined(parts: list[Mesh]) -> Mesh:
    """Several meshes as one."""
    starts = np.cumsum([0, *(len(p.positions) for p in parts[:-1])])
    return Mesh(
        np.concatenate([p.positions for p in parts]),
        np.concatenate([p.normals for p in parts]),
        np.concatenate([p.tangents for p in parts]),
        np.concatenate([p.uvs for p in parts]),
        np.concatenate([p.colours for p in parts]),
        np.concatenate([p.triangles + np.uint32(s) for p, s in zip(parts, starts, strict=True)]),
    )


def unit_vectors(v: NDArray[np.float64]) -> NDArray[np.float64]:
    """Vectors (..., 3) at length one."""
    return np.asarray(v / np.maximum(np.linalg.norm(v, axis=-1, keepdims=True), 1e-12))


def _slope(p: NDArray[np.float64], axis: int, closed: bool) -> NDArray[np.float64]:
    """Differences along a grid axis; a closed axis (first line repeated as last) is differenced around."""
    if not closed:
        return np.asarray(np.gradient(p, axis=axis))
    inner = np.take(p, range(p.shape[axis] - 1), axis=axis)
    around = np.roll(inner, -1, axis) - np.roll(inner, 1, axis)
    return np.concatenate((around, np.take(around, [0], axis=axis)), axis=axis) / 2


def _filled(direction: NDArray[np.float64]) -> NDArray[np.float64]:
    """Rows collapsed to a pole have no direction along u: they take their neighbour row's."""
    for row, other in ((0, 1), (-1, -2)):
        if np.linalg.norm(direction[row], axis=-1).max() < 1e-9:
            direction[row] = direction[other]
    return direction


def grid(positions: NDArray[np.float64], uvs: NDArray[np.float64], closed: bool = False) -> Mesh:
    """A smooth mesh from positions (rows, columns, 3): u along columns, v along rows, outside on their left.

    ``closed`` joins the last column to the first for the normals (their UVs still differ).
    """
    rows, columns = positions.shape[:2]
    along_u = _filled(_slope(positions, 1, closed))
    along_v = _slope(positions, 0, closed=False)
    normals = unit_vectors(np.cross(along_u, along_v))
    for pole in (0, -1):
        if np.ptp(positions[pole], axis=0).max() < 1e-9 and columns > 2:
            normals[pole] = unit_vectors(normals[pole, :-1].mean(axis=0))
    tangents = unit_vectors(along_u - normals * np.sum(along_u * normals, axis=-1, keepdims=True))
    index = np.arange(rows * columns).reshape(rows, columns)
    a, b, c, d = index[:-1, :-1], index[:-1, 1:], index[1:, 1:], index[1:, :-1]
    triangles = np.stack((a, b, c, a, c, d), axis=-1).reshape(-1, 3)
    corners = positions.reshape(-1, 3)[triangles]
    area = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
    return Mesh(
        positions.reshape(-1, 3).astype(np.float32),
        normals.reshape(-1, 3).astype(np.float32),
        np.concatenate((tangents.reshape(-1, 3), np.ones((rows * columns, 1))), axis=1).astype(np.float32),
        uvs.reshape(-1, 2).astype(np.float32),
        white(rows * columns),
        triangles[area > 1e-12].astype(np.uint32),
    )


@dataclass(frozen=True)
class Cells:
    """How finely a form may be made, in squares along a side: at least, at most, and where nothing is said."""

    low: int
    high: int
    default: int


@dataclass(frozen=True)
class Form:
    """A form of the stage: its name for people, how it is made, and from where it is first seen.

    Where it has ``cells``, ``make`` takes their number, and a key may name it after a colon: "plane:24".
    """

    key: str
    name: str
    make: Callable[..., Mesh]
    view: Camera
    cells: Cells | None = None


FORMS: dict[str, Form] = {}


def declared_form(
    name: str, view: Camera | None = None, cells: Cells | None = None
) -> Callable[[Callable[..., Mesh]], Callable[..., Mesh]]:
    """Decorator that enters a form in the table, with the eye it is first seen from; it is made once."""

    def decorate(make: Callable[..., Mesh]) -> Callable[..., Mesh]:
        made = lru_cache(maxsize=4)(make)
        FORMS[make.__name__] = Form(make.__name__, name, made, view or Camera(), cells)
        return made

    return decorate


def _named(key: str) -> tuple[Form, int]:
    """The form that a key names, and of how many cells; 0 where it is made in one fineness. Refuses as ``form_kind``."""
    name, colon, told = key.partition(":")
    if name not in FORMS:
        raise FileRefused(f"There is no form {name[:40]!r}.", "form", f"Choose one of {', '.join(FORMS)}.")
    kind = FORMS[name]
    if kind.cells is None:
        if colon:
            raise FileRefused(f"{kind.name} is made in one fineness.", key[:40], f"Ask for {name!r}.")
        return kind, 0
    low, high, default = kind.cells.low, kind.cells.high, kind.cells.default
    if not colon:
        return kind, default
    if not (told.isascii() and told.isdigit() and len(told) < 6 and low <= int(told) <= high):
        raise FileRefused(
            f"{kind.name} is made of {low} to {high} cells along a side.", key[:40], f"Ask for {name}:{default}."
        )
    return kind, int(told)


def form_kind(key: str) -> Form:
    """The form that a key names, with its cells or without; FileRefused where there is none, or it cannot be so fine."""
    return _named(key)[0]


def is_form(key: str) -> bool:
    """Whether a key names a form that can be made."""
    try:
        form_kind(key)
    except FileRefused:
        return False
    return True


def form(key: str) -> Mesh:
    """The mesh of a form by its key; FileRefused as ``form_kind``."""
    kind, cells = _named(key)
    return kind.make(cells) if cells else kind.make()
