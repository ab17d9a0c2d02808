"""The state of a graph as the workbench takes it."""

import hashlib
from collections.abc import Mapping
from typing import Any

from flask import current_app

from velvet_moth.core.catalogue import described
from velvet_moth.core.expr import Expr
from velvet_moth.core.formats.graph_json import graph_to_json
from velvet_moth.core.forms import FORMS
from velvet_moth.core.graph import Graph, Source, Value
from velvet_moth.core.interpreters.cost import Cost
from velvet_moth.core.interpreters.glsl import Shader
from velvet_moth.core.problems import Problem
from velvet_moth.core.shading import texture_id
from velvet_moth.core.swatches import ON_DOME, Swatch
from velvet_moth.store.codec import operation_to_json
from velvet_moth.store.graphs import Kept
from velvet_moth.web.api.schemas import ViewRequest
from velvet_moth.web.sessions import GraphSessions


def sessions() -> GraphSessions:
    found: GraphSessions = current_app.extensions["graph_sessions"]
    return found


def source_from(text: str) -> Source | None:
    return Source(*text.split(".")) if text else None


def shader_state(shader: Shader, graph: Graph, values: Mapping[tuple[str, str], Value], known: str) -> dict[str, Any]:
    """A shader with where its values and textures go; its text only where it is not the ``known`` one."""
    digest = hashlib.sha256((shader.vertex + shader.fragment).encode()).hexdigest()[:24]
    out: dict[str, Any] = {
        "hash": digest,
        "floats": shader.floats,
        "slots": [[*s.key, s.offset, s.width] for s in shader.slots if isinstance(s.key, tuple)],
        "samplers": [
            {
                "name": s.name,
                "texture": texture_id(graph, s.key, values),
                "key": list(s.key) if isinstance(s.key, tuple) else [],
                "wrap": list(s.wrap),
            }
            for s in shader.samplers
        ],
    }
    if digest != known:
        out["fragment"], out["vertex"] = shader.fragment, shader.vertex
    return out


def cost_state(cost: Cost) -> dict[str, Any]:
    return {"operations": cost.operations, "reads": cost.reads, "sorts": cost.by_sort}


def _swatch(swatch: Swatch) -> dict[str, Any]:
    return {
        "png": swatch.png,
        "mean": list(swatch.mean),
        "value": list(swatch.value),
        "low": swatch.low,
        "high": swatch.high,
    }


def _problem(problem: Problem) -> dict[str, Any]:
    return {
        "code": problem.code,
        "severity": problem.severity,
        "node": problem.node,
        "input": problem.input,
        "what": problem.what,
        "where": problem.where,
        "mends": [{"words": m.words, "operation": operation_to_json(m.operation)} for m in problem.mends],
    }


def state(kept: Kept, view: ViewRequest, seen: int | None = None) -> dict[str, Any]:
    """Everything the page shows. Swatches that the page has already (of revision ``seen``) are left out."""
    variant = view.variant if kept.graph.variant(view.variant) else ""
    shown_source = source_from(view.shown)
    if shown_source is not None and not _exists(kept, shown_source):
        shown_source = None
    on = _ground(view, kept.graph)
    shown, follows = sessions().show(kept, variant, shown_source, on, seen, view.variant)
    swatches = shown.changed if follows else shown.swatches
    lowered = shown.lowered
    return {
        "id": kept.id,
        "revision": kept.revision,
        "variant": variant,
        "shown": f"{shown_source.node}.{shown_source.output}" if shown_source else "",
        "undo": kept.undo_words,
        "redo": kept.redo_words,
        "changed": kept.changed.isoformat(),
        "document": graph_to_json(kept.graph),
        "types": {f"{s.node}.{s.output}": t.name for s, t in lowered.types.items()},
        "input_types": {f"{n}.{k}": t.name for (n, k), t in lowered.input_types.items()},
        "problems": [_problem(p) for p in shown.problems],
        "shader": shader_state(shown.drawing.shader, lowered.graph, shown.values, view.shader),
        "cost": cost_state(shown.drawing.cost),
        "kinds": {n.id: described(n.kind) for n in kept.graph.nodes.values() if n.outline is not None},
        "rates": {f"{s.node}.{s.output}": int(e.rate) for s, e in lowered.outputs.items() if isinstance(e, Expr)},
        "motif": kept.motif,
        "stamp": kept.stamp,
        "swatches": {f"{s.node}.{s.output}": _swatch(w) for s, w in swatches.items()},
        "all_swatches": not follows,
    }


def _ground(view: ViewRequest, graph: Graph) -> str:
    if view.swatch != "form":
        return view.swatch
    return graph.form if graph.form in FORMS else ON_DOME


def _exists(kept: Kept, source: Source) -> bool:
    node = kept.graph.nodes.get(source.node)
    return node is not None and (
        source.output in node.kind.outputs or (node.kind.hidden and source.output in node.kind.inputs)
    )
