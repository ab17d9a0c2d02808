"""The history of a graph: its steps, going to one of them, named versions and comparing with them."""

from typing import Any

from flask import Blueprint, Response, jsonify, request

from velvet_moth.core.compare import differences
from velvet_moth.core.lower import lower
from velvet_moth.core.shading import drawing
from velvet_moth.store import graphs, history
from velvet_moth.web.api.schemas import JumpRequest, StepRequest, VersionRequest, ViewRequest
from velvet_moth.web.api.state import sessions, shader_by_itself, state
from velvet_moth.web.database import db

api = Blueprint("history", __name__, url_prefix="/api/graphs")


def _version(version: history.Version) -> dict[str, Any]:
    return {
        "id": version.id,
        "name": version.name,
        "revision": version.revision,
        "made": version.made.isoformat(),
    }


@api.get("/<int:key>/history")
def read(key: int) -> Any:
    steps = history.steps(db(), key)
    return jsonify(
        steps=[{"number": s.number, "words": s.words, "made": s.made.isoformat(), "done": s.is_done} for s in steps],
        versions=[_version(v) for v in history.versions(db(), key)],
    )


@api.get("/<int:key>/history/<parameter>")
def values_held(key: int, parameter: str) -> Any:
    """The values a parameter had, the newest first."""
    graph = graphs.load(db(), key).graph
    names = {variant.id: variant.name for variant in graph.variants}
    return jsonify(
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
def jump(key: int) -> Any:
    """Undoes or redoes until the step asked for is the newest that holds."""
    asked = JumpRequest.model_validate(request.get_json())
    return jsonify(state(history.go_to(db(), key, asked.revision, asked.number), asked))


@api.post("/<int:key>/versions")
def keep(key: int) -> Any:
    asked = VersionRequest.model_validate(request.get_json())
    return jsonify(_version(history.keep_version(db(), key, asked.name)))


@api.delete("/<int:key>/versions/<int:version>")
def remove(key: int, version: int) -> Any:
    history.remove_version(db(), key, version)
    return jsonify(id=version)


@api.post("/<int:key>/versions/<int:version>/restore")
def restore(key: int, version: int) -> Any:
    asked = StepRequest.model_validate(request.get_json())
    return jsonify(state(history.restore_version(db(), key, asked.revision, version), asked))


@api.get("/<int:key>/versions/<int:version>/compare")
def compare(key: int, version: int) -> Any:
    """What differs from a version to the graph as it is now."""
    then, kept = history.version_graph(db(), key, version)
    before, now = kept.graph, graphs.load(db(), key)
    found = differences(before, now.graph)
    return jsonify(
        version={**_version(then), "stamp": kept.stamp},
        stamp=now.stamp,
        added=list(found.added),
        removed=[{"node": k, "name": before.nodes[k].name} for k in found.removed],
        changed={k: list(words) for k, words in found.changed.items()},
        elsewhere=list(found.elsewhere),
    )


@api.get("/<int:key>/versions/<int:version>/shader")
def shader(key: int, version: int) -> Any:
    """The lit shader of a version and its values, of a variant where it had that."""
    asked = ViewRequest.model_validate(request.args.to_dict())
    _, kept = history.version_graph(db(), key, version)
    variant = asked.variant if kept.graph.variant(asked.variant) else ""
    lowered, values = lower(kept.graph, variant), kept.graph.uniform_values(variant)
    return jsonify(shader_by_itself(drawing(lowered).shader, lowered.graph, values, kept))


@api.get("/<int:key>/versions/<int:version>/picture.png")
def picture(key: int, version: int) -> Response:
    png = sessions().picture(db(), history.version_graph(db(), key, version)[1], "")
    # The address carries the stamp, so the picture at it never changes.
    return Response(png, mimetype="image/png", headers={"Cache-Control": "private, max-age=31536000, immutable"})
