"""Documents of graphs as they are read from their rows, and the motifs of a project; remembered by states."""

from collections.abc import Sequence
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from velvet_moth.core.base.cache import BoundedCache
from velvet_moth.core.base.errors import FileRefused, MothError
from velvet_moth.core.document.graph import Graph, Motif
from velvet_moth.core.files.graph_json import graph_from_json
from velvet_moth.core.lowering.motifs import resolved
from velvet_moth.store.models import GraphRow

# A state is a random word that no other change ever gets, so what a transaction remembers and then rolls back is never
# taken for anything else. Counted in nodes.
_documents: BoundedCache[Graph] = BoundedCache("documents", 100_000, lambda graph: len(graph.nodes), "nodes")
_tables: BoundedCache[dict[str, Motif]] = BoundedCache("tables of motifs", 32)
# What must be read in one statement, so that it belongs together.
_TOGETHER = (
    "document",
    "state",
    "revision",
    "title",
    "undo",
    "redo",
    "changed",
    "deleted",
    "uses",
    "reads",
    "backdrop_graphs",
)
MOST_NOTES = 12
LONGEST_TROUBLE = 600


def document(session: Session, row: GraphRow) -> Graph:
    """The graph of a row, mended where a part of it cannot be read; FileRefused where nothing can be made of it."""
    found = _documents.find((row.id, row.state))
    if found is None:
        session.refresh(row, _TOGETHER)
        found = _documents.get((row.id, row.state), lambda: read(row.document, f"graph {row.id}"))
    return found


def read(data: Any, where: str, motifs: dict[str, Motif] | None = None, motif: str = "") -> Graph:
    """The graph of a document, which says itself what of it was mended."""
    wrong: list[MothError] = []
    graph = graph_from_json(data, where, motifs, motif, wrong)
    notes = dict.fromkeys(f"{error.what} ({error.where})" for error in wrong)
    # Set by itself: the graph is as good as any other, but for what it says.
    return graph if not notes else graph.noted(tuple(notes)[:MOST_NOTES])


def look_for_trouble(session: Session, keys: Sequence[int]) -> None:
    """Reads the documents of some graphs, and keeps what is wrong with each, for lists to tell."""
    for row in session.scalars(select(GraphRow).where(GraphRow.id.in_(keys))).all():
        try:
            notes = document(session, row).mended
            trouble = f"A part of this graph cannot be read; it opens without it. {' '.join(notes)}" if notes else ""
        except FileRefused as error:
            trouble = f"This graph cannot be read. {error}"
        row.trouble = trouble[:LONGEST_TROUBLE]
    session.flush()


def remember(row: GraphRow, graph: Graph) -> None:
    """The document that a row has been given, so that it need not be read again."""
    _documents.get((row.id, row.state), lambda: graph)


def clear_caches() -> None:
    """Drops what was read before, as a new start does."""
    _documents.clear()
    _tables.clear()


def project_motifs(session: Session, project_id: int) -> dict[str, Motif]:
    """The motifs of a project by type; the same objects as long as none of them changes. What cannot be read is none."""
    rows = session.scalars(
        select(GraphRow)
        .where(GraphRow.project_id == project_id, GraphRow.motif.is_not(None), GraphRow.deleted.is_(None))
        .order_by(GraphRow.id)
    ).all()
    if _tables.find(_stamp(project_id, rows)) is None:
        # Whichever is read again is known by its newest state from here on.
        for row in rows:
            _readable(session, row)

    def table() -> dict[str, Motif]:
        found = {row.motif or "": _readable(session, row) for row in rows}
        return resolved({type_: graph for type_, graph in found.items() if graph is not None})

    return _tables.get(_stamp(project_id, rows), table)


def _stamp(project_id: int, rows: Sequence[GraphRow]) -> tuple[Any, ...]:
    return (project_id, *((row.id, row.state) for row in rows))


def _readable(session: Session, row: GraphRow) -> Graph | None:
    try:
        return document(session, row)
    except FileRefused:
        return None
