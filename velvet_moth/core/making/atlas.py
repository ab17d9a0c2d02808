"""Steps that lay many pictures onto one grid: atlases, and palettes of whole materials."""

from collections.abc import Callable, Mapping, Sequence
from typing import Annotated as A
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.catalogue.settings import TileMap, choice, number, tiles, whole
from velvet_moth.core.language.texture import Floats
from velvet_moth.core.making.layer import Canvas, Layer, unit_length
from velvet_moth.core.making.step import PlacedTile, step
from velvet_moth.core.pictures.atlas import MOST_SIDE, Grid
from velvet_moth.core.pictures.reading import RoleKey

BEYOND = {"edge": cv2.BORDER_REPLICATE, "repeat": cv2.BORDER_WRAP, "nothing": cv2.BORDER_CONSTANT}
Columns = A[int, whole(1, MOST_SIDE, "side by side")]
Rows = A[int, whole(1, MOST_SIDE, "one below the other")]
Padding = A[float, number(0, 0.25, "gutter at each side, as a share of a cell: Atlas cell takes the same number")]
Bleed = A[str, choice(*BEYOND, words="what fills the gutters: the picture's edge, or the picture as it repeats")]


def _too_many(values: Mapping[str, Any]) -> str:
    count, cells = len(values["tiles"]), values["columns"] * values["rows"]
    return (
        f"{count} tiles do not fit {cells} cells: add a column or a row, or take tiles away." if count > cells else ""
    )


def _as_colour(layer: Layer) -> Floats:
    """Four channels."""
    return np.concatenate((layer.colour, layer.alpha[None]))


def _as_normal(layer: Layer) -> Floats:
    if layer.role != "normal" or layer.channels != 3:
        raise OperationRefused(
            "A picture that is not read as a normal map cannot stand for one.",
            "normal of a tile",
            "Read it as a normal map, or make one of it by Normal from height.",
        )
    return layer.values


# How a picture becomes a map of a role.
_MADE_FIT: Mapping[str, Callable[[Layer], Floats]] = {
    "colour": _as_colour,
    "data": lambda layer: layer.number[None],
    "height": lambda layer: layer.number[None],
    "normal": _as_normal,
    "flow": lambda layer: layer.values[:2],
}


def _under_clear(values: Floats) -> Floats:
    """Clear pixels take the colour of the nearest that is not, so that no edge darkens where levels are averaged."""
    clear = values[3] <= 1 / 512
    if not clear.any() or clear.all():
        return values
    _, nearest = cv2.distanceTransformWithLabels(
        clear.astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_5, labelType=cv2.DIST_LABEL_PIXEL
    )
    colours = np.zeros((int(nearest.max()) + 1, 3), dtype=np.float32)
    colours[nearest[~clear]] = values[:3, ~clear].T
    return np.concatenate((colours[nearest].transpose(2, 0, 1), values[3:]))


def _inside(pixels: int, cells: int, padding: float) -> tuple[NDArray[np.int64], Floats]:
    """For each pixel along one side the cell it lies in, and where inside its picture: 0..1, beyond that in gutters."""
    place = (np.arange(pixels) + 0.5) / pixels * cells
    cell = np.minimum(place.astype(np.int64), cells - 1)
    return cell, ((place - cell - padding) / (1 - 2 * padding)).astype(np.float32)


