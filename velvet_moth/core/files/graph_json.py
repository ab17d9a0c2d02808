"""The graph file: JSON with a version field and a stable order. docs/graph-file.md describes it.

What a file brings passes the very checks an edit passes, and what an edit brings is read back as from a file.
"""

import base64
import binascii
import json
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from pydantic import TypeAdapter

from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.base.records import MEND, Mended, Text, parsed, read
from velvet_moth.core.catalogue.registry import CATALOGUE
from velvet_moth.core.document.graph import MOST_NODES, Graph, Motif, Node, empty_graph
from velvet_moth.core.document.values import is_id
from velvet_moth.core.files.document import NODE, PARTS, TABLES, bring_all
from velvet_moth.core.files.upgrades import upgraded
from velvet_moth.core.lowering.motifs import MOST_NESTED, depth_of, motifs_in, reaches, refreshed, resolved
from velvet_moth.core.pictures.reading import Green, Reading, RoleKey
from velvet_moth.core.throwing.rule import PlacingRule, rule_from_json, rule_to_json

FORMAT = "velvet-moth-graph"
VERSION = 12
MOST_BYTES = 64 * 1024 * 1024
# The most entries of what a file holds before any of it is read as a record.
MOST_ENTRIES = {"nodes": MOST_NODES + 1, "motifs": 500, "textures": 500, "meshes": 8, "graphs": 32, "rules": 33}
_NO_GRAPH = "Choose a file exported from a graph page."


@dataclass(frozen=True)
class TextureFile:
    """A texture carried inside a graph file: a picture file of any readable format, and how it is read."""

    name: str
    reading: Reading
    file: bytes


@dataclass(frozen=True)
class MeshFile:
    """A mesh carried inside a graph file: a file of any readable format, in metres with y up.

    ``stack``: the steps that are baked on it, as plain data that ``mesh_stack_from_json`` reads; None for none.
    """

    name: str
    file: bytes
    stack: Mapping[str, Any] | None = None


@dataclass(frozen=True)
class GraphFile:
    """A graph with its textures and meshes by id, the motifs it uses by type, the graphs of its backdrop's surfaces and the rules of placing by key."""

    graph: Graph
    textures: Mapping[str, TextureFile] = field(default_factory=dict)
    motifs: Mapping[str, Graph] = field(default_factory=dict)
    graphs: Mapping[str, Graph] = field(default_factory=dict)
    meshes: Mapping[str, MeshFile] = field(default_factory=dict)
    rules: Mapping[str, PlacingRule] = field(default_factory=dict)


@dataclass(frozen=True)
class _MeshRecord:
    """A mesh as a file has it, its own file in base64."""

    name: Text
    file: str
    stack: Mapping[Text, Any] | None = None


@dataclass(frozen=True)
class _TextureRecord:
    """A texture as a file has it, its picture in base64."""

    name: Text
    role: RoleKey
    file: str
    green: Green = "up"


_TEXTURE: TypeAdapter[_TextureRecord] = TypeAdapter(_TextureRecord)
_MESH: TypeAdapter[_MeshRecord] = TypeAdapter(_MeshRecord)


def node_to_json(node: Node) -> dict[str, Any]:
    """One node as plain data."""
    written: dict[str, Any] = NODE.dump_python(node, mode="json")
    return written


def graph_to_json(graph: Graph, with_nodes: bool = True) -> dict[str, Any]:
    """The document as plain data, in a stable order; its nodes, which are most of it, can be left out."""
    parts = {
        name: part.record.dump_python(part.of(graph), mode="json") if with_nodes or name != "nodes" else []
        for name, part in PARTS.items()
    }
    return {"format": FORMAT, "version": VERSION, **parts}


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
    out["meshes"] = {
        key: {
            "name": m.name,
            "file": base64.b64encode(m.file).decode(),
            **({"stack": m.stack} if m.stack is not None else {}),
        }
        for key, m in sorted(file.meshes.items())
    }
    out["rules"] = {key: rule_to_json(rule) for key, rule in sorted(file.rules.items())}
    out["motifs"] = {type_: graph_to_json(motif) for type_, motif in sorted(file.motifs.items())}
    out["graphs"] = {key: graph_to_json(graph) for key, graph in sorted(file.graphs.items())}
    return json.dumps(_in_order(out), indent=1, ensure_ascii=False, allow_nan=False) + "\n"


def _in_order(data: Any) -> Any:
    """The same plain data, its tables in the order of their keys: files of one graph differ only where the graph does."""
    if isinstance(data, list):
        return [_in_order(one) for one in data]
    if not isinstance(data, dict):
        return data
    return {
        key: dict(sorted(one.items())) if key in TABLES and isinstance(one, dict) else _in_order(one)
        for key, one in data.items()
    }


def _fields(data: Any, where: str) -> dict[str, Any]:
    if not isinstance(data, dict):
        raise FileRefused("An object with named fields is needed here.", where, MEND)
    return data


