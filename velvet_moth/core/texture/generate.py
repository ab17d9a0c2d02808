"""Textures made here: a tileable noise height, flakes, and the normal map of a height."""

from dataclasses import dataclass

import numpy as np

from velvet_moth.core.formats.pictures import Picture
from velvet_moth.core.hashing import cell_randoms
from velvet_moth.core.texture.image import Floats


@dataclass(frozen=True)
class NoiseRecipe:
    """A tileable height: ``pattern`` hills or flakes, ``cells`` across, ``layers`` each twice as fine."""

    pattern: str = "hills"
    size: int = 256
    cells: int = 8
    layers: int = 4
    seed: int = 1


PATTERNS = ("hills", "flakes")
SIZES = (64, 128, 256, 512, 1024)


def _grid(size: int, cells: int) -> tuple[Floats, Floats]:
    centres = (np.arange(size) + 0.5) / size * cells
    x, y = np.meshgrid(centres.astype(np.float32), centres.astype(np.float32))
    return x, y


def _hills(size: int, cells: int, seed: int) -> Floats:
    x, y = _grid(size, cells)
    cx, cy = np.floor(x).astype(np.int64), np.floor(y).astype(np.int64)
    fx, fy = x - cx, y - cy
    tx, ty = (f * f * f * (f * (f * 6 - 15) + 10) for f in (fx, fy))

    def corner(dx: int, dy: int) -> Floats:
        slope = cell_randoms((cx + dx) % cells, (cy + dy) % cells, np.array(seed)) * 2 - 1
        return np.asarray(slope[0] * (fx - dx) + slope[1] * (fy - dy))

    low = corner(0, 0) * (1 - tx) + corner(1, 0) * tx
    high = corner(0, 1) * (1 - tx) + corner(1, 1) * tx
    return np.asarray(low * (1 - ty) + high * ty, dtype=np.float32)


def _flakes(size: int, cells: int, seed: int) -> Floats:
    """Flat flakes, each tilted its own way: the height of the nearest scattered point's own slope."""
    x, y = _grid(size, cells)
    cx, cy = np.floor(x).astype(np.int64), np.floor(y).astype(np.int64)
    nearest = np.full(x.shape, 9.0, dtype=np.float32)
    height = np.zeros_like(x)
    for dy in (-1, 0, 1):
        for dx in (-1, 0, 1):
            drawn = cell_randoms((cx + dx) % cells, (cy + dy) % cells, np.array(seed))
            px, py = cx + dx + drawn[0] - x, cy + dy + drawn[1] - y
            slope = cell_randoms((cx + dx) % cells, (cy + dy) % cells, np.array(seed + 7919)) * 2 - 1
            distance = px * px + py * py
            closer = distance < nearest
            nearest = np.where(closer, distance, nearest)
            height = np.where(closer, slope[0] * px + slope[1] * py, height)
    return height.astype(np.float32)


def noise_height(recipe: NoiseRecipe) -> Floats:
    """(size, size) in 0..1, spread over the whole range, repeating at every edge."""
    total = np.zeros((recipe.size, recipe.size), dtype=np.float32)
    for layer in range(recipe.layers):
        cells = recipe.cells * 2**layer
        if cells > recipe.size // 2:
            break
        made = _flakes if recipe.pattern == "flakes" else _hills
        total += made(recipe.size, cells, recipe.seed + layer * 17) * np.float32(0.5**layer)
    low, high = total.min(), total.max()
    return np.asarray((total - low) / max(high - low, np.float32(1e-6)), dtype=np.float32)


def normal_from_height(height: Floats, strength: float) -> Floats:
    """Unit tangent-space normals (3, rows, columns), green up, of a repeating height in 0..1.

    ``strength`` is the height of a full step in pixels of a 256-pixel texture; slopes are central differences.
    """
    scale = np.float32(strength * height.shape[0] / 256)
    right = (np.roll(height, -1, axis=1) - np.roll(height, 1, axis=1)) * np.float32(0.5) * scale
    up = (np.roll(height, -1, axis=0) - np.roll(height, 1, axis=0)) * np.float32(0.5) * scale
    normal = np.stack((-right, -up, np.ones_like(height)))
    return np.asarray(normal / np.linalg.norm(normal, axis=0), dtype=np.float32)


def height_picture(height: Floats) -> Picture:
    """A height as grey in 16 bits: in 8 it would show steps once slopes are taken of it."""
    return Picture(np.rint(np.clip(height, 0, 1) * 65535).astype(np.uint16)[..., None])


def normal_picture(normal: Floats) -> Picture:
    """Normals as 8-bit RGB, -1..1 stored as 0..255."""
    stored = np.rint((np.clip(normal, -1, 1) * 0.5 + 0.5) * 255).astype(np.uint8)
    return Picture(np.ascontiguousarray(stored.transpose(1, 2, 0)))
