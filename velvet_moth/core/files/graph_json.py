"""The graph file: JSON with a version field and a stable order. docs/graph-file.md describes it.

What a file brings passes the very checks an edit passes, and what an edit brings is read back as from a file.
"""

import base64
import binascii
import json
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from velvet_moth.core.base.errors import FileRefused, MothError, OperationRefused
from velvet_moth.core.catalogue.registry import CATALOGUE
from velvet_moth.core.document.graph import (
    MOST_NODES,
    MOST_PARAMETERS,
    MOST_VARIANTS,
    Graph,
    Motif,
    empty_graph,
    is_id,
)
from velvet_moth.core.document.marks import MOST_MARKS
from velvet_moth.core.files.mending import fitting_variant, with_what_fits
from velvet_moth.core.files.reader import Reader, parsed
from velvet_moth.core.files.records import (
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
from velvet_moth.core.files.upgrades import upgraded
from velvet_moth.core.lowering.motifs import MOST_NESTED, depth_of, motifs_in, reaches, refreshed, resolved
from velvet_moth.core.nodes.surfaces import DOCK
from velvet_moth.core.operations import (
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
from velvet_moth.core.operations.nodes import with_nodes
from velvet_moth.core.operations.scene import Part
from velvet_moth.core.operations.variants import adding
from velvet_moth.core.pictures.reading import ROLES, Reading

FORMAT = "velvet-moth-graph"
VERSION = 7
MOST_BYTES = 64 * 1024 * 1024
# The most entries of each list of a file. A backdrop has fewer parts, and each is dressed once.
MOST_ENTRIES = {
    "nodes": MOST_NODES + 1,
    "parameters": MOST_PARAMETERS,
    "variants": MOST_VARIANTS,
    "marks": MOST_MARKS,
    "motifs": 500,
    "textures": 500,
    "graphs": 32,
}


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
        "surroundings": graph.surroundings,
        "nodes": [],
        **{key: [records.write(one) for one in records.of(graph)] for key, records in RECORDS.items()},
    }


@dataclass(frozen=True)
class Records:
    """One list of a graph file: what it holds, and how each is written, read and brought into a graph."""

    of: Callable[[Graph], Sequence[Any]]
    write: Callable[[Any], dict[str, Any]]
    read: Callable[[Reader], Any]
    steps: Callable[[list[Any]], Sequence[Operation]]


# All lists but the nodes, in the order in which one needs the other.
RECORDS: Mapping[str, Records] = {
    "parameters": Records(
        lambda graph: graph.parameters, parameter_out, parameter_in, lambda found: [AddParameter(p) for p in found]
    ),
    "variants": Records(lambda graph: graph.variants, variant_out, variant_in, lambda found: adding(found)),
    "marks": Records(
        lambda graph: [mark for _, mark in sorted(graph.marks.items())],
        record_out,
        mark_in,
        lambda found: [PutMarks((mark,)) for mark in found],
    ),
    "wears": Records(lambda graph: graph.wears, record_out, wear_in, lambda found: [SetWears(tuple(found))]),
    "views": Records(lambda graph: graph.views, view_out, view_in, lambda found: [SetViews(tuple(found))]),
    "decals": Records(lambda graph: graph.decals, record_out, decal_in, lambda found: [SetDecals(tuple(found))]),
}


def check_readable(before: Graph, after: Graph) -> None:
    """Whether everything that differs from ``before`` would be read back from a file; OperationRefused where not."""

    def check(one: Any, written: dict[str, Any], read: Callable[[Reader], Any]) -> None:
        try:
            is_same = read(Reader(written, after.title)) == one
        except FileRefused as error:
            raise OperationRefused(error.what, error.where, "Choose a shorter text or a nearer number.") from error
        if not is_same:
            raise OperationRefused("This could not be read back once it is kept.", after.title, "Choose another value.")

    for key, node in after.nodes.items():
        if before.nodes.get(key) is not node:
            check(node, node_out(node), lambda entry: node_in(entry, {}))
    for records in RECORDS.values():
        held = set(map(id, records.of(before)))
        for one in records.of(after):
            if id(one) not in held:
                check(one, records.write(one), records.read)


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
    return json.dumps(out, indent=1, ensure_ascii=False, allow_nan=False) + "\n"


def _nodes(file: Reader, graph: Graph) -> Graph:
    """The graph with the nodes of a file, their wires, and what the file sets on the dock."""
    read = outputs_read(file)
    nodes = file.at("nodes").each(lambda entry: (entry, node_in(entry, read)))
    others = [(entry, node) for entry, node in nodes if node.id != DOCK]
    try:
        graph = with_nodes(graph, [node for _, node in others])
    except MothError as error:
        if file.mended is None:
            raise FileRefused(error.what, f"{file.where}/nodes, {error.where}", error.mend) from error
        graph = with_what_fits(graph, [node for _, node in others], file.mended)
    for entry, node in nodes:
        if node.id == DOCK:
            steps: list[Operation] = [SetValue(DOCK, key, value) for key, value in node.values.items()]
            graph = _applied(graph, entry, [*steps, *(Wire.of(DOCK, key, s) for key, s in node.wires.items())])
    return graph


def _applied(graph: Graph, entry: Reader, steps: Sequence[Operation]) -> Graph:
    """The graph with some steps, each with its place in the file where it is refused; where that is forgiven, without it."""

    def apply(step: Operation) -> Graph:
        try:
            return step.apply(graph)[0]
        except MothError as error:
            raise FileRefused(error.what, f"{entry.where}, {error.where}", error.mend) from error

    for step in steps:
        for after in entry.attempt(lambda step=step: apply(step)):  # type: ignore[misc] # bound now
            graph = after
    return graph


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
    data: Any,
    where: str = "graph file",
    motifs: Mapping[str, Motif] | None = None,
    motif: str = "",
    mended: list[MothError] | None = None,
) -> Graph:
    """The graph in plain data; FileRefused names the first thing that is wrong and its place.

    With ``mended`` what is wrong is left out or made to fit, and put on that list; refused is then only what is no
    graph at all, or of a version that this program does not know.
    """
    file = Reader(data, where, mended)
    if file.at("format").data != FORMAT:
        raise file.refuse("This JSON is not a Velvet Moth graph.", "Choose a file exported from a graph page.")
    file = Reader(upgraded(data, version_of(data, where)), where, mended)
    graph = replace(empty_graph("Untitled"), motifs=motifs or {}, motif=motif)
    graph = _applied(graph, file.at("title"), [Rename(file.at("title").text())])
    graph = _applied(graph, file.at("form", "mooring"), [ChooseForm(file.at("form", "mooring").text())])
    for part, default in _SCENE.items():
        graph = _applied(graph, file.at(part, default), [SetScene(part, file.at(part, default).text())])
    bare = graph
    for made in file.attempt(lambda: _nodes(file, bare)):
        graph = made
    for key, records in RECORDS.items():
        entries = file.at(key, [])
        for found in entries.attempt(lambda e=entries, r=records: e.each(r.read)):  # type: ignore[misc] # bound now
            if key == "variants" and mended is not None:
                found = [fitting_variant(graph, variant, mended) for variant in found]
            graph = _applied(graph, entries, records.steps(found))
    around = file.at("surroundings", "")
    return _applied(graph, around, [SetSurroundings(around.text())])


