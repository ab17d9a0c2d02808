"""OBJ, the text format of positions, texture coordinates and normals, with the usual colours after the position.

Read here and not by a library: those at hand merge the parts of a file into one, or lose colours where there are texture
coordinates beside them.
"""

import re
import warnings
from typing import Any

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.meshes.formats.base import Damaged, Files, MeshFormat
from velvet_moth.core.meshes.formats.polygons import triangulated
from velvet_moth.core.meshes.source import SourceMesh

_STATEMENT = re.compile(rb"^\s*(?:v|vt|vn|f|o|g)\s+\S", re.MULTILINE)
# A file with no statement in its first part is another one.
_LOOKED_AT = 1 << 16
_LEFT_OUT = {
    b"usemtl": "materials",
    b"l": "lines",
    b"p": "points",
    b"curv": "curves",
    b"surf": "curved surfaces",
}
_ENDS = b"\\\r\n", b"\\\n"
_INDENT = re.compile(rb"\n[ \n]+")
# A slash with nothing before or after it.
_LOOSE = b"/ ", b"/\n", b" /"
_NEWLINE, _SPACE = 10, 32


def _is_obj(data: bytes) -> bool:
    return b"\0" not in data[:_LOOKED_AT] and _STATEMENT.search(data[:_LOOKED_AT]) is not None


class _Lines:
    """The statements of a file by their first word, found without taking the text apart line by line."""

    def __init__(self, data: bytes) -> None:
        for end in _ENDS:
            data = data.replace(end, b" ")
        data = _INDENT.sub(b"\n", b"\n" + data.replace(b"\r", b"\n").replace(b"\t", b" ") + b"\n")
        self.text = np.frombuffer(data, dtype=np.uint8)
        ends = np.flatnonzero(self.text == _NEWLINE)
        self.starts, self.ends = ends[:-1] + 1, ends[1:]

    def of(self, word: bytes) -> NDArray[np.bool_]:
        """Which lines begin with a word."""
        found = self.ends - self.starts > len(word)
        for at, letter in enumerate(word + b" "):
            found[found] = self.text[self.starts[found] + at] == letter
        return found

    def cut(self, lines: NDArray[np.bool_], word: bytes) -> bytes:
        """The text of some lines without their first word, each with its end. No number has a letter of the word in it."""
        edges = np.flatnonzero(np.diff(lines.astype(np.int8), prepend=0, append=0))
        runs = zip(self.starts[edges[::2]], self.ends[edges[1::2] - 1] + 1, strict=True)
        return b"".join([self.text[start:end].tobytes() for start, end in runs]).translate(None, word)

    def words(self, lines: NDArray[np.int64]) -> list[bytes]:
        """Some lines, whole."""
        return [self.text[self.starts[at] : self.ends[at]].tobytes() for at in lines]


def _parsed(text: bytes, kind: type[np.float64] | type[np.int64], what: str) -> NDArray[Any]:
    """All numbers of a text."""
    with warnings.catch_warnings():
        # Where a number ends in something else, NumPy warns and gives what it has.
        warnings.simplefilter("error", DeprecationWarning)
        try:
            return np.fromstring(text, dtype=kind, sep=" ")
        except (DeprecationWarning, ValueError) as error:
            raise Damaged(f"A line of {what} holds something else than numbers.") from error


def _counted(text: bytes) -> NDArray[np.int64]:
    """How many words each line of a text has."""
    letters = np.frombuffer(text, dtype=np.uint8)
    is_blank = (letters == _SPACE) | (letters == _NEWLINE)
    begins = np.flatnonzero(~is_blank & np.concatenate(([True], is_blank[:-1])))
    return np.diff(np.searchsorted(begins, np.flatnonzero(letters == _NEWLINE)), prepend=0)


def _numbers(text: bytes, what: str) -> NDArray[np.float64]:
    """The numbers of statements of one sort, a row each; rows that are shorter end in NaN."""
    counts = _counted(text)
    if not len(counts):
        return np.zeros((0, 0))
    values = _parsed(text, np.float64, what)
    if len(values) != counts.sum():
        raise Damaged(f"A line of {what} holds something else than numbers.")
    width = int(counts.max())
    rows = np.full((len(counts), width), np.nan)
    rows[np.arange(width) < counts[:, None]] = values
    return rows


