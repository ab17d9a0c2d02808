"""What a graph costs and what its values run over, computed when somebody asks."""

import math
from collections.abc import Hashable
from dataclasses import dataclass, replace

from flask import Blueprint

from velvet_moth.core.document.graph import Graph
from velvet_moth.core.document.values import Value
from velvet_moth.core.language.interval import Interval
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.lighting.decals import Decal
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.lowering.lowered import LoweredGraph
from velvet_moth.core.render.tracing.exposure import metered
from velvet_moth.core.render.tracing.pin import pinned
from velvet_moth.core.render.tracing.projecting import falls_on
from velvet_moth.core.render.tracing.scene import Scene, first_moment, mesh_behind
from velvet_moth.core.workbench.analysis import (
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
from velvet_moth.core.workbench.session import textures_of
from velvet_moth.store import graphs
from velvet_moth.web.api import answers
from velvet_moth.web.api.answers import Analysis, CostReport, Exposure, Pin
from velvet_moth.web.api.contract import takes
from velvet_moth.web.api.scenes import scene_of
from velvet_moth.web.api.schemas import AnalysisRequest, CostRequest, EyeRequest, PinRequest
from velvet_moth.web.api.state import cost_state, sessions
from velvet_moth.web.database import db, release

api = Blueprint("analysis", __name__, url_prefix="/api/graphs")


def _interval(found: Interval) -> tuple[float | None, float | None]:
    """JSON has no infinity: an open end is null."""
    low, high = (c if math.isfinite(c) else None for c in (found.low, found.high))
    return low, high


def _range(found: Range) -> answers.Range:
    return {
        "proved": _interval(found.proved),
        "seen": _interval(found.seen) if found.seen else None,
        "rate": RATE_WORDS[found.rate],
    }


def _box(found: Box) -> list[list[float]]:
    return [list(found.low), list(found.high)]


@dataclass(frozen=True)
class Seen:
    """A graph as an eye of the stage sees it, for the values of a variant."""

    graph: Graph
    variant: str
    scene: Scene
    values: dict[tuple[str, str], Value]
    textures: dict[Hashable, Texture]

    @property
    def lowered(self) -> LoweredGraph:
        return lower(self.graph, self.variant)


def _seen(key: int, asked: EyeRequest) -> Seen:
    kept = graphs.load(db(), key)
    release()
    source = sessions().sources.textures(kept.textures)
    variant = asked.variant if kept.graph.variant(asked.variant) else ""
    values = kept.graph.uniform_values(variant, asked.time)
    textures, _ = textures_of(kept.graph, values, source)
    sources = sessions().sources
    behind = sources.graphs(kept.backdrop_graphs)
    under = sources.meshes(kept.mesh.at(asked.level) if kept.mesh else None)
    scene = scene_of(asked, kept.graph, variant, source, behind, under)
    return Seen(kept.graph, variant, scene, values, textures)


@api.get("/<int:key>/analysis")
@takes(query=AnalysisRequest)
def analyse(key: int, asked: AnalysisRequest) -> Analysis | None:
    """One node: the range of each output, what it costs, what muting it would save."""
    seen = _seen(key, asked)
    if asked.node not in seen.graph.nodes:
        # Taken away since the page asked: there is nothing to tell, and nothing wrong.
        return None
    lowered, node = seen.lowered, seen.graph.nodes[asked.node]
    found = ranges(lowered, node, seen.variant, seen.textures, seen.scene)
    return dict(
        ranges={name: _range(r) for name, r in found.items()},
        cost=cost_state(own_cost(lowered, node)),
        saved=cost_state(saved_when_muted(seen.graph, asked.node, seen.variant)),
    )


@api.get("/<int:key>/decal")
@takes(query=PinRequest)
def new_decal(key: int, asked: PinRequest) -> Decal | None:
    """A decal placed at one pixel of the stage, to be added to the graph's; null where nothing lies behind."""
    scene = _seen(key, asked).scene
    if not scene.backdrop:
        return None
    index = max((decal.index for decal in scene.decals), default=0.0) + 1
    found = falls_on(mesh_behind(scene), scene.camera, asked.pixel, asked.size, index)
    return found


@api.get("/<int:key>/exposure")
@takes(query=EyeRequest)
def exposure(key: int, asked: EyeRequest) -> Exposure:
    """The exposure that suits what an eye sees."""
    seen = _seen(key, asked)
    return dict(exposure=metered(seen.lowered, seen.scene, seen.values, seen.textures))


@api.get("/<int:key>/pin")
@takes(query=PinRequest)
def pin(key: int, asked: PinRequest) -> Pin | None:
    """Every value at one pixel of the stage; null where nothing is hit there."""
    seen = _seen(key, asked)
    found = pinned(seen.lowered, seen.scene, asked.pixel, asked.size, seen.values, seen.textures)
    if found is None:
        return None
    return dict(
        place=[*found.place],
        light=[*found.light],
        shown=[*found.shown],
        values={f"{source.node}.{source.output}": [*value] for source, value in found.values.items()},
    )


@api.get("/<int:key>/cost")
@takes(query=CostRequest)
def count(key: int, asked: CostRequest) -> CostReport:
    """The whole graph: for vertices and pixels, by channel and node, and what turning each toggle would save."""
    kept = graphs.load(db(), key)
    release()
    graph = kept.graph
    variant = asked.variant if graph.variant(asked.variant) else ""
    lowered = lower(graph, variant)
    found = spent(lowered)
    each = {n.id: own_cost(lowered, n) for n in graph.nodes.values()}
    dear = sorted((i for i in each if each[i].operations or each[i].reads), key=lambda i: -each[i].operations)[:40]
    textures, _ = textures_of(graph, graph.uniform_values(variant), sessions().sources.textures(kept.textures))
    under = sessions().sources.meshes(kept.mesh)(graph.mesh) if graph.mesh else None
    scene = Scene(asked.form, pose=graph.pose, brought=under, time=first_moment(graph))
    if graph.emitter.is_on:
        scene = replace(scene, emitter=graph.emitter, sources=(graph.emitter.own_source,))
    moved = moved_bounds(lowered, variant, textures, scene)
    return dict(
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
