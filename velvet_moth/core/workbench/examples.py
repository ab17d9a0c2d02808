"""An example graph for every node of the catalogue, and the picture of it that its page and the search show."""

from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from velvet_moth.core.catalogue.ports import Input
from velvet_moth.core.catalogue.registry import CATALOGUE, NodeType
from velvet_moth.core.document.graph import Graph, Node, Source, empty_graph
from velvet_moth.core.forms.view import Camera
from velvet_moth.core.language.expr import Expr
from velvet_moth.core.language.interpreters.cost import Cost
from velvet_moth.core.language.interval import Interval
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.language.types import (
    P_BOOL,
    P_COLOUR,
    P_FLEXIBLE,
    P_NUMBER,
    P_SURFACE,
    P_TEXTURE,
    P_VEC2,
    P_VEC3,
    PortType,
)
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.making.exchange import picture_of
from velvet_moth.core.making.height import normal_from_height
from velvet_moth.core.making.layer import Canvas
from velvet_moth.core.making.noise import fractal_noise
from velvet_moth.core.nodes.surfaces import DOCK
from velvet_moth.core.pictures.formats import Picture, write_png
from velvet_moth.core.pictures.levels import read_texture
from velvet_moth.core.pictures.library import NamedPicture
from velvet_moth.core.pictures.reading import Reading
from velvet_moth.core.render.shading import shown_look
from velvet_moth.core.render.tracing.reference import render
from velvet_moth.core.render.tracing.scene import Scene
from velvet_moth.core.workbench.analysis import RATE_WORDS, own_cost
from velvet_moth.core.workbench.problems import bounds_of
from velvet_moth.core.workbench.session import textures_of

SAMPLE = "sample"
SIZE = 192
# Seen from straight above the plane shows the whole UV square, u to the right and v up.
_ABOVE = Scene("plane", Camera(turn=0.0, tilt=89.9, distance=3.70, field=30.0))
_ROUND = Scene("sphere", Camera(turn=20.0, tilt=18.0, distance=4.4))


@lru_cache(maxsize=1)
def sample_textures() -> dict[str, NamedPicture]:
    """Textures that examples read, by the id they have there: a tinted grain, a height, its normal map."""
    canvas = Canvas(256, 256)
    hills = fractal_noise(canvas, cells=6, layers=5, seed=17)
    normal = normal_from_height(canvas, hills, strength=0.047)
    height = hills.number
    low, high = np.array([0.16, 0.10, 0.07]), np.array([0.80, 0.66, 0.46])
    tinted = low + (high - low) * height[..., None] ** 1.3
    bands = np.rint(np.dstack((tinted, height)) * 255).astype(np.uint8)
    return {
        f"{SAMPLE}_colour": NamedPicture("Sample grain", Reading("colour"), Picture(bands)),
        f"{SAMPLE}_height": NamedPicture("Sample height", Reading("height"), picture_of(hills, "16 bit")),
        f"{SAMPLE}_normal": NamedPicture("Sample normal", Reading("normal"), picture_of(normal, "8 bit")),
    }


@lru_cache(maxsize=4)
def _loaded(key: str) -> Texture | None:
    found = sample_textures().get(key)
    return read_texture(found.picture, found.reading) if found else None


class _Sketch:
    """Adds nodes that feed the example's own."""

    def __init__(self, graph: Graph) -> None:
        self.graph = graph

    def add(self, key: str, type_: str, **wires: Source) -> Source:
        self.graph = self.graph.with_node(Node(key, type_, wires=wires))
        return Source(key, next(iter(CATALOGUE[type_].outputs)))

    def across(self, low: float = 0.0) -> Source:
        """From ``low`` to 1 from left to right."""
        self.add("example_uv", "uv")
        self.add("across", "split_two", vector=Source("example_uv", "uv"))
        if low == 0.0:
            return Source("across", "x")
        values = {"to_low": (low,)}
        self.graph = self.graph.with_node(Node("spread", "remap", values, wires={"value": Source("across", "x")}))
        return Source("spread", "result")

    def colours(self) -> Source:
        return self.add("colours", "gradient", at=self.across())

    def hills(self) -> Source:
        return self.add("hills", "fractal_noise")

    def bumps(self) -> Source:
        hills = self.hills()
        self.graph = self.graph.with_node(Node("bumps", "bump", {"depth": (0.2,)}, wires={"height": hills}))
        return Source("bumps", "normal")

    def paint(self) -> Source:
        colours = self.colours()
        self.graph = self.graph.with_node(Node("paint", "surface", wires={"base_colour": colours}))
        return Source("paint", "surface")

    def feed(self, kind: NodeType, port: Input) -> Source | None:
        """Something worth seeing on a node's first input."""
        if port.type is P_SURFACE:
            return self.paint()
        if port.type is P_COLOUR or (port.type is P_FLEXIBLE and kind.group == "Colour"):
            return self.colours()
        if port.type in (P_NUMBER, P_FLEXIBLE):
            has_relief = kind.group in ("Normals", "Vertex offset")
            return self.hills() if has_relief else self.across(-1.0 if port.low < 0.0 else 0.0)
        if port.type is P_VEC3:
            return self.bumps() if kind.group == "Normals" else self.add("place", "object_position")
        if port.type is P_VEC2 and kind.group == "Patterns":
            return self.add("cells", "cell_number")
        return None


