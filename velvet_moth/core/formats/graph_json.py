"""The graph file: JSON with a version field and a stable order. docs/graph-file.md describes it.

Reading replays operations on an empty graph, so a file passes the very checks an edit passes.
"""

import base64
import binascii
import json
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from velvet_moth.core.errors import FileRefused, MothError
from velvet_moth.core.formats.reader import Reader
from velvet_moth.core.formats.records import (
    decal_in,
    mark_in,
    node_in,
    node_out,
    outputs_read,
    parameter_in,
    parameter_out,
    record_out,
    variant_in,
    variant_out,
    view_in,
    view_out,
    wear_in,
)
from velvet_moth.core.formats.upgrades import upgraded
from velvet_moth.core.graph import Graph, Motif, empty_graph
from velvet_moth.core.motifs import refreshed, resolved
from velvet_moth.core.nodes.surfaces import DOCK
from velvet_moth.core.operations import (
    AddNode,
    AddParameter,
    ChooseForm,
    Operation,
    PutMarks,
    Rename,
    SetDecals,
    SetScene,
    SetSurroundings,
    SetValue,
    SetViews,
    SetWears,
    Wire,
)
from velvet_moth.core.operations.variants import adding
from velvet_moth.core.texture.reading import ROLES, Reading

FORMAT = "velvet-moth-graph"
VERSION = 7
MOST_BYTES = 64 * 1024 * 1024


@dataclass(frozen=True)
class TextureFile:
    """A texture carried inside a graph file: a picture file of any readable format, and how it is read."""

    name: str
    reading: Reading
    file: bytes


@dataclass(frozen=True)
class GraphFile:
    """A graph with its textures by id, the motifs it uses by type, and the graphs that its backdrop wears by key."""

    graph: Graph
    textures: Mapping[str, TextureFile] = field(default_factory=dict)
    motifs: Mapping[str, Graph] = field(default_factory=dict)
    worn: Mapping[str, Graph] = field(default_factory=dict)


def graph_to_json(graph: Graph) -> dict[str, Any]:
    """The document as plain data, in a stable order."""
    return {**document_out(graph), "nodes": [node_out(n) for _, n in sorted(graph.nodes.items())]}


def document_out(graph: Graph) -> dict[str, Any]:
    """The document as plain data save its nodes, in a stable order."""
    return {
        "format": FORMAT,
        "version": VERSION,
        "title": graph.title,
        "form": graph.form,
        "rig": graph.rig,
        "backdrop": graph.backdrop,
        "kind": graph.kind,
        "decals": [record_out(d) for d in graph.decals],
        "wears": [record_out(w) for w in graph.wears],
        "surroundings": graph.surroundings,
        "views": [view_out(v) for v in graph.views],
        "nodes": [],
        "parameters": [parameter_out(p) for p in graph.parameters],
        "variants": [variant_out(v) for v in graph.variants],
        "marks": [record_out(m) for _, m in sorted(graph.marks.items())],
    }


def write_graph_file(file: GraphFile) -> str:
    """The text of a graph file with its textures inside."""
    out = graph_to_json(file.graph)
    out["textures"] = {
        key: {
            "name": t.name,
            "role": t.reading.role,
            "green": t.reading.green,
            "file": base64.b64encode(t.file).decode(),
        }
        for key, t in sorted(file.textures.items())
    }
    out["motifs"] = {type_: graph_to_json(motif) for type_, motif in sorted(file.motifs.items())}
    out["graphs"] = {key: graph_to_json(worn) for key, worn in sorted(file.worn.items())}
    return json.dumps(out, indent=1, ensure_ascii=False) + "\n"


