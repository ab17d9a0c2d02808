"""What a graph costs and what its values run over, computed when somebody asks."""

import math
from typing import Any

from flask import Blueprint, jsonify, request

from velvet_moth.core.analysis import (
    RATE_WORDS,
    Box,
    Range,
    moved_bounds,
    own_cost,
    ranges,
    saved_when_muted,
    spent,
    toggle_savings,
)
from velvet_moth.core.interval import Interval
from velvet_moth.core.lower import lower
from velvet_moth.core.pin import pinned
from velvet_moth.core.reference import Scene
from velvet_moth.core.session import textures_of
from velvet_moth.store import graphs
from velvet_moth.web.api.scenes import scene_of
from velvet_moth.web.api.schemas import AnalysisRequest, PinRequest, ViewRequest
from velvet_moth.web.api.state import cost_state, sessions
from velvet_moth.web.database import db

api = Blueprint("analysis", __name__, url_prefix="/api/graphs")


def _interval(found: Interval | None) -> list[float | None] | None:
    """JSON has no infinity: an open end is null."""
    return None if found is None else [c if math.isfinite(c) else None for c in (found.low, found.high)]


def _range(found: Range) -> dict[str, Any]:
    return {
        "proved": _interval(found.proved),
        "seen": _interval(found.seen),
        "rate": RATE_WORDS[found.rate],
    }


def _box(found: Box) -> list[list[float]]:
    return [list(found.low), list(found.high)]


@api.get("/<int:key>/analysis")
def analyse(key: int) -> Any:
    """One node: the range of each output, what it costs, what muting it would save."""
    asked = AnalysisRequest.model_validate(request.args.to_dict())
    kept = graphs.load(db(), key)
    graph = kept.graph
    if asked.node not in graph.nodes:
        # Taken away since the page asked: there is nothing to tell, and nothing wrong.
        return jsonify(None)
    variant = asked.variant if graph.variant(asked.variant) else ""
    lowered = lower(graph, variant)
    node = graph.nodes[asked.node]
    textures, _ = textures_of(graph, graph.uniform_values(variant), sessions().shelf.source(kept.textures))
    found = ranges(lowered, node, variant, textures, scene_of(asked))
    return jsonify(
        ranges={name: _range(r) for name, r in found.items()},
        cost=cost_state(own_cost(lowered, node)),
        saved=cost_state(saved_when_muted(graph, asked.node, variant)),
    )


@api.get("/<int:key>/pin")
def pin(key: int) -> Any:
    """Every value at one pixel of the stage; null where nothing is hit there."""
    asked = PinRequest.model_validate(request.args.to_dict())
    kept = graphs.load(db(), key)
    variant = asked.variant if kept.graph.variant(asked.variant) else ""
    values = kept.graph.uniform_values(variant)
    textures, _ = textures_of(kept.graph, values, sessions().shelf.source(kept.textures))
    at = (min(asked.column, asked.width - 1), min(asked.row, asked.height - 1))
    found = pinned(lower(kept.graph, variant), scene_of(asked), at, (asked.width, asked.height), values, textures)
    if found is None:
        return jsonify(None)
    return jsonify(
        place=found.place,
        light=found.light,
        shown=found.shown,
        values={f"{source.node}.{source.output}": value for source, value in found.values.items()},
    )


@api.get("/<int:key>/cost")
def count(key: int) -> Any:
    """The whole graph: for vertices and pixels, by channel and node, and what turning each toggle would save."""
    asked = ViewRequest.model_validate({"variant": request.args.get("variant", "")})
    kept = graphs.load(db(), key)
    graph = kept.graph
    variant = asked.variant if graph.variant(asked.variant) else ""
    lowered = lower(graph, variant)
    found = spent(lowered)
    each = {n.id: own_cost(lowered, n) for n in graph.nodes.values()}
    dear = sorted((i for i in each if each[i].operations or each[i].reads), key=lambda i: -each[i].operations)[:40]
    textures, _ = textures_of(graph, graph.uniform_values(variant), sessions().shelf.source(kept.textures))
    moved = moved_bounds(lowered, variant, textures, Scene(request.args.get("form", "mooring")))
    return jsonify(
        vertex=cost_state(found.vertex),
        pixel=cost_state(found.pixel),
        channels={name: cost_state(c) for name, c in found.channels.items() if c.operations or c.reads},
        nodes=[{"node": i, "name": graph.nodes[i].name, "cost": cost_state(each[i])} for i in dear],
        toggles=[
            {"node": n, "name": graph.nodes[n].name, "input": i, "saved": cost_state(c)}
            for (n, i), c in toggle_savings(graph, variant).items()
        ],
        bounds={"proved": _box(moved.proved), "seen": _box(moved.seen)} if moved else None,
    )
