"""What is seen of block models: the shader of their palette, small pictures of them and of each entry."""

from dataclasses import replace

import numpy as np
from flask import Blueprint, Response

from velvet_moth.core.base.cache import BoundedCache
from velvet_moth.core.blocks.cells import Blocks
from velvet_moth.core.blocks.model import ORIGIN, BlockModel
from velvet_moth.core.blocks.surface import surface_of
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.forms.mesh import Mesh
from velvet_moth.core.forms.view import Camera, view_of_box
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.pictures.formats import write_png
from velvet_moth.core.render.shading import drawing, values_array
from velvet_moth.core.render.tracing.scene import Scene
from velvet_moth.core.workbench.session import TextureSource, picture
from velvet_moth.store import block_models, textures
from velvet_moth.store.block_looks import look_of
from velvet_moth.store.block_models import HISTORY
from velvet_moth.store.models import BlockModelRow
from velvet_moth.web.api.answers import ShaderWithValues
from velvet_moth.web.api.contract import sends, takes
from velvet_moth.web.api.meshes import FOR_EVER
from velvet_moth.web.api.state import sessions, shader_state
from velvet_moth.web.database import db, release
from velvet_moth.web.lanes import PAINTING

api = Blueprint("block_views", __name__, url_prefix="/api/blocks")

SIZE, SWATCH = (224, 168), (72, 72)
# The corner of one block, from the right and a little above.
_CORNER = Camera(turn=32.0, tilt=24.0, distance=2.6, field=32.0, target=(0.5, 0.5, 0.5))
_pictures: BoundedCache[bytes] = BoundedCache("pictures of blocks", 1200)


def _surface(row: BlockModelRow, *entries: int) -> tuple[Graph, TextureSource]:
    """The graph that shows a model, or some entries of it, and the textures it reads."""
    settings = block_models.settings_of(row)
    graph = look_of(db(), row.project_id, settings).surface(settings.name, *entries)
    return graph, sessions().sources.textures(textures.states(db(), sorted(graph.texture_ids())))


@api.get("/<int:key>/shader")
@takes()
def shader(key: int) -> ShaderWithValues:
    """The shader of a model's own surface."""
    graph, _ = _surface(HISTORY.load(db(), key))
    made, values = drawing(lower(graph)).shader, graph.uniform_values()
    state = shader_state(made, graph, values, "", textures.states(db(), sorted(graph.texture_ids())))
    return {"shader": state, "values": values_array(made, values)}


def _painted(graph: Graph, mesh: Mesh, read: TextureSource, camera: Camera, size: tuple[int, int]) -> bytes:
    stood = replace(graph, mesh="blocks")
    scene = Scene(camera=camera, brought=mesh)
    return write_png(picture(stood, size, read, scene=scene, meshes=lambda key: mesh)[..., :3])


@api.get("/<int:key>/picture/<state>.png")
@sends("image/png")
def small_picture(key: int, state: str) -> Response:
    """A small picture of a model. ``state`` tells one from another, so what is at an address never changes."""
    row = HISTORY.load(db(), key)
    model, (graph, read) = block_models.model_of(db(), row), _surface(row)
    release()
    with PAINTING.turn():
        png = _pictures.get((key, state), lambda: _of_model(model, graph, read))
    return Response(png, mimetype="image/png", headers=FOR_EVER)


def _of_model(model: BlockModel, graph: Graph, read: TextureSource) -> bytes:
    mesh = surface_of(model.blocks, model.settings.size, model.see_through)
    if mesh is None:
        return write_png(np.full((SIZE[1], SIZE[0], 3), 0x70, dtype=np.uint8))
    return _painted(graph, mesh, read, view_of_box(*mesh.box), SIZE)


@api.get("/<int:key>/entries/<int:entry>/<stamp>.png")
@sends("image/png")
def swatch(key: int, entry: int, stamp: str) -> Response:
    """One block of an entry, lit. ``stamp`` tells what it looks like from other states."""
    graph, read = _surface(HISTORY.load(db(), key), entry)
    release()
    with PAINTING.turn():
        png = _pictures.get((entry, stamp), lambda: _of_entry(entry, graph, read))
    return Response(png, mimetype="image/png", headers=FOR_EVER)


def _of_entry(entry: int, graph: Graph, read: TextureSource) -> bytes:
    mesh = surface_of(Blocks().with_cells(np.array([ORIGIN]), entry), 1.0)
    assert mesh is not None
    return _painted(graph, mesh, read, _CORNER, SWATCH)
