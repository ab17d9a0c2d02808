"""The graph file: JSON with a version field and a stable order. docs/graph-file.md describes it.

Reading replays operations on an empty graph, so a file passes the very checks an edit passes.
"""

import base64
import binascii
import json
from collections.abc import Mapping
from dataclasses import asdict, dataclass, field, replace
from typing import Any

from velvet_moth.core.catalogue import CATALOGUE
from velvet_moth.core.errors import FileRefused, MothError
from velvet_moth.core.formats.upgrades import upgraded
from velvet_moth.core.graph import Graph, Motif, Node, Parameter, Source, Value, Variant, empty_graph
from velvet_moth.core.motifs import refreshed, resolved
from velvet_moth.core.nodes.surfaces import DOCK
from velvet_moth.core.operations import (
    AddNode,
    AddParameter,
    AddVariant,
    ChooseForm,
    Operation,
    Rename,
    SetValue,
    Wire,
)
from velvet_moth.core.outline import Outline, OutlinePort
from velvet_moth.core.ports import spoken
from velvet_moth.core.types import PORT_TYPES

FORMAT = "velvet-moth-graph"
VERSION = 2
MOST_BYTES = 64 * 1024 * 1024


@dataclass(frozen=True)
class TextureFile:
    """A texture carried inside a graph file: a PNG and how it is read (``colour``, ``data`` or ``normal``)."""

    name: str
    role: str
    png: bytes


ROLES = ("colour", "data", "normal")


@dataclass(frozen=True)
class GraphFile:
    """A graph with its textures by id and the motifs it uses by type."""

    graph: Graph
    textures: Mapping[str, TextureFile] = field(default_factory=dict)
    motifs: Mapping[str, Graph] = field(default_factory=dict)


def _value_out(value: Value) -> Any:
    return value if isinstance(value, str) else list(value)


def _node_out(node: Node) -> dict[str, Any]:
    out: dict[str, Any] = {"id": node.id, "type": node.type}
    if node.label:
        out["label"] = node.label
    if node.place is not None:
        out["place"] = list(node.place)
    if node.values:
        out["values"] = {k: _value_out(v) for k, v in sorted(node.values.items())}
    if node.settings:
        out["settings"] = dict(sorted(node.settings.items()))
    if node.outline:
        out["outline"] = _outline_out(node.outline)
    if node.wires:
        out["wires"] = {k: [s.node, s.output] for k, s in sorted(node.wires.items())}
    return out


def _outline_out(outline: Outline) -> dict[str, Any]:
    def ports(found: tuple[OutlinePort, ...]) -> list[dict[str, Any]]:
        return [{**asdict(p), "default": list(p.default)} for p in found]

    return {
        "name": outline.name,
        "sentence": outline.sentence,
        "inputs": ports(outline.inputs),
        "outputs": ports(outline.outputs),
    }


def graph_to_json(graph: Graph) -> dict[str, Any]:
    """The document as plain data, in a stable order."""
    return {
        "format": FORMAT,
        "version": VERSION,
        "title": graph.title,
        "form": graph.form,
        "nodes": [_node_out(n) for _, n in sorted(graph.nodes.items())],
        "parameters": [
            {
                "id": p.id,
                "name": p.name,
                "node": p.node,
                "input": p.input,
                "low": p.low,
                "high": p.high,
                "step": p.step,
                "unit": p.unit,
                "group": p.group,
                "help": p.help,
            }
            for p in graph.parameters
        ],
        "variants": [
            {"id": v.id, "name": v.name, "values": {k: _value_out(x) for k, x in sorted(v.values.items())}}
            for v in graph.variants
        ],
    }


def write_graph_file(file: GraphFile) -> str:
    """The text of a graph file with its textures inside."""
    out = graph_to_json(file.graph)
    out["textures"] = {
        key: {"name": t.name, "role": t.role, "png": base64.b64encode(t.png).decode()}
        for key, t in sorted(file.textures.items())
    }
    out["motifs"] = {type_: graph_to_json(motif) for type_, motif in sorted(file.motifs.items())}
    return json.dumps(out, indent=1, ensure_ascii=False) + "\n"


