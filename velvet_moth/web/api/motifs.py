"""Motifs: made from a selection, unpacked, found where they are used."""

from flask import Blueprint

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.document.values import fresh_name
from velvet_moth.core.editing.extraction import extract, unpacked
from velvet_moth.store import graphs, listing
from velvet_moth.store.importing import new_type
from velvet_moth.web.api.answers import GraphState, Uses
from velvet_moth.web.api.contract import takes
from velvet_moth.web.api.schemas import MotifRequest, NodeRequest
from velvet_moth.web.api.state import state
from velvet_moth.web.database import db

api = Blueprint("motifs", __name__, url_prefix="/api/graphs")


@api.post("/<int:key>/motifs")
@takes(body=MotifRequest)
def make(key: int, asked: MotifRequest) -> GraphState:
    """Makes a motif of chosen nodes and puts its first use in their place."""
    kept = graphs.load(db(), key)
    title = fresh_name(asked.title, graphs.titles(db(), kept.project_id))
    made = extract(kept.graph, asked.nodes, title, new_type())
    # A stale revision is refused before the motif is kept: both happen or neither.
    graphs.check_revision(db(), key, asked.revision)
    motif = graphs.create(db(), kept.project_id, made.motif, made.motif.motif)
    changed = graphs.change(db(), key, asked.revision, made.operation)
    return state(changed, asked, made=motif.id)


@api.post("/<int:key>/unpack")
@takes(body=NodeRequest)
def unpack(key: int, asked: NodeRequest) -> GraphState:
    """Replaces a use of a motif by the nodes inside it."""
    kept = graphs.load(db(), key)
    if asked.node not in kept.graph.nodes:
        raise OperationRefused("This node is no longer in the graph.", asked.node, "Undo brings it back.")
    changed = graphs.change(db(), key, asked.revision, unpacked(kept.graph, asked.node))
    return state(changed, asked)


@api.get("/<int:key>/uses")
@takes()
def uses(key: int) -> Uses:
    """The graphs and motifs in which this motif stands."""
    kept = graphs.load(db(), key)
    found = listing.used_by(db(), kept.project_id, kept.motif) if kept.motif else []
    return dict(uses=[{"id": one.id, "title": one.title} for one in found])
