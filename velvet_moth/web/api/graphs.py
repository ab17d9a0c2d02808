"""Graphs: the state, edits, undo and redo, files, pictures, and what the library does with them."""

import json
from dataclasses import replace

from flask import Blueprint, Response, request

from velvet_moth.core.baking.stack import mesh_stack_from_json, mesh_stack_to_json
from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.document.graph import Graph, empty_graph
from velvet_moth.core.document.values import fresh_name
from velvet_moth.core.editing.joining import takers
from velvet_moth.core.files.graph_json import GraphFile, MeshFile, TextureFile, read_graph_file, write_graph_file
from velvet_moth.core.language.interpreters.glsl import emit
from velvet_moth.core.lighting.rigs import rig_kind
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.materialx.package import as_graph_file, is_material
from velvet_moth.core.meshes.formats import FORMATS
from velvet_moth.core.meshes.intake import as_source
from velvet_moth.core.render.shading import drawing, shared_textures
from velvet_moth.core.scenery.backdrops import light_behind
from velvet_moth.demo.starters import STARTERS
from velvet_moth.store import blobs, graphs, importing, mesh_stacks, meshes, projects, rules, textures
from velvet_moth.store.errors import NotFound
from velvet_moth.store.meshes import MeshState
from velvet_moth.web.apart import apart, mesh_reader, reader
from velvet_moth.web.api.answers import GraphState, Id, ShaderState, ShaderWithValues, SurfaceChoices, Takers
from velvet_moth.web.api.choices import surface_choices
from velvet_moth.web.api.contract import sends, takes
from velvet_moth.web.api.schemas import (
    BackdropShaderRequest,
    CraftRequest,
    EditRequest,
    NewGraph,
    PictureRequest,
    ShaderRequest,
    StepRequest,
    TakersRequest,
    ViewRequest,
)
from velvet_moth.web.api.state import sessions, shader_by_itself, shader_state, state
from velvet_moth.web.database import db, release
from velvet_moth.web.lanes import READING

# Says that a fresh picture is still to be asked for.
STAND_IN = "X-Stand-In"

# Seconds that reading a document of another program may take.
_PATIENCE = 60.0

api = Blueprint("graphs", __name__, url_prefix="/api/graphs")


@api.get("/<int:key>")
@takes(query=ViewRequest)
def read(key: int, asked: ViewRequest) -> GraphState:
    kept = graphs.load(db(), key)
    release()
    return state(kept, asked)


@api.post("/<int:key>/operations")
@takes(body=EditRequest)
def edit(key: int, asked: EditRequest) -> GraphState:
    kept = graphs.change(db(), key, asked.revision, asked.operation)
    return state(kept, asked)


@api.post("/<int:key>/crafts")
@takes(body=CraftRequest)
def craft(key: int, asked: CraftRequest) -> GraphState:
    """An edit told as a movement of the hand: the core works out the operations for the graph as it stands."""
    # Worked out on the very revision it is applied to, or refused as stale.
    graphs.check_revision(db(), key, asked.revision)
    kept = graphs.load(db(), key)
    changed = graphs.change(db(), key, asked.revision, asked.craft.batch(kept.graph))
    return state(changed, asked, made=made_nodes(kept.graph, changed.graph))


def made_nodes(before: Graph, after: Graph) -> list[str]:
    """The nodes that an edit brought, which the page selects."""
    return [key for key in after.nodes if key not in before.nodes]


@api.post("/<int:key>/undo")
@takes(body=StepRequest)
def undo(key: int, asked: StepRequest) -> GraphState:
    return state(graphs.undo(db(), key, asked.revision), asked)


@api.post("/<int:key>/redo")
@takes(body=StepRequest)
def redo(key: int, asked: StepRequest) -> GraphState:
    return state(graphs.redo(db(), key, asked.revision), asked)


@api.post("")
@takes(body=NewGraph)
def create(asked: NewGraph) -> Id:
    project = projects.first(db())
    if asked.starter:
        if asked.starter not in STARTERS:
            raise FileRefused(f"There is no starter {asked.starter!r}.", "starter", f"Choose {', '.join(STARTERS)}.")
        made = STARTERS[asked.starter].build(db(), project.id)
    else:
        made = empty_graph("Untitled")
    title = fresh_name(asked.title, graphs.titles(db(), project.id))
    return dict(id=graphs.create(db(), project.id, replace(made, title=title)).id)


@api.post("/<int:key>/duplicate")
@takes()
def duplicate(key: int) -> Id:
    return dict(id=graphs.duplicate(db(), key).id)


@api.delete("/<int:key>")
@takes()
def delete(key: int) -> Id:
    graphs.delete(db(), key)
    return dict(id=key)


@api.post("/<int:key>/restore")
@takes()
def restore(key: int) -> Id:
    graphs.restore(db(), key)
    return dict(id=key)


@api.get("/<int:key>/picture.png")
@sends("image/png", query=PictureRequest)
def picture(key: int, asked: PictureRequest) -> Response:
    kept = graphs.load(db(), key)
    if asked.variant and kept.graph.variant(asked.variant) is None:
        raise NotFound("There is no such variant.", asked.variant, "Reload the page.")
    found = sessions().picture(db(), kept, asked.variant, asked.fresh)
    if found.is_stand_in:
        return Response(found.png, mimetype="image/png", headers={"Cache-Control": "no-store", STAND_IN: "yes"})
    # The address carries the revision, so the picture at it never changes.
    return Response(found.png, mimetype="image/png", headers={"Cache-Control": "private, max-age=31536000, immutable"})


