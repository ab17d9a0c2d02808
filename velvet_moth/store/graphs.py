"""Graphs and their history: create, change by operations, undo, redo, delete and bring back."""

from collections import OrderedDict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime
from threading import Lock
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from velvet_moth.core.errors import MothError
from velvet_moth.core.formats.graph_json import graph_from_json, graph_to_json
from velvet_moth.core.graph import Graph, Motif
from velvet_moth.core.motifs import refreshed, resolved, uses
from velvet_moth.core.operations import Batch, Operation, Reversible
from velvet_moth.store import textures
from velvet_moth.store.codec import operation_from_json, operation_to_json
from velvet_moth.store.errors import NotFound
from velvet_moth.store.events import News, announce
from velvet_moth.store.models import GraphRow, RevisionRow
from velvet_moth.store.textures import TextureState

LONGEST_HISTORY = 1000
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
class Kept:
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
    # The graphs that its backdrop wears, by the key that it names them by; those that are gone are not among them.
    worn: Mapping[str, "Kept"] = field(default_factory=dict)


_documents: OrderedDict[tuple[int, int, datetime], Graph] = OrderedDict()
_motif_tables: OrderedDict[tuple[Any, ...], dict[str, Motif]] = OrderedDict()
_documents_lock = Lock()
_MOST_DOCUMENTS = 32


def _document(row: GraphRow) -> Graph:
    """The document of a row; decoding is remembered by id and revision, which never show two documents."""
    key = (row.id, row.revision, row.created)
    with _documents_lock:
        found = _documents.get(key)
    if found is None:
        found = graph_from_json(row.document, f"graph {row.id}")
        _remember(row, found)
    return found


def _graph(session: Session, row: GraphRow) -> Graph:
    """The graph of a row with the project's motifs."""
    motifs = project_motifs(session, row.project_id)
    return replace(refreshed(_document(row), motifs), motif=row.motif or "")


def project_motifs(session: Session, project_id: int) -> dict[str, Motif]:
    """The motifs of a project by type; the same objects as long as none of them changes."""
    rows = session.scalars(
        select(GraphRow)
        .where(GraphRow.project_id == project_id, GraphRow.motif.is_not(None), GraphRow.deleted.is_(None))
        .order_by(GraphRow.id)
    ).all()
    stamp = (project_id, *((row.id, row.revision, row.created) for row in rows))
    with _documents_lock:
        found = _motif_tables.get(stamp)
    if found is None:
        found = resolved({row.motif or "": _document(row) for row in rows})
        with _documents_lock:
            _motif_tables[stamp] = found
            while len(_motif_tables) > _MOST_DOCUMENTS:
                _motif_tables.popitem(last=False)
    return found


def stamp_of(
    session: Session,
    project_id: int,
    own: str,
    graph: Graph,
    read: Mapping[str, TextureState],
    worn: Mapping[str, Kept],
) -> str:
    """What tells the states of a graph apart: its ``own`` mark, and those of the motifs, textures and graphs it uses."""
    used = sorted(graph.used_motifs())
    found = select(GraphRow.motif, GraphRow.revision).where(GraphRow.project_id == project_id, GraphRow.motif.in_(used))
    revisions = [f"{type_}.{revision}" for type_, revision in sorted(session.execute(found).tuples())] if used else []
    states = [*(f"{key}.{state.revision}" for key, state in read.items()), *(f"{k}:{o.stamp}" for k, o in worn.items())]
    return "-".join([own, *revisions, *states])


def _remember(row: GraphRow, graph: Graph) -> None:
    with _documents_lock:
        _documents[row.id, row.revision, row.created] = graph
        while len(_documents) > _MOST_DOCUMENTS:
            _documents.popitem(last=False)


def _row(session: Session, key: int, lock: bool = False) -> GraphRow:
    query = select(GraphRow).where(GraphRow.id == key)
    possible = 0 < key <= LARGEST_ID
    row = session.scalars(query.with_for_update() if lock else query).one_or_none() if possible else None
    if row is None:
        raise NotFound("There is no such graph.", f"graph {key}", "Open one from the library.")
    return row


