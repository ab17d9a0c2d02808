"""Block models: the list, drawing, and everything else that changes one."""

from collections.abc import Callable
from dataclasses import replace
from functools import partial

import numpy as np
from flask import Blueprint, Response
from sqlalchemy.orm import Session

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.blocks.model import ORIGIN, BlockModel, Settings
from velvet_moth.core.blocks.operations import BlockBatch, BlockOperation, exchange_change, move_change, stroke_change
from velvet_moth.core.blocks.surface import touched_chunks
from velvet_moth.core.forms.view import Camera, view_of_box
from velvet_moth.store import block_looks, block_meshes, block_models, graphs, projects, steps
from velvet_moth.store.block_looks import BlockLook, look_of
from velvet_moth.store.block_models import HISTORY
from velvet_moth.store.models import BlockModelRow
from velvet_moth.web.apart import mesh_reader
from velvet_moth.web.api.answers import Steps, SurfaceChoices
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
    BlockJump,
    BlockStep,
    BlockView,
    CellRequest,
    DrawRequest,
    ExchangeRequest,
    MoveRequest,
    NewBlocksRequest,
)
from velvet_moth.web.api.block_surface import packed_surface
from velvet_moth.web.api.choices import surface_choices
from velvet_moth.web.api.contract import sends, takes
from velvet_moth.web.api.mesh_answers import MeshOnly
from velvet_moth.web.api.meshes import described as described_mesh
from velvet_moth.web.api.steps import steps_state
from velvet_moth.web.database import db, release
from velvet_moth.web.lanes import MESHES

api = Blueprint("blocks", __name__, url_prefix="/api/blocks")
_BINARY = "application/octet-stream"
# So many cells of ground are seen about a model.
MARGIN = 5


def described(row: BlockModelRow) -> BlockModelInfo:
    # It changes with what the blocks look like as well as with the blocks.
    look = look_of(db(), row.project_id, block_models.settings_of(row))
    picture = f"{row.state}-{look.stamp()}"
    return {"id": row.id, "name": row.name, "revision": row.revision, "count": row.count, "picture": picture}


@api.get("")
@takes()
def listed() -> BlockModels:
    return {"models": [described(row) for row in block_models.listed(db(), projects.first(db()).id)]}


@api.get("/palettes")
@takes()
def palettes() -> Palettes:
    """The stacks of the project whose textures are a palette."""
    rows = block_looks.palettes(db(), projects.first(db()).id)
    return {"palettes": [{"id": str(row.id), "name": row.name} for row in rows]}


@api.get("/surfaces")
@takes()
def surfaces() -> SurfaceChoices:
    """The graphs of the project that entries can show instead of their tiles, with their variants."""
    return surface_choices(projects.first(db()).id)


@api.post("")
@takes(body=NewBlocksRequest)
def create(asked: NewBlocksRequest) -> BlockModelInfo:
    """Keeps a new, empty model, drawn in the first palette there is."""
    project = projects.first(db()).id
    palette = next((str(row.id) for row in block_looks.palettes(db(), project)), "")
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


def _problem(model: BlockModel, look: BlockLook) -> str:
    made = look.palette
    if look.gone:
        names = ", ".join(f"{number} · {look.name(number)}" for number in look.gone[:8])
        return f"The graph of these entries is gone, so their tiles show: {names}. Choose another one for each."
    if not model.settings.palette:
        return "No palette is chosen: all entries look alike."
    if made is None:
        return "The palette is gone, or makes no textures any more: choose another one."
    missing = sorted(
        entry
        for entry in model.blocks.uses
        if entry > len(made.palette.names) and model.entry(entry).graph not in look.others
    )
    if missing:
        names = ", ".join(map(str, missing[:8]))
        return f"Entries that the palette has no tile for: {names}. Recolour these blocks, or add tiles."
    grid = made.palette.grid
    odd = next((side for side in (grid.columns, grid.rows) if side & (side - 1)), 0)
    if odd:
        return f"The palette is {odd} tiles long: with 1, 2, 4, 8 or 16 a side its tiles are finer from afar."
    return ""


def _entries(model: BlockModel, look: BlockLook) -> list[EntryState]:
    """The tiles of the palette, and after them what is used or set and has no tile."""
    made = look.palette
    tiles = len(made.palette.names) if made else 0
    beyond = {n for n in (*model.blocks.uses, *model.settings.entries) if n > tiles}
    return [
        {
            "number": number,
            "name": look.name(number),
            "uses": model.blocks.uses.get(number, 0),
            "is_tile": number <= tiles,
            "see_through": model.entry(number).see_through,
            "graph": model.entry(number).graph,
            "variant": model.entry(number).variant,
            "stamp": look.stamp(number),
        }
        for number in (*range(1, tiles + 1), *sorted(beyond))
    ]