def _texture_id(port: Input) -> str:
    if port.missing == "flat":
        return f"{SAMPLE}_normal"
    return f"{SAMPLE}_height" if "height" in port.key else f"{SAMPLE}_colour"


def shown_output(kind: NodeType) -> str:
    """The output that tells most about a node: its first."""
    return next(iter(kind.outputs))


def _channel(kind: NodeType, output: PortType) -> str:
    """Where the example's dock takes the node's first output; empty where it is looked at by itself."""
    if output is P_SURFACE:
        return "surface"
    if kind.group == "Vertex offset":
        return "offset"
    return "normal" if kind.group == "Normals" and output is P_VEC3 else ""


def example(kind: NodeType) -> Graph:
    """A small graph around one node, docked where its output belongs."""
    sketch = _Sketch(empty_graph(f"{kind.name}: example"))
    wires: dict[str, Source] = {}
    values: dict[str, str | tuple[float, ...]] = {}
    valued = [p for p in kind.inputs.values() if p.wirable and p.type not in (P_TEXTURE, P_BOOL)]
    for port in kind.inputs.values():
        if port.type is P_TEXTURE:
            values[port.key] = _texture_id(port)
            continue
        # An input that reads the form by itself tells enough; tuning numbers behind it stay as they are.
        is_first = valued[:1] == [port] and not port.source and kind.group != "Surface point"
        source = sketch.across() if port.role == "mask" else sketch.feed(kind, port) if is_first else None
        if source is not None:
            wires[port.key] = source
    own = "this_node"
    graph = sketch.graph.with_node(Node(own, kind.key, values, wires=wires))
    source = Source(own, shown_output(kind))
    output = kind.outputs[source.output].type
    channel = _channel(kind, output)
    if not channel:
        graph, source = _as_colour(graph, source, output)
        channel = "base_colour"
    nodes = {**graph.nodes, DOCK: Node(DOCK, DOCK, wires={channel: source})}
    return replace(graph, nodes=nodes, form=scene_of(kind).form)


# Which node makes something to look at out of an output that no channel takes: its type, input and output.
_LOOKS = {
    "texture": ("texture", "texture", "colour"),
    "bool": ("choose", "condition", "result"),
    "vec2": ("extend_pair", "vector", "vector"),
    "vec4": ("split_four", "vector", "x"),
}


def _as_colour(graph: Graph, source: Source, output: PortType) -> tuple[Graph, Source]:
    if output.name not in _LOOKS:
        return graph, source
    type_, key, result = _LOOKS[output.name]
    return graph.with_node(Node("look", type_, wires={key: source})), Source("look", result)


def scene_of(kind: NodeType) -> Scene:
    """What the example is judged on: a ball where light or form matter, else the flat UV square."""
    if kind.form:
        return _ROUND if kind.form == "sphere" else Scene.of(kind.form)
    channel = _channel(kind, kind.outputs[shown_output(kind)].type)
    return _ROUND if channel or kind.group == "Surface point" else _ABOVE


@lru_cache(maxsize=512)
def example_picture(key: str) -> bytes:
    """The example of a node as PNG, SIZE pixels square: lit where it is docked, by itself where it is a value."""
    kind = CATALOGUE[key]
    graph = example(kind)
    lowered = lower(graph)
    values = graph.uniform_values()
    bound, _ = textures_of(graph, values, _loaded)
    is_lit = bool(_channel(kind, kind.outputs[shown_output(kind)].type))
    shown = None if is_lit else graph.nodes[DOCK].wires["base_colour"]
    scene = replace(scene_of(kind), time=1.0)
    pixels = render(shown_look(lowered, shown), values, bound, (SIZE, SIZE), scene)
    return write_png(pixels[..., :3])


@dataclass(frozen=True)
class OutputFacts:
    """What is proved of one output in the example: its range, and how often it can change, in words."""

    proved: Interval | None
    rate: str


@lru_cache(maxsize=512)
def facts(key: str) -> tuple[dict[str, OutputFacts], Cost]:
    """For each output of a node in its example what is proved, and what the node costs there."""
    graph = example(CATALOGUE[key])
    lowered, node = lower(graph), graph.nodes["this_node"]
    bounds = bounds_of(lowered)
    found: dict[str, OutputFacts] = {}
    for name in node.kind.outputs:
        made = lowered.outputs[Source(node.id, name)]
        is_value = isinstance(made, Expr) and made.type.base != "texture"
        interval = bounds.of([made])[0] if isinstance(made, Expr) and is_value else None
        found[name] = OutputFacts(interval, RATE_WORDS[made.rate] if isinstance(made, Expr) else "")
    return found, own_cost(lowered, node)
