"""A graph as a material document: its surface is the standard's glTF surface, its expressions are nodes of the standard's library."""

from collections.abc import Hashable, Mapping, Sequence
from dataclasses import dataclass

import MaterialX
import numpy as np

from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.base.plain_names import identifier
from velvet_moth.core.document.graph import Graph, Parameter
from velvet_moth.core.document.values import Value as Held
from velvet_moth.core.language.expr import Array, Expr, Primitive, Structural, is_biased
from velvet_moth.core.language.inputs import SURFACE_INPUTS
from velvet_moth.core.language.trace import without_calls
from velvet_moth.core.language.types import BOOL, P_COLOUR
from velvet_moth.core.lighting.channels import CHANNELS as DOCK_CHANNELS
from velvet_moth.core.lighting.kinds import KINDS
from velvet_moth.core.lighting.model import unlit
from velvet_moth.core.lowering.lowered import LoweredGraph
from velvet_moth.core.materialx.library import faults_of, new_document
from velvet_moth.core.materialx.nodes import TYPES, Nodes, Path, Value, plain, text_of
from velvet_moth.core.materialx.spelled import INPUTS, PRIMITIVES
from velvet_moth.core.materialx.surface import ALPHA_MODES, CHANNELS, SURFACE

_WRAPS = {"repeat": "periodic", "clamp": "clamp", "mirror": "mirror"}
_FILTERS = {"smooth": "linear", "pixels": "closest"}


@dataclass(frozen=True)
class Picture:
    """A texture beside a document: its ``file``, pixels, whether its colours are encoded as sRGB (``is_colour``), and whether its green

    points down and is turned over where it is read.
    """

    file: str
    size: tuple[int, int]
    is_colour: bool
    turns_green: bool = False


@dataclass(frozen=True)
class MaterialDocument:
    """The text of a document, how many nodes it has, and sentences about what the standard cannot say."""

    text: str
    nodes: int
    words: tuple[str, ...]


def written(
    lowered: LoweredGraph,
    values: Mapping[tuple[str, str], Held],
    pictures: Mapping[Hashable, Picture],
    draw: Mapping[str, Array] | None = None,
) -> MaterialDocument:
    """A graph as its parameters and expressions are; ``pictures`` by the keys of its textures.

    ``draw`` is what is known of the form and the light that it is judged in, which the document has as numbers.
    Plain values must be folded into the expressions. FileRefused where the standard's own check finds a fault, which is the program's.
    """
    graph = lowered.graph
    document = new_document()
    stem = identifier(graph.title) or "graph"
    inside = document.addNodeGraph(f"{stem}_nodes")
    writer = _Writer(graph, Nodes(inside), values, pictures, draw or {})
    surface = lowered.surface
    idle = KINDS[graph.kind].idle
    wanted = {
        key: surface[key]
        for key in DOCK_CHANNELS
        if key not in idle and (key in _ALWAYS or not surface.is_default(key)) and key != "anisotropy_direction"
    }
    if KINDS[graph.kind].is_unlit:
        wanted = {"emissive": unlit(surface), "opacity": surface["opacity"]}
    writer.leave_out([key for key in wanted if key not in CHANNELS and key != "offset"])
    found = writer.emit({key: expr for key, expr in wanted.items() if key in CHANNELS or key == "offset"})
    shader = document.addNode(SURFACE, stem, "surfaceshader")
    if KINDS[graph.kind].is_unlit:
        for name in ("base_color", "specular_color"):
            shader.addInput(name, "color3").setValueString("0, 0, 0")
    shader.addInput("alpha_mode", "integer").setValueString(str(ALPHA_MODES.index(KINDS[graph.kind].alpha_mode)))
    for key, value in found.items():
        if key != "offset":
            channel = CHANNELS[key]
            _connect(shader.addInput(channel.input, channel.type), inside, key, channel.type, writer.ended(value, key))
    material = document.addNode("surfacematerial", f"{stem}_material", "material")
    material.addInput("surfaceshader", "surfaceshader").setNodeName(shader.getName())
    if "offset" in found:
        moved = document.addNode("displacement", f"{stem}_offset", "displacementshader")
        _connect(
            moved.addInput("displacement", "vector3"),
            inside,
            "offset",
            "vector3",
            writer.ended(found["offset"], "offset"),
        )
        material.addInput("displacementshader", "displacementshader").setNodeName(moved.getName())
    if not inside.getNodes():
        document.removeNodeGraph(inside.getName())
    faults = faults_of(document)
    if faults:
        raise FileRefused(
            "The standard's own check refuses the document.", faults, "Report it: this is a fault of the program."
        )
    return MaterialDocument(MaterialX.writeToXmlString(document), len(inside.getNodes()), tuple(writer.nodes.words))


