"""What is read while no texture is chosen: by what is wired, a flat normal map, mid-grey for a colour, white for a mask."""

from collections.abc import Iterator

from velvet_moth.core.document.graph import Graph, Node
from velvet_moth.core.language.types import P_COLOUR, P_TEXTURE
from velvet_moth.core.pictures.library import FLAT, GREY, WHITE

WORDS = {WHITE: "white", GREY: "mid-grey", FLAT: "a flat normal map"}


def stand_ins(graph: Graph) -> dict[tuple[str, str], str]:
    """For every place that holds a texture, those inside motifs included, the id of what stands in for it."""
    found = _own(graph)
    for type_, motif in graph.used_motifs().items():
        found.update(((f"{type_}/{node}", key), stand_in) for (node, key), stand_in in _own(motif.graph).items())
    return found


def _own(graph: Graph) -> dict[tuple[str, str], str]:
    places = graph.own_textures()
    read = graph.outputs_read() if places else {}
    found = {}
    for (node, key), declared in places:
        readers = list(_readers(graph, graph.nodes[node]))
        is_colour = bool(readers) and all(_reads_colour(reader, read.get(reader.id, set())) for reader in readers)
        found[node, key] = FLAT if declared.missing == "flat" else GREY if is_colour else WHITE
    return found


def _readers(graph: Graph, node: Node) -> Iterator[Node]:
    """The node itself where it reads its texture, else those that it hands it to."""
    if not any(o.type is P_TEXTURE for o in node.kind.outputs.values()):
        yield node
        return
    for reader, _, _ in graph.readers(node.id):
        yield graph.nodes[reader]


def _reads_colour(node: Node, read: set[str]) -> bool:
    """Whether nothing but a colour is taken of what a node reads."""
    colours = {key for key, output in node.kind.outputs.items() if output.type is P_COLOUR}
    return bool(colours) and read <= colours
