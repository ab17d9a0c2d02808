"""A block model's own surface: its palette, as the nodes for blocks show it."""

from collections.abc import Mapping

from velvet_moth.core.document.graph import Graph, Node, empty_graph
from velvet_moth.core.nodes.surfaces import DOCK
from velvet_moth.core.operations import AddNode, Batch, SetValue, Wire
from velvet_moth.core.pictures.atlas import Grid

_TILE, _LIT = "tile", "lit"
# What the dock takes of a tile, where the palette has the map.
_CHANNELS = ("base_colour", "metallic", "roughness", "normal")


def palette_surface(title: str, textures: Mapping[str, str], grid: Grid) -> Graph:
    """A plain graph that shows each block in its tile. ``textures`` are ids by the map each holds (``base_colour``, ...)."""
    values = {"columns": (float(grid.columns),), "rows": (float(grid.rows),), "padding": (grid.padding,)}
    operations = [
        AddNode(Node(_TILE, "palette_tile", values=values)),
        *(SetValue(_TILE, key, texture) for key, texture in textures.items()),
        *(Wire(DOCK, key, _TILE, key) for key in _CHANNELS if key in textures),
    ]
    if "emission" in textures:
        operations += [
            AddNode(Node(_LIT, "multiply")),
            Wire(_LIT, "a", _TILE, "base_colour"),
            Wire(_LIT, "b", _TILE, "emission"),
            Wire(DOCK, "emissive", _LIT, "result"),
        ]
    graph: Graph = Batch(tuple(operations), "made a surface").apply(empty_graph(title))[0]
    return graph