def _operations(file: Reader) -> list[tuple[str, Operation]]:
    """What builds the graph, each with its place in the file: bare nodes first, then wires."""
    read = outputs_read(file)
    nodes = [(entry.where, node_in(entry, read)) for entry in file.at("nodes").items()]
    built: list[tuple[str, Operation]] = []
    for where, node in nodes:
        if node.id == DOCK:
            built += [(where, SetValue(DOCK, k, v)) for k, v in node.values.items()]
        else:
            built.append((where, AddNode(replace(node, wires={}))))
    for where, node in nodes:
        built += [(f"{where}/wires/{k}", Wire.of(node.id, k, s)) for k, s in node.wires.items()]
    built += [(entry.where, AddParameter(parameter_in(entry))) for entry in file.at("parameters", []).items()]
    variants = [variant_in(entry) for entry in file.at("variants", []).items()]
    built += [(f"{file.where}/variants", operation) for operation in adding(variants)]
    built += [(entry.where, PutMarks((mark_in(entry),))) for entry in file.at("marks", []).items()]
    return built


def version_of(data: Any, where: str) -> int:
    """The version a file says it has, where this program reads that one."""
    file = Reader(data, where)
    version = file.at("version").data
    if isinstance(version, bool) or not isinstance(version, int) or not 1 <= version <= VERSION:
        raise file.refuse(
            f"The file has version {version!r}; this program reads versions 1 to {VERSION}.", "Update the program."
        )
    return version


def graph_from_json(
    data: Any, where: str = "graph file", motifs: Mapping[str, Motif] | None = None, motif: str = ""
) -> Graph:
    """The graph in plain data; FileRefused names the first thing that is wrong and its place."""
    file = Reader(data, where)
    if file.at("format").text() != FORMAT:
        raise file.refuse("This JSON is not a Velvet Moth graph.", "Choose a file exported from a graph page.")
    file = Reader(upgraded(data, version_of(data, where)), where)
    title = file.at("title").text()
    graph = replace(empty_graph("Untitled"), motifs=motifs or {}, motif=motif)
    steps: list[tuple[str, Operation]] = [
        (f"{where}/title", Rename(title)),
        (f"{where}/form", ChooseForm(file.at("form", "mooring").text())),
        (f"{where}/rig", SetScene("rig", file.at("rig", "open_dock").text())),
        (f"{where}/backdrop", SetScene("backdrop", file.at("backdrop", "").text())),
        (f"{where}/kind", SetScene("kind", file.at("kind", "solid").text())),
        *_operations(file),
        (f"{where}/surroundings", SetSurroundings(file.at("surroundings", "").text())),
        (f"{where}/wears", SetWears(tuple(wear_in(entry) for entry in file.at("wears", []).items()))),
        (f"{where}/views", SetViews(tuple(view_in(entry) for entry in file.at("views", []).items()))),
        (f"{where}/decals", SetDecals(tuple(decal_in(entry) for entry in file.at("decals", []).items()))),
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
    for key, entry in Reader(upgraded(data, version_of(data, where)), where).at("textures", {}).fields().items():
        role, green = entry.at("role").text(), entry.at("green", "up").text()
        if role not in ROLES or green not in ("up", "down"):
            raise entry.refuse(
                f"The role {role!r} with green {green!r} is not known.", f"Use one of {', '.join(ROLES)}."
            )
        encoded = entry.at("file").data
        try:
            file = base64.b64decode(encoded, validate=True)
        except (TypeError, ValueError, binascii.Error) as error:
            raise entry.refuse("The picture is not base64.") from error
        textures[key] = TextureFile(entry.at("name").text(), Reading(role, "down" if green == "down" else "up"), file)
    raw, worn = (
        {
            key: graph_from_json(entry.data, entry.where)
            for key, entry in Reader(data, where).at(part, {}).fields().items()
        }
        for part in ("motifs", "graphs")
    )
    motifs = resolved(raw)
    return GraphFile(
        refreshed(graph, motifs),
        textures,
        {type_: m.graph for type_, m in motifs.items()},
        {key: refreshed(one, motifs) for key, one in worn.items()},
    )