@api.get("/<int:key>/shader")
@takes(query=ShaderRequest)
def variant_shader(key: int, asked: ShaderRequest) -> ShaderState:
    """The lit shader of one variant; with ``inside`` the values of that motif are uniforms of it too.

    Another ``rig`` may have more lamps, which are lit by another shader.

    Of a ``folded`` one only parameters are uniforms, so that it is faster.
    """
    kept = graphs.load(db(), key)
    release()
    graph = replace(kept.graph, rig=rig_kind(asked.rig).key) if asked.rig else kept.graph
    lowered = lower(graph, asked.variant, inside=asked.inside, folded=asked.folded)
    values = kept.graph.uniform_values(asked.variant, asked.time)
    return shader_state(drawing(lowered).shader, lowered.graph, values, asked.shader, kept.textures)


@api.get("/<int:key>/takers")
@takes(query=TakersRequest)
def wire_takers(key: int, asked: TakersRequest) -> Takers:
    """The inputs that the outputs of some nodes can be wired to."""
    kept = graphs.load(db(), key)
    return {"takers": takers(lower(kept.graph), asked.nodes.split(","))}


@api.get("/<int:key>/backdrop_choices")
@takes()
def backdrop_choices(key: int) -> SurfaceChoices:
    """The graphs of the project that can be surfaces of this one's backdrop, with their variants."""
    return surface_choices(graphs.load(db(), key).project_id)


@api.get("/<int:key>/backdrop_shader")
@takes(query=BackdropShaderRequest)
def backdrop_shader(key: int, asked: BackdropShaderRequest) -> ShaderWithValues:
    """What a part of a backdrop shows that has the surface of a graph, under a rig of so many ``lamps``: its shader and values."""
    kept = graphs.load(db(), key)
    lowered, values = lower(kept.graph, asked.variant), kept.graph.uniform_values(asked.variant)
    light = light_behind(lowered.surface, asked.lamps, asked.decals)
    shader = emit(light, lowered.names, same=shared_textures(lowered.graph))
    return shader_by_itself(shader, lowered.graph, values, kept)


@api.get("/<int:key>/export.json")
@sends("application/json")
def export(key: int) -> Response:
    kept = graphs.load(db(), key)
    every = [kept, *kept.backdrop_graphs.values()]
    under = {kept.mesh.id: _mesh_file(kept.mesh)} if kept.mesh else {}
    read = {key: texture for one in every for key, texture in one.textures.items()}
    baked = [mesh_stack_from_json(one.stack) for one in under.values() if one.stack is not None]
    read.update(textures.states(db(), sorted({key for stack in baked for key in stack.textures()})))
    inside = {key: TextureFile(t.name, t.reading, blobs.get(db(), t.sha256)) for key, t in read.items()}
    motifs = {key: motif.graph for one in every for key, motif in one.graph.used_motifs().items()}
    behind = {key: one.graph for key, one in kept.backdrop_graphs.items()}
    named = {key: rules.named(db(), key) for one in every for key in one.graph.referred("rule")}
    placing = {key: rules.rule_of(row) for key, row in named.items() if row is not None}
    name = "".join(c if c.isascii() and c.isalnum() else "-" for c in kept.graph.title.lower()).strip("-") or "graph"
    return Response(
        write_graph_file(GraphFile(kept.graph, inside, motifs, behind, under, placing)),
        mimetype="application/json",
        headers={"Content-Disposition": f'attachment; filename="{name}.moth.json"'},
    )


def _mesh_file(mesh: MeshState) -> MeshFile:
    """The mesh as it came in, and the steps that were baked on it."""
    base = meshes.packed_mesh(db(), meshes.load(db(), mesh.id).base)
    source = replace(as_source(base), depth="float")
    written = FORMATS["gltf"].written(source if base.uvs.any() else replace(source, uvs=None))
    made = mesh_stacks.of_mesh(db(), mesh.id).made
    return MeshFile(mesh.name, written, mesh_stack_to_json(mesh_stacks.stack_of(db(), made)) if made else None)


@api.get("/<int:key>/kept.json")
@sends("application/json")
def as_kept(key: int) -> Response:
    """The document of a graph to the letter, whether it can be read or not."""
    return Response(
        json.dumps(graphs.raw_document(db(), key), indent=1, ensure_ascii=False),
        mimetype="application/json",
        headers={"Content-Disposition": f'attachment; filename="graph-{key}.moth.json"'},
    )


@api.post("/import")
@takes(upload=("file",))
def import_file() -> Id:
    sent = request.files.get("file")
    if sent is None:
        raise FileRefused("No file came with the request.", "file", "Choose a graph file or a material document.")
    with READING.turn():
        data, name = sent.read(), sent.filename or "file"
        if is_material(data, name):
            data = apart().read(_PATIENCE, "Export one material alone.", as_graph_file, data, name)
        file = read_graph_file(data, f"file {name!r}")
        return dict(
            id=importing.import_graph(db(), projects.first(db()).id, file, reader().read, mesh_reader().read).id
        )