def version_of(data: Any, where: str) -> int:
    """The version a file says it has, where this program reads that one."""
    version = _fields(data, where).get("version")
    if isinstance(version, bool) or not isinstance(version, int) or not 1 <= version <= VERSION:
        raise FileRefused(
            f"The file has version {version!r}; this program reads versions 1 to {VERSION}.",
            where,
            "Update the program.",
        )
    return version


def graph_from_json(
    data: Any,
    where: str = "graph file",
    motifs: Mapping[str, Motif] | None = None,
    motif: str = "",
    mended: Mended | None = None,
) -> Graph:
    """The graph in plain data; FileRefused names the first thing that is wrong and its place.

    With ``mended`` what is wrong is left out or made to fit, and put on that list; refused is then only what is no
    graph at all, or of a version that this program does not know.
    """
    if _fields(data, where).get("format") != FORMAT:
        raise FileRefused("This JSON is not a Velvet Moth graph.", where, _NO_GRAPH)
    fields = upgraded(data, version_of(data, where))
    graph = replace(empty_graph("Untitled"), motifs=motifs or {}, motif=motif)
    return bring_all(graph, fields, where, mended)


def read_graph_file(text: bytes, where: str = "graph file") -> GraphFile:
    """A graph file with its textures (still encoded), its motifs each after those inside it, and the backdrop's graphs."""
    if len(text) > MOST_BYTES:
        raise FileRefused("The file is larger than 64 MB.", where, "Export the graph without its largest textures.")
    data = parsed(text, where, _NO_GRAPH)
    _check_sizes(_fields(data, where), where)
    graph = graph_from_json(data, where)
    fields = upgraded(data, version_of(data, where))
    textures = {
        key: _texture_in(entry, f"{where}/textures/{key[:40]}")
        for key, entry in _fields(fields.get("textures", {}), f"{where}/textures").items()
    }
    meshes = {
        key: _mesh_in(entry, f"{where}/meshes/{key[:40]}")
        for key, entry in _fields(fields.get("meshes", {}), f"{where}/meshes").items()
    }
    rules = {
        key: rule_from_json(entry, f"{where}/rules/{key[:40]}")
        for key, entry in _fields(fields.get("rules", {}), f"{where}/rules").items()
    }
    raw, others = (
        {
            key: graph_from_json(entry, f"{where}/{part}/{key[:40]}")
            for key, entry in _fields(fields.get(part, {}), f"{where}/{part}").items()
        }
        for part in ("motifs", "graphs")
    )
    _check_motifs(f"{where}/motifs", raw)
    motifs = resolved(raw)
    return GraphFile(
        refreshed(graph, motifs),
        textures,
        {type_: m.graph for type_, m in motifs.items()},
        {key: refreshed(one, motifs) for key, one in others.items()},
        meshes,
        rules,
    )


def _check_sizes(file: Mapping[str, Any], where: str) -> None:
    """Refuses what holds too much before any of it is looked at."""
    inside = {
        f"{where}/{part}/{key[:40]}": _fields(entry, f"{where}/{part}/{key[:40]}")
        for part in ("motifs", "graphs")
        for key, entry in _fields(file.get(part, {}), f"{where}/{part}").items()
    }
    for place, graph in {where: file, **inside}.items():
        for key, most in MOST_ENTRIES.items():
            entries = graph.get(key, [])
            if isinstance(entries, (list, dict)) and len(entries) > most:
                raise FileRefused(
                    f"A file holds at most {most} {key}; these are {len(entries)}.", f"{place}/{key}", "Split it."
                )


def _check_motifs(where: str, raw: Mapping[str, Graph]) -> None:
    """Motifs have types of their own, and stand one in another without a circle and not too deep."""
    for type_ in raw:
        if not is_id(type_) or type_ in CATALOGUE:
            raise FileRefused(f"A motif cannot have the type {type_[:40]!r}.", where, "Give it another type.")
    bare = {type_: Motif(type_, graph) for type_, graph in raw.items()}
    for type_, graph in raw.items():
        if any(reaches(bare, inner, type_) for inner in motifs_in(graph, bare)):
            raise FileRefused(f"The motif {graph.title} stands inside itself.", where, "Take one of its uses out.")
        if depth_of(bare, type_) > MOST_NESTED:
            raise FileRefused(f"More than {MOST_NESTED} motifs stand one in another.", where, "Unpack some of them.")


def _texture_in(data: Any, where: str) -> TextureFile:
    found = read(_TEXTURE, data, where)
    return TextureFile(found.name, Reading(found.role, found.green), _decoded(found.file, "picture", where))


def _mesh_in(data: Any, where: str) -> MeshFile:
    found = read(_MESH, data, where)
    return MeshFile(found.name, _decoded(found.file, "mesh", where), found.stack)


def _decoded(text: str, what: str, where: str) -> bytes:
    try:
        return base64.b64decode(text, validate=True)
    except (ValueError, binascii.Error) as error:
        raise FileRefused(f"The {what} is not base64.", where, MEND) from error