class _Reader:
    """Takes plain data apart; every refusal names the place in the file."""

    def __init__(self, data: Any, where: str) -> None:
        self.data, self.where = data, where

    def refuse(self, what: str, mend: str = "Export the graph again, or mend the file by hand.") -> FileRefused:
        return FileRefused(what, self.where, mend)

    def at(self, key: str, default: Any = ...) -> "_Reader":
        if not isinstance(self.data, dict):
            raise self.refuse("An object with named fields is needed here.")
        if key not in self.data and default is ...:
            raise self.refuse(f"The field {key!r} is missing.")
        return _Reader(self.data.get(key, default), f"{self.where}/{key}")

    def text(self) -> str:
        if not isinstance(self.data, str) or "\0" in self.data or len(self.data) > 200:
            raise self.refuse("A text of at most 200 characters is needed here.")
        return self.data

    def number(self) -> float:
        if isinstance(self.data, bool) or not isinstance(self.data, (int, float)) or abs(self.data) > 1e6:
            raise self.refuse("A number between -1000000 and 1000000 is needed here.")
        return float(self.data)

    def items(self) -> list["_Reader"]:
        if not isinstance(self.data, list):
            raise self.refuse("A list is needed here.")
        return [_Reader(item, f"{self.where}[{i}]") for i, item in enumerate(self.data)]

    def fields(self) -> dict[str, "_Reader"]:
        if not isinstance(self.data, dict):
            raise self.refuse("An object with named fields is needed here.")
        return {k: _Reader(v, f"{self.where}/{k}") for k, v in self.data.items()}

    def value(self) -> Value:
        return self.data if isinstance(self.data, str) else tuple(i.number() for i in self.items())

    def pair(self) -> list["_Reader"]:
        found = self.items()
        if len(found) != 2:
            raise self.refuse("Exactly two entries are needed here.")
        return found


def _node_in(entry: _Reader, read: Mapping[str, Mapping[str, str]]) -> Node:
    """A node; ``read`` tells for each node which of its outputs are read, and as what type."""
    place = entry.at("place", None)
    type_ = entry.at("type").text()
    outline = None if type_ in CATALOGUE else _outline_in(entry, type_, read)
    settings = {k: v.data for k, v in entry.at("settings", {}).fields().items()}
    return Node(
        entry.at("id").text(),
        type_,
        {k: v.value() for k, v in entry.at("values", {}).fields().items()},
        settings,
        {k: Source(*(p.text() for p in v.pair())) for k, v in entry.at("wires", {}).fields().items()},
        entry.at("label", "").text(),
        None if place.data is None else (place.pair()[0].number(), place.pair()[1].number()),
        outline,
    )


def _outline_in(entry: _Reader, type_: str, read: Mapping[str, Mapping[str, str]]) -> Outline:
    """The ports a file tells of a node this program does not know, or those its wiring shows."""
    told = entry.at("outline", None)
    if told.data is None:
        wires, values = (entry.at(k, {}).fields() for k in ("wires", "values"))
        inputs = tuple(OutlinePort(k, spoken(k), "flexible", (0.5,)) for k in dict.fromkeys([*wires, *values]))
        outputs = tuple(OutlinePort(k, spoken(k), t) for k, t in read.get(entry.at("id").text(), {}).items())
        return Outline(f"Unknown: {type_}"[:80], inputs, outputs)

    def port(p: _Reader) -> OutlinePort:
        type_name = p.at("type").text()
        if type_name not in PORT_TYPES:
            raise p.refuse(f"The port type {type_name!r} is not known.")
        default = tuple(c.number() for c in p.at("default", []).items())
        low, high = p.at("low", 0.0).number(), p.at("high", 1.0).number()
        return OutlinePort(p.at("key").text(), p.at("name").text(), type_name, default, low, high)

    inputs, outputs = (tuple(port(p) for p in told.at(side).items()) for side in ("inputs", "outputs"))
    return Outline(told.at("name").text(), inputs, outputs, told.at("sentence", "").text())


def _outputs_read(file: _Reader) -> dict[str, dict[str, str]]:
    """For each node the outputs that wires read, with the type of an input that reads it."""
    found: dict[str, dict[str, str]] = {}
    for entry in file.at("nodes").items():
        kind = CATALOGUE.get(entry.at("type").text())
        for key, wire in entry.at("wires", {}).fields().items():
            source, output = (p.text() for p in wire.pair())
            taken = kind.inputs[key].type.name if kind and key in kind.inputs else "number"
            told = found.setdefault(source, {})
            # An input that takes anything tells nothing.
            told[output] = told.get(output, "number") if taken in ("flexible", "number") else taken
    return found


