"""A graph as a text in a language, with all that an engine must give it."""

from collections.abc import Mapping
from dataclasses import dataclass

from velvet_moth.core.document.graph import Graph
from velvet_moth.core.exporting.bound import Bound, bound_of
from velvet_moth.core.exporting.choices import Choices, checked
from velvet_moth.core.exporting.head import head_lines, precision_words
from velvet_moth.core.exporting.naming import member_name, place_of
from velvet_moth.core.exporting.packing import NO_PACKING, Packing
from velvet_moth.core.exporting.shapes import SHAPES
from velvet_moth.core.language.expr import Expr
from velvet_moth.core.language.interpreters.bound import Bounds
from velvet_moth.core.language.interpreters.precision import Reduced, reduced
from velvet_moth.core.language.interpreters.text.module import Computed, Module, write_module
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.lowering.lowered import LoweredGraph
from velvet_moth.core.render.binding_list import ReadTexture
from velvet_moth.core.render.shading import shared_textures
from velvet_moth.core.workbench.problems.ranges import uniform_bounds

STEP_OF_A_PICTURE = 1 / 255


@dataclass(frozen=True)
class Exported:
    """The text of a graph in a language, and what is bound to it.

    ``nodes`` are the ids of those that lines hold, by their numbers from 1; ``words`` are sentences about what was chosen.
    """

    module: Module
    bound: Bound
    nodes: Mapping[int, tuple[str, ...]]
    words: tuple[str, ...] = ()

    @property
    def text(self) -> str:
        """That of the module."""
        return self.module.text


def lowered_for_export(graph: Graph, variant: str, switched: bool = False) -> LoweredGraph:
    """A graph as every language takes it: only what parameters open stays outside, toggles where they are ``switched``."""
    return lower(graph, variant, folded=True, switched=switched)


def exported(
    graph: Graph,
    choices: Choices,
    textures: Mapping[str, ReadTexture],
    lowered: LoweredGraph | None = None,
    packing: Packing = NO_PACKING,
) -> Exported:
    """A graph in a language and shape; OperationRefused where the choices cannot be.

    Only what parameters open stays outside; all other values are part of the text. ``textures`` are those of the graph by id. No
    word of the artist's comes into the text: names are made of the catalogue's. ``lowered`` is the graph by
    ``lowered_for_export``, where that is known: it is the same for all languages. ``packing`` says which textures were put together.
    """
    checked(choices)
    lowered = packing.applied(lowered or lowered_for_export(graph, choices.variant, choices.switches))
    functions = SHAPES[choices.shape].functions(lowered)
    values = graph.uniform_values(choices.variant)
    kept = _reduced(lowered, choices, functions[0])
    outputs = {computed.name: list(computed.members) for computed in functions}
    module = write_module(
        choices.dialect,
        functions,
        lambda key: member_name(graph, key),
        lowered.names,
        lambda made: head_lines(graph, choices, made, outputs, kept, packing),
        prefix=choices.prefix,
        same=shared_textures(graph),
        is_on=lambda key: values[place_of(key)[:2]] == (1.0,),
        reduced=kept.values,
        has_entry=choices.entry,
    )
    made_by: dict[Expr, dict[str, None]] = {}
    for source, found in lowered.outputs.items():
        if isinstance(found, Expr):
            made_by.setdefault(found, {})[source.node] = None
    nodes = {line: tuple(made_by[expr]) for line, expr in module.lines.items() if expr in made_by}
    bound = bound_of(graph, choices, module, outputs, textures, kept, packing)
    words = precision_words(kept) if choices.reduced else ()
    return Exported(module, bound, nodes, words)


def _reduced(lowered: LoweredGraph, choices: Choices, function: Computed) -> Reduced:
    """What the first function may hold with fewer bits: no result is further off than a step of an 8-bit picture."""
    if not choices.reduced:
        return Reduced()
    bounds = Bounds(uniform_bounds(lowered.graph, lowered.graph.uniform_values(choices.variant)))
    return reduced(function.members, lowered.names, bounds, STEP_OF_A_PICTURE)
