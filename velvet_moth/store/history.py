"""The history of a graph: going to any of its steps, values its parameters had, named versions."""

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
from velvet_moth.store import documents, steps, textures
from velvet_moth.store.errors import NotFound
from velvet_moth.store.graphs import (
    HISTORY,
    StoredGraph,
    backdrop_graphs_of,
    change,
    check_revision,
    load,
    stamp_of,
)
from velvet_moth.store.models import RevisionRow, VersionRow

MOST_VERSIONS = 200
MOST_HELD = 40


@dataclass(frozen=True)
class Version:
    """A state of a graph kept under a name."""

    id: int
    name: str
    revision: int
    made: datetime


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
    steps.go_to(session, HISTORY, Batch, key, revision, number)
    return load(session, key)


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