def _operations(file: _Reader) -> list[tuple[str, Operation]]:
    """What builds the graph, each with its place in the file: bare nodes first, then wires."""
    read = _outputs_read(file)
    nodes = [(entry.where, _node_in(entry, read)) for entry in file.at("nodes").items()]
    built: list[tuple[str, Operation]] = []
    for where, node in nodes:
        if node.id == DOCK:
            built += [(where, SetValue(DOCK, k, v)) for k, v in node.values.items()]
        else:
            built.append((where, AddNode(replace(node, wires={}))))
    for where, node in nodes:
        built += [(f"{where}/wires/{k}", Wire(node.id, k, s.node, s.output)) for k, s in node.wires.items()]
    for entry in file.at("parameters", []).items():
        key, name, node_id, input_key = (entry.at(k).text() for k in ("id", "name", "node", "input"))
        low, high, step = (entry.at(k, d).number() for k, d in (("low", 0.0), ("high", 1.0), ("step", 0.01)))
        unit, group, help_ = (entry.at(k, "").text() for k in ("unit", "group", "help"))
        made = Parameter(key, name, node_id, input_key, low, high, step, unit, group, help_)
        built.append((entry.where, AddParameter(made)))
    for entry in file.at("variants", []).items():
        values = {k: v.value() for k, v in entry.at("values", {}).fields().items()}
        built.append((entry.where, AddVariant(Variant(entry.at("id").text(), entry.at("name").text(), values))))
    return built


def graph_from_json(
    data: Any, where: str = "graph file", motifs: Mapping[str, Motif] | None = None, motif: str = ""
) -> Graph:
    """The graph in plain data; FileRefused names the first thing that is wrong and its place."""
    file = _Reader(data, where)
    if file.at("format").text() != FORMAT:
        raise file.refuse("This JSON is not a Velvet Moth graph.", "Choose a file exported from a graph page.")
    version = file.at("version").data
    if isinstance(version, bool) or not isinstance(version, int) or not 1 <= version <= VERSION:
        raise file.refuse(
            f"The file has version {version!r}; this program reads versions 1 to {VERSION}.", "Update the program."
        )
    file = _Reader(upgraded(data, version), where)
    title = file.at("title").text()
    form_key = file.at("form", "mooring").text()
    graph = replace(empty_graph("Untitled"), motifs=motifs or {}, motif=motif)
    steps: list[tuple[str, Operation]] = [
        (f"{where}/title", Rename(title)),
        (f"{where}/form", ChooseForm(form_key)),
        *_operations(file),
    ]
    for place, operation in steps:
        try:
            graph, _ = operation.apply(graph)
        except MothError as error:
            raise FileRefused(error.what, f"{place}, {error.where}", error.mend) from error
    return graph


def read_graph_file(text: bytes, where: str = "graph file") -> GraphFile:
    """A graph file with its textures (still encoded)."""
    if len(text) > MOST_BYTES:
        raise FileRefused("The file is larger than 64 MB.", where, "Export the graph without its largest textures.")
    try:
        data = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise FileRefused(f"This is not JSON: {error}.", where, "Choose a file exported from a graph page.") from error
    graph = graph_from_json(data, where)
    textures = {}
    for key, entry in _Reader(data, where).at("textures", {}).fields().items():
        role = entry.at("role").text()
        if role not in ROLES:
            raise entry.refuse(f"The role {role!r} is not known.", f"Use one of {', '.join(ROLES)}.")
        encoded = entry.at("png").data
        try:
            png = base64.b64decode(encoded, validate=True)
        except (TypeError, ValueError, binascii.Error) as error:
            raise entry.refuse("The picture is not base64.") from error
        textures[key] = TextureFile(entry.at("name").text(), role, png)
    raw = {
        type_: graph_from_json(entry.data, entry.where)
        for type_, entry in _Reader(data, where).at("motifs", {}).fields().items()
    }
    motifs = resolved(raw)
    return GraphFile(refreshed(graph, motifs), textures, {type_: m.graph for type_, m in motifs.items()})
