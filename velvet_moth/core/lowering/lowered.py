"""A graph as expressions: what lowering gives, and what it could not do."""

from collections.abc import Collection, Iterator
from dataclasses import dataclass, field
from typing import Union

from velvet_moth.core.document.graph import Graph, Node, Source
from velvet_moth.core.document.parts import PARTS, type_of_part
from velvet_moth.core.language.expr import Expr
from velvet_moth.core.language.types import P_SURFACE, PortType
from velvet_moth.core.lighting.channels import Surface, two_sided
from velvet_moth.core.lighting.kinds import KINDS
from velvet_moth.core.nodes.surfaces import BACK, DOCK

Lowered = Union[Expr, Surface]


@dataclass(frozen=True)
class Mismatch:
    """A wire whose value its input cannot take; the input stands as if unwired."""

    node: str
    input: str
    source: Source
    given: PortType
    taken: PortType


@dataclass(frozen=True)
class PerPixelInVertexShader:
    """A value that exists per pixel only, on an input that moves the form; the form stays there."""

    node: str
    input: str
    source: Source


@dataclass
class LoweredGraph:
    """All outputs of a graph as expressions, with the types that flexible ports resolved to.

    ``keyed`` are the toggles that change over time, by (node, input): they are values and not settled.
    """

    graph: Graph
    outputs: dict[Source, Lowered] = field(default_factory=dict)
    types: dict[Source, PortType] = field(default_factory=dict)
    inputs: dict[tuple[str, str], Lowered] = field(default_factory=dict)
    input_types: dict[tuple[str, str], PortType] = field(default_factory=dict)
    mismatches: list[Mismatch] = field(default_factory=list)
    per_pixel: list[PerPixelInVertexShader] = field(default_factory=list)
    keyed: frozenset[tuple[str, str]] = frozenset()

    def type_of(self, source: Source) -> PortType | None:
        """The type of what a wire takes; None where the output has no such part."""
        return type_of_part(self.types[source.whole], source.part)

    def value_of(self, source: Source) -> Lowered:
        """What a wire brings, where its output has such a part."""
        value = self.outputs[source.whole]
        return PARTS[source.part].take(value) if source.part and isinstance(value, Expr) else value

    @property
    def surface(self) -> Surface:
        """The docked surface, with the one behind it where the kind shows both."""
        docked, back = self.outputs[Source(DOCK, "surface")], self.back
        assert isinstance(docked, Surface)
        return two_sided(docked, back) if back is not None and KINDS[self.graph.kind].has_back else docked

    @property
    def back(self) -> Surface | None:
        """What is wired to the back of the dock, where it is a surface."""
        source = self.graph.nodes[DOCK].wires.get(BACK)
        found = self.inputs[DOCK, BACK] if source and self.type_of(source) is P_SURFACE else None
        assert not isinstance(found, Expr)
        return found

    def inputs_of(self, node: Node) -> dict[str, Expr]:
        """The expressions on a node's inputs, whole surfaces left out."""
        found = ((key, self.inputs.get((node.id, key))) for key in node.kind.inputs)
        return {key: expr for key, expr in found if isinstance(expr, Expr)}

    def outputs_of(self, node: Node) -> list[Expr]:
        """The expressions a node gives, one for each channel of a whole surface."""
        found: list[Expr] = []
        for key in node.kind.outputs:
            made = self.outputs[Source(node.id, key)]
            found += made.channels.values() if isinstance(made, Surface) else [made]
        return found

    @property
    def names(self) -> dict[Expr, str]:
        """The catalogue's name behind each expression that is an output of a node."""
        found: dict[Expr, str] = {}
        for source, lowered in self.outputs.items():
            if isinstance(lowered, Expr):
                node = self.graph.nodes[source.node]
                # What is not in the catalogue is named by its file, and no text of a file reaches a shader.
                outlined = "Motif" if node.type in self.graph.motifs else "Unknown node"
                found.setdefault(lowered, node.kind.name if node.outline is None else outlined)
        return found


def upstream_first(graph: Graph, only: Collection[str] | None = None) -> Iterator[Node]:
    """The nodes (or ``only`` some), each after those it reads; the dock last."""
    done: set[str] = set() if only is None else graph.nodes.keys() - only
    for start in [*(k for k in graph.nodes if k != DOCK), DOCK]:
        stack = [(start, False)]
        while stack:
            key, expanded = stack.pop()
            if expanded:
                yield graph.nodes[key]
            elif key not in done:
                done.add(key)
                stack.append((key, True))
                stack.extend((s.node, False) for s in graph.nodes[key].wires.values() if s.node not in done)
