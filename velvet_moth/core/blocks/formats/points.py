"""PLY, each block a point: its place, and its entry as a number or as a colour."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.blocks.cells import MOST_ENTRIES, Blocks
from velvet_moth.core.blocks.formats.base import AGAIN, Asked, BlockFormat, Colours, standing
from velvet_moth.core.blocks.model import ORIGIN
from velvet_moth.core.blocks.of_mesh import nearest_entries
from velvet_moth.core.language.texture import linear_to_srgb, srgb_to_linear
from velvet_moth.core.meshes.formats.base import Damaged
from velvet_moth.core.meshes.formats.ply_data import tables

_ENTRIES = ("entry", "index", "material", "material_index")
_COLOUR = ("red", "green", "blue")


def _decode(data: bytes, asked: Asked) -> Blocks:
    try:
        columns: dict[str, Any] = tables(data).get("vertex", {})
    except Damaged as error:
        raise FileRefused(str(error), asked.where, AGAIN) from error
    if not {"x", "y", "z"} <= columns.keys():
        raise FileRefused("The points have no x, y and z.", asked.where, AGAIN)
    points = np.stack([np.asarray(columns[axis], dtype=np.float64) for axis in "xyz"], axis=1)
    if not len(points) or not np.isfinite(points).all():
        raise FileRefused("The file holds no points, or some that are nowhere.", asked.where, AGAIN)
    cells = np.round((points - points.min(axis=0)) / _apart(points)).astype(np.int64)
    return standing(cells, _entries(columns, asked), asked.where)


def _apart(points: NDArray[np.float64]) -> float:
    """How far neighbours are from each other: the smallest step between places along any axis that is no rounding."""
    extent = float(np.ptp(points, axis=0).max())
    steps = np.concatenate([np.diff(np.unique(points[:, axis])) for axis in range(3)])
    steps = steps[steps > max(extent * 1e-5, 1e-12)]
    return float(steps.min()) if len(steps) else 1.0


def _entries(columns: dict[str, Any], asked: Asked) -> NDArray[np.int64]:
    name = next((one for one in _ENTRIES if one in columns), None)
    if name is not None:
        found = np.round(np.asarray(columns[name], dtype=np.float64)).astype(np.int64)
        if found.min() < 1 or found.max() > MOST_ENTRIES:
            raise FileRefused(f"An entry of the file is not 1 to {MOST_ENTRIES}.", asked.where, "Number them from 1.")
        return found
    if not set(_COLOUR) <= columns.keys():
        return np.full(len(columns["x"]), asked.entry, dtype=np.int64)
    if not len(asked.colours):
        raise FileRefused("Colours need a palette to be found in.", asked.where, "Choose a palette first.")
    values = np.stack([np.asarray(columns[part]) for part in _COLOUR], axis=1)
    most = np.iinfo(values.dtype).max if values.dtype.kind in "iu" else 1.0
    shares = (values / most).astype(np.float32)
    return nearest_entries(srgb_to_linear(shares).astype(np.float64), asked.colours)


def _encode(blocks: Blocks, size: float, colours: Colours) -> bytes:
    places = blocks.places()
    kept = np.zeros(
        len(places),
        dtype=[*((axis, "<f4") for axis in "xyz"), ("entry", "<u2"), *((part, "u1") for part in _COLOUR)],
    )
    for axis, values in zip("xyz", ((places - np.array(ORIGIN) + 0.5) * size).T, strict=True):
        kept[axis] = values
    kept["entry"] = blocks.at(places)
    if len(colours):
        shown = np.round(linear_to_srgb(colours.astype(np.float32)) * 255)
        for part, values in zip(_COLOUR, shown[(kept["entry"].astype(int) - 1) % len(shown)].T, strict=True):
            kept[part] = values
    head = [
        "ply",
        "format binary_little_endian 1.0",
        "comment each point is the middle of a block",
        f"element vertex {len(kept)}",
        *(f"property float {axis}" for axis in "xyz"),
        "property ushort entry",
        *(f"property uchar {part}" for part in _COLOUR),
        "end_header",
    ]
    return ("\n".join(head) + "\n").encode() + kept.tobytes()


POINTS = BlockFormat(
    "points",
    "PLY points",
    "a point for each block, with its entry or a colour",
    ".ply",
    "application/octet-stream",
    lambda data: data[:4] in (b"ply\n", b"ply\r"),
    _decode,
    _encode,
)
