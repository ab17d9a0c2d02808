"""Graphs and their history: create, change by operations, undo, redo, delete and bring back."""

import hashlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from velvet_moth.core.base.errors import MothError, OperationRefused
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.document.values import fresh_name
from velvet_moth.core.files.document import check_readable
from velvet_moth.core.lowering.motifs import refreshed
from velvet_moth.core.operations import Batch, Operation
from velvet_moth.store import documents, listing, textures
from velvet_moth.store.codec import operation_from_json, operation_to_json
from velvet_moth.store.errors import NotFound
from velvet_moth.store.events import News, announce
from velvet_moth.store.facts import facts_of
from velvet_moth.store.models import GraphRow, RevisionRow, VersionRow, new_state
from velvet_moth.store.textures import TextureState

LONGEST_HISTORY = 1000
# The most changes that a refused edit is answered with.
MOST_SINCE = 200
# The most that the id column holds.
LARGEST_ID = 2**31 - 1


class MotifInUse(MothError):
    """A motif cannot be deleted while graphs use it."""

    code = "motif-in-use"


class NothingToUndo(MothError):
    """The undo or redo stack is empty."""

    code = "nothing-to-undo"


class StaleRevision(MothError):
    """An edit was made on a revision that is no longer the newest; ``since`` tells what happened after it."""

    code = "stale-revision"

    def __init__(self, revision: int, since: Sequence["Change"]) -> None:
        newest = "; ".join(c.words for c in since[-5:]) or "the graph was reloaded"
        super().__init__(
            f"The graph has changed since: {newest}.",
            f"revision {revision}",
            "Your edit is tried again on the new state.",
        )
        self.revision = revision
        self.since = since


@dataclass(frozen=True)
class Change:
    number: int
    kind: str
    words: str
    operation: dict[str, Any]


@dataclass(frozen=True)
class StoredGraph:
    """A graph as it is kept, with where its history stands."""

    id: int
    project_id: int
    revision: int
    graph: Graph
    undo_words: str
    redo_words: str
    changed: datetime
    motif: str = ""
    # Changes with everything that shows in the graph: its own revision, and those of what it uses.
    stamp: str = ""
    # How often each texture it uses has changed, by id.
    textures: Mapping[str, TextureState] = field(default_factory=dict)
    # The graphs that its backdrop shows, by the key that it names them by; those that are gone are not among them.
    backdrop_graphs: Mapping[str, "StoredGraph"] = field(default_factory=dict)


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
) -> str:
    """What tells the states of a graph apart: its ``own`` mark, and those of the motifs, textures and graphs it uses."""
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


def _row(session: Session, key: int, lock: bool = False) -> GraphRow:
    query = select(GraphRow).where(GraphRow.id == key)
    possible = 0 < key <= LARGEST_ID
    # A row that was read before it was locked may have changed until then.
    locked = query.with_for_update().execution_options(populate_existing=True)
    row = session.scalars(locked if lock else query).one_or_none() if possible else None
    if row is None:
        raise NotFound("There is no such graph.", f"graph {key}", "Open one from the library.")
    return row


def backdrop_graphs_of(session: Session, project_id: int, graph: Graph) -> dict[str, StoredGraph]:
    """The graphs that a graph's backdrop shows, by the keys it has for them."""
    named = {key for key in graph.referred("graph") if key.isascii() and key.isdigit()}
    keys = [int(key) for key in named if int(key) <= LARGEST_ID]
    if not keys:
        return {}
    found = select(GraphRow).where(
        GraphRow.id.in_(keys), GraphRow.project_id == project_id, GraphRow.motif.is_(None), GraphRow.deleted.is_(None)
    )
    return {str(row.id): _kept(session, row, False) for row in session.scalars(found.order_by(GraphRow.id)).all()}


def _kept(session: Session, row: GraphRow, with_backdrop: bool = True) -> StoredGraph:
    """A row as it is kept; with the graphs its backdrop shows where that is seen, which it is on its own page alone."""
    numbers = [*row.undo[-1:], *row.redo[-1:]]
    found = select(RevisionRow.number, RevisionRow.words).where(
        RevisionRow.graph_id == row.id, RevisionRow.number.in_(numbers)
    )
    words: dict[int, str] = {number: text for number, text in session.execute(found)}
    undo = words.get(row.undo[-1], "") if row.undo else ""
    redo = words.get(row.redo[-1], "") if row.redo else ""
    graph = _graph(session, row)
    read = textures.states(session, sorted(graph.texture_ids()))
    behind = backdrop_graphs_of(session, row.project_id, graph) if with_backdrop else {}
    stamp = stamp_of(session, row.project_id, row.state, graph, read, behind)
    return StoredGraph(
        row.id,
        row.project_id,
        revision=row.revision,
        graph=graph,
        undo_words=undo,
        redo_words=redo,
        changed=row.changed,
        motif=row.motif or "",
        stamp=stamp,
        textures=read,
        backdrop_graphs=behind,
    )


def create(session: Session, project_id: int, graph: Graph, motif: str = "") -> StoredGraph:
    """Keep a new graph; ``motif`` is the type of the nodes that will use it, where it is a motif."""
    row = GraphRow(project_id=project_id, motif=motif or None, revision=0, undo=[], redo=[], **facts_of(graph))
    session.add(row)
    session.flush()
    session.refresh(row)
    return _kept(session, row)


def load(session: Session, key: int) -> StoredGraph:
    row = _row(session, key)
    if row.deleted is not None:
        raise NotFound("This graph was deleted.", f"graph {key}", "Bring it back from the library.")
    return _kept(session, row)


