"""Graphs and their history: create, change by operations, undo, redo, delete and bring back."""

import hashlib
from collections.abc import Collection, Mapping
from dataclasses import dataclass, field, replace
from datetime import datetime
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from velvet_moth.core.base.errors import MothError
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.document.values import fresh_name
from velvet_moth.core.files.document import check_readable
from velvet_moth.core.lowering.motifs import refreshed
from velvet_moth.core.operations import Operation
from velvet_moth.store import documents, listing, meshes, textures
from velvet_moth.store.codec import OPERATION
from velvet_moth.store.edits import LARGEST_ID, History, Step
from velvet_moth.store.errors import NotFound
from velvet_moth.store.events import News, announce
from velvet_moth.store.facts import facts_of
from velvet_moth.store.meshes import MeshState
from velvet_moth.store.models import GraphRow, RevisionRow, VersionRow, new_state
from velvet_moth.store.textures import TextureState


class MotifInUse(MothError):
    """A motif cannot be deleted while graphs use it."""

    code = "motif-in-use"


@dataclass(frozen=True)
class StoredGraph:
    """A graph as it is kept, with where its history stands."""

    id: int
    project_id: int
    revision: int
    graph: Graph
    undo: Step
    redo: Step
    changed: datetime
    motif: str = ""
    # Changes with everything that shows in the graph: its own revision, and those of what it uses.
    stamp: str = ""
    # How often each texture it uses has changed, by id.
    textures: Mapping[str, TextureState] = field(default_factory=dict)
    # The graphs that its backdrop shows, by the key that it names them by; those that are gone are not among them.
    backdrop_graphs: Mapping[str, "StoredGraph"] = field(default_factory=dict)
    # The mesh it stands on; None where it stands on a form, or the mesh is gone.
    mesh: MeshState | None = None


def _graph(session: Session, row: GraphRow) -> Graph:
    """The graph of a row with the project's motifs."""
    graph, motifs = documents.document(session, row), documents.project_motifs(session, row.project_id)
    return replace(refreshed(graph, motifs), motif=row.motif or "")


def stamp_of(
    session: Session,
    project_id: int,
    own: str,
    graph: Graph,
    read: Mapping[str, TextureState],
    behind: Mapping[str, StoredGraph],
    mesh: MeshState | None = None,
) -> str:
    """What tells the states of a graph apart: its ``own`` mark, and those of the motifs, textures, graphs and mesh it uses."""
    if mesh is not None:
        own = f"{own} {mesh.packed}"
    used = sorted(graph.used_motifs())
    found = select(GraphRow.motif, GraphRow.state).where(GraphRow.project_id == project_id, GraphRow.motif.in_(used))
    motifs: dict[str, str] = {type_ or "": state for type_, state in session.execute(found).tuples()} if used else {}
    return joined_stamp(own, motifs, read, {key: one.stamp for key, one in behind.items()})


def joined_stamp(
    own: str, motifs: Mapping[str, str], read: Mapping[str, TextureState], behind: Mapping[str, str]
) -> str:
    """A short word for all that shows in a graph: its own state, those of its motifs, its textures, and the graphs behind it."""
    textures_read = {key: f"{t.revision}.{t.sha256}.{t.reading.role}.{t.reading.green}" for key, t in read.items()}
    parts = [own, *(f"{k}:{v}" for found in (motifs, textures_read, behind) for k, v in sorted(found.items()))]
    return hashlib.sha256("\n".join(parts).encode()).hexdigest()[:24]


def backdrop_graphs_of(session: Session, project_id: int, graph: Graph) -> dict[str, StoredGraph]:
    """The graphs that a graph's backdrop shows, by the keys it has for them."""
    return named(session, project_id, graph.referred("graph"))


def named(session: Session, project_id: int, names: Collection[str]) -> dict[str, StoredGraph]:
    """Graphs of a project by keys as documents have them; those that are gone, or motifs, are not among them."""
    keys = [int(key) for key in names if key.isascii() and key.isdigit() and int(key) <= LARGEST_ID]
    if not keys:
        return {}
    found = select(GraphRow).where(
        GraphRow.id.in_(keys), GraphRow.project_id == project_id, GraphRow.motif.is_(None), GraphRow.deleted.is_(None)
    )
    return {str(row.id): _kept(session, row, False) for row in session.scalars(found.order_by(GraphRow.id)).all()}


def mesh_under(session: Session, graph: Graph) -> MeshState | None:
    """The mesh that a graph stands on, unless that is gone."""
    return meshes.states(session, [graph.mesh]).get(graph.mesh) if graph.mesh else None


def _kept(session: Session, row: GraphRow, with_backdrop: bool = True) -> StoredGraph:
    """A row as it is kept; with the graphs its backdrop shows where that is seen, which it is on its own page alone."""
    undo, redo = HISTORY.newest(session, row)
    graph = _graph(session, row)
    read = textures.states(session, sorted(graph.texture_ids()))
    behind = backdrop_graphs_of(session, row.project_id, graph) if with_backdrop else {}
    mesh = mesh_under(session, graph)
    stamp = stamp_of(session, row.project_id, row.state, graph, read, behind, mesh)
    return StoredGraph(
        row.id,
        row.project_id,
        revision=row.revision,
        graph=graph,
        undo=undo,
        redo=redo,
        changed=row.changed,
        motif=row.motif or "",
        stamp=stamp,
        textures=read,
        backdrop_graphs=behind,
        mesh=mesh,
    )


