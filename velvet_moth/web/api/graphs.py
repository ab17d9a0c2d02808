"""Graphs: the state, edits, undo and redo, files, pictures, and what the library does with them."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from flask import Blueprint, Response, jsonify, request

from velvet_moth.core.errors import FileRefused
from velvet_moth.core.formats.graph_json import GraphFile, TextureFile, read_graph_file, write_graph_file
from velvet_moth.core.formats.pictures import read_picture
from velvet_moth.core.graph import Graph, Value, empty_graph
from velvet_moth.core.lower import lower
from velvet_moth.core.shading import drawing
from velvet_moth.core.types import P_TEXTURE
from velvet_moth.demo.starters import STARTERS
from velvet_moth.store import blobs, graphs, projects, textures
from velvet_moth.web.api.motifs import keep_motifs, retyped
from velvet_moth.web.api.schemas import CraftRequest, EditRequest, NewGraph, ShaderRequest, StepRequest, ViewRequest
from velvet_moth.web.api.state import sessions, shader_state, state
from velvet_moth.web.database import db

api = Blueprint("graphs", __name__, url_prefix="/api/graphs")


@api.get("/<int:key>")
def read(key: int) -> Any:
    view = ViewRequest.model_validate(request.args.to_dict())
    return jsonify(state(graphs.load(db(), key), view))


@api.post("/<int:key>/operations")
def edit(key: int) -> Any:
    asked = EditRequest.model_validate(request.get_json())
    kept = graphs.change(db(), key, asked.revision, asked.operation)
    return jsonify(state(kept, asked))


@api.post("/<int:key>/crafts")
def craft(key: int) -> Any:
    """An edit told as a movement of the hand: the core works out the operations for the graph as it stands."""
    asked = CraftRequest.model_validate(request.get_json())
    # Worked out on the very revision it is applied to, or refused as stale.
    graphs.check_revision(db(), key, asked.revision)
    kept = graphs.load(db(), key)
    changed = graphs.change(db(), key, asked.revision, asked.craft.batch(kept.graph))
    return jsonify({**state(changed, asked), "made": made_nodes(kept.graph, changed.graph)})


def made_nodes(before: Graph, after: Graph) -> list[str]:
    """The nodes that an edit brought, which the page selects."""
    return [key for key in after.nodes if key not in before.nodes]


@api.post("/<int:key>/undo")
def undo(key: int) -> Any:
    asked = StepRequest.model_validate(request.get_json())
    return jsonify(state(graphs.undo(db(), key, asked.revision), asked))


@api.post("/<int:key>/redo")
def redo(key: int) -> Any:
    asked = StepRequest.model_validate(request.get_json())
    return jsonify(state(graphs.redo(db(), key, asked.revision), asked))


@api.post("")
def create() -> Any:
    asked = NewGraph.model_validate(request.get_json())
    project = projects.first(db())
    if asked.starter:
        if asked.starter not in STARTERS:
            raise FileRefused(f"There is no starter {asked.starter!r}.", "starter", f"Choose {', '.join(STARTERS)}.")
        made = STARTERS[asked.starter].build(db(), project.id)
    else:
        made = empty_graph("Untitled")
    title = graphs.free_title(asked.title, graphs.titles(db(), project.id))
    return jsonify(id=graphs.create(db(), project.id, replace(made, title=title)).id)


@api.post("/<int:key>/duplicate")
def duplicate(key: int) -> Any:
    return jsonify(id=graphs.duplicate(db(), key).id)


@api.delete("/<int:key>")
def delete(key: int) -> Any:
    graphs.delete(db(), key)
    return jsonify(id=key)


@api.post("/<int:key>/restore")
def restore(key: int) -> Any:
    return jsonify(id=graphs.restore(db(), key).id)


@api.get("/<int:key>/picture.png")
def picture(key: int) -> Response:
    kept = graphs.load(db(), key)
    view = ViewRequest.model_validate({"variant": request.args.get("variant", "")})
    png = sessions().picture(kept, view.variant)
    # The address carries the revision, so the picture at it never changes.
    return Response(png, mimetype="image/png", headers={"Cache-Control": "private, max-age=31536000, immutable"})


@api.get("/<int:key>/shader")
def variant_shader(key: int) -> Any:
    """The lit shader of one variant; with ``inside`` the values of that motif are uniforms of it too."""
    kept = graphs.load(db(), key)
    view = ShaderRequest.model_validate(request.args.to_dict())
    lowered = lower(kept.graph, view.variant, inside=view.inside)
    values = kept.graph.uniform_values(view.variant)
    return jsonify(shader_state(drawing(lowered).shader, lowered.graph, values, view.shader, kept.textures))


@api.get("/<int:key>/export.json")
def export(key: int) -> Response:
    kept = graphs.load(db(), key)
    inside = {key: TextureFile(t.name, t.reading, blobs.get(db(), t.sha256)) for key, t in kept.textures.items()}
    name = "".join(c if c.isascii() and c.isalnum() else "-" for c in kept.graph.title.lower()).strip("-") or "graph"
    return Response(
        write_graph_file(GraphFile(kept.graph, inside, {k: m.graph for k, m in kept.graph.used_motifs().items()})),
        mimetype="application/json",
        headers={"Content-Disposition": f'attachment; filename="{name}.moth.json"'},
    )


@api.post("/import")
def take_in() -> Any:
    sent = request.files.get("file")
    if sent is None:
        raise FileRefused("No file came with the request.", "file", "Choose a graph file.")
    file = read_graph_file(sent.read(), f"file {sent.filename!r}")
    project = projects.first(db())
    ids = {
        key: textures.add_read(db(), project.id, t.name, t.reading, t.file, read_picture(t.file, t.name)).id
        for key, t in file.textures.items()
    }
    types = keep_motifs(db(), project.id, {k: rebound(m, ids) for k, m in file.motifs.items()})
    made = retyped(rebound(file.graph, ids), types)
    title = graphs.free_title(file.graph.title, graphs.titles(db(), project.id))
    return jsonify(id=graphs.create(db(), project.id, replace(made, title=title)).id)


def rebound(graph: Graph, ids: Mapping[str, str]) -> Graph:
    """The graph with the textures of its file replaced by those kept here."""

    def value(node_type: Any, key: str, old: Value) -> Value:
        return ids.get(str(old), old) if node_type.inputs[key].type is P_TEXTURE else old

    nodes = {
        k: replace(n, values={i: value(n.kind, i, v) for i, v in n.values.items() if i in n.kind.inputs})
        for k, n in graph.nodes.items()
    }
    variants = tuple(
        replace(v, values={k: ids.get(x, x) if isinstance(x, str) else x for k, x in v.values.items()})
        for v in graph.variants
    )
    around = ids.get(graph.surroundings, graph.surroundings)
    return replace(graph, nodes=nodes, variants=variants, surroundings=around)