def _laid(canvas: Canvas, grid: Grid, pictures: Sequence[Floats | None], empty: Floats, beyond: int) -> Floats:
    """Pictures (channels, rows, columns) on the grid, ``empty`` (channels) where there is none.

    Each is read where the node Atlas cell will look for it, whether or not its edges fall between pixels.
    """
    column, x = _inside(canvas.columns, grid.columns, grid.padding)
    row, y = _inside(canvas.rows, grid.rows, grid.padding)
    out = np.broadcast_to(empty[:, None, None], (len(empty), *canvas.shape)).copy()
    for index, found in enumerate(pictures, start=1):
        if found is None:
            continue
        wanted_column, from_top = grid.place(index)
        columns = np.flatnonzero(column == wanted_column)
        rows = np.flatnonzero(row == grid.rows - 1 - from_top)
        if not columns.size or not rows.size:
            continue
        height, width = found.shape[1:]
        maps = np.meshgrid(x[columns] * width - 0.5, y[rows] * height - 0.5)
        block = [
            cv2.remap(np.ascontiguousarray(p), maps[0], maps[1], cv2.INTER_LINEAR, borderMode=beyond) for p in found
        ]
        out[:, rows[0] : rows[-1] + 1, columns[0] : columns[-1] + 1] = np.stack(block)
    return out


def _packed(canvas: Canvas, grid: Grid, placed: Sequence[PlacedTile], tile_map: TileMap, bleed: str) -> Layer:
    """One map of all tiles."""
    size = Canvas(*grid.content(canvas.columns, canvas.rows))
    layers = [value(size) if callable(value := tile.maps.get(tile_map.key)) else None for tile in placed]
    given: RoleKey = next((layer.role for layer in layers if layer is not None), "colour")
    role: RoleKey = tile_map.role if tile_map.role else given
    fit = _MADE_FIT[role]
    pictures: list[Floats | None] = []
    for tile, layer in zip(placed, layers, strict=True):
        plain = tile.maps.get(tile_map.key) or tile_map.plain
        if layer is not None:
            pictures.append(_under_clear(found) if len(found := fit(layer)) == 4 else found)
        elif plain and not callable(plain):
            spread = np.array((*plain, 1.0) if role == "colour" else plain, dtype=np.float32)
            pictures.append(np.broadcast_to(spread[:, None, None], (len(spread), *size.shape)))
        else:
            pictures.append(None)
    channels = next((len(p) for p in pictures if p is not None), 4 if role == "colour" else 1)
    empty = (
        np.array((*tile_map.plain, 0.0), dtype=np.float32)[:channels] if tile_map.plain else np.zeros(channels, "f4")
    )
    laid = _laid(canvas, grid, pictures, empty, BEYOND[bleed])
    if role == "colour" and len(laid) == 4 and laid[3].min() >= 1:
        laid = laid[:3]
    return Layer(unit_length(laid) if role == "normal" else laid, role)


@step("Atlas", "Sets", wrong=_too_many)
def atlas(
    canvas: Canvas,
    tiles: A[Sequence[PlacedTile], tiles(TileMap("picture"), words="the pictures, the first at the top left")] = (),
    columns: Columns = 4,
    rows: Rows = 2,
    padding: Padding = 0.03125,
    bleed: Bleed = "edge",
) -> Layer:
    """Many pictures on the grid of one. Gutters and the colour under what is clear are filled, so that smaller levels
    take in nothing of their neighbours."""
    return _packed(canvas, Grid(columns, rows, padding), tiles, TileMap("picture"), bleed)


MATERIAL = (
    TileMap("base_colour", "colour", (0.5, 0.5, 0.5)),
    TileMap("metallic", "data", (0.0,)),
    TileMap("roughness", "data", (0.6,)),
    TileMap("normal", "normal", (0.0, 0.0, 1.0)),
    TileMap("height", "height", (0.5,)),
    TileMap("emission", "data", (0.0,)),
)


@step("Tile palette", "Sets", tuple(m.key for m in MATERIAL), wrong=_too_many)
def tile_palette(
    canvas: Canvas,
    tiles: A[Sequence[PlacedTile], tiles(*MATERIAL, words="the materials, the first at the top left")] = (),
    columns: Columns = 4,
    rows: Rows = 4,
    padding: Padding = 0.0625,
    bleed: Bleed = "repeat",
) -> tuple[Layer, ...]:
    """Up to 256 materials on one grid, all their maps in step: a number on the form chooses the material."""
    grid = Grid(columns, rows, padding)
    return tuple(_packed(canvas, grid, tiles, tile_map, bleed) for tile_map in MATERIAL)
