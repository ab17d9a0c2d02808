"""A block model's own surface: its palette, as the nodes for blocks show it, and graphs in the place of some tiles."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace

from velvet_moth.core.document.graph import Graph, Node, Parameter, Source, empty_graph
from velvet_moth.core.editing.whole_surfaces import with_surface_of
from velvet_moth.core.lighting.kinds import KINDS
from velvet_moth.core.nodes.surfaces import DOCK
from velvet_moth.core.operations import AddNode, AddParameter, Batch, Operation, SetValue, Wire
from velvet_moth.core.pictures.atlas import Grid

_TILE, _LIT, _SURFACE = "tile", "lit", "tile_surface"
_TINT, _TINTED, _COLOUR, _DATA = "tint", "tinted", "tile_colour", "vertex_data"
_BLOCK = "block"
# Block models carry the entry there. Unlike the node Block this exists at vertices too, so that offsets can differ by it.
_ENTRY = Source(_BLOCK, "uv", "x")
# What is taken of a tile as it is, where the palette has the map.
_CHANNELS = ("metallic", "roughness", "normal")


@dataclass(frozen=True)
class InPlace:
    """A graph, as one of its variants sets it, that shows the blocks of some entries in the place of their tiles."""

    graph: Graph
    variant: str
    entries: tuple[int, ...]


def palette_surface(title: str, textures: Mapping[str, str], grid: Grid, in_place: Iterable[InPlace] = ()) -> Graph:
    """A plain graph that shows each block in its tile. ``textures`` are ids by the map each holds (``base_colour``, ...).

    A parameter multiplies the tiles by vertex colours.
    """
    others = [one for one in in_place if one.entries]
    final = _SURFACE if others else DOCK
    values = {"columns": (float(grid.columns),), "rows": (float(grid.rows),), "padding": (grid.padding,)}
    operations: list[Operation] = [
        AddNode(Node(_TILE, "palette_tile", values=values)),
        *(SetValue(_TILE, key, texture) for key, texture in textures.items()),
        *([AddNode(Node(_SURFACE, "surface", label="Tiles"))] if others else []),
        *(Wire(final, key, _TILE, key) for key in _CHANNELS if key in textures),
    ]
    if "base_colour" in textures:
        operations += _tinted(final)
    if "emission" in textures:
        operations += [
            AddNode(Node(_LIT, "multiply")),
            Wire(_LIT, "a", _TILE, "base_colour"),
            Wire(_LIT, "b", _TILE, "emission"),
            Wire(final, "emissive", _LIT, "result"),
        ]
    graph: Graph = Batch(tuple(operations), "made a surface").apply(empty_graph(title))[0]
    return _with_graphs(graph, others) if others else graph


def _tinted(final: str) -> list[Operation]:
    """The colour of the tiles, with what multiplies it by vertex colours where that is wanted."""
    words = "Multiplies the tiles by vertex colours: occlusion, wear, paint."
    return [
        AddNode(Node(_DATA, "vertex_colour")),
        AddNode(Node(_TINTED, "multiply")),
        Wire(_TINTED, "a", _TILE, "base_colour"),
        Wire(_TINTED, "b", _DATA, "colour"),
        AddNode(Node(_COLOUR, "choose", values={"condition": (0.0,)}, label="Tile colour")),
        Wire(_COLOUR, "yes", _TINTED, "result"),
        Wire(_COLOUR, "no", _TILE, "base_colour"),
        Wire(final, "base_colour", _COLOUR, "result"),
        AddParameter(Parameter(_TINT, "Tint by vertex colours", _COLOUR, "condition", help=words)),
    ]


def _with_graphs(graph: Graph, others: list[InPlace]) -> Graph:
    """The tiles, and over them each graph where a block has one of its entries."""
    graph = Batch((AddNode(Node(_BLOCK, "uv", settings={"set": "second"}, label="Entry and size")),)).apply(graph)[0]
    under = Source(_SURFACE, "surface")
    for number, one in enumerate(others):
        graph, over = with_surface_of(graph, one.graph, one.variant)
        steps, here = _is_any_of(one.entries, number)
        mix = f"mix_{number}"
        steps += [
            AddNode(Node(mix, "mix_surfaces")),
            Wire.of(mix, "a", under),
            Wire.of(mix, "b", over),
            Wire.of(mix, "amount", here),
        ]
        graph = Batch(tuple(steps)).apply(graph)[0]
        under = Source(mix, "surface")
    graph = Batch((Wire.of(DOCK, "surface", under),)).apply(graph)[0]
    is_cut = any(KINDS[one.graph.kind].is_cut for one in others)
    return replace(graph, kind="cut_out") if is_cut else graph


def _is_any_of(entries: tuple[int, ...], number: int) -> tuple[list[Operation], Source]:
    """1 where a block has one of some entries, else 0."""
    steps: list[Operation] = []
    found: Source | None = None
    for entry in entries:
        one = f"is_{entry}"
        values = {"b": (float(entry),), "margin": (0.25,)}
        steps += [
            AddNode(Node(one, "compare", values=values, settings={"asks": "near"}, label=f"Entry {entry}")),
            Wire.of(one, "a", _ENTRY),
        ]
        if found is None:
            found = Source(one, "answer")
            continue
        either = f"or_{entry}"
        steps += [
            AddNode(Node(either, "either")),
            Wire.of(either, "a", found),
            Wire(either, "b", one, "answer"),
        ]
        found = Source(either, "answer")
    assert found is not None
    chosen = f"here_{number}"
    steps += [AddNode(Node(chosen, "choose")), Wire.of(chosen, "condition", found)]
    return steps, Source(chosen, "result")