def worn_by(session: Session, project_id: int, graph: Graph) -> dict[str, Kept]:
    """The graphs that a graph's backdrop wears, by the keys it has for them."""
    named = {wear.graph for wear in graph.wears if wear.graph.isascii() and wear.graph.isdigit()}
    keys = [int(key) for key in named if int(key) <= LARGEST_ID]
    if not keys:
        return {}
    found = select(GraphRow).where(
        GraphRow.id.in_(keys), GraphRow.project_id == project_id, GraphRow.motif.is_(None), GraphRow.deleted.is_(None)
    )
    return {str(row.id): _kept(session, row, False) for row in session.scalars(found.order_by(GraphRow.id)).all()}


def _kept(session: Session, row: GraphRow, dressed: bool = True) -> Kept:
    """A row as it is kept; with what its backdrop wears where that is seen, which it is on its own page alone."""
    numbers = [*row.undo[-1:], *row.redo[-1:]]
    found = select(RevisionRow.number, RevisionRow.words).where(
        RevisionRow.graph_id == row.id, RevisionRow.number.in_(numbers)
    )
    words: dict[int, str] = {number: text for number, text in session.execute(found)}
    undo = words.get(row.undo[-1], "") if row.undo else ""
    redo = words.get(row.redo[-1], "") if row.redo else ""
    graph = _graph(session, row)
    read = textures.states(session, sorted(graph.texture_ids()))
    worn = worn_by(session, row.project_id, graph) if dressed else {}
    stamp = stamp_of(session, row.project_id, str(row.revision), graph, read, worn)
    return Kept(
        row.id, row.project_id, row.revision, graph, undo, redo, row.changed, row.motif or "", stamp, read, worn
    )


def create(session: Session, project_id: int, graph: Graph, motif: str = "") -> Kept:
    """Keep a new graph; ``motif`` is the type of the nodes that will use it, where it is a motif."""
    document = graph_to_json(graph)
    row = GraphRow(
        project_id=project_id,
        title=graph.title,
        motif=motif or None,
        revision=0,
        document=document,
        undo=[],
        redo=[],
    )
    session.add(row)
    session.flush()
    session.refresh(row)
    return _kept(session, row)


def load(session: Session, key: int) -> Kept:
    row = _row(session, key)
    if row.deleted is not None:
        raise NotFound("This graph was deleted.", f"graph {key}", "Bring it back from the library.")
    return _kept(session, row)


def listed(session: Session, project_id: int, motifs: bool = False) -> list[Kept]:
    """The graphs of a project, or its motifs, the last changed first."""
    kind = GraphRow.motif.is_not(None) if motifs else GraphRow.motif.is_(None)
    rows = session.scalars(
        select(GraphRow)
        .where(GraphRow.project_id == project_id, GraphRow.deleted.is_(None), kind)
        .order_by(GraphRow.changed.desc(), GraphRow.id.desc())
    )
    return [_kept(session, row) for row in rows]


def _since(session: Session, key: int, revision: int) -> list[Change]:
    rows = session.scalars(
        select(RevisionRow)
        .where(RevisionRow.graph_id == key, RevisionRow.number > revision)
        .order_by(RevisionRow.number)
        .limit(200)
    )
    return [Change(r.number, r.kind, r.words, r.operation) for r in rows]


def _current(session: Session, key: int, revision: int) -> GraphRow:
    row = _row(session, key, lock=True)
    if row.deleted is not None:
        raise NotFound("This graph was deleted.", f"graph {key}", "Bring it back from the library.")
    if row.revision != revision:
        raise StaleRevision(row.revision, _since(session, key, revision))
    return row


def _record(
    session: Session, row: GraphRow, graph: Graph, kind: str, change: tuple[Reversible, Reversible, str]
) -> int:
    operation, inverse, words = change
    row.revision += 1
    row.document = graph_to_json(graph)
    row.title = graph.title
    row.changed = func.now()
    session.add(
        RevisionRow(
            graph_id=row.id,
            number=row.revision,
            kind=kind,
            operation=operation_to_json(operation),
            inverse=operation_to_json(inverse),
            words=words[:400],
        )
    )
    session.flush()
    session.refresh(row, ["changed"])
    _remember(row, graph)
    announce(session, News(row.id, row.revision, row.motif or "", words[:400]))
    return row.revision


def check_revision(session: Session, key: int, revision: int) -> None:
    """StaleRevision where the graph has changed since; the row stays locked until the request ends."""
    _current(session, key, revision)


