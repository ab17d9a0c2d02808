"""What is built of blocks at Heron Lock: the lock-keeper's house on its piece of quay, and a lantern to hang beside its door."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.blocks.cells import SIDE, Blocks, Cells, blocks_of
from velvet_moth.core.blocks.model import BlockModel, Settings
from velvet_moth.core.blocks.surface import surface_of
from velvet_moth.core.meshes.formats import FORMATS
from velvet_moth.core.meshes.intake import as_source
from velvet_moth.demo.block_materials import ENTRY

# Metres.
HOUSE_BLOCK, LANTERN_BLOCK = 0.2, 0.05
WIDE, HIGH, DEEP = 40, 38, 34
EAVES, FRONT, BACK, LEFT, RIGHT = 15, 25, 6, 6, 33


def _standing(cells: Cells) -> Blocks:
    """Cells in the middle of the ground of a model."""
    wide, high, deep = cells.shape
    whole = np.zeros((SIDE, high, SIDE), dtype=np.uint16)
    x, z = (SIDE - wide) // 2, (SIDE - deep) // 2
    whole[x : x + wide, :, z : z + deep] = cells
    return blocks_of(whole)


def _chance(cells: Cells, seed: int) -> NDArray[np.float64]:
    return np.random.default_rng(seed).random(cells.shape)


def _some(cells: Cells, of: str, become: str, share: float, seed: int) -> None:
    """A share of the blocks of a material becomes another one, by chance."""
    cells[(cells == ENTRY[of]) & (_chance(cells, seed) < share)] = ENTRY[become]


def _quay(cells: Cells) -> None:
    cells[:, 0] = ENTRY["quay stone"]
    cells[8:32, 0, 27:33] = ENTRY["gravel"]
    cells[:, 0, 33] = ENTRY["rubble"]
    _some(cells[:, :1], "quay stone", "rubble", 0.12, 1)
    _some(cells[:, :1], "gravel", "silt", 0.2, 2)
    _some(cells[:, :1], "rubble", "moss", 0.35, 3)


def _walls(cells: Cells) -> None:
    body = cells[LEFT : RIGHT + 1, 1 : EAVES + 1, BACK : FRONT + 1]
    body[:] = ENTRY["red brick"]
    body[:, :2] = ENTRY["rubble"]
    body[:, 11] = ENTRY["yellow brick"]
    body[:, 12:] = ENTRY["whitewash"]
    for x in (0, -1):
        for z in (0, -1):
            body[x, :12:2, z] = ENTRY["quay stone"]
            body[x, 12:, z] = ENTRY["oak beam"]
    for x in range(0, body.shape[0], 5):
        body[x, 12:, [0, -1]] = ENTRY["oak beam"]
    body[1:-1, :, 1:-1] = 0
    _some(cells, "red brick", "dark brick", 0.14, 4)
    _some(cells, "whitewash", "old whitewash", 0.18, 5)


def _window(cells: Cells, x: int, y: int, is_lit: bool) -> None:
    """Of the front: panes behind a frame, with a shutter at each side and a sill."""
    cells[x - 1 : x + 5, y - 1 : y + 5, FRONT] = ENTRY["white paint"]
    cells[x : x + 4, y : y + 4, FRONT] = 0
    cells[x : x + 4, y : y + 4, FRONT - 1] = ENTRY["lit window" if is_lit else "window"]
    cells[x - 1 : x + 5, y - 2, FRONT + 1] = ENTRY["quay stone"]
    for side in (x - 3, x + 5):
        cells[side : side + 2, y : y + 4, FRONT + 1] = ENTRY["green paint"]


def _front(cells: Cells) -> None:
    _window(cells, 9, 5, is_lit=True)
    _window(cells, 27, 5, is_lit=True)
    cells[17:23, 1:9, FRONT] = ENTRY["oak beam"]
    cells[18:22, 1:8, FRONT] = 0
    cells[18:22, 1:8, FRONT - 1] = ENTRY["tarred planks"]
    cells[18:22, 7, FRONT - 1] = ENTRY["lit window"]
    cells[21, 4, FRONT] = ENTRY["bronze"]
    cells[17:23, 1, FRONT + 1 : FRONT + 3] = ENTRY["quay stone"]
    # A porch on two posts.
    cells[[15, 24], 1:10, 29] = ENTRY["oak beam"]
    for step in range(5):
        cells[14:26, 10 - step // 2, FRONT + 1 + step] = ENTRY["slate"]
    cells[16, 9, FRONT + 1] = ENTRY["iron"]
    cells[16, 8, FRONT + 1] = ENTRY["lamp glass"]


def _roof(cells: Cells) -> None:
    """A thatched gable along x, two blocks thick, over gables of old planks."""
    first, last = BACK - 3, FRONT + 3
    for z in range(first, last + 1):
        high = EAVES - 1 + min(z - first, last - z)
        cells[LEFT - 2 : RIGHT + 3, high : high + 2, z] = ENTRY["thatch"]
        for x in (LEFT, RIGHT):
            cells[x, EAVES + 1 : high, z] = ENTRY["weathered planks"]
    ridge = EAVES - 1 + (last - first) // 2
    middle = (first + last) // 2
    cells[LEFT - 2 : RIGHT + 3, ridge + 2, middle : middle + 2] = ENTRY["old thatch"]
    cells[LEFT - 2 : RIGHT + 3 : 4, ridge + 2, middle - 1 : middle + 3] = ENTRY["rope"]
    cells[LEFT - 2 : RIGHT + 3, EAVES - 1, [first, last]] = ENTRY["old thatch"]
    cells[LEFT - 2 : RIGHT + 3, EAVES - 2, last + 1] = ENTRY["old copper"]
    cells[RIGHT + 2, 1 : EAVES - 1, last] = ENTRY["old copper"]
    _some(cells, "thatch", "old thatch", 0.2, 6)
    lower = cells[:, : EAVES + 6]
    _some(lower, "old thatch", "moss", 0.25, 7)
    cells[28:32, EAVES + 2 : HIGH - 2, 12:16] = ENTRY["small brick"]
    cells[28:32, HIGH - 4 : HIGH - 2, 12:16] = ENTRY["sooty brick"]
    cells[29:31, HIGH - 2, 13:15] = ENTRY["clay tiles"]


def _shed(cells: Cells) -> None:
    cells[34:39, 1:8, 9:20] = ENTRY["tarred planks"]
    cells[34:38, 1:8, 10:19] = 0
    for x in range(34, 40):
        cells[x, 12 - (x - 33), 8:21] = ENTRY["slate"]
        cells[x, 13 - (x - 33), 8:21] = ENTRY["slate"] if x < 37 else 0
    cells[38, 2:7, 13:16] = ENTRY["weathered planks"]
    _some(cells[34:], "slate", "moss", 0.08, 8)


def _things(cells: Cells) -> None:
    """A water butt, a bollard with its rope, crates, and a bench."""
    u, v = np.meshgrid(np.arange(4) - 1.5, np.arange(4) - 1.5, indexing="ij")
    round_ = np.hypot(u, v) < 2.0
    for y in range(1, 6):
        cells[2:6, y, 24:28][round_] = ENTRY["iron" if y in (2, 4) else "planks"]
    cells[3:5, 5, 25:27] = ENTRY["silt"]
    cells[4:6, 1:5, 30:32] = ENTRY["iron"]
    cells[3:7, 2, 29:33][round_] = ENTRY["rope"]
    cells[4:6, 4, 30:32] = ENTRY["rust"]
    cells[33:37, 1:4, 28:32] = ENTRY["planks"]
    cells[34:36, 4:6, 29:31] = ENTRY["new copper"]
    cells[26:32, 3, 27:29] = ENTRY["planks"]
    cells[[26, 31], 1:3, 27] = ENTRY["oak beam"]


def house() -> Blocks:
    """Some 40 blocks along a side, of about 0.2 metres each."""
    cells: Cells = np.zeros((WIDE, HIGH, DEEP), dtype=np.uint16)
    for part in (_quay, _walls, _front, _shed, _roof, _things):
        part(cells)
    return _standing(cells)


def lantern() -> Blocks:
    """A lantern of bronze and copper with a glass that glows, under a cap of slate."""
    cells: Cells = np.zeros((13, 25, 13), dtype=np.uint16)
    middle = np.arange(13) - 6
    across = np.maximum(np.abs(middle)[:, None], np.abs(middle)[None, :])
    for y, radius in enumerate((6, 6, 5, 4)):
        cells[:, y][across <= radius] = ENTRY["bronze" if y % 2 else "iron"]
    for y in range(4, 15):
        cells[:, y][across <= 2] = ENTRY["lamp glass"]
        corner = (np.abs(middle)[:, None] == 4) & (np.abs(middle)[None, :] == 4)
        cells[:, y][corner] = ENTRY["new copper"]
        rail = (across == 4) & ((np.abs(middle)[:, None] == 0) | (np.abs(middle)[None, :] == 0))
        cells[:, y][rail & (y % 5 == 4)] = ENTRY["bronze"]
    cells[:, 15][across <= 5] = ENTRY["new copper"]
    for y, radius in enumerate((5, 4, 4, 3, 2), start=16):
        cells[:, y][across <= radius] = ENTRY["slate" if radius != 4 else "old copper"]
    cells[6, 21, 6] = ENTRY["iron"]
    for x, y in ((5, 22), (7, 22), (5, 23), (7, 23), (6, 24)):
        cells[x, y, 6] = ENTRY["rope"]
    return _standing(cells)


def model(name: str, build: Callable[[], Blocks], size: float, is_merged: bool) -> BlockModel:
    return BlockModel(Settings(name, size, merged=is_merged), build())


HOUSE = model("Lock-keeper's house", house, HOUSE_BLOCK, is_merged=False)
LANTERN = model("Block lantern", lantern, LANTERN_BLOCK, is_merged=True)


def mesh_file(of: BlockModel) -> bytes:
    """The surface of a model as a GLB."""
    surface = surface_of(of.blocks, of.settings.size, of.see_through, of.settings.merged)
    assert surface is not None
    return FORMATS["gltf"].written(as_source(surface))
