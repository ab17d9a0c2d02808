"""Graphs and textures for tests."""

from velvet_moth.core.document.graph import Graph, empty_graph
from velvet_moth.core.files.graph_json import graph_from_json, graph_to_json
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.operations import Operation
from velvet_moth.core.pictures.levels import read_texture
from velvet_moth.core.workbench.session import TextureSource
from velvet_moth.demo.contents import demo_textures, named_graphs
from velvet_moth.demo.graphs import ferry_enamel
from velvet_moth.demo.sketch import Sketch

MADE = demo_textures()
TEXTURES: dict[str, Texture] = {key: read_texture(t.picture, t.reading) for key, t in MADE.items()}


def checked(graph: Graph) -> Graph:
    return graph_from_json(graph_to_json(graph))


def demo_graphs() -> list[Graph]:
    return [checked(graph) for graph in named_graphs().values()]


def demo_graph_of(key: str) -> tuple[Graph, TextureSource] | None:
    """The graphs that backdrops of the demo show, as a GraphSource."""
    found = named_graphs().get(key)
    return (checked(found), TEXTURES.get) if found else None


def enamel() -> Graph:
    return checked(ferry_enamel({key: key for key in MADE}))


def long_graph(nodes: int) -> Graph:
    """A graph of about that many nodes in branches of noise, remap and mix, all reaching the dock."""
    s = Sketch(f"{nodes} nodes")
    s.add("uv", "uv")
    last = "@uv.uv"
    colour = ""
    for i in range(max(1, nodes // 6)):
        s.add(f"tile_{i}", "tile", uv=last if i % 5 == 0 else "@uv.uv", tiling=(1 + i % 7, 2 + i % 3))
        s.add(f"noise_{i}", "gradient_noise", uv=f"@tile_{i}.uv", seed=i)
        s.add(f"range_{i}", "remap", value=f"@noise_{i}.value", from_low=0.2, from_high=0.8)
        s.add(f"tint_{i}", "colour", value=(0.1 + i % 9 / 10, 0.3, 0.5))
        s.add(f"mix_{i}", "mix", a=colour or 0.2, b=f"@tint_{i}.colour", amount=f"@range_{i}.result")
        s.add(f"scale_{i}", "multiply", a=f"@mix_{i}.result", b=0.95)
        colour = f"@scale_{i}.result"
    s.dock(base_colour=colour)
    return checked(s.graph())


def built(*operations: Operation) -> Graph:
    graph = empty_graph("t")
    for operation in operations:
        graph, _ = operation.apply(graph)
    return graph