def create(session: Session, project_id: int, graph: Graph, motif: str = "") -> StoredGraph:
    """Keep a new graph; ``motif`` is the type of the nodes that will use it, where it is a motif."""
    row = GraphRow(project_id=project_id, motif=motif or None, revision=0, undo=[], redo=[], **facts_of(graph))
    session.add(row)
    session.flush()
    session.refresh(row)
    return _kept(session, row)


def load(session: Session, key: int) -> StoredGraph:
    return _kept(session, HISTORY.load(session, key))


class GraphHistory(History[GraphRow, Graph]):
    """The edits of graphs."""

    noun, where_from = "graph", "the library"
    rows, edits, owner = GraphRow, RevisionRow, "graph_id"
    operations = OPERATION

    def document(self, session: Session, row: GraphRow) -> Graph:
        return _graph(session, row)

    def title(self, row: GraphRow) -> str:
        return row.title

    def write(self, session: Session, row: GraphRow, before: Graph, after: Graph) -> None:
        check_readable(before, after)
        if before.mended:
            _keep_as_it_was(session, row)
        row.state = new_state()
        for column, fact in facts_of(after).items():
            setattr(row, column, fact)

    def written(self, session: Session, row: GraphRow, after: Graph, words: str) -> None:
        documents.remember(row, replace(after, mended=()))
        announce(session, News(row.id, row.revision, row.motif or "", words))


HISTORY = GraphHistory()


def _keep_as_it_was(session: Session, row: GraphRow) -> None:
    """A document that was mended to be opened is kept as a version: nothing of it is lost when it is overwritten."""
    name = f"As it was before it was mended, revision {row.revision}"
    session.add(VersionRow(graph_id=row.id, name=name, revision=row.revision, document=row.document))


def check_revision(session: Session, key: int, revision: int) -> None:
    """StaleRevision where the graph has changed since; the row stays locked until the request ends."""
    HISTORY.current(session, key, revision)


def change(session: Session, key: int, revision: int, operation: Operation) -> StoredGraph:
    """Apply an operation to the revision it was made on; StaleRevision where that is not the newest."""
    return _kept(session, HISTORY.change(session, key, revision, operation))


def undo(session: Session, key: int, revision: int) -> StoredGraph:
    """Take back the newest edit that is not taken back yet."""
    return _kept(session, HISTORY.undo(session, key, revision))


def redo(session: Session, key: int, revision: int) -> StoredGraph:
    """Do again the edit that was taken back last."""
    return _kept(session, HISTORY.redo(session, key, revision))


def duplicate(session: Session, key: int) -> StoredGraph:
    """A copy with a history of its own."""
    kept = load(session, key)
    title = fresh_name(f"{kept.graph.title} copy", titles(session, kept.project_id))
    return create(session, kept.project_id, replace(kept.graph, title=title, mended=()))


def titles(session: Session, project_id: int) -> set[str]:
    return set(session.scalars(select(GraphRow.title).where(GraphRow.project_id == project_id)))


def titled(session: Session, project_id: int, title: str) -> list[int]:
    """The ids of the graphs of that very title that can be read."""
    found = select(GraphRow.id).where(
        GraphRow.project_id == project_id,
        GraphRow.title == title,
        GraphRow.motif.is_(None),
        GraphRow.deleted.is_(None),
        GraphRow.trouble == "",
    )
    return list(session.scalars(found.order_by(GraphRow.id)))


def delete(session: Session, key: int) -> None:
    """Take a graph out of the library; ``restore`` brings it back whole."""
    row = HISTORY.find(session, key, lock=True)
    users = listing.used_by(session, row.project_id, row.motif) if row.motif else []
    if users:
        names = ", ".join(user.title for user in users[:3])
        raise MotifInUse(f"This motif is used by {names}.", row.title, "Unpack it there first, or keep it.")
    row.deleted = row.deleted or func.now()


def motif_id(session: Session, project_id: int, motif: str) -> int:
    """The id of the graph that is a project's motif of that type."""
    found = session.scalar(
        select(GraphRow.id).where(
            GraphRow.project_id == project_id, GraphRow.motif == motif, GraphRow.deleted.is_(None)
        )
    )
    if found is None:
        raise NotFound("There is no such motif.", motif[:40], "Open one from the library.")
    return found


def restore(session: Session, key: int) -> None:
    """Brings a deleted graph back, whether it can be read or not."""
    row = HISTORY.find(session, key, lock=True)
    row.deleted = None
    session.flush()


def raw_document(session: Session, key: int) -> dict[str, Any]:
    """The document of a graph to the letter."""
    return HISTORY.find(session, key).document