def _since(session: Session, key: int, revision: int) -> list[Change]:
    """The newest changes after a revision, the newest last."""
    rows = session.scalars(
        select(RevisionRow)
        .where(RevisionRow.graph_id == key, RevisionRow.number > revision)
        .order_by(RevisionRow.number.desc())
        .limit(MOST_SINCE)
    ).all()
    return [Change(r.number, r.kind, r.words, r.operation) for r in reversed(rows)]


def _current(session: Session, key: int, revision: int) -> GraphRow:
    row = _row(session, key, lock=True)
    if row.deleted is not None:
        raise NotFound("This graph was deleted.", f"graph {key}", "Bring it back from the library.")
    if row.revision != revision:
        raise StaleRevision(row.revision, _since(session, key, revision))
    return row


def _record(
    session: Session, row: GraphRow, before: Graph, after: Graph, kind: str, change: tuple[Operation, Operation, str]
) -> int:
    operation, inverse, words = change
    if before.mended:
        _keep_as_it_was(session, row)
    row.revision += 1
    row.state = new_state()
    row.changed = func.now()
    for column, fact in facts_of(after).items():
        setattr(row, column, fact)
    told = " ".join(words.split())[:400]
    session.add(
        RevisionRow(
            graph_id=row.id,
            number=row.revision,
            kind=kind,
            operation=operation_to_json(operation),
            inverse=operation_to_json(inverse),
            words=told,
        )
    )
    session.flush()
    session.refresh(row, ["changed"])
    documents.remember(row, replace(after, mended=()))
    announce(session, News(row.id, row.revision, row.motif or "", told))
    return row.revision


def _keep_as_it_was(session: Session, row: GraphRow) -> None:
    """A document that was mended to be opened is kept as a version: nothing of it is lost when it is overwritten."""
    name = f"As it was before it was mended, revision {row.revision}"
    session.add(VersionRow(graph_id=row.id, name=name, revision=row.revision, document=row.document))


def check_revision(session: Session, key: int, revision: int) -> None:
    """StaleRevision where the graph has changed since; the row stays locked until the request ends."""
    _current(session, key, revision)


def change(session: Session, key: int, revision: int, operation: Operation) -> StoredGraph:
    """Apply an operation to the revision it was made on; StaleRevision where that is not the newest."""
    row = _current(session, key, revision)
    before = _graph(session, row)
    after, inverse = operation.apply(before)
    check_readable(before, after)
    number = _record(session, row, before, after, "edit", (operation, inverse, operation.words(before)))
    row.undo = [*row.undo, number][-LONGEST_HISTORY:]
    row.redo = []
    return _kept(session, row)


def _revision(session: Session, key: int, number: int) -> RevisionRow:
    return session.scalars(select(RevisionRow).where(RevisionRow.graph_id == key, RevisionRow.number == number)).one()


def _applied(graph: Graph, operation: Operation, edit: RevisionRow) -> tuple[Graph, Operation]:
    try:
        after, inverse = operation.apply(graph)
        check_readable(graph, after)
    except OperationRefused as error:
        mend = "Go to an earlier step in the history, or restore a version."
        raise OperationRefused(f"{error.what} So this step stays: {edit.words}.", error.where, mend) from error
    return after, inverse


def undo(session: Session, key: int, revision: int) -> StoredGraph:
    """Take back the newest edit that is not taken back yet."""
    row = _current(session, key, revision)
    if not row.undo:
        raise NothingToUndo("There is nothing to undo.", row.title, "")
    edit = _revision(session, key, row.undo[-1])
    inverse = operation_from_json(edit.inverse)
    before = _graph(session, row)
    after = _applied(before, inverse, edit)[0]
    _record(session, row, before, after, "undo", (inverse, operation_from_json(edit.operation), f"undid: {edit.words}"))
    row.undo, row.redo = row.undo[:-1], [*row.redo, edit.number]
    return _kept(session, row)


def redo(session: Session, key: int, revision: int) -> StoredGraph:
    """Do again the edit that was taken back last."""
    row = _current(session, key, revision)
    if not row.redo:
        raise NothingToUndo("There is nothing to redo.", row.title, "")
    edit = _revision(session, key, row.redo[-1])
    operation = operation_from_json(edit.operation)
    before = _graph(session, row)
    after, inverse = _applied(before, operation, edit)
    _record(session, row, before, after, "redo", (operation, inverse, f"redid: {edit.words}"))
    row.undo, row.redo = [*row.undo, edit.number], row.redo[:-1]
    return _kept(session, row)


def move_in_history(session: Session, key: int, batch: Batch, steps: int) -> StoredGraph:
    """Apply what undoes (``steps`` below zero) or redoes so many edits, as one revision."""
    row = _row(session, key, lock=True)
    before = _graph(session, row)
    after, inverse = batch.apply(before)
    check_readable(before, after)
    _record(session, row, before, after, "jump", (batch, inverse, batch.summary))
    # The newest edit is last on both stacks, so what moves over is turned around.
    if steps < 0:
        row.redo = [*row.redo, *row.undo[steps:][::-1]]
        row.undo = row.undo[:steps]
    else:
        row.undo = [*row.undo, *row.redo[-steps:][::-1]]
        row.redo = row.redo[:-steps]
    return _kept(session, row)


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
    row = _row(session, key, lock=True)
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
    row = _row(session, key, lock=True)
    row.deleted = None
    session.flush()


def raw_document(session: Session, key: int) -> dict[str, Any]:
    """The document of a graph to the letter."""
    return _row(session, key).document
