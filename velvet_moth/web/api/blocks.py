"""Block models: the list, drawing, and everything else that changes one."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from flask import Blueprint, Response

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.blocks.model import ORIGIN, BlockModel, Settings
from velvet_moth.core.blocks.operations import exchange_change, move_change, stroke_change
from velvet_moth.core.blocks.surface import touched_chunks
from velvet_moth.core.forms.view import Camera, view_of_box
from velvet_moth.core.render.palette_surface import palette_surface
from velvet_moth.store import block_meshes, block_models, graphs, projects, textures
from velvet_moth.store.block_models import HISTORY, Drawing, PaletteMade
from velvet_moth.store.models import BlockModelRow
from velvet_moth.web.apart import mesh_reader
from velvet_moth.web.api.block_answers import (
    BlockModelInfo,
    BlockModels,
    BlockModelState,
    CellState,
    EntryState,
    GraphMade,
    Palettes,
)
from velvet_moth.web.api.block_requests import (
    BlockEdit,
    BlockStep,
    BlockView,
    CellRequest,
    DrawRequest,
    ExchangeRequest,
    MoveRequest,
    NewBlocksRequest,
)
from velvet_moth.web.api.block_surface import packed_surface
from velvet_moth.web.api.contract import sends, takes
from velvet_moth.web.api.mesh_answers import MeshOnly
from velvet_moth.web.api.meshes import described as described_mesh
from velvet_moth.web.database import db, release
from velvet_moth.web.lanes import MESHES

api = Blueprint("blocks", __name__, url_prefix="/api/blocks")
_BINARY = "application/octet-stream"
# So many cells of ground are seen about a model.
MARGIN = 5


def described(row: BlockModelRow) -> BlockModelInfo:
    # It changes with the palette as well as with the blocks.
    stamp = stamp_of(block_models.palette_made(db(), block_models.settings_of(row)))
    picture = f"{row.state}-{stamp}"
    return {"id": row.id, "name": row.name, "revision": row.revision, "count": row.count, "picture": picture}


@api.get("")
@takes()
def listed() -> BlockModels:
    return {"models": [described(row) for row in block_models.listed(db(), projects.first(db()).id)]}


@api.get("/palettes")
@takes()
def palettes() -> Palettes:
    """The stacks of the project whose textures are a palette."""
    rows = block_models.palettes(db(), projects.first(db()).id)
    return {"palettes": [{"id": str(row.id), "name": row.name} for row in rows]}


@api.post("")
@takes(body=NewBlocksRequest)
def create(asked: NewBlocksRequest) -> BlockModelInfo:
    """Keeps a new, empty model, drawn in the first palette there is."""
    project = projects.first(db()).id
    palette = next((str(row.id) for row in block_models.palettes(db(), project)), "")
    return described(block_models.create(db(), project, BlockModel(Settings(asked.name, palette=palette))))


@api.post("/<int:key>/copy")
@takes()
def copy(key: int) -> BlockModelInfo:
    """Keeps a copy with a history of its own."""
    row = HISTORY.load(db(), key)
    return described(block_models.create(db(), row.project_id, block_models.model_of(db(), row)))


@api.delete("/<int:key>")
@takes()
def delete(key: int) -> BlockModels:
    block_models.delete(db(), key)
    return {"models": [described(row) for row in block_models.listed(db(), projects.first(db()).id)]}


@api.post("/<int:key>/restore")
@takes()
def restore(key: int) -> BlockModelInfo:
    return described(block_models.restore(db(), key))


def stamp_of(made: PaletteMade | None) -> str:
    """What tells a palette's textures from those of another state."""
    if made is None:
        return ""
    found = textures.states(db(), sorted(made.textures.values()))
    return "-".join(f"{key}.{state.revision}" for key, state in sorted(found.items()))


def _problem(model: BlockModel, made: PaletteMade | None) -> str:
    if not model.settings.palette:
        return "No palette is chosen: all entries look alike."
    if made is None:
        return "The palette is gone, or makes no textures any more: choose another one."
    missing = sorted(entry for entry in model.blocks.uses if entry > len(made.palette.names))
    if missing:
        names = ", ".join(map(str, missing[:8]))
        return f"Entries that the palette has no tile for: {names}. Recolour these blocks, or add tiles."
    grid = made.palette.grid
    odd = next((side for side in (grid.columns, grid.rows) if side & (side - 1)), 0)
    if odd:
        return f"The palette is {odd} tiles long: with 1, 2, 4, 8 or 16 a side its tiles are finer from afar."
    return ""


def _entries(model: BlockModel, made: PaletteMade | None) -> list[EntryState]:
    """The tiles of the palette, and after them what is used or set and has no tile."""
    tiles = len(made.palette.names) if made else 0
    beyond = {n for n in (*model.blocks.uses, *model.settings.entries) if n > tiles}
    return [
        {
            "number": number,
            "name": made.palette.name(number) if made else f"entry {number}",
            "uses": model.blocks.uses.get(number, 0),
            "is_tile": number <= tiles,
            "see_through": model.entry(number).see_through,
        }
        for number in (*range(1, tiles + 1), *sorted(beyond))
    ]