_OWN_SCENE = (
    "Where the graph asks for its form's bounds or for its light, those that it is judged in are in the document."
)
# A surface is sent as its front shows it.
_INSTEAD = {"is_front": 1.0}
_ALWAYS = frozenset({"base_colour", "metallic", "roughness"})


def _connect(end: MaterialX.Input, inside: MaterialX.NodeGraph, name: str, kind: str, value: Value) -> None:
    """A value at an input outside of the graph of nodes."""
    if value.numbers:
        end.setValueString(text_of(value.numbers))
        return
    output = inside.addOutput(f"{name}_out", kind)
    output.setNodeName(value.node)
    end.setNodeGraphString(inside.getName())
    end.setOutputString(output.getName())


def _needed(expr: Expr) -> tuple[Expr, ...]:
    """What an expression is made of in a document: textures are read by name and at the reader's own level, and neighbours not at all."""
    if not isinstance(expr.operator, Primitive):
        return ()
    if expr.operator.operation_class == "derivative" or expr.operator.name == "texture_size":
        return ()
    return expr.args[1:2] if expr.operator.name == "sample" else expr.args


class _Writer:
    """Writes expressions, each once."""

    def __init__(
        self,
        graph: Graph,
        nodes: Nodes,
        values: Mapping[tuple[str, str], Held],
        pictures: Mapping[Hashable, Picture],
        draw: Mapping[str, Array],
    ) -> None:
        self.draw = draw
        self.graph, self.nodes, self.values, self.pictures = graph, nodes, values, pictures
        self.opened: dict[Hashable, Value] = {}
        self.names: set[str] = set()
        self.paths: dict[Hashable, Path] = {}
        self.parameters = {(one.node, one.input): one for one in graph.parameters}

    def leave_out(self, channels: Sequence[str]) -> None:
        """Says which channels the standard's surface has not."""
        if channels:
            names = ", ".join(DOCK_CHANNELS[key].name for key in channels)
            self.nodes.words[f"The standard's surface has no {names}."] = None

    def emit(self, outputs: Mapping[str, Expr]) -> dict[str, Value]:
        """The outputs, with all functions put in place."""
        plainer = without_calls(list(outputs.values()))
        made: dict[Expr, Value] = {}
        todo = [(expr, False) for expr in reversed(plainer)]
        while todo:
            expr, is_ready = todo.pop()
            if is_ready:
                made.setdefault(expr, self._value(expr, [made[a] for a in _needed(expr)]))
            elif expr not in made:
                todo.append((expr, True))
                todo.extend((a, False) for a in reversed(_needed(expr)) if a not in made)
        return dict(zip(outputs, (made[e] for e in plainer), strict=True))

    def _value(self, expr: Expr, args: Sequence[Value]) -> Value:
        if isinstance(expr.operator, Primitive):
            if expr.operator.name == "sample":
                return self._sampled(expr.args[0], args[0])
            if expr.operator.name == "texture_size":
                found = self.pictures.get(expr.args[0].attributes[0])
                return plain(*(found.size if found else (1024, 1024)))
            return PRIMITIVES[expr.operator.name](self.nodes, expr, args)
        return _STRUCTURAL[expr.operator](self, expr)

    def constant(self, expr: Expr) -> Value:
        """Numbers; yes and no are 1 and 0."""
        return plain(float(expr.attributes[0])) if expr.type is BOOL else plain(*expr.attributes)

    def input(self, expr: Expr) -> Value:
        """What is known at the surface point."""
        name = expr.attributes[0]
        known = INPUTS.get(name)
        if known is not None:
            return known(self.nodes)
        declared = SURFACE_INPUTS[name]
        if name in self.draw:
            self.nodes.words[_OWN_SCENE] = None
            return plain(*np.ravel(self.draw[name]).tolist())
        middle = _INSTEAD.get(name, declared.bound.low if declared.bound.low > -1 else 0.0)
        what = declared.words or name.replace("_", " ")
        self.nodes.words[f"The standard does not know this of a point, and has {middle:g} there: {what}."] = None
        return plain(*[middle] * declared.type.width)

    def uniform(self, expr: Expr) -> Value:
        """A value that a parameter opens, as an input of the whole graph with its range."""
        key = expr.attributes[0]
        if key not in self.opened:
            node, _, stop = str(key[1]).partition("#")
            parameter = self.parameters.get((key[0], node))
            held = self.values[key]
            assert not isinstance(held, str)
            name = self._name(parameter, f"{node}_{stop}" if stop else node)
            is_colour = parameter is not None and self._is_colour(parameter) and not stop
            made = self.nodes.graph.addInput(name, "color3" if is_colour else TYPES[expr.type.width])
            made.setValueString(text_of([float(v) for v in held]))
            if parameter is not None:
                _describe(made, parameter, expr.type.width, stop)
            found = Value(expr.type.width, opened=name, colour="color3" if is_colour else "")
            self.opened[key] = self.nodes.as_kind(found, TYPES[expr.type.width])
        return self.opened[key]

    def _is_colour(self, parameter: Parameter) -> bool:
        declared = self.graph.nodes[parameter.node].kind.inputs.get(parameter.input)
        return declared is not None and declared.type is P_COLOUR

    def _name(self, parameter: Parameter | None, otherwise: str) -> str:
        stem = identifier(parameter.id if parameter else otherwise) or "value"
        number = 1 + sum(name.rpartition("__")[0] == stem for name in self.names)
        self.names.add(f"{stem}__{number}")
        return f"{stem}__{number}"

    def _sampled(self, texture: Expr, uv: Value) -> Value:
        texture = texture.args[0] if is_biased(texture) else texture
        key, wrap_u, wrap_v, filter_, *_ = texture.attributes
        picture = self.pictures.get(key)
        if picture is None:
            what = (
                "What is behind, around and in the sun's way"
                if isinstance(key, str)
                else "A texture that is not chosen"
            )
            self.nodes.words[f"{what} is not in the document: an even grey is there."] = None
            return plain(0.5, 0.5, 0.5, 1.0)
        kind = "color4" if picture.is_colour else "vector4"
        path = self._file(key, picture)
        found = self.nodes.picture(
            kind,
            path,
            uv,
            {"uaddressmode": _WRAPS[wrap_u], "vaddressmode": _WRAPS[wrap_v], "filtertype": _FILTERS[filter_]},
        )
        found = self.nodes.as_kind(found, "vector4") if picture.is_colour else found
        if not picture.turns_green:
            return found
        red, green, *rest = (self.nodes.component(found, at) for at in range(4))
        return self.nodes.together([red, self.nodes.add("subtract", 1, {"in1": plain(1.0), "in2": green}), *rest])

    def _file(self, key: Hashable, picture: Picture) -> Path:
        """A picture as it stands, or as an input of the whole graph where a parameter opens it."""
        assert isinstance(key, tuple)
        parameter = self.parameters.get((key[0], key[1]))
        path = Path(picture.file, space="srgb_texture" if picture.is_colour else "")
        if parameter is None:
            return path
        if key not in self.paths:
            made = self.nodes.graph.addInput(self._name(parameter, "picture"), "filename")
            path.put(made)
            _describe(made, parameter, 0, "")
            self.paths[key] = Path(opened=made.getName())
        return self.paths[key]

    def ended(self, value: Value, key: str) -> Value:
        """A channel as the standard's surface takes it: colours as such, normals by the standard's normal map."""
        # What leaves a graph must come of a node.
        value = self.nodes.add("dot", value.width, {"in": value}) if value.opened else value
        channel = CHANNELS.get(key)
        if channel is None:
            return value
        if channel.is_normal:
            half = self.nodes.add("multiply", 3, {"in1": value, "in2": plain(0.5, 0.5, 0.5)})
            coded = self.nodes.add("add", 3, {"in1": half, "in2": plain(0.5, 0.5, 0.5)})
            return self.nodes.add("normalmap", 3, {"in": coded})
        return self.nodes.as_kind(value, "color3") if channel.type == "color3" else value


_STRUCTURAL = {
    Structural.CONSTANT: _Writer.constant,
    Structural.INPUT: _Writer.input,
    Structural.UNIFORM: _Writer.uniform,
}


def _describe(made: MaterialX.Input, parameter: Parameter, width: int, stop: str) -> None:
    """What a reader shows of a parameter; the artist's words are attributes, which the library escapes."""
    made.setAttribute("uiname", f"{parameter.name} {int(stop) + 1}" if stop else parameter.name)
    if parameter.group:
        made.setAttribute("uifolder", parameter.group)
    if parameter.help:
        made.setAttribute("doc", parameter.help)
    if width and not stop:
        made.setAttribute("uimin", text_of([parameter.low] * width))
        made.setAttribute("uimax", text_of([parameter.high] * width))
