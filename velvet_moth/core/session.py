"""What the workbench shows of a graph: shader, values, problems, swatches; computes only what an edit changed."""

from collections.abc import Callable, Hashable
from dataclasses import dataclass, field, replace

from velvet_moth.core.graph import Graph, Source, Value
from velvet_moth.core.lower import lower
from velvet_moth.core.lowered import LoweredGraph
from velvet_moth.core.problems import Inspections, Problem, RangeMemory, seen_problems
from velvet_moth.core.shading import Drawing, drawing, shown_look
from velvet_moth.core.stand_ins import stand_ins
from velvet_moth.core.swatches import ON_DOME, Swatch, SwatchPass
from velvet_moth.core.texture.image import Pixels, Texture
from velvet_moth.core.texture.library import missing_texture
from velvet_moth.core.tracing.reference import render
from velvet_moth.core.tracing.scene import Scene

# Gives a texture by its id, or None where there is none.
TextureSource = Callable[[str], Texture | None]


@dataclass(frozen=True)
class Shown:
    """One state of a graph as the workbench shows it. ``changed`` are the swatches that differ from before."""

    graph: Graph
    lowered: LoweredGraph
    values: dict[tuple[str, str], Value]
    drawing: Drawing
    problems: list[Problem]
    changed: dict[Source, Swatch]
    swatches: dict[Source, Swatch]


def textures_of(
    graph: Graph, values: dict[tuple[str, str], Value], source: TextureSource
) -> tuple[dict[Hashable, Texture], dict[str, Texture]]:
    """Textures by sampler key, stand-ins where missing, and those that were found by id."""
    bound: dict[Hashable, Texture] = {}
    found: dict[str, Texture] = {}
    for key, stand_in in stand_ins(graph).items():
        chosen = str(values[key])
        loaded = source(chosen) if chosen else None
        if loaded is not None:
            found[chosen] = loaded
        bound[key] = loaded or missing_texture(stand_in)
    return bound, found


@dataclass
class Session:
    """The memory between two edits of one graph."""

    swatch_pass: SwatchPass = field(default_factory=SwatchPass)
    samples: SwatchPass = field(default_factory=SwatchPass)
    ranges: RangeMemory = field(default_factory=RangeMemory)

    def show(
        self,
        graph: Graph,
        variant: str,
        shown: Source | None,
        textures: TextureSource,
        on: str = ON_DOME,
        inspections: Inspections = lambda key: None,
    ) -> Shown:
        """Everything the page needs after an edit, for the values of ``variant`` ("" for the defaults).

        ``on`` is the ground of the swatches; ``inspections`` give what is found out about textures, told where they
        are read the wrong way.
        """
        lowered = lower(graph, variant)
        values = graph.uniform_values(variant)
        drawn = drawing(lowered, shown)
        bound, known = textures_of(graph, values, textures)
        changed = self.swatch_pass.update(lowered, values, bound, on)
        # What is wrong with a graph must not hang on what its swatches are drawn on: the dome judges.
        judged = self.swatch_pass if on == ON_DOME else self.samples
        if judged is self.samples:
            judged.update(lowered, values, bound)
        problems = seen_problems(lowered, known, variant, judged.arrays, self.ranges, inspections)
        return Shown(graph, lowered, values, drawn, problems, changed, self.swatch_pass.swatches)


def surrounded(scene: Scene, graph: Graph, textures: TextureSource) -> Scene:
    """The scene with the picture a graph has around it; with the rig's own where there is none, or it is gone."""
    around = textures(graph.surroundings) if graph.surroundings else None
    return replace(scene, surroundings=around)


def picture(
    graph: Graph,
    size: tuple[int, int],
    textures: TextureSource,
    variant: str = "",
    scene: Scene | None = None,
) -> Pixels:
    """The reference picture of a graph's surface, (rows, columns, 4), row 0 at the bottom."""
    values = graph.uniform_values(variant)
    bound, _ = textures_of(graph, values, textures)
    stood = surrounded(scene or Scene.of_graph(graph), graph, textures)
    return render(shown_look(lower(graph, variant)), values, bound, size, stood)
