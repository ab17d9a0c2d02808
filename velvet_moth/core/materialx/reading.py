"""Material documents as graphs: the nodes of the standard as ours, what is not known as placeholders that keep their wiring."""

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

import MaterialX
from MaterialX import PyMaterialXGenShader

from velvet_moth.core.base.apart import refusals
from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.base.plain_names import identifier
from velvet_moth.core.document.graph import Graph, Parameter, Source
from velvet_moth.core.document.outline import Outline, OutlinePort
from velvet_moth.core.files.graph_json import graph_from_json, graph_to_json
from velvet_moth.core.lighting.channels import CHANNELS as DOCK_CHANNELS
from velvet_moth.core.materialx.graph_of import VALUES, Got, GraphUnderWay, numbers
from velvet_moth.core.materialx.known import KNOWN, normal_of_map
from velvet_moth.core.materialx.library import standard_library
from velvet_moth.core.materialx.surface import CHANNELS, SURFACE
from velvet_moth.core.nodes.surfaces import DOCK

MOST_BYTES = 16 << 20
_WIDTHS = {"float": 1, "integer": 1, "boolean": 1, "vector2": 2, "vector3": 3, "color3": 3, "vector4": 4, "color4": 4}
_PORTS = {1: "number", 2: "vec2", 3: "vec3", 4: "vec4"}
_WRAPS = {"periodic": "repeat", "clamp": "clamp", "mirror": "mirror", "constant": "clamp"}
_KINDS = {0: "solid", 1: "cut_out", 2: "see_through"}
# What the standard itself says as its glTF surface. (It would take OpenPBR there by two steps, whose names meet.)
_TRANSLATED = "standard_surface"
# Source: USD Preview Surface, as MaterialX 1.39 declares it.
_PREVIEW = {
    "diffuseColor": "base_color",
    "metallic": "metallic",
    "roughness": "roughness",
    "occlusion": "occlusion",
    "emissiveColor": "emissive",
    "clearcoat": "clearcoat",
    "clearcoatRoughness": "clearcoat_roughness",
    "opacity": "alpha",
    "ior": "ior",
    "normal": "normal",
}


@dataclass(frozen=True)
class ReadDocument:
    """The graph of a document, the pictures that its textures are in by their ids, each a path as the document names it and whether

    it holds colours; and sentences about what is not as it was.
    """

    graph: Graph
    files: Mapping[str, tuple[str, bool]]
    words: tuple[str, ...]


def read_document(text: str, where: str) -> ReadDocument:
    """The first material of a document; FileRefused where there is none, or the text is no such document.

    Nothing that the text names is opened.
    """
    if len(text) > MOST_BYTES:
        raise FileRefused("The document is larger than 16 MB.", where, "Export one material alone.")
    document = MaterialX.createDocument()
    options = MaterialX.XmlReadOptions()
    options.readXIncludeFunction = None
    with refusals(where, "Export one material alone."):
        try:
            MaterialX.readFromXmlString(document, text, MaterialX.FileSearchPath(), options)
        except (MaterialX.ExceptionParseError, MaterialX.ExceptionFileMissing) as error:
            again = "Save it again from where it was made."
            raise FileRefused("This is no material document.", where, again) from error
        document.importLibrary(standard_library())
        return _Reader(document, where).read()


