"""A texture moved by directions at vertices, as the nodes for flow maps move one."""

from velvet_moth.core.document.graph import Graph, Node, empty_graph
from velvet_moth.core.nodes.surfaces import DOCK
from velvet_moth.core.operations import AddNode, Batch, SetValue, Wire

_CARRIED, _PAIR, _DECODED, _TILED, _MOVED, _SHOWN = "carried", "pair", "decoded", "tiled", "moved", "shown"
_GROUND = (0.05, 0.05, 0.055)


def moved_texture(texture: str, repeat: float, strength: float, speed: float) -> Graph:
    """A plain graph whose colour is a texture carried along by the vertex data, whose red and green are along U and V.

    ``repeat`` is how often it lies on one unit of the UVs; ``strength`` and ``speed`` are those of Flow texture.
    """
    operations = (
        AddNode(Node(_CARRIED, "vertex_colour")),
        AddNode(Node(_DECODED, "decode_flow")),
        AddNode(Node(_TILED, "tile", values={"tiling": (repeat, repeat)})),
        AddNode(Node(_MOVED, "flow_texture")),
        AddNode(Node(_PAIR, "shorten_triple")),
        Wire(_PAIR, "vector", _CARRIED, "colour"),
        Wire(_DECODED, "stored", _PAIR, "vector"),
        Wire(_MOVED, "uv", _TILED, "uv"),
        Wire(_MOVED, "direction", _DECODED, "direction"),
        SetValue(_MOVED, "texture", texture),
        SetValue(_MOVED, "strength", (strength,)),
        SetValue(_MOVED, "speed", (speed,)),
        # What is clear in it shows dark ground.
        AddNode(Node(_SHOWN, "mix", values={"a": _GROUND})),
        Wire(_SHOWN, "b", _MOVED, "colour"),
        Wire(_SHOWN, "amount", _MOVED, "alpha"),
        Wire(DOCK, "base_colour", _SHOWN, "result"),
    )
    graph: Graph = Batch(operations, "moved a texture").apply(empty_graph("Moved texture"))[0]
    return graph