def change(session: Session, key: int, revision: int, operation: Operation) -> Kept:
    """Apply an operation to the revision it was made on; StaleRevision where that is not the newest."""
    row = _current(session, key, revision)
    before = _graph(session, row)
    after, inverse = operation.apply(before)
    number = _record(session, row, after, "edit", (operation, inverse, operation.words(before)))
    row.undo = [*row.undo, number][-LONGEST_HISTORY:]
    row.redo = []
    return _kept(session, row)


def _revision(session: Session, key: int, number: int) -> RevisionRow:
    return session.scalars(select(RevisionRow).where(RevisionRow.graph_id == key, RevisionRow.number == number)).one()


def undo(session: Session, key: int, revision: int) -> Kept:
    """Take back the newest edit that is not taken back yet."""
    row = _current(session, key, revision)
    if not row.undo:
        raise NothingToUndo("There is nothing to undo.", row.title, "")
    edit = _revision(session, key, row.undo[-1])
    inverse = operation_from_json(edit.inverse)
    after, _ = inverse.apply(_graph(session, row))
    _record(session, row, after, "undo", (inverse, operation_from_json(edit.operation), f"undid: {edit.words}"))
    row.undo, row.redo = row.undo[:-1], [*row.redo, edit.number]
    return _kept(session, row)


def redo(session: Session, key: int, revision: int) -> Kept:
    """Do again the edit that was taken back last."""
    row = _current(session, key, revision)
    if not row.redo:
        raise NothingToUndo("There is nothing to redo.", row.title, "")
    edit = _revision(session, key, row.redo[-1])
    operation = operation_from_json(edit.operation)
    after, inverse = operation.apply(_graph(session, row))
    _record(session, row, after, "redo", (operation, inverse, f"redid: {edit.words}"))
    row.undo, row.redo = [*row.undo, edit.number], row.redo[:-1]
    return _kept(session, row)


def move_in_history(session: Session, key: int, batch: Batch, steps: int) -> Kept:
    """Apply what undoes (``steps`` below zero) or redoes so many edits, as one revision."""
    row = _row(session, key, lock=True)
    after, inverse = batch.apply(_graph(session, row))
    _record(session, row, after, "jump", (batch, inverse, batch.summary))
    # The newest edit is last on both stacks, so what moves over is turned around.
    if steps < 0:
        row.redo = [*row.redo, *row.undo[steps:][::-1]]
        row.undo = row.undo[:steps]
    else:
        row.undo = [*row.undo, *row.redo[-steps:][::-1]]
        row.redo = row.redo[:-steps]
    return _kept(session, row)


def duplicate(session: Session, key: int) -> Kept:
    """A copy with a history of its own."""
    kept = load(session, key)
    taken = set(session.scalars(select(GraphRow.title).where(GraphRow.project_id == kept.project_id)))
    return create(session, kept.project_id, replace(kept.graph, title=free_title(f"{kept.graph.title} copy", taken)))


def free_title(wanted: str, taken: set[str]) -> str:
    """The wanted title, numbered where it is taken."""
    number, title = 2, wanted
    while title in taken:
        title = f"{wanted} {number}"
        number += 1
    return title


def titles(session: Session, project_id: int) -> set[str]:
    return set(session.scalars(select(GraphRow.title).where(GraphRow.project_id == project_id)))


def delete(session: Session, key: int) -> None:
    """Take a graph out of the library; ``restore`` brings it back whole."""
    row = _row(session, key, lock=True)
    users = used_by(session, row.project_id, row.motif) if row.motif else []
    if users:
        names = ", ".join(u.graph.title for u in users[:3])
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


def used_by(session: Session, project_id: int, motif: str) -> list[Kept]:
    """The graphs and motifs of a project in which nodes of that type stand."""
    every = [*listed(session, project_id), *listed(session, project_id, motifs=True)]
    return [kept for kept in every if uses(kept.graph, motif)]


def using_texture(session: Session, project_id: int, texture: str) -> list[Kept]:
    """The graphs and motifs of a project that read a texture, in any variant."""
    every = [*listed(session, project_id), *listed(session, project_id, motifs=True)]
    return [kept for kept in every if texture in kept.textures]


def restore(session: Session, key: int) -> Kept:
    row = _row(session, key, lock=True)
    row.deleted = None
    session.flush()
    return _kept(session, row)
