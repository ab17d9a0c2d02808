"""The history of a graph: its steps, going to one of them, named versions and comparing with them."""

from flask import Blueprint, Response

from velvet_moth.core.editing.comparison import differences
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.render.shading import drawing
from velvet_moth.store import graphs, history, steps
from velvet_moth.store.graphs import HISTORY
from velvet_moth.web.api.answers import Comparison, GraphState, History, Id, ShaderWithValues, ValuesHeld, Version
from velvet_moth.web.api.contract import sends, takes
from velvet_moth.web.api.schemas import JumpRequest, StepRequest, VersionRequest, ViewRequest
from velvet_moth.web.api.state import sessions, shader_by_itself, state
from velvet_moth.web.api.steps import steps_state
from velvet_moth.web.database import db

api = Blueprint("history", __name__, url_prefix="/api/graphs")


def _version(version: history.Version) -> Version:
    return {
        "id": version.id,
        "name": version.name,
        "revision": version.revision,
        "made": version.made.isoformat(),
    }


@api.get("/<int:key>/history")
@takes()
def read(key: int) -> History:
    return dict(
        steps=steps_state(steps.steps(db(), HISTORY, key)),
        versions=[_version(v) for v in history.versions(db(), key)],
    )


@api.get("/<int:key>/history/<parameter>")
@takes()
def values_held(key: int, parameter: str) -> ValuesHeld:
    """The values a parameter had, the newest first."""
    graph = graphs.load(db(), key).graph
    names = {variant.id: variant.name for variant in graph.variants}
    return dict(
        values=[
            {
                "value": held.value,
                "where": names.get(held.variant, "a variant that is gone") if held.variant else "the defaults",
                "made": held.made.isoformat(),
            }
            for held in history.values_held(db(), key, parameter)
        ]
    )


@api.post("/<int:key>/jump")
@takes(body=JumpRequest)
def jump(key: int, asked: JumpRequest) -> GraphState:
    """Undoes or redoes until the step asked for is the newest that holds."""
    return state(history.go_to(db(), key, asked.revision, asked.number), asked)


@api.post("/<int:key>/versions")
@takes(body=VersionRequest)
def keep(key: int, asked: VersionRequest) -> Version:
    return _version(history.keep_version(db(), key, asked.name))


@api.delete("/<int:key>/versions/<int:version>")
@takes()
def remove(key: int, version: int) -> Id:
    history.remove_version(db(), key, version)
    return dict(id=version)


@api.post("/<int:key>/versions/<int:version>/restore")
@takes(body=StepRequest)
def restore(key: int, version: int, asked: StepRequest) -> GraphState:
    return state(history.restore_version(db(), key, asked.revision, version), asked)


@api.get("/<int:key>/versions/<int:version>/compare")
@takes()
def compare(key: int, version: int) -> Comparison:
    """What differs from a version to the graph as it is now."""
    then, kept = history.version_graph(db(), key, version)
    before, now = kept.graph, graphs.load(db(), key)
    found = differences(before, now.graph)
    return dict(
        version={**_version(then), "stamp": kept.stamp},
        stamp=now.stamp,
        added=list(found.added),
        removed=[{"node": k, "name": before.nodes[k].name} for k in found.removed],
        changed={k: list(words) for k, words in found.changed.items()},
        elsewhere=list(found.elsewhere),
    )


@api.get("/<int:key>/versions/<int:version>/shader")
@takes(query=ViewRequest)
def shader(key: int, version: int, asked: ViewRequest) -> ShaderWithValues:
    """The lit shader of a version and its values, of a variant where it had that."""
    _, kept = history.version_graph(db(), key, version)
    variant = asked.variant if kept.graph.variant(asked.variant) else ""
    lowered, values = lower(kept.graph, variant), kept.graph.uniform_values(variant)
    return shader_by_itself(drawing(lowered).shader, lowered.graph, values, kept)


@api.get("/<int:key>/versions/<int:version>/picture.png")
@sends("image/png")
def picture(key: int, version: int) -> Response:
    png = sessions().picture(db(), history.version_graph(db(), key, version)[1], "").png
    # The address carries the stamp, so the picture at it never changes.
    return Response(png, mimetype="image/png", headers={"Cache-Control": "private, max-age=31536000, immutable"})
