"""What a graph file brings: its graph, with the textures, motifs and other graphs it carries, kept in a project."""

import secrets
from collections.abc import Callable, Mapping
from dataclasses import replace

from sqlalchemy.orm import Session

from velvet_moth.core.baking.stack import mesh_stack_from_json
from velvet_moth.core.document.graph import Graph, Node
from velvet_moth.core.document.tracks.track import Track
from velvet_moth.core.document.values import Value, fresh_name
from velvet_moth.core.files.graph_json import GraphFile, MeshFile, graph_to_json
from velvet_moth.core.language.types import P_TEXTURE
from velvet_moth.core.meshes.bringing import Brought, brought
from velvet_moth.core.meshes.formats import Files
from velvet_moth.core.pictures.formats import Picture, PictureFormat, read_picture
from velvet_moth.store import graphs, mesh_stacks, meshes, rules, textures
from velvet_moth.store.documents import project_motifs

# Gives the picture in a file of some name, and the file's format.
ReadPicture = Callable[[bytes, str], tuple[Picture, PictureFormat]]
# Brings the mesh in, of the file of a name among some.
ReadMesh = Callable[[Files, str], Brought]


def import_graph(
    session: Session,
    project_id: int,
    file: GraphFile,
    read: ReadPicture = read_picture,
    bring: ReadMesh = brought,
) -> graphs.StoredGraph:
    """Keeps the graph of a file under a free title. What the project has already, the same, is used as it is."""
    ids = {
        key: textures.add_read(session, project_id, t.name, t.reading, t.file, read(t.file, t.name)).id
        for key, t in file.textures.items()
    }
    types = _keep_motifs(session, project_id, {key: rebound(motif, ids) for key, motif in file.motifs.items()})
    placing = {key: str(rules.keep(session, project_id, rule).id) for key, rule in file.rules.items()}
    others = {key: _placed_by(_retyped(rebound(one, ids), types), placing) for key, one in file.graphs.items()}
    keys = {key: _keep_other(session, project_id, one) for key, one in others.items()}
    made = _placed_by(_retyped(rebound(file.graph, ids), types), placing)
    known = {key: keys.get(key, "gone") for key in made.referred("graph")}
    under = {key: _keep_mesh(session, project_id, key, one, ids, bring) for key, one in file.meshes.items()}
    return _keep(session, project_id, made.with_references("graph", known).with_references("mesh", under))


def _placed_by(graph: Graph, placing: Mapping[str, str]) -> Graph:
    """The graph with its rule under the key it has here; one that the file does not bring is gone."""
    return graph.with_references("rule", {key: placing.get(key, "gone") for key in graph.referred("rule")})


def _keep_mesh(
    session: Session, project_id: int, key: str, file: MeshFile, ids: Mapping[str, str], bring: ReadMesh
) -> str:
    name = f"{file.name}.glb"
    files = {name: file.file}
    if file.stack is None:
        return meshes.add(session, project_id, file.name, files, name, bring(files, name)).id
    stack = mesh_stack_from_json(file.stack, f"meshes/{key[:40]}/stack").with_textures(ids)
    return mesh_stacks.add(session, project_id, file.name, files, name, bring(files, name), stack).id


def _keep(session: Session, project_id: int, graph: Graph, motif: str = "") -> graphs.StoredGraph:
    title = fresh_name(graph.title, graphs.titles(session, project_id))
    return graphs.create(session, project_id, replace(graph, title=title), motif)


def rebound(graph: Graph, ids: Mapping[str, str]) -> Graph:
    """The graph with its textures, by id, replaced by others."""

    def value(node: Node, key: str, old: Value) -> Value:
        return ids.get(str(old), old) if node.kind.inputs[key].type is P_TEXTURE else old

    nodes = {
        key: replace(n, values={i: value(n, i, v) for i, v in n.values.items() if i in n.kind.inputs})
        for key, n in graph.nodes.items()
    }

    def chosen(old: Value) -> Value:
        return ids.get(old, old) if isinstance(old, str) else old

    def keyed(tracks: Mapping[str, Track]) -> dict[str, Track]:
        return {target: track.mapped(chosen) for target, track in tracks.items()}

    variants = tuple(
        replace(v, values={k: chosen(x) for k, x in v.values.items()}, tracks=keyed(v.tracks)) for v in graph.variants
    )
    made = graph.with_references("texture", ids)
    return replace(made, nodes=nodes, variants=variants, tracks=keyed(graph.tracks))


def _retyped(graph: Graph, types: Mapping[str, str]) -> Graph:
    """The graph with its uses of motifs under other types."""
    nodes = {k: replace(n, type=types.get(n.type, n.type)) for k, n in graph.nodes.items()}
    return replace(graph, nodes=nodes)


def new_type() -> str:
    """The type of the nodes that use a new motif."""
    return f"motif_{secrets.token_hex(6)}"


def _keep_motifs(session: Session, project_id: int, motifs: Mapping[str, Graph]) -> dict[str, str]:
    """Keeps the motifs of a file, each after those inside it; gives for each its type here.

    One that differs from what the project has comes in beside it.
    """
    known = project_motifs(session, project_id)
    types: dict[str, str] = {}
    for type_, motif in motifs.items():
        made, here = _retyped(motif, types), known.get(type_)
        if here is not None and graph_to_json(here.graph) == graph_to_json(made):
            types[type_] = type_
            continue
        types[type_] = type_ if here is None and type_.startswith("motif_") else new_type()
        _keep(session, project_id, made, types[type_])
    return types


def _keep_other(session: Session, project_id: int, other: Graph) -> str:
    """Keeps a graph that a backdrop shows; gives the key it is kept by."""
    bare = _without_textures(other)
    same = (
        key
        for key in graphs.titled(session, project_id, other.title)
        if _without_textures(graphs.load(session, key).graph) == bare
    )
    found = next(same, None)
    return str(_keep(session, project_id, replace(other, backdrop_materials=())).id if found is None else found)


def _without_textures(graph: Graph) -> dict[str, object]:
    """The document as far as it can be compared: a picture that comes in again is another texture."""
    return graph_to_json(replace(rebound(graph, dict.fromkeys(graph.texture_ids(), "")), backdrop_materials=()))
