"""Motifs: made from a selection, unpacked, found where they are used, brought along by a graph file."""

import secrets
from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from flask import Blueprint, jsonify, request
from sqlalchemy.orm import Session

from velvet_moth.core.errors import OperationRefused
from velvet_moth.core.extraction import extract, unpacked
from velvet_moth.core.formats.graph_json import graph_to_json
from velvet_moth.core.graph import Graph
from velvet_moth.store import graphs
from velvet_moth.web.api.schemas import MotifRequest, NodeRequest
from velvet_moth.web.api.state import state
from velvet_moth.web.database import db

api = Blueprint("motifs", __name__, url_prefix="/api/graphs")


def new_type() -> str:
    return f"motif_{secrets.token_hex(6)}"


@api.post("/<int:key>/motifs")
def make(key: int) -> Any:
    """Makes a motif of chosen nodes and puts its first use in their place."""
    asked = MotifRequest.model_validate(request.get_json())
    kept = graphs.load(db(), key)
    title = graphs.free_title(asked.title, graphs.titles(db(), kept.project_id))
    made = extract(kept.graph, asked.nodes, title, new_type())
    # A stale revision is refused before the motif is kept: both happen or neither.
    graphs.check_revision(db(), key, asked.revision)
    motif = graphs.create(db(), kept.project_id, made.motif, made.motif.motif)
    changed = graphs.change(db(), key, asked.revision, made.operation)
    return jsonify({**state(changed, asked), "made": motif.id})


@api.post("/<int:key>/unpack")
def unpack(key: int) -> Any:
    """Replaces a use of a motif by the nodes inside it."""
    asked = NodeRequest.model_validate(request.get_json())
    kept = graphs.load(db(), key)
    if asked.node not in kept.graph.nodes:
        raise OperationRefused("This node is no longer in the graph.", asked.node, "Undo brings it back.")
    changed = graphs.change(db(), key, asked.revision, unpacked(kept.graph, asked.node))
    return jsonify(state(changed, asked))


@api.get("/<int:key>/uses")
def uses(key: int) -> Any:
    """The graphs and motifs in which this motif stands."""
    kept = graphs.load(db(), key)
    found = graphs.used_by(db(), kept.project_id, kept.motif) if kept.motif else []
    return jsonify(uses=[{"id": k.id, "title": k.graph.title} for k in found])


def retyped(graph: Graph, types: Mapping[str, str]) -> Graph:
    """The graph with its uses of motifs under other types."""
    nodes = {k: replace(n, type=types.get(n.type, n.type)) for k, n in graph.nodes.items()}
    return replace(graph, nodes=nodes)


def keep_motifs(session: Session, project_id: int, motifs: Mapping[str, Graph]) -> dict[str, str]:
    """Keeps the motifs of a file in a project; gives for each its type there.

    One that is there already, the same, is used as it is; one that differs comes in beside it.
    """
    known = graphs.project_motifs(session, project_id)
    types: dict[str, str] = {}
    todo = dict(motifs)
    while todo:
        # Those that stand on no other motif of the file first.
        type_ = next((t for t, g in todo.items() if not {n.type for n in g.nodes.values()} & (set(todo) - {t})), "")
        type_ = type_ or next(iter(todo))
        made = retyped(todo.pop(type_), types)
        here = known.get(type_)
        if here is not None and graph_to_json(here.graph) == graph_to_json(made):
            types[type_] = type_
            continue
        types[type_] = type_ if here is None and type_.startswith("motif_") else new_type()
        title = graphs.free_title(made.title, graphs.titles(session, project_id))
        graphs.create(session, project_id, replace(made, title=title), types[type_])
    return types
