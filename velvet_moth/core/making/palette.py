"""The palette that a stack makes: the names of its tiles, the grid they lie on, and which of its textures holds which map."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.making.atlas import MATERIAL, tile_palette
from velvet_moth.core.making.layer import Layer
from velvet_moth.core.making.recipe import Recipe, grid_of
from velvet_moth.core.pictures.atlas import Grid

_MEND = "Add a step Tile palette to the stack, or choose another stack."


@dataclass(frozen=True)
class Palette:
    """``names`` of the tiles in their order, some may be empty; ``outputs`` are the stack's, by the map that each holds."""

    names: tuple[str, ...]
    grid: Grid
    outputs: Mapping[str, str]

    def name(self, entry: int) -> str:
        """What an entry is called; its number where it has no name."""
        named = self.names[entry - 1] if 1 <= entry <= len(self.names) else ""
        return named or f"entry {entry}"

    def mean_colours(self, base: Layer) -> NDArray[np.float64]:
        """The mean colour of every tile of a map of base colours, linear light, (tiles, 3)."""
        rows, columns = base.values.shape[1:]
        found = []
        for index in range(1, len(self.names) + 1):
            left, low, right, high = self.grid.box(index)
            across = slice(int(left * columns), max(int(right * columns), int(left * columns) + 1))
            up = slice(int(low * rows), max(int(high * rows), int(low * rows) + 1))
            found.append(base.colour[:, up, across].reshape(3, -1).mean(axis=1))
        return np.array(found, dtype=np.float64).reshape(-1, 3)


def has_palette(recipe: Recipe) -> bool:
    """Whether a stack makes a palette."""
    return any(use.kind.key == tile_palette.__name__ for use in recipe.steps)


def palette_of(recipe: Recipe) -> Palette:
    """The palette of a stack: its last one; OperationRefused where it makes none, or no texture of its base colours."""
    use = next((u for u in reversed(recipe.steps) if u.kind.key == tile_palette.__name__), None)
    grid = grid_of(use) if use is not None else None
    if use is None or grid is None:
        raise OperationRefused("This stack makes no palette of tiles.", recipe.name, _MEND)
    made = {o.layer or MATERIAL[0].key: o.id for o in recipe.outputs if o.step == use.id}
    outputs = {tile_map.key: made[tile_map.key] for tile_map in MATERIAL if tile_map.key in made}
    if MATERIAL[0].key not in outputs:
        raise OperationRefused(
            "No texture is made of the palette's base colours.",
            recipe.name,
            "Make Base colour of the palette a texture.",
        )
    return Palette(tuple(tile.name for tile in use.tiles("tiles")), grid, outputs)