def state_of(row: BlockModelRow, model: BlockModel) -> BlockModelState:
    made = block_models.palette_made(db(), model.settings)
    undo, redo = HISTORY.newest(db(), row)
    return {
        "id": row.id,
        "revision": row.revision,
        "name": model.name,
        "size": model.settings.size,
        "palette": model.settings.palette,
        "stamp": stamp_of(made),
        "problem": _problem(model, made),
        "entries": _entries(model, made),
        "merged": model.settings.merged,
        "box": model.blocks.box,
        "view": _view(model),
        "count": model.blocks.count,
        "mesh": row.mesh,
        "undo": undo.words,
        "redo": redo.words,
    }


def _view(model: BlockModel) -> Camera:
    """The eye that sees all of a model, and some ground about it."""
    low, high = (np.array(end) for end in model.blocks.box or (ORIGIN, ORIGIN))
    around = np.array((MARGIN, 0, MARGIN))
    size = model.settings.size
    corners = [((end - np.array(ORIGIN)) * size).astype(np.float32) for end in (low - around, high + around)]
    return view_of_box(*corners)


def _answer(row: BlockModelRow, before: BlockModel | None, after: BlockModel, view: BlockView) -> Response:
    """The model, with the surface of what has changed since ``before``, or all of it."""
    is_whole = before is None or before.settings != after.settings
    if before is not None:
        block_meshes.follow(db(), row)
    keys = list(after.blocks.chunks) if before is None or is_whole else touched_chunks(before.blocks, after.blocks)
    return Response(packed_surface(state_of(row, after), after, keys, view, is_whole), mimetype=_BINARY)


@api.get("/<int:key>")
@sends(_BINARY, query=BlockView)
def read(key: int, asked: BlockView) -> Response:
    """A model with its surface, packed as ``packed_surface`` says."""
    row = HISTORY.load(db(), key)
    model = block_models.model_of(db(), row)
    return _answer(row, None, model, asked)


@api.get("/<int:key>/at")
@takes(query=CellRequest)
def at(key: int, asked: CellRequest) -> CellState:
    """The entry of one cell; 0 where it is empty."""
    model = block_models.model_of(db(), HISTORY.load(db(), key))
    return {"entry": int(model.blocks.at(np.array([[asked.x, asked.y, asked.z]]))[0])}


def _drawn(key: int, asked: BlockStep, drawing: Drawing) -> Response:
    row, before, after = block_models.draw(db(), key, asked.revision, drawing)
    return _answer(row, before, after, asked)


def _name(model: BlockModel, entry: int) -> str:
    made = block_models.palette_made(db(), model.settings)
    return made.palette.name(entry) if made else f"entry {entry}"


@api.post("/<int:key>/draw")
@sends(_BINARY, body=DrawRequest)
def draw(key: int, asked: DrawRequest) -> Response:
    """Draws some shapes as one step; answered with what has changed, as ``read``."""
    strokes = asked.strokes
    return _drawn(key, asked, lambda model: stroke_change(model, strokes, _name(model, strokes[0].entry)))


@api.post("/<int:key>/move")
@sends(_BINARY, body=MoveRequest)
def move(key: int, asked: MoveRequest) -> Response:
    """Moves or copies a chosen part."""
    return _drawn(key, asked, lambda model: move_change(model, asked.move))


@api.post("/<int:key>/exchange")
@sends(_BINARY, body=ExchangeRequest)
def exchange(key: int, asked: ExchangeRequest) -> Response:
    """Exchanges two entries everywhere."""
    one, other = asked.one, asked.other
    return _drawn(
        key, asked, lambda model: exchange_change(model, one, other, (_name(model, one), _name(model, other)))
    )


@api.post("/<int:key>/operations")
@sends(_BINARY, body=BlockEdit)
def edit(key: int, asked: BlockEdit) -> Response:
    """Changes what a model is besides its cells."""
    return _drawn(key, asked, lambda model: asked.operation)


@api.post("/<int:key>/mesh")
@takes()
def make_mesh(key: int) -> MeshOnly:
    """Keeps the surface of a model as a mesh of the project, which follows the model from then on."""
    row = HISTORY.load(db(), key)
    mesh = block_meshes.coming(db(), row)
    release()
    with MESHES.turn():
        found = mesh_reader().read(mesh.files, mesh.main, mesh.reading)
        return dict(mesh=described_mesh(block_meshes.keep(db(), key, mesh, found)))


@api.post("/<int:key>/graph")
@takes()
def make_graph(key: int) -> GraphMade:
    """Begins a graph on the mesh of a model, with the model's palette as its surface."""
    row = HISTORY.load(db(), key)
    model = block_models.model_of(db(), row)
    made = block_models.palette_made(db(), model.settings)
    if not row.mesh or made is None:
        raise OperationRefused(
            "A graph needs a mesh and a palette of the model.", model.name, "Choose a palette first."
        )
    graph = replace(palette_surface(model.name, made.textures, made.palette.grid), mesh=row.mesh)
    return {"id": graphs.create(db(), row.project_id, graph).id}


def _stepped(key: int, asked: BlockStep, step: Callable[..., BlockModelRow]) -> Response:
    before = block_models.model_of(db(), HISTORY.current(db(), key, asked.revision))
    row = step(db(), key, asked.revision)
    return _answer(row, before, block_models.model_of(db(), row), asked)


@api.post("/<int:key>/undo")
@sends(_BINARY, body=BlockStep)
def undo(key: int, asked: BlockStep) -> Response:
    return _stepped(key, asked, HISTORY.undo)


@api.post("/<int:key>/redo")
@sends(_BINARY, body=BlockStep)
def redo(key: int, asked: BlockStep) -> Response:
    return _stepped(key, asked, HISTORY.redo)
