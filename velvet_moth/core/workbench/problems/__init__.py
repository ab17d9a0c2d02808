"""Problems of a graph as sentences: what, where, and mends that are operations ready to apply; one file a kind."""

from collections.abc import Mapping

from velvet_moth.core.language.interpreters.bound import Bounds
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.lowering.lowered import LoweredGraph
from velvet_moth.core.render.swatches import SwatchPass
from velvet_moth.core.workbench.problems.devices import beyond_devices, device_problems
from velvet_moth.core.workbench.problems.ranges import (
    RangeMemory,
    View,
    confirm,
    constant_masks,
    range_problems,
    stored_directions,
    uniform_bounds,
)
from velvet_moth.core.workbench.problems.record import Problem
from velvet_moth.core.workbench.problems.scene import (
    decal_on_nothing,
    idle_back,
    idle_channels,
    idle_opacity,
    missing_graphs,
    missing_mesh,
)
from velvet_moth.core.workbench.problems.seeds import shared_seeds
from velvet_moth.core.workbench.problems.textures import Inspections, texture_problems
from velvet_moth.core.workbench.problems.wiring import (
    mended_parts,
    mismatch_problem,
    missing_inputs,
    per_pixel_problem,
    unknown_nodes,
)

__all__ = [
    "Inspections",
    "Problem",
    "RangeMemory",
    "beyond_devices",
    "bounds_of",
    "find_problems",
    "missing_graphs",
    "missing_mesh",
    "seen_problems",
]


def bounds_of(lowered: LoweredGraph, variant: str = "") -> Bounds:
    """Range analysis of a graph for a variant's values, parameters over their whole sliders."""
    return Bounds(uniform_bounds(lowered.graph, lowered.graph.uniform_values(variant)))


def find_problems(
    lowered: LoweredGraph, textures: Mapping[str, Texture], variant: str = "", memory: RangeMemory | None = None
) -> list[Problem]:
    """All problems for a variant's values, those of wiring first; ``textures`` those that are kept, by id.

    Range warnings say "may" until ``seen_problems`` has looked at samples. ``memory`` is that of the look before.
    """
    graph = lowered.graph
    memory = memory or RangeMemory()
    view = View(lowered, variant, memory.bounds_of(graph, graph.uniform_values(variant)), memory.clean)
    # In the order of the graph, whatever of it was lowered first.
    place = {node: at for at, node in enumerate(graph.nodes)}
    problems = [
        mismatch_problem(graph, m, textures) for m in sorted(lowered.mismatches, key=lambda m: (place[m.node], m.input))
    ]
    problems += [per_pixel_problem(graph, t) for t in sorted(lowered.per_pixel, key=lambda t: (place[t.node], t.input))]
    problems += mended_parts(graph)
    problems += unknown_nodes(graph)
    problems += missing_inputs(lowered, textures)
    problems += idle_opacity(lowered)
    problems += idle_channels(lowered)
    problems += idle_back(lowered)
    problems += decal_on_nothing(lowered)
    problems += device_problems(lowered)
    for node in graph.nodes.values():
        problems += range_problems(view, node)
    return problems


def seen_problems(
    lowered: LoweredGraph,
    textures: Mapping[str, Texture],
    variant: str,
    samples: SwatchPass,
    memory: RangeMemory | None = None,
    inspections: Inspections = lambda key: None,
) -> list[Problem]:
    """The problems with what the samples of the swatches show: confirmed, dropped, or found by them alone."""
    found = confirm(find_problems(lowered, textures, variant, memory), samples.arrays)
    found += texture_problems(lowered.graph, inspections, textures)
    found += stored_directions(lowered, samples)
    told = {(p.node, p.input) for p in found}
    values = lowered.graph.uniform_values(variant)
    found += [p for p in constant_masks(lowered, samples, values) if (p.node, p.input) not in told]
    return found + shared_seeds(lowered, values, samples.arrays)
