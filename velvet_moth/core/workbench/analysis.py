"""What a graph costs and what its values run over: for the whole, for one node, and for the form it moves."""

from collections.abc import Hashable, Mapping
from dataclasses import dataclass, replace

import numpy as np

from velvet_moth.core.document.graph import Graph, Node, Source
from velvet_moth.core.emitting.emitter import reach_of
from velvet_moth.core.language.expr import Array, Expr, Rate, constant
from velvet_moth.core.language.interpreters.cost import Cost, cost
from velvet_moth.core.language.interpreters.evaluate import evaluate
from velvet_moth.core.language.interval import Interval
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.language.types import P_BOOL
from velvet_moth.core.lighting.shown import appearance
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.lowering.lowered import LoweredGraph
from velvet_moth.core.render.tracing.reference import points_of
from velvet_moth.core.render.tracing.scene import Scene, shown_mesh, stage_textures
from velvet_moth.core.render.tracing.staged import moved_positions, uniform_arrays
from velvet_moth.core.workbench.problems import bounds_of

SAMPLES = (64, 64)

RATE_WORDS = {
    Rate.CONSTANT: "fixed when the shader is built",
    Rate.DRAW: "the same for a whole draw",
    Rate.VERTEX: "for each vertex or pixel",
    Rate.PIXEL: "for each pixel only",
}


@dataclass(frozen=True)
class Spent:
    """What a graph's own nodes cost, lighting left out: for each vertex, for each pixel, and by channel."""

    vertex: Cost
    pixel: Cost
    channels: Mapping[str, Cost]


def _pixel_channels(lowered: LoweredGraph) -> dict[str, Expr]:
    return {key: e for key, e in lowered.surface.channels.items() if key != "offset"}


def spent(lowered: LoweredGraph) -> Spent:
    """What a whole graph costs: at a vertex, at a pixel, and by channel."""
    channels = _pixel_channels(lowered)
    vertex = cost([lowered.surface["offset"]])
    each = {"offset": vertex, **{key: cost([e]) for key, e in channels.items()}}
    return Spent(vertex, cost(channels.values()), each)


def _whole(lowered: LoweredGraph) -> Cost:
    found = spent(lowered)
    return found.vertex + found.pixel


def own_cost(lowered: LoweredGraph, node: Node) -> Cost:
    """What a node adds to what it reads."""
    known: set[Expr] = set()
    for source in node.wires.values():
        made = lowered.outputs[source.whole]
        known.update([made] if isinstance(made, Expr) else made.channels.values())
    return cost(lowered.outputs_of(node), known)


def saved_when_muted(graph: Graph, node: str, variant: str = "") -> Cost:
    """What the graph would cost less without a node: with its first fitting input passed through."""
    return _whole(lower(graph, variant)) - _whole(lower(graph, variant, frozenset({node})))


def toggle_savings(graph: Graph, variant: str = "") -> dict[tuple[str, str], Cost]:
    """For every toggle set by hand, by (node, input): what the graph would cost less with it turned."""
    settled = graph.settled(variant)
    lowered = lower(settled)
    now = _whole(lowered)
    found = {}
    for node in settled.nodes.values():
        for key, declared in node.kind.inputs.items():
            if declared.type is P_BOOL and key not in node.wires:
                turned = (0.0,) if node.value(key) == (1.0,) else (1.0,)
                other = settled.with_node(replace(node, values={**node.values, key: turned}))
                found[node.id, key] = now - _whole(lower(other, before=lowered))
    return found


@dataclass(frozen=True)
class Range:
    """``proved`` encloses every value an output can have; ``seen`` what it has on the stage's form, where seen."""

    proved: Interval
    seen: Interval | None
    rate: Rate


def _seen(value: Array, hit: Array) -> Interval | None:
    whole = np.broadcast_to(value, (*value.shape[:-2], *hit.shape)) if value.ndim >= 2 else value[..., None, None]
    kept = whole[..., hit] if value.ndim >= 2 else np.ravel(whole)
    return Interval(float(kept.min()), float(kept.max())) if kept.size else None


def ranges(
    lowered: LoweredGraph,
    node: Node,
    variant: str,
    textures: Mapping[Hashable, Texture],
    scene: Scene,
) -> dict[str, Range]:
    """The range of each output of a node that is one value, on the form and from the eye of ``scene``."""
    exprs = {key: lowered.outputs[Source(node.id, key)] for key in node.kind.outputs}
    flat = {k: e for k, e in exprs.items() if isinstance(e, Expr) and e.type.base != "texture"}
    values = lowered.graph.uniform_values(variant)
    stage = points_of(scene, appearance(lowered.surface, None, lowered.graph.kind), values, textures, SAMPLES)
    hit, arrays = stage.hit, evaluate(list(flat.values()), stage.bindings)
    proved = bounds_of(lowered, variant).of(flat.values())
    return {
        key: Range(bound, _seen(np.asarray(array, dtype=np.float32), hit), expr.rate)
        for (key, expr), array, bound in zip(flat.items(), arrays, proved, strict=True)
    }


@dataclass(frozen=True)
class Box:
    """The corners of a box, metres."""

    low: tuple[float, float, float]
    high: tuple[float, float, float]


@dataclass(frozen=True)
class MovedBounds:
    """The box a moved form can never leave, whatever the time and the sliders; and the box it fills now."""

    proved: Box
    seen: Box


def proved_box(lowered: LoweredGraph, variant: str, scene: Scene) -> Box:
    """The box that a form can never leave as its surface moves it, whatever the time and the sliders."""
    low, high = scene.mesh.box
    if scene.emitter.is_on:
        # However instances fly, and whenever.
        own = float(np.linalg.norm(scene.mesh.positions, axis=1).max())
        far = max(reach_of(scene.emitter, source, own) for source in scene.sources)
        low, high = np.full(3, -far, dtype=np.float32), np.full(3, far, dtype=np.float32)
    offset = appearance(lowered.surface).offset
    shift = constant(0.0, 0.0, 0.0) if offset is None else offset
    shifts = bounds_of(lowered, variant).of([shift[i] for i in range(3)])
    return Box(
        (*(float(c) + s.low for c, s in zip(low, shifts, strict=True)),),  # type: ignore[arg-type] # three of each
        (*(float(c) + s.high for c, s in zip(high, shifts, strict=True)),),  # type: ignore[arg-type] # three of each
    )


def moved_bounds(
    lowered: LoweredGraph, variant: str, textures: Mapping[Hashable, Texture], scene: Scene
) -> MovedBounds | None:
    """None where the graph neither moves the form nor draws it many times; seen at the scene's time."""
    offset = appearance(lowered.surface).offset
    if offset is None and not scene.emitter.is_on:
        return None
    mesh, proved = shown_mesh(scene), proved_box(lowered, variant, scene)
    values = uniform_arrays(lowered.graph.uniform_values(variant))
    moved = moved_positions(mesh, offset, scene, values, {**textures, **stage_textures()})
    corners = moved.min(axis=0).tolist(), moved.max(axis=0).tolist()
    return MovedBounds(proved, Box(*(tuple(c) for c in corners)))