def state_of(row: BlockModelRow, model: BlockModel, look: BlockLook) -> BlockModelState:
    undo, redo = HISTORY.newest(db(), row)
    return {
        "id": row.id,
        "revision": row.revision,
        "name": model.name,
        "size": model.settings.size,
        "palette": model.settings.palette,
        "stamp": look.stamp(),
        "problem": _problem(model, look),
        "entries": _entries(model, look),
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


def _answer(
    row: BlockModelRow, before: BlockModel | None, after: BlockModel, view: BlockView, known: BlockLook | None = None
) -> Response:
    """The model, with the surface of what has changed since ``before``, or all of it. ``known`` is its look, where that is known."""
    touched = None
    if before is not None:
        block_meshes.follow(db(), row)
        touched = touched_chunks(before.blocks, after.blocks) if before.settings == after.settings else None
    look = known or look_of(db(), row.project_id, after.settings)
    return Response(packed_surface(state_of(row, after, look), after, touched, view), mimetype=_BINARY)


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


def _drawn(key: int, asked: BlockStep, drawing: Callable[[BlockModel, BlockLook], BlockOperation]) -> Response:
    """The answer to a change of the cells of a model, which leaves its look as it is."""
    row = HISTORY.current(db(), key, asked.revision)
    look = look_of(db(), row.project_id, block_models.settings_of(row))
    row, before, after = HISTORY.change_by(db(), key, asked.revision, lambda model: drawing(model, look))
    return _answer(row, before, after, asked, look)


@api.post("/<int:key>/draw")
@sends(_BINARY, body=DrawRequest)
def draw(key: int, asked: DrawRequest) -> Response:
    """Draws some shapes as one step; answered with what has changed, as ``read``."""
    strokes = asked.strokes
    return _drawn(key, asked, lambda model, look: stroke_change(model, strokes, look.name(strokes[0].entry)))


@api.post("/<int:key>/move")
@sends(_BINARY, body=MoveRequest)
def move(key: int, asked: MoveRequest) -> Response:
    """Moves or copies a chosen part."""
    return _drawn(key, asked, lambda model, look: move_change(model, asked.move))


@api.post("/<int:key>/exchange")
@sends(_BINARY, body=ExchangeRequest)
def exchange(key: int, asked: ExchangeRequest) -> Response:
    """Exchanges two entries everywhere."""
    one, other = asked.one, asked.other
    return _drawn(
        key, asked, lambda model, look: exchange_change(model, one, other, (look.name(one), look.name(other)))
    )


@api.post("/<int:key>/operations")
@sends(_BINARY, body=BlockEdit)
def edit(key: int, asked: BlockEdit) -> Response:
    """Changes what a model is besides its cells."""
    return _answer(*HISTORY.change_by(db(), key, asked.revision, lambda model: asked.operation), asked)


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
    look = look_of(db(), row.project_id, model.settings)
    if not row.mesh or look.palette is None:
        raise OperationRefused(
            "A graph needs a mesh and a palette of the model.", model.name, "Choose a palette first."
        )
    graph = replace(look.surface(model.name), mesh=row.mesh)
    return {"id": graphs.create(db(), row.project_id, graph).id}


def _stepped(key: int, asked: BlockStep, step: Callable[..., BlockModelRow]) -> Response:
    before = block_models.model_of(db(), HISTORY.current(db(), key, asked.revision))
    row = step(db(), key, asked.revision)
    return _answer(row, before, block_models.model_of(db(), row), asked)


@api.get("/<int:key>/history")
@takes()
def history(key: int) -> Steps:
    """What was done to a model, the first first: what holds, then what was taken back."""
    return {"steps": steps_state(steps.steps(db(), HISTORY, key))}


@api.post("/<int:key>/jump")
@sends(_BINARY, body=BlockJump)
def jump(key: int, asked: BlockJump) -> Response:
    """Undoes or redoes until the step asked for is the newest that holds."""
    return _stepped(key, asked, partial(_go_to, number=asked.number))


def _go_to(session: Session, key: int, revision: int, number: int) -> BlockModelRow:
    return steps.go_to(session, HISTORY, BlockBatch, key, revision, number)


@api.post("/<int:key>/undo")
@sends(_BINARY, body=BlockStep)
def undo(key: int, asked: BlockStep) -> Response:
    return _stepped(key, asked, HISTORY.undo)


@api.post("/<int:key>/redo")
@sends(_BINARY, body=BlockStep)
def redo(key: int, asked: BlockStep) -> Response:
    return _stepped(key, asked, HISTORY.redo)
