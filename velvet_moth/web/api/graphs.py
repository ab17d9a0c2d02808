"""Graphs: the state, edits, undo and redo, files, pictures, and what the library does with them."""

import json
from dataclasses import replace
from typing import Any

from flask import Blueprint, Response, jsonify, request

from velvet_moth.core.backdrops import light_behind
from velvet_moth.core.errors import FileRefused
from velvet_moth.core.formats.graph_json import GraphFile, TextureFile, read_graph_file, write_graph_file
from velvet_moth.core.graph import Graph, empty_graph
from velvet_moth.core.interpreters.glsl import emit
from velvet_moth.core.lighting.kinds import KINDS
from velvet_moth.core.lower import lower
from velvet_moth.core.shading import drawing
from velvet_moth.demo.starters import STARTERS
from velvet_moth.store import arriving, blobs, graphs, listing, projects
from velvet_moth.store.errors import NotFound
from velvet_moth.web.apart import reader
from velvet_moth.web.api.schemas import (
    CraftRequest,
    EditRequest,
    NewGraph,
    ShaderRequest,
    StepRequest,
    ViewRequest,
    WornRequest,
)
from velvet_moth.web.api.state import sessions, shader_by_itself, shader_state, state
from velvet_moth.web.database import db
from velvet_moth.web.lanes import READING

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
    graphs.restore(db(), key)
    return jsonify(id=key)


@api.get("/<int:key>/picture.png")
def picture(key: int) -> Response:
    kept = graphs.load(db(), key)
    view = ViewRequest.model_validate({"variant": request.args.get("variant", "")})
    if view.variant and kept.graph.variant(view.variant) is None:
        raise NotFound("There is no such variant.", view.variant, "Reload the page.")
    png = sessions().picture(db(), kept, view.variant)
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


@api.get("/<int:key>/wearable")
def wearable(key: int) -> Any:
    """The graphs of the project that parts of this one's backdrop can wear, with their variants."""
    kept = graphs.load(db(), key)
    casting = [key for key, kind in KINDS.items() if kind.casts]
    return jsonify(
        graphs=[
            {
                "graph": str(one.id),
                "title": one.title,
                "variants": [{"id": id_, "name": name} for id_, name in one.variants],
            }
            for one in listing.every_kind(db(), kept.project_id, casting)
        ]
    )


@api.get("/<int:key>/worn")
def worn_shader(key: int) -> Any:
    """What a backdrop's part shows that wears a graph, under a rig of so many ``lamps``: its shader and values."""
    asked = WornRequest.model_validate(request.args.to_dict())
    kept = graphs.load(db(), key)
    lowered, values = lower(kept.graph, asked.variant), kept.graph.uniform_values(asked.variant)
    shader = emit(light_behind(lowered.surface, asked.lamps), lowered.names)
    return jsonify(shader_by_itself(shader, lowered.graph, values, kept))


@api.get("/<int:key>/export.json")
def export(key: int) -> Response:
    kept = graphs.load(db(), key)
    every = [kept, *kept.worn.values()]
    read = {key: texture for one in every for key, texture in one.textures.items()}
    inside = {key: TextureFile(t.name, t.reading, blobs.get(db(), t.sha256)) for key, t in read.items()}
    motifs = {key: motif.graph for one in every for key, motif in one.graph.used_motifs().items()}
    worn = {key: one.graph for key, one in kept.worn.items()}
    name = "".join(c if c.isascii() and c.isalnum() else "-" for c in kept.graph.title.lower()).strip("-") or "graph"
    return Response(
        write_graph_file(GraphFile(kept.graph, inside, motifs, worn)),
        mimetype="application/json",
        headers={"Content-Disposition": f'attachment; filename="{name}.moth.json"'},
    )


@api.get("/<int:key>/kept.json")
def as_kept(key: int) -> Response:
    """The document of a graph to the letter, whether it can be read or not."""
    return Response(
        json.dumps(graphs.raw_document(db(), key), indent=1, ensure_ascii=False),
        mimetype="application/json",
        headers={"Content-Disposition": f'attachment; filename="graph-{key}.moth.json"'},
    )


@api.post("/import")
def take_in() -> Any:
    sent = request.files.get("file")
    if sent is None:
        raise FileRefused("No file came with the request.", "file", "Choose a graph file.")
    with READING.turn():
        file = read_graph_file(sent.read(), f"file {sent.filename!r}")
        return jsonify(id=arriving.take_in(db(), projects.first(db()).id, file, reader().read).id)
