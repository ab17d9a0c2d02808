"""Search in the catalogue."""

from dataclasses import replace

from flask import Blueprint

from velvet_moth.core.catalogue.registry import CATALOGUE
from velvet_moth.core.catalogue.search import search
from velvet_moth.core.document.outline import outlined_kind
from velvet_moth.core.document.values import fresh_name
from velvet_moth.core.lowering.motifs import outline_of
from velvet_moth.core.workbench.examples import example, sample_textures
from velvet_moth.store import documents, graphs, projects, textures
from velvet_moth.store.errors import NotFound
from velvet_moth.store.importing import rebound
from velvet_moth.web.api.answers import Hit, Hits, Id
from velvet_moth.web.api.catalogue import described
from velvet_moth.web.api.contract import takes
from velvet_moth.web.api.schemas import SearchRequest
from velvet_moth.web.database import db

api = Blueprint("nodes", __name__, url_prefix="/api/nodes")


@api.post("/<key>/example")
@takes()
def open_example(key: str) -> Id:
    """Keeps a node's example as a graph of the project, with the textures it reads."""
    kind = CATALOGUE.get(key)
    if kind is None or kind.hidden:
        raise NotFound("There is no node of that name.", f"node {key[:40]}", "Choose one from the reference.")
    project = projects.first(db())
    made = example(kind)
    used = {str(v) for v in made.uniform_values().values() if isinstance(v, str)}
    ids = {
        k: textures.add(db(), project.id, t.name, t.reading, t.picture).id
        for k, t in sample_textures().items()
        if k in used
    }
    title = fresh_name(made.title, graphs.titles(db(), project.id))
    return dict(id=graphs.create(db(), project.id, replace(rebound(made, ids), title=title)).id)


@api.get("/search")
@takes(query=SearchRequest)
def find(asked: SearchRequest) -> Hits:
    query = asked.q
    hits: list[Hit] = [{"key": hit.node.key, "why": hit.why} for hit in search(query)]
    words = query.lower().split()
    motifs: list[Hit] = [
        {"key": type_, "name": motif.graph.title, "why": "a motif of the project", "kind": described(kind)}
        for type_, motif in documents.project_motifs(db(), projects.first(db()).id).items()
        if all(word in f"{motif.graph.title} motif".lower() for word in words)
        for kind in [outlined_kind(type_, outline_of(motif))]
    ]
    return dict(hits=[*motifs, *hits] if words else [*hits, *motifs])
