"""What values, textures and inputs are called in a text, and what they are, in words of the catalogue."""

from collections.abc import Hashable

from velvet_moth.core.catalogue.registry import CATALOGUE, NodeType
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.language.inputs import SurfaceInput
from velvet_moth.core.language.interpreters.glsl.outside import UNIFORMS

_DRAWN = {uniform.name: uniform.words for uniform in UNIFORMS}


def place_of(key: Hashable) -> tuple[str, str, str]:
    """The node, the input and the number of the stop that a key of a value or texture names."""
    assert isinstance(key, tuple)
    plain, _, stop = str(key[1]).partition("#")
    return str(key[0]), plain, stop


def _kind(graph: Graph, node: str) -> NodeType | None:
    """The kind of a node, where it is of the catalogue: the names of others are the artist's."""
    return CATALOGUE.get(graph.nodes[node].type) if node in graph.nodes else None


def member_name(graph: Graph, key: Hashable) -> str:
    """What a value is called as a member of a structure."""
    node, plain, stop = place_of(key)
    kind = _kind(graph, node)
    return ("motif_value" if kind is None else f"{kind.key}_{plain}") + (f"_{int(stop) + 1}" if stop else "")


def holds(graph: Graph, key: Hashable) -> str:
    """What a value is, in words of the catalogue."""
    node, plain, stop = place_of(key)
    kind = _kind(graph, node)
    found = "a value of a motif" if kind is None else f"{kind.inputs[plain].name} of {kind.name}"
    return found + (f", stop {int(stop) + 1}" if stop else "")


def input_words(declared: SurfaceInput) -> str:
    """What an input of a surface is."""
    return declared.words or _DRAWN[declared.name]
