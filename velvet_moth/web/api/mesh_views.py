"""What is seen of a mesh in its room: a small picture, shaders for each way of looking, what is at a pixel."""

import numpy as np
from flask import Blueprint, Response

from velvet_moth.core.base.cache import BoundedCache
from velvet_moth.core.document.graph import Source, empty_graph
from velvet_moth.core.forms.mesh import Mesh
from velvet_moth.core.forms.view import Camera, view_of_box
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.pictures.formats import write_png
from velvet_moth.core.render.flowing import moved_texture
from velvet_moth.core.render.looks import STAGE, look_at
from velvet_moth.core.render.shading import drawing, shown_look, values_array
from velvet_moth.core.render.tracing.rays import cast, resting_scene, view_of
from velvet_moth.core.render.tracing.reference import render
from velvet_moth.core.render.tracing.scene import Scene
from velvet_moth.store import meshes, textures
from velvet_moth.web.api.answers import ShaderWithValues
from velvet_moth.web.api.contract import sends, takes
from velvet_moth.web.api.mesh_answers import Vertex
from velvet_moth.web.api.meshes import FOR_EVER
from velvet_moth.web.api.schemas import MovedRequest, PinRequest
from velvet_moth.web.api.state import shader_state
from velvet_moth.web.database import db, release
from velvet_moth.web.lanes import PAINTING

api = Blueprint("mesh_views", __name__, url_prefix="/api/meshes")

SIZE = (224, 168)
_pictures: BoundedCache[bytes] = BoundedCache("pictures of meshes", 200)


@api.get("/<key>/picture/<drawn>.png")
@sends("image/png")
def picture(key: str, drawn: str) -> Response:
    """A small picture of it. ``drawn`` tells one state from another, so what is at an address never changes."""
    row = meshes.load(db(), key)
    mesh, packed = meshes.mesh_of(db(), row), row.packed
    # Nobody paints with a connection of the database in hand.
    release()
    with PAINTING.turn():
        png = _pictures.get(packed, lambda: _painted(mesh))
    return Response(png, mimetype="image/png", headers=FOR_EVER)


def _painted(mesh: Mesh) -> bytes:
    plain = empty_graph("Plain")
    scene = Scene(camera=view_of_box(*mesh.box), brought=mesh)
    return write_png(render(shown_look(lower(plain)), plain.uniform_values(), {}, SIZE, scene)[..., :3])


@api.get("/shader/<look>")
@takes()
def shader(look: str) -> ShaderWithValues:
    """The shader of a plain surface, or of a way of looking at it by its key ("lit" for none)."""
    graph = empty_graph("Plain")
    source = Source(STAGE, look)
    way = look_at(source)
    made = drawing(lower(graph), None if way is None else source).shader
    values = graph.uniform_values()
    state = shader_state(made, graph, values, "", {}, adds=way is not None and way.adds)
    return {"shader": state, "values": values_array(made, values)}


@api.get("/moved")
@takes(query=MovedRequest)
def moved(asked: MovedRequest) -> ShaderWithValues:
    """The shader of a plain surface whose colour is a texture moved by the directions in its vertex data."""
    graph = moved_texture(asked.texture, asked.repeat, asked.strength, asked.speed)
    made, values = drawing(lower(graph)).shader, graph.uniform_values()
    state = shader_state(made, graph, values, "", textures.states(db(), [asked.texture]))
    return {"shader": state, "values": values_array(made, values)}


@api.get("/<key>/vertex")
@takes(query=PinRequest)
def vertex(key: str, asked: PinRequest) -> Vertex | None:
    """The vertex nearest to what is seen at a pixel, with everything it holds; null where nothing is seen."""
    mesh = meshes.mesh_of(db(), meshes.state_of(meshes.load(db(), key)).at(asked.level))
    release()
    target = (asked.target_x, asked.target_y, asked.target_z)
    camera = Camera(asked.turn, asked.tilt, asked.distance, asked.field, target)
    hits = cast(resting_scene(mesh), view_of(camera, asked.size), np.array([asked.pixel]))
    if not hits.hit[0]:
        return None
    face = int(hits.faces[0])
    at = int(mesh.triangles[face][np.argmax(hits.weights[0])])
    part = mesh.part_names[mesh.part_of[face]] if mesh.part_of is not None else ""
    return {
        "index": at,
        "face": face,
        "part": part,
        "place": mesh.positions[at].tolist(),
        "normal": mesh.normals[at].tolist(),
        "uv": mesh.uvs[at].tolist(),
        "colours": (mesh.colours if mesh.second_colours is None else mesh.data)[at].tolist(),
    }
