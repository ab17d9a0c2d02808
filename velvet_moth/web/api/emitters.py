"""What spurts where something is thrown: the shader and the choice of graphs that emit."""

from flask import Blueprint

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.render.shading import drawing
from velvet_moth.core.workbench.session import spurting_graph
from velvet_moth.store import graphs, listing
from velvet_moth.web.api.answers import SpurtShader
from velvet_moth.web.api.contract import takes
from velvet_moth.web.api.emitter_answers import SpurtChoices
from velvet_moth.web.api.emitter_state import emitter_state
from velvet_moth.web.api.schemas import SpurtRequest
from velvet_moth.web.api.state import shader_by_itself
from velvet_moth.web.database import db

api = Blueprint("emitters", __name__, url_prefix="/api/graphs")


@api.get("/<int:key>/spurt_shader")
@takes(query=SpurtRequest)
def spurt_shader(key: int, asked: SpurtRequest) -> SpurtShader:
    """What spurts where the decals of a graph are thrown, in one of its variants."""
    kept = graphs.load(db(), key)
    other = kept.backdrop_graphs.get(kept.graph.spurt)
    shown = None
    if other is not None:
        graph, of = spurting_graph(other.graph, kept.graph, asked.variant)
        shown = emitter_state(graph)
    if other is None or shown is None:
        raise OperationRefused("Nothing spurts here.", kept.graph.title, "Choose a graph with an emitter.")
    lowered, values = lower(graph, of), graph.uniform_values(of)
    drawn = drawing(lowered).shader
    return {**shader_by_itself(drawn, graph, values, other), "emitter": shown, "form": graph.form}


@api.get("/<int:key>/spurt_choices")
@takes()
def spurt_choices(key: int) -> SpurtChoices:
    """The graphs of the project that can spurt where this one's decals are thrown."""
    kept = graphs.load(db(), key)
    return {"graphs": [{"graph": str(one.id), "title": one.title} for one in listing.emitting(db(), kept.project_id)]}
