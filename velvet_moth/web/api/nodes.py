"""Search in the catalogue."""

from typing import Any

from flask import Blueprint, jsonify, request

from velvet_moth.core.catalogue import described, search
from velvet_moth.core.graph import Motif
from velvet_moth.core.motifs import outline_of
from velvet_moth.core.outline import outlined_kind
from velvet_moth.store import graphs, projects
from velvet_moth.web.database import db

api = Blueprint("nodes", __name__, url_prefix="/api/nodes")


@api.get("/search")
def find() -> Any:
    query = request.args.get("q", "")[:80]
    hits = [{"key": hit.node.key, "why": hit.why} for hit in search(query)]
    words = query.lower().split()
    motifs = [
        {"key": kept.motif, "name": kept.graph.title, "why": "a motif of the project", "kind": described(kind)}
        for kept in graphs.listed(db(), projects.first(db()).id, motifs=True)
        for kind in [outlined_kind(kept.motif, outline_of(Motif(kept.motif, kept.graph)))]
        if all(word in f"{kept.graph.title} motif".lower() for word in words)
    ]
    return jsonify(hits=[*motifs, *hits] if words else [*hits, *motifs])