def _corners(text: bytes) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Every corner of every face as (position, texture, normal), 0 for none; and how many corners each face has."""
    sizes = _counted(text)
    if len(sizes) and sizes.min() < 3:
        raise Damaged("A face has fewer than three corners.")
    total = int(sizes.sum())
    slashes, doubled = text.count(b"/"), text.count(b"//")
    if doubled == total and slashes == 2 * total:
        text = text.replace(b"//", b" 0 ")
    elif doubled or slashes not in (0, total, 2 * total) or any(loose in text for loose in _LOOSE):
        return _mixed_corners(text), sizes
    found = _parsed(text.replace(b"/", b" "), np.int64, "faces")
    width = slashes // max(total, 1) + 1
    if len(found) != total * width:
        return _mixed_corners(text), sizes
    return np.pad(found.reshape(total, width), ((0, 0), (0, 3 - width))), sizes


def _mixed_corners(text: bytes) -> NDArray[np.int64]:
    """Corners of which some have fewer indices than others."""
    tokens = text.split()
    if max((token.count(b"/") for token in tokens), default=0) > 2:
        raise Damaged("A corner of a face has more than three indices.")
    rows = [[part or b"0" for part in (token + b"//").split(b"/")[:3]] for token in tokens]
    try:
        return np.array(rows, dtype="S20").astype(np.int64).reshape(-1, 3)
    except (ValueError, OverflowError) as error:
        raise Damaged("A face holds something else than indices.") from error


def _resolved(index: NDArray[np.int64], counts: NDArray[np.int64], total: int, what: str) -> NDArray[np.int64]:
    """From 1 forwards or from -1 backwards to places from 0; -1 for none. ``counts``: how many there were before each."""
    found = np.where(index > 0, index - 1, np.where(index < 0, counts + index, -1))
    wrong = (index != 0) & ((found < 0) | (found >= total))
    if wrong.any():
        raise Damaged(f"A face uses {what} {int(index[np.argmax(wrong)])}, but there are {total}.")
    return found


def _decode(files: Files, name: str) -> SourceMesh:
    lines = _Lines(files[name])
    kinds = {kind: lines.of(kind) for kind in (b"v", b"vt", b"vn", b"f")}
    values = _numbers(lines.cut(kinds[b"v"], b"v"), "positions")
    corners, sizes = _corners(lines.cut(kinds[b"f"], b"f"))
    if not len(values) or not len(corners):
        raise Damaged("The file holds no faces.")
    if values.shape[1] < 3 or np.isnan(values[:, :3]).any():
        raise Damaged("A position has fewer than three numbers.")
    uvs = _numbers(lines.cut(kinds[b"vt"], b"vt"), "texture coordinates")
    normals = _numbers(lines.cut(kinds[b"vn"], b"vn"), "normals")
    faces = np.flatnonzero(kinds[b"f"])
    totals = (len(values), len(uvs), len(normals))
    found = np.stack(
        [
            _resolved(corners[:, i], np.repeat(np.cumsum(kinds[kind])[faces], sizes), totals[i], what)
            for i, (kind, what) in enumerate(((b"v", "position"), (b"vt", "texture coordinate"), (b"vn", "normal")))
        ],
        axis=1,
    )
    if (found[:, 0] < 0).any():
        raise Damaged("A corner of a face has no position.")
    has_uvs, has_normals = (found[:, 1] >= 0).all(), (found[:, 2] >= 0).all()
    first, vertex_of = _distinct(found, totals)
    kept = found[first]
    # What is beyond all floats is refused later, with its vertex.
    with np.errstate(over="ignore"):
        positions = values[:, :3].astype(np.float32)
    triangles, owner = triangulated(corners=vertex_of, sizes=sizes, positions=positions, place_of=found[:, 0])
    colours, depth = _colours(values)
    part_of, names = _parts(lines, faces)
    place = kept[:, 0]
    return SourceMesh(
        positions[place],
        vertex_of[triangles].astype(np.uint32),
        normals=normals[kept[:, 2], :3].astype(np.float32) if has_normals else None,
        uvs=uvs[kept[:, 1], :2].astype(np.float32) if has_uvs else None,
        colours=None if colours is None else colours[place],
        depth=depth,
        part_of=part_of[owner],
        part_names=names,
        left_out=_left_out(lines, bool(has_uvs) or not len(uvs), bool(has_normals) or not len(normals)),
    )


def _colours(values: NDArray[np.float64]) -> tuple[NDArray[np.float32] | None, str]:
    """Three or four numbers after the position; a single one is a weight, which surfaces without curves do not use."""
    count = values.shape[1] - 3
    if count < 3 or np.isnan(values[:, 3:6]).any():
        return None, ""
    colours = np.ones((len(values), 4), dtype=np.float32)
    colours[:, : min(count, 4)] = np.nan_to_num(values[:, 3:7], nan=1.0)[:, : min(count, 4)]
    # Some write them as whole numbers.
    return (colours / [255, 255, 255, 255 if count > 3 else 1] if colours.max() > 1.0 else colours).astype(
        np.float32
    ), "float"


def _distinct(corners: NDArray[np.int64], totals: tuple[int, int, int]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """The first corner of each different kind, and for each corner which kind it is of."""
    if np.prod([float(total + 1) for total in totals]) < 2.0**62:
        key = corners[:, 0]
        for i in (1, 2):
            key = key * (totals[i] + 1) + corners[:, i] + 1
        _, first, found = np.unique(key, return_index=True, return_inverse=True)
    else:
        _, first, found = np.unique(corners, axis=0, return_index=True, return_inverse=True)
    return first, found.reshape(-1)


def _parts(lines: _Lines, faces: NDArray[np.int64]) -> tuple[NDArray[np.int32], tuple[str, ...]]:
    """For each face the part it is of, by the object or group that was named last before it; and the names."""
    names: dict[str, int] = {}
    named = np.flatnonzero(lines.of(b"o") | lines.of(b"g"))
    called = [text[2:].decode("utf-8", "replace").strip() for text in lines.words(named)]
    last = np.searchsorted(named, faces) - 1
    own = ["", *called]
    used = {int(at): names.setdefault(own[at + 1], len(names)) for at in np.unique(last)}
    table = np.array([used.get(at, 0) for at in range(-1, len(called))], dtype=np.int32)
    return table[last + 1], tuple(names)


def _left_out(lines: _Lines, are_uvs_whole: bool, are_normals_whole: bool) -> tuple[str, ...]:
    found = [f"Its {what} are left out." for word, what in _LEFT_OUT.items() if lines.of(word).any()]
    if not are_uvs_whole:
        found.append("Some corners have no texture coordinates: they are left out.")
    if not are_normals_whole:
        found.append("Some corners have no normal: they are made.")
    return tuple(found)


def _rows(pattern: str, values: NDArray[np.float32] | NDArray[np.int64]) -> str:
    """Lines of numbers; nine digits tell every float32 from all others."""
    return "\n".join(map(pattern.__mod__, map(tuple, values.tolist())))


def _encode(mesh: SourceMesh) -> bytes:
    """Texture coordinates and normals are numbered as the positions are; alpha and second sets have no place."""
    position = mesh.positions if mesh.colours is None else np.concatenate((mesh.positions, mesh.colours[:, :3]), axis=1)
    text = [_rows("v " + " ".join(["%.9g"] * position.shape[1]), position)]
    corner = "%d"
    for word, values in (("vt", mesh.uvs), ("vn", mesh.normals)):
        corner += "/%d" if values is not None else ("/" if word == "vt" else "")
        if values is not None:
            text.append(_rows(f"{word} " + " ".join(["%.9g"] * values.shape[1]), values))
    repeats = corner.count("%d")
    parts = np.zeros(len(mesh.triangles), dtype=np.int32) if mesh.part_of is None else mesh.part_of
    for number, name in enumerate(mesh.part_names or ("",)):
        text += [f"o {' '.join(name.split())}"] if name else []
        faces = mesh.triangles[parts == number].astype(np.int64) + 1
        text.append(_rows(f"f {corner} {corner} {corner}", np.repeat(faces, repeats, axis=1)))
    return "\n".join([*text, ""]).encode()


OBJ = MeshFormat(
    "obj",
    "OBJ",
    (".obj",),
    _is_obj,
    _decode,
    _encode,
    keeps="positions, normals, one set of UVs, colours without alpha, names of parts",
    mimetype="model/obj",
)
