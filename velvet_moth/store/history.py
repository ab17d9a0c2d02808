"""The history of a graph: its steps in words, going to any of them, named versions."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.editing.comparison import operations_between
from velvet_moth.core.files.graph_json import graph_to_json
from velvet_moth.core.lowering.motifs import refreshed
from velvet_moth.core.operations import Batch, Operation
from velvet_moth.store import documents, textures
from velvet_moth.store.codec import operation_from_json
from velvet_moth.store.errors import NotFound
from velvet_moth.store.graphs import (
    StoredGraph,
    backdrop_graphs_of,
    change,
    check_revision,
    load,
    move_in_history,
    stamp_of,
)
from velvet_moth.store.models import GraphRow, RevisionRow, VersionRow

MOST_VERSIONS = 200
MOST_HELD = 40


@dataclass(frozen=True)
class Step:
    """One edit that can be gone back to or forward to; ``is_done`` tells whether it holds now."""

    number: int
    words: str
    made: datetime
    is_done: bool


@dataclass(frozen=True)
class Version:
    """A state of a graph kept under a name."""

    id: int
    name: str
    revision: int
    made: datetime


def steps(session: Session, key: int) -> list[Step]:
    """The edits of a graph, the first first: those that hold, then those taken back."""
    load(session, key)
    done, undone = session.execute(select(GraphRow.undo, GraphRow.redo).where(GraphRow.id == key)).one()
    numbers = [*done, *reversed(undone)]
    found = session.execute(
        select(RevisionRow.number, RevisionRow.words, RevisionRow.made).where(
            RevisionRow.graph_id == key, RevisionRow.number.in_(numbers)
        )
    )
    rows = {number: (words, made) for number, words, made in found.tuples()}
    return [Step(n, *rows[n], at < len(done)) for at, n in enumerate(numbers) if n in rows]


@dataclass(frozen=True)
class Held:
    """A value that a parameter had: until or since an edit made then, and in which variant ("" for the default)."""

    value: Any
    variant: str
    made: datetime


def values_held(session: Session, key: int, parameter: str) -> list[Held]:
    """The values a parameter was given by any edit, taken back or not, the newest first and each but once."""
    graph = load(session, key).graph
    found = graph.parameter(parameter)
    if found is None:
        raise NotFound("This parameter is gone.", parameter, "Undo brings it back.")
    rows = session.execute(
        select(RevisionRow.operation, RevisionRow.inverse, RevisionRow.made)
        .where(RevisionRow.graph_id == key, RevisionRow.kind == "edit")
        .order_by(RevisionRow.number.desc())
    )
    held: dict[tuple[str, str], Held] = {}
    for operation, inverse, made in rows.tuples():
        # What it was before the first edit stands in what takes that back.
        for part in [p for step in (operation, inverse) for p in step.get("operations", [step])]:
            is_default = (part.get("op"), part.get("node"), part.get("input")) == ("set_value", found.node, found.input)
            is_own = (part.get("op"), part.get("parameter")) == ("set_override", found.id)
            if part.get("value") is None or not (is_default or is_own):
                continue
            variant = part["variant"] if is_own else ""
            held.setdefault((variant, str(part["value"])), Held(part["value"], variant, made))
            if len(held) == MOST_HELD:
                return list(held.values())
    return list(held.values())


def go_to(session: Session, key: int, revision: int, number: int) -> StoredGraph:
    """Undo or redo until the edit ``number`` is the newest that holds; 0 is before all of them."""
    check_revision(session, key, revision)
    found = steps(session, key)
    if number and not any(s.number == number for s in found):
        raise NotFound("This step is no longer in the history.", f"step {number}", "Choose another step.")
    at = next((i for i, s in enumerate(found) if s.number == number), -1)
    now = sum(s.is_done for s in found) - 1
    between = found[at + 1 : now + 1][::-1] if at < now else found[now + 1 : at + 1]
    if not between:
        return load(session, key)
    rows = session.scalars(
        select(RevisionRow).where(RevisionRow.graph_id == key, RevisionRow.number.in_([s.number for s in between]))
    )
    by_number = {row.number: row for row in rows}
    parts = [by_number[s.number].inverse if at < now else by_number[s.number].operation for s in between]
    batch = Batch(tuple(operation_from_json(part) for part in parts), _way(found, at, now))
    return move_in_history(session, key, batch, -len(between) if at < now else len(between))


def _way(found: Sequence[Step], at: int, now: int) -> str:
    goal = found[at].words if at >= 0 else "the beginning"
    return f"went {'back' if at < now else 'forward'} to: {goal}"


def versions(session: Session, key: int) -> list[Version]:
    """The named versions of a graph, the newest first."""
    rows = session.execute(
        select(VersionRow.id, VersionRow.name, VersionRow.revision, VersionRow.made)
        .where(VersionRow.graph_id == key)
        .order_by(VersionRow.id.desc())
    )
    return [Version(*row) for row in rows.tuples()]


def keep_version(session: Session, key: int, name: str) -> Version:
    """Keep the graph as it is now under a name."""
    kept = load(session, key)
    if session.scalar(select(func.count()).where(VersionRow.graph_id == key)) == MOST_VERSIONS:
        raise OperationRefused(
            f"A graph keeps at most {MOST_VERSIONS} versions.", kept.graph.title, "Remove an old one first."
        )
    if any(v.name == name for v in versions(session, key)):
        raise OperationRefused("Another version has this name.", name, "Choose another name.")
    row = VersionRow(graph_id=key, name=name, revision=kept.revision, document=graph_to_json(kept.graph))
    session.add(row)
    session.flush()
    session.refresh(row)
    return Version(row.id, row.name, row.revision, row.made)


def _version_row(session: Session, key: int, version: int) -> VersionRow:
    row = session.scalars(select(VersionRow).where(VersionRow.graph_id == key, VersionRow.id == version)).one_or_none()
    if row is None:
        raise NotFound("There is no such version.", f"version {version}", "Reload the history.")
    return row


def version_graph(session: Session, key: int, version: int) -> tuple[Version, StoredGraph]:
    """A version with the graph as it would be kept, its motifs and textures as they are now."""
    row = _version_row(session, key, version)
    kept = load(session, key)
    motifs = documents.project_motifs(session, kept.project_id)
    graph = documents.read(row.document, f"version {row.name}", motifs, kept.motif)
    graph = refreshed(graph, kept.graph.motifs)
    read = textures.states(session, sorted(graph.texture_ids()))
    behind = backdrop_graphs_of(session, kept.project_id, graph)
    stamp = stamp_of(session, kept.project_id, f"version {row.id}", graph, read, behind)
    found = replace(kept, graph=graph, stamp=stamp, textures=read, backdrop_graphs=behind)
    return Version(row.id, row.name, row.revision, row.made), found


def remove_version(session: Session, key: int, version: int) -> None:
    session.delete(_version_row(session, key, version))


def restore_version(session: Session, key: int, revision: int, version: int) -> StoredGraph:
    """Make the graph what it was, as an edit: undo brings back what came after."""
    found, kept = version_graph(session, key, version)
    check_revision(session, key, revision)
    batch = operations_between(load(session, key).graph, kept.graph, f"restored version {found.name}")
    if not batch.operations:
        raise OperationRefused("The graph is this version already.", found.name, "Change something, or compare others.")
    operation: Operation = batch
    return change(session, key, revision, operation)
