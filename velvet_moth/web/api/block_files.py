"""Block models in and out: as meshes with their palette, and made of meshes."""

import io
import zipfile
from collections.abc import Mapping
from dataclasses import replace

import numpy as np
from flask import Blueprint, Response, request
from numpy.typing import NDArray

from velvet_moth.core.base.errors import FileRefused, OperationRefused
from velvet_moth.core.base.plain_names import identifier
from velvet_moth.core.blocks.cells import MOST_ENTRIES, SIDE, Blocks
from velvet_moth.core.blocks.formats import BLOCK_FORMATS, MOST_BYTES, Asked, read_blocks
from velvet_moth.core.blocks.model import BlockModel, Settings
from velvet_moth.core.blocks.of_mesh import blocks_of_mesh, carried_size
from velvet_moth.core.blocks.tiled import tiled_surface
from velvet_moth.core.making.exchange import layer_of
from velvet_moth.core.making.layer import Canvas, Layer
from velvet_moth.core.making.palette_material import palette_material, palette_pictures
from velvet_moth.core.meshes.formats import FORMATS
from velvet_moth.store import block_looks, block_models, meshes, projects, textures
from velvet_moth.store.block_looks import PaletteMade
from velvet_moth.store.block_models import HISTORY
from velvet_moth.web.apart import apart
from velvet_moth.web.api.block_answers import BlockModelInfo
from velvet_moth.web.api.block_requests import OfMeshRequest
from velvet_moth.web.api.blocks import described
from velvet_moth.web.api.contract import sends, takes
from velvet_moth.web.database import db, release
from velvet_moth.web.lanes import MESHES

api = Blueprint("block_files", __name__, url_prefix="/api/blocks")
# Seconds; a file of the most blocks takes a third of them on a slow machine.
_PATIENCE = 60.0


def _maps(made: PaletteMade) -> dict[str, Layer]:
    """The maps of a palette, all of the size of its base colours."""
    rows = {key: textures.load(db(), texture) for key, texture in made.textures.items()}
    base = rows["base_colour"]
    canvas = Canvas(base.width, base.height)
    return {
        key: layer_of(textures.picture_of(db(), row), textures.reading_of(row), canvas) for key, row in rows.items()
    }


def _with_pictures(mesh: bytes, name: str, suffix: str, pictures: Mapping[str, bytes]) -> bytes:
    """A mesh whose format holds no pictures, with them beside it."""
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(f"{name}{suffix}", mesh)
        for key, data in pictures.items():
            archive.writestr(f"{name}_{key}.png", data, zipfile.ZIP_STORED)
    return packed.getvalue()


def _attached(data: bytes, file: str, mimetype: str) -> Response:
    return Response(data, mimetype=mimetype, headers={"Content-Disposition": f'attachment; filename="{file}"'})


@api.get("/<int:key>/as/<format_>")
@sends("application/octet-stream")
def saved_as(key: int, format_: str) -> Response:
    """The blocks of a model in a format of blocks; or its surface as a mesh whose every face reads its own tile: a GLB holds the

    pictures, for others they are beside it in a ZIP.
    """
    model = block_models.model_of(db(), HISTORY.load(db(), key))
    made, name = block_looks.palette_made(db(), model.settings), identifier(model.name) or "blocks"
    encode = BLOCK_FORMATS[format_].encode if format_ in BLOCK_FORMATS else None
    if encode is not None:
        if not model.blocks.count:
            raise OperationRefused("There are no blocks to send out.", model.name, "Draw some first.")
        colours = _colours(made)
        release()
        of = BLOCK_FORMATS[format_]
        return _attached(encode(model.blocks, model.settings.size, colours), f"{name}{of.suffix}", of.mimetype)
    if format_ not in FORMATS:
        every = [*FORMATS, *(key for key, one in BLOCK_FORMATS.items() if one.encode)]
        raise FileRefused(f"{format_[:20]!r} cannot be written.", "format", f"Choose one of {', '.join(every)}.")
    if made is None or "base_colour" not in made.textures:
        raise OperationRefused("The model has no palette to send with it.", model.name, "Choose a palette first.")
    maps, format_made = _maps(made), FORMATS[format_]
    release()
    with MESHES.turn():
        source = tiled_surface(model, made.palette.grid)
        pictures = palette_pictures(maps)
        suffix = format_made.suffixes[0]
        # Of the formats glTF alone holds pictures.
        is_whole = format_ == "gltf"
        looks = palette_material(model.name, pictures) if is_whole else None
        data = format_made.written(replace(source, looks=looks))
        data = data if is_whole else _with_pictures(data, name, suffix, pictures)
    file = f"{name}{suffix if is_whole else '.zip'}"
    kind = format_made.mimetype if is_whole else "application/zip"
    return _attached(data, file, kind)


def _colours(made: PaletteMade | None) -> NDArray[np.float64]:
    """The mean colour of every tile of a palette, linear light, (tiles, 3)."""
    if made is None or "base_colour" not in made.textures:
        return np.zeros((0, 3))
    row = textures.load(db(), made.textures["base_colour"])
    layer = layer_of(textures.picture_of(db(), row), textures.reading_of(row), Canvas(row.width, row.height))
    return made.palette.mean_colours(layer)


def _read(data: bytes, asked: Asked, name: str) -> Blocks:
    return read_blocks(data, asked)


def _number(field: str, low: int, high: int, otherwise: int) -> int:
    text = request.form.get(field, "")
    if text and not (text.isascii() and text.isdigit() and low <= int(text) <= high):
        raise FileRefused(f"This is {low} to {high}.", field, "Type another number.")
    return int(text or otherwise)


@api.post("/file")
@takes(upload=("file", "high", "entry"), most_bytes=MOST_BYTES + 4096)
def of_file() -> BlockModelInfo:
    """Makes a new model of a file of blocks: points, slices, or a picture of heights (``high`` blocks where it is white, all of one
    ``entry``)."""
    sent = request.files.get("file")
    if sent is None:
        raise FileRefused("No file came with the request.", "file", "Choose one.")
    data, file = sent.read(), (sent.filename or "blocks")[:120]
    project = projects.first(db()).id
    palette = next((str(one.id) for one in block_looks.palettes(db(), project)), "")
    empty = BlockModel(Settings(file.rsplit(".", 1)[0][:80] or "Blocks", palette=palette))
    colours = _colours(block_looks.palette_made(db(), empty.settings))
    how = Asked(file, colours, _number("high", 1, SIDE, 32), _number("entry", 1, MOST_ENTRIES, 1))
    release()
    with MESHES.turn():
        blocks = apart().read(_PATIENCE, "Make the model smaller, or save it in parts.", _read, data, how, file)
    return described(block_models.create(db(), project, replace(empty, blocks=blocks)))


@api.post("/of_mesh")
@takes(body=OfMeshRequest)
def of_mesh(asked: OfMeshRequest) -> BlockModelInfo:
    """Makes a new model of a kept mesh, of blocks of a size; one that was sent out as blocks is taken back as it was."""
    row = meshes.load(db(), asked.mesh)
    mesh = meshes.mesh_of(db(), row)
    project = projects.first(db()).id
    palette = asked.palette or next((str(one.id) for one in block_looks.palettes(db(), project)), "")
    size = carried_size(mesh) or asked.size
    empty = BlockModel(Settings(row.name, size, palette))
    colours = _colours(block_looks.palette_made(db(), empty.settings))
    release()
    with MESHES.turn():
        made = replace(empty, blocks=blocks_of_mesh(mesh, size, asked.by, colours))
    return described(block_models.create(db(), project, made))