_SCENE: Mapping[Part, str] = {"rig": "open_dock", "backdrop": "", "kind": "solid"}


def read_graph_file(text: bytes, where: str = "graph file") -> GraphFile:
    """A graph file with its textures (still encoded), its motifs each after those inside it, and what is worn."""
    if len(text) > MOST_BYTES:
        raise FileRefused("The file is larger than 64 MB.", where, "Export the graph without its largest textures.")
    data = parsed(text, where, "Choose a file exported from a graph page.")
    _check_sizes(Reader(data, where))
    graph = graph_from_json(data, where)
    file = Reader(upgraded(data, version_of(data, where)), where)
    textures = {key: _texture_in(entry) for key, entry in file.at("textures", {}).fields().items()}
    raw, worn = (
        {key: graph_from_json(entry.data, entry.where) for key, entry in file.at(part, {}).fields().items()}
        for part in ("motifs", "graphs")
    )
    _check_motifs(file.at("motifs", {}), raw)
    motifs = resolved(raw)
    return GraphFile(
        refreshed(graph, motifs),
        textures,
        {type_: m.graph for type_, m in motifs.items()},
        {key: refreshed(one, motifs) for key, one in worn.items()},
    )


def _check_sizes(file: Reader) -> None:
    """Refuses what holds too much before any of it is looked at."""
    inside = [
        Reader(entry.data, entry.where)
        for part in ("motifs", "graphs")
        for entry in file.at(part, {}).fields().values()
    ]
    for graph in [file, *inside]:
        for key, most in MOST_ENTRIES.items():
            entries = graph.at(key, [])
            if isinstance(entries.data, (list, dict)) and len(entries.data) > most:
                raise entries.refuse(f"A file holds at most {most} {key}; these are {len(entries.data)}.", "Split it.")


def _check_motifs(entries: Reader, raw: Mapping[str, Graph]) -> None:
    """Motifs have types of their own, and stand one in another without a circle and not too deep."""
    for type_ in raw:
        if not is_id(type_) or type_ in CATALOGUE:
            raise entries.refuse(f"A motif cannot have the type {type_[:40]!r}.", "Give it another type.")
    bare = {type_: Motif(type_, graph) for type_, graph in raw.items()}
    for type_, graph in raw.items():
        if any(reaches(bare, inner, type_) for inner in motifs_in(graph, bare)):
            raise entries.refuse(f"The motif {graph.title} stands inside itself.", "Take one of its uses out.")
        if depth_of(bare, type_) > MOST_NESTED:
            raise entries.refuse(f"More than {MOST_NESTED} motifs stand one in another.", "Unpack some of them.")


def _texture_in(entry: Reader) -> TextureFile:
    role, green = entry.at("role").text(), entry.at("green", "up").text()
    if role not in ROLES or green not in ("up", "down"):
        raise entry.refuse(f"The role {role!r} with green {green!r} is not known.", f"Use one of {', '.join(ROLES)}.")
    try:
        file = base64.b64decode(entry.at("file").data, validate=True)
    except (TypeError, ValueError, binascii.Error) as error:
        raise entry.refuse("The picture is not base64.") from error
    return TextureFile(entry.at("name").text(), Reading(role, "down" if green == "down" else "up"), file)
