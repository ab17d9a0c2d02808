"""What is found out about a mesh: its parts, pieces and size, and verdicts as sentences."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from velvet_moth.core.forms.mesh import VERTEX_CHANNELS, Mesh
from velvet_moth.core.meshes.normals import around_edges, face_normals, places_of
from velvet_moth.core.meshes.rows import numbered

# In metres: less and more are likely to be another unit.
_SMALL, _LARGE = 0.005, 100.0
# So many values over the range that a channel has are not told from a smooth one by the eye.
_STEPS = 250
# Open edges that are no farther apart, as a share of the size of a mesh, are cracks.
_CRACK = 2e-4


@dataclass(frozen=True)
class Channel:
    """One number at the vertices: its name, least, greatest and mean, and how many different values it has."""

    name: str
    low: float
    high: float
    mean: float
    values: int


@dataclass(frozen=True)
class Verdict:
    """A sentence about a mesh, or one ``channel`` of it. ``key`` is a stable word; ``severity`` is ``warning`` or ``note``."""

    key: str
    severity: str
    words: str
    channel: str = ""


@dataclass(frozen=True)
class MeshFacts:
    """Counts, the lowest and highest corner (metres), how much surface there is (m²), channels, and verdicts."""

    vertices: int
    triangles: int
    places: int
    parts: tuple[tuple[str, int], ...]
    pieces: int
    low: tuple[float, float, float]
    high: tuple[float, float, float]
    area: float
    channels: tuple[Channel, ...]
    verdicts: tuple[Verdict, ...]


def pieces_of(corners: NDArray[np.int64]) -> NDArray[np.int64]:
    """For each triangle the number of its piece: those that share corners (m, 3), which are numbered, are one."""
    count = int(corners.max()) + 1
    a, b = corners.reshape(-1), np.roll(corners, -1, axis=1).reshape(-1)
    joined = coo_array((np.ones(len(a), dtype=np.int8), (a, b)), (count, count))
    label = connected_components(joined, directed=False)[1]
    return np.unique(label[corners[:, 0]], return_inverse=True)[1].reshape(-1).astype(np.int64)


def _carried(mesh: Mesh) -> tuple[str, ...]:
    """The channels that a mesh has numbers for."""
    return VERTEX_CHANNELS[: 4 if mesh.second_colours is None else 8]


def facts_of(mesh: Mesh, has_uvs: bool, depth: str = "") -> MeshFacts:
    """What there is to know of a mesh; ``has_uvs``: whether its UVs are its own, ``depth``: how its colours were kept."""
    normals, areas = face_normals(mesh.positions, mesh.triangles)
    places = places_of(mesh.positions)
    channels = tuple(_channel(name, values) for name, values in zip(_carried(mesh), mesh.data.T, strict=False))
    low, high = mesh.box
    return MeshFacts(
        vertices=len(mesh.positions),
        triangles=len(mesh.triangles),
        places=int(places.max()) + 1,
        parts=_parts(mesh),
        pieces=int(pieces_of(places[mesh.triangles]).max()) + 1,
        low=_three(low),
        high=_three(high),
        area=float(areas.sum()),
        channels=channels,
        verdicts=tuple(_verdicts(mesh, normals, areas, places, channels, has_uvs, depth)),
    )


def _three(v: NDArray[np.float32]) -> tuple[float, float, float]:
    x, y, z = (float(part) for part in v)
    return x, y, z


def _parts(mesh: Mesh) -> tuple[tuple[str, int], ...]:
    """Names of parts with their triangles."""
    if mesh.part_of is None:
        return ()
    counts = np.bincount(mesh.part_of, minlength=len(mesh.part_names))
    return tuple((name or "without a name", int(count)) for name, count in zip(mesh.part_names, counts, strict=True))


def _channel(name: str, values: NDArray[np.float32]) -> Channel:
    return Channel(name, float(values.min()), float(values.max()), float(values.mean()), len(np.unique(values)))


def _many(count: int, one: str, several: str) -> str:
    return f"1 {one}" if count == 1 else f"{count:,} {several}"


def _verdicts(
    mesh: Mesh,
    normals: NDArray[np.float64],
    areas: NDArray[np.float64],
    places: NDArray[np.int64],
    channels: tuple[Channel, ...],
    has_uvs: bool,
    depth: str,
) -> list[Verdict]:
    found = [] if has_uvs else [Verdict("no-uvs", "warning", "It has no UVs: textures need some, or a projection.")]
    flat = int((areas <= 1e-16).sum())
    if flat:
        found.append(Verdict("no-area", "warning", f"{_many(flat, 'triangle has', 'triangles have')} no area."))
    found += _edges(mesh, normals, places)
    found += _size(mesh)
    if has_uvs:
        found += _uvs(mesh)
    for channel in channels:
        if channel.low == channel.high and channel.low != 1.0:
            words = f"Its {channel.name} is {channel.low:.3g} everywhere."
            found.append(Verdict("even-channel", "note", words, channel.name))
        elif depth == "8 bit" and 32 < channel.values <= 256 and _is_smooth(mesh, channel.name):
            words = f"Its {channel.name} is smooth but kept in 8 bits: where it is stretched, steps will show."
            found.append(Verdict("coarse-channel", "note", words, channel.name))
    return found


def _edges(mesh: Mesh, faces: NDArray[np.float64], places: NDArray[np.int64]) -> list[Verdict]:
    """Of open edges, of edges where more than two faces meet, of doubled vertices, and of faces turned inside out."""
    found = []
    pairs, edge = around_edges(places, mesh.triangles)
    _, which, sides = np.unique(edge, return_inverse=True, return_counts=True)
    opened, crowded = int((sides == 1).sum()), int((sides > 2).sum())
    if crowded:
        words = f"At {_many(crowded, 'edge', 'edges')} more than two faces meet."
        found.append(Verdict("crowded-edges", "warning", words))
    rows = numbered(mesh.positions, mesh.normals, mesh.uvs, mesh.colours)
    doubled = len(rows) - int(rows.max()) - 1
    if doubled:
        words = f"{_many(doubled, 'vertex is', 'vertices are')} there twice."
        found.append(Verdict("doubled", "note", words))
    start = places[mesh.triangles].reshape(-1)
    same_way = int((start[pairs[:, 0]] == start[pairs[:, 1]]).sum())
    if same_way:
        words = f"At {_many(same_way, 'edge', 'edges')} the faces beside it are turned to different sides."
        found.append(Verdict("mixed-winding", "warning", words))
    cracks = _cracks(mesh, places, sides[which] == 1) if opened else 0
    if cracks:
        words = (
            f"At {_many(cracks, 'place', 'places')} open edges lie so near to each other that they look like cracks."
        )
        found.append(Verdict("cracks", "warning", words))
    if opened:
        words = f"It has {_many(opened, 'open edge', 'open edges')}: seen from behind, its backs show."
        found.append(Verdict("open-edges", "note", words))
    elif not same_way and _volume(mesh) < 0:
        found.append(Verdict("reversed", "warning", "Its faces are turned inside out."))
    agree = np.sum(faces * mesh.normals[mesh.triangles[:, 0]], axis=1)
    if np.mean(agree < 0) > 0.5:
        found.append(Verdict("normals-against", "warning", "Its normals point against its faces."))
    return found


def _cracks(mesh: Mesh, places: NDArray[np.int64], is_open: NDArray[np.bool_]) -> int:
    """How many pairs of places at open edges nearly touch, though no edge joins them; ``is_open`` says it of every side."""
    start, end = (
        places[corners.reshape(-1)][is_open] for corners in (mesh.triangles, np.roll(mesh.triangles, -1, axis=1))
    )
    rim, first = np.unique(np.concatenate((start, end)), return_index=True)
    corners = np.concatenate([c.reshape(-1)[is_open] for c in (mesh.triangles, np.roll(mesh.triangles, -1, axis=1))])
    low, high = mesh.box
    near = cKDTree(mesh.positions[corners[first]]).query_pairs(
        float((high - low).max()) * _CRACK, output_type="ndarray"
    )
    joined = set(zip(np.minimum(start, end).tolist(), np.maximum(start, end).tolist(), strict=True))
    pairs = zip(rim[near[:, 0]].tolist(), rim[near[:, 1]].tolist(), strict=True)
    return sum((min(a, b), max(a, b)) not in joined for a, b in pairs)


def _volume(mesh: Mesh) -> float:
    a, b, c = (mesh.positions[mesh.triangles[:, i]].astype(np.float64) for i in range(3))
    return float(np.sum(a * np.cross(b, c)) / 6)


def _size(mesh: Mesh) -> list[Verdict]:
    low, high = mesh.box
    size = float((high - low).max())
    if size > _LARGE:
        return [Verdict("large", "warning", f"It measures {size:,.0f} m: is its unit right?")]
    if size < _SMALL:
        return [Verdict("small", "warning", f"It measures {size * 1000:.2g} mm: is its unit right?")]
    return []


def _uvs(mesh: Mesh) -> list[Verdict]:
    low, high = float(mesh.uvs.min()), float(mesh.uvs.max())
    if low < -1e-4 or high > 1.0001:
        words = (
            f"Its UVs reach from {low:.2f} to {high:.2f}: beyond 0 to 1 a texture repeats, and nothing can be baked."
        )
        return [Verdict("uvs-outside", "note", words)]
    return []


def _is_smooth(mesh: Mesh, name: str) -> bool:
    """Whether a channel changes little along most edges."""
    values = mesh.data[:, VERTEX_CHANNELS.index(name)]
    steps = np.abs(values[mesh.triangles] - values[np.roll(mesh.triangles, -1, axis=1)])
    spread = float(values.max() - values.min())
    return bool(np.quantile(steps, 0.9) < 0.1 * spread)
