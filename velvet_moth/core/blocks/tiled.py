"""The surface of a block model for other programs: every face reads its own tile of the palette's pictures."""

import numpy as np

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.blocks.model import BlockModel
from velvet_moth.core.blocks.surface import surface_of
from velvet_moth.core.meshes.intake import as_source
from velvet_moth.core.meshes.source import SourceMesh
from velvet_moth.core.pictures.atlas import Grid

# From the lower left corner of a tile, anticlockwise, as the corners of a face.
_CORNERS = np.array(((0, 1), (2, 1), (2, 3), (0, 3)))


def tiled_surface(model: BlockModel, grid: Grid) -> SourceMesh:
    """The faces of a model one by one, their coordinates inside the tile of their entry, without its gutters.

    The second coordinates stay: the entry, and the side of a block in metres. OperationRefused where it is empty.
    """
    surface = surface_of(model.blocks, model.settings.size, model.see_through, is_merged=False)
    if surface is None or surface.second is None:
        raise OperationRefused("There are no blocks to send out.", model.name, "Draw some first.")
    boxes = np.array([grid.box(index) for index in range(1, grid.count + 1)], dtype=np.float32)
    entries = surface.second[::4, 0].astype(np.int64)
    # Entries beyond the palette read as the node does: counted on from its beginning.
    inside = boxes[(entries - 1) % grid.count]
    uvs = inside[:, _CORNERS].reshape(-1, 2)
    source = as_source(surface)
    return SourceMesh(
        source.positions,
        source.triangles,
        normals=source.normals,
        tangents=source.tangents,
        uvs=uvs,
        second_uvs=source.second_uvs,
    )