@dataclass(eq=False)
class _Reader:
    document: MaterialX.Document
    where: str
    graph: GraphUnderWay = field(default_factory=GraphUnderWay)
    words: dict[str, None] = field(default_factory=dict)
    parameters: list[Parameter] = field(default_factory=list)
    files: dict[str, tuple[str, bool]] = field(default_factory=dict)
    # Whether what is read moves the form: there are no levels of detail at vertices.
    is_moving: bool = False
    _found: dict[tuple[str, str, bool], Got] = field(default_factory=dict)

    def say(self, words: str) -> None:
        """Says what is not as it was."""
        self.words[words] = None

    def read(self) -> ReadDocument:
        shader = self._shader()
        self._flattened()
        inputs: dict[str, Got] = {}
        kind = "solid"
        by_input = {channel.input: key for key, channel in CHANNELS.items()}
        renamed = _PREVIEW if shader.getCategory() == "UsdPreviewSurface" else {}
        for end in shader.getActiveInputs():
            name = renamed.get(end.getName(), end.getName())
            if name == "alpha_mode":
                kind = _KINDS.get(int(end.getValue() or 0), "solid")
            elif name in by_input:
                inputs[by_input[name]] = self._channel(by_input[name], end)
            elif end.getValueString() or end.getConnectedNode() is not None:
                self.say(f"{end.getName()} of {shader.getCategory()} is not read: a surface here has nothing like it.")
        if kind == "solid" and "opacity" in inputs and renamed:
            kind = "see_through"
        displaced = self._displacement()
        if displaced is not None:
            inputs["offset"] = displaced
        return self._finished(kind, inputs, shader.getName())

    def _finished(self, kind: str, inputs: Mapping[str, Got], name: str) -> ReadDocument:
        dock = {key: got for key, got in inputs.items() if key in DOCK_CHANNELS}
        self.graph.add(DOCK, dock)
        nodes = {(DOCK if node.type == DOCK else key): node for key, node in self.graph.nodes.items()}
        nodes[DOCK] = type(nodes[DOCK])(DOCK, DOCK, nodes[DOCK].values, {}, nodes[DOCK].wires)
        title = re.sub(r"[_\W]+", " ", name).strip()[:80] or "Material"
        graph = Graph(title, nodes, kind=kind, parameters=tuple(self.parameters))
        # As any file, it passes the checks that an edit passes.
        return ReadDocument(graph_from_json(graph_to_json(graph), self.where), self.files, tuple(self.words))

    def _shader(self) -> MaterialX.Node:
        """The surface of the first material, as one that is known."""
        materials = self.document.getMaterialNodes()
        shaders = [one for material in materials for one in MaterialX.getShaderNodes(material)]
        shaders += [one for one in self.document.getNodes() if one.getType() == "surfaceshader"]
        shaders = [one for one in shaders if one.getType() == "surfaceshader"]
        if not shaders:
            raise FileRefused(
                "There is no material in the document.", self.where, "Export a material with its surface."
            )
        if len(materials) > 1:
            self.say(f"The document holds {len(materials)} materials; the first is read.")
        shader = shaders[0]
        if shader.getCategory() == _TRANSLATED:
            self.say(f"Its surface is {_TRANSLATED}, which the standard itself says as its glTF surface.")
            PyMaterialXGenShader.ShaderTranslator.create().translateShader(shader, SURFACE)
        if shader.getCategory() not in (SURFACE, "UsdPreviewSurface"):
            known = f"{SURFACE}, UsdPreviewSurface and {_TRANSLATED}"
            raise FileRefused(f"The surface {shader.getCategory()} is not read.", self.where, f"Use one of {known}.")
        return shader

    def _flattened(self) -> None:
        """Nodes that the standard makes of others are taken apart, unless they are known as they are."""

        def is_taken_apart(node: MaterialX.Node) -> bool:
            return node.getCategory() not in KNOWN and node.getType() not in ("surfaceshader", "material")

        for inside in [self.document, *self.document.getNodeGraphs()]:
            if inside.getNodes() and not inside.hasAttribute("nodedef"):
                inside.flattenSubgraphs("", is_taken_apart)

    def _channel(self, key: str, end: MaterialX.Input) -> Got:
        declared = DOCK_CHANNELS[key].type.value
        assert declared is not None
        if not CHANNELS[key].is_normal:
            self._ready(end)
            return self.graph.widened(self.graph.as_number(self._end(end)), declared.width)
        node = self._source(end)
        if node is not None and node.getCategory() == "normalmap":
            for own in node.getInputs():
                self._ready(own)
            return normal_of_map(self, node)
        if node is not None and node.getCategory() == "normal":
            return numbers(0.0, 0.0, 1.0)
        self._ready(end)
        found = self._end(end)
        return self.graph.made(3, "change_space", "vector", {"way": "world to tangent"}, direction=found)

    def _displacement(self) -> Got | None:
        for material in self.document.getMaterialNodes():
            for one in MaterialX.getShaderNodes(material, "displacementshader"):
                end = one.getActiveInput("displacement")
                if end is None or one.getCategory() != "displacement":
                    continue
                self.is_moving = True
                self._ready(end)
                found = self._end(end)
                self.is_moving = False
                if found.width == 1:
                    return self.graph.made(3, "along_normal", "offset", height=found, depth=numbers(1.0))
                return found
        return None

    @staticmethod
    def _source(end: MaterialX.Input) -> MaterialX.Node | None:
        """The node that an input has its value from, through the output of a graph."""
        return end.getConnectedNode()

    def _ready(self, end: MaterialX.Input) -> None:
        """Reads all that an input needs, the farthest first: a chain of nodes may be longer than Python's stack."""
        first = self._source(end)
        todo, seen = [(first, False)] if first is not None else [], set[str]()
        while todo:
            node, is_ready = todo.pop()
            if is_ready:
                if node.getType() != "multioutput":
                    self._node(node, "")
            elif node.getNamePath() not in seen:
                seen.add(node.getNamePath())
                todo.append((node, True))
                needed = (self._source(own) for own in node.getInputs())
                todo.extend((one, False) for one in needed if one is not None)

    def _end(self, end: MaterialX.Input) -> Got:
        """What an input has: of a node, of an input of the graph around it, or numbers."""
        node = self._source(end)
        if node is not None:
            output = end.getConnectedOutput()
            name = end.getOutputString()
            if output is not None and output.getParent().isA(MaterialX.NodeGraph):
                name = output.getOutputString()
            return self._node(node, name)
        around = end.getInterfaceInput()
        if around is not None and around.getParent().isA(MaterialX.NodeGraph):
            return self._opened(around)
        return _held(end)

    def got(self, node: MaterialX.Node, name: str) -> Got:
        """What an input of a node has, or what the standard has there where nothing is said."""
        end = node.getInput(name)
        if end is not None:
            return self._end(end)
        declared = self.declared(node, name)
        if declared is None:
            return numbers(0.0)
        geometry = declared.getDefaultGeomProp()
        if geometry is not None and not declared.getValueString():
            made = _GEOMETRY.get(geometry.getGeomProp())
            if made is not None:
                return made(self.graph)
        return _held(declared)

    def text(self, node: MaterialX.Node, name: str) -> str:
        """A choice of a node."""
        found = node.getInput(name) or self.declared(node, name)
        return str(found.getValueString()) if found is not None else ""

    @staticmethod
    def declared(node: MaterialX.Node, name: str) -> MaterialX.Input | None:
        """An input as the standard declares it; None where the node has no such input."""
        kind = node.getNodeDef()
        return kind.getActiveInput(name) if kind is not None else None

    def _node(self, node: MaterialX.Node, output: str) -> Got:
        """What a node gives."""
        key = (node.getNamePath(), output, self.is_moving)
        if key not in self._found:
            rule = KNOWN.get(node.getCategory())
            if rule is not None and not (output and node.getType() == "multioutput"):
                self._found[key] = rule(self, node)
            else:
                self._found[key] = self._separated(node, output) or self._placeholder(node, output)
        return self._found[key]

    def _separated(self, node: MaterialX.Node, output: str) -> Got | None:
        """One number of a node that takes a vector or a colour apart."""
        if not node.getCategory().startswith("separate"):
            return None
        at = "xyzw".find(output[-1]) if output[-1:] in "xyzw" else "rgba".find(output[-1:])
        return self.graph.component(self.got(node, "in"), max(at, 0))

    def _placeholder(self, node: MaterialX.Node, output: str) -> Got:
        category = node.getCategory()
        self.say(f"{category} is not known here: it stands as a placeholder, which keeps its wiring and is grey.")
        declared = node.getNodeDef()
        ends = [
            one for one in (declared.getActiveInputs() if declared else node.getInputs()) if one.getType() in _WIDTHS
        ]
        made = declared.getActiveOutputs() if declared else []
        outs = [(one.getName(), one.getType()) for one in made if one.getType() in _WIDTHS] or [("out", node.getType())]
        outline = Outline(
            category[:60],
            tuple(
                OutlinePort(
                    _port(one.getName()), one.getName()[:60], _PORTS[_WIDTHS[one.getType()]], _held(one).numbers
                )
                for one in ends
            ),
            tuple(OutlinePort(_port(name), name[:60], _PORTS[_WIDTHS.get(type_, 1)]) for name, type_ in outs),
            f"{category} of a material document, which this program does not know.",
        )
        inputs = {
            _port(one.getName()): self.graph.widened(
                self.graph.as_number(self.got(node, one.getName())), _WIDTHS[one.getType()]
            )
            for one in ends
        }
        stem = f"materialx_{identifier(category)}"[:30]
        type_ = (
            stem
            if all(was.outline == outline for was in self.graph.nodes.values() if was.type == stem)
            else f"{stem}_2"
        )
        made_node = self.graph.add(type_, inputs, outline=outline)
        for name, kind in outs:
            width = _WIDTHS.get(kind, 1)
            self._found[node.getNamePath(), name, self.is_moving] = Got(width, wire=Source(made_node, _port(name)))
        return self._found[node.getNamePath(), output if output in dict(outs) else outs[0][0], self.is_moving]

    def _opened(self, around: MaterialX.Input) -> Got:
        """An input of a graph as a parameter."""
        key = (around.getNamePath(), "", False)
        if key not in self._found:
            held = _held(around)
            is_colour = around.getType() == "color3"
            type_, output = ("colour", "colour") if is_colour else VALUES[held.width]
            node = self.graph.add(type_, {"value": held})
            self._parameter(around, node, held)
            self._found[key] = Got(held.width, wire=Source(node, output))
        return self._found[key]

    def _parameter(self, around: MaterialX.Input, node: str, held: Got | None) -> None:
        low, high = (around.getAttribute(name) or around.getAttribute(soft) for name, soft in _ENDS)
        own = [*(held.numbers if held else ()), 0.0, 1.0]
        ends = [float(text.split(",")[0]) if _is_number(text) else end(own) for text, end in ((low, min), (high, max))]
        name = around.getAttribute("uiname") or around.getName().replace("_", " ")
        taken = {one.id for one in self.parameters}
        stem = re.sub(r"^[^a-z]+", "", identifier(around.getName()))[:24] or "value"
        key = next(f"{stem}_{number}" for number in range(1, len(taken) + 2) if f"{stem}_{number}" not in taken)
        found = Parameter(
            key,
            name[:60],
            node,
            "value",
            ends[0],
            ends[1] if ends[1] > ends[0] else ends[0] + 1.0,
            group=around.getAttribute("uifolder")[:60],
            help=around.getAttribute("doc")[:400],
        )
        self.parameters.append(found)

    def picture(self, node: MaterialX.Node) -> Got:
        """A texture that is read, as many numbers of it as the node gives."""
        width = _WIDTHS[node.getType()]
        end = node.getInput("file")
        around = end.getInterfaceInput() if end is not None else None
        held = around if around is not None and around.getParent().isA(MaterialX.NodeGraph) else end
        path = str(held.getResolvedValueString()) if held is not None else ""
        space = (held.getActiveColorSpace() or "") if held is not None else ""
        texture = self._texture(path, "srgb" in space)
        along, up = (_WRAPS.get(self.text(node, name), "repeat") for name in ("uaddressmode", "vaddressmode"))
        if along != up:
            self.say(f"A picture goes on along U by {along} and along V by {up}; here by {along} along both.")
        settings = {
            "texture_wrap": along,
            "texture_filter": "pixels" if self.text(node, "filtertype") == "closest" else "smooth",
        }
        uv = self.got(node, "texcoord")
        source: Got | str = texture
        if around is not None and held is around:
            key = (around.getNamePath(), "", False)
            if key not in self._found:
                choice = self.graph.add("texture_choice", {"value": texture})
                self._parameter(around, choice, None)
                self._found[key] = Got(0, wire=Source(choice, "texture"))
            source = self._found[key]
        made = self.graph.add(
            "texture_at_level" if self.is_moving else "texture",
            {"texture": source, "uv": uv, **({"level": numbers(0.0)} if self.is_moving else {})},
            settings,
        )
        parts = [Got(1, wire=Source(made, name)) for name in ("red", "green", "blue", "alpha")]
        return Got(3, wire=Source(made, "colour")) if width == 3 else self.graph.together(parts[:width])

    def _texture(self, path: str, is_colour: bool) -> str:
        if not path:
            self.say("A picture of the document is not chosen.")
            return ""
        for key, known in self.files.items():
            if known == (path, is_colour):
                return key
        key = f"texture_{len(self.files) + 1}"
        self.files[key] = (path, is_colour)
        return key


_ENDS = (("uimin", "uisoftmin"), ("uimax", "uisoftmax"))
_GEOMETRY: Mapping[str, Callable[[GraphUnderWay], Got]] = {
    "texcoord": lambda graph: graph.made(2, "uv", "uv"),
    "position": lambda graph: graph.made(3, "object_position", "position"),
    "normal": lambda graph: graph.made(3, "form_normal", "normal"),
    "tangent": lambda graph: graph.made(3, "tangent", "direction"),
}


def _is_number(text: str) -> bool:
    return bool(re.match(r"\s*-?[\d.]", text or ""))


def _port(name: str) -> str:
    return identifier(name)[:30] or "value"


def _held(end: MaterialX.Input | MaterialX.Output) -> Got:
    """The numbers that stand at an end; zeros where there are none."""
    width = _WIDTHS.get(end.getType(), 1)
    text = (end.getResolvedValueString() or "").strip()
    if end.getType() == "boolean":
        return numbers(1.0 if text == "true" else 0.0)
    found = [float(part) for part in text.split(",")] if text and _is_number(text) else []
    return numbers(*(found if len(found) == width else [0.0] * width))
