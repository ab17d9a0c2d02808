"""Pictures of graphs as they were painted: a library that is opened again has them at once."""

import hashlib
from functools import cache
from pathlib import Path

from sqlalchemy import delete, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from velvet_moth import core
from velvet_moth.store.graphs import StoredGraph
from velvet_moth.store.models import PaintedRow

# Of each graph so many are kept: its variants, and a few states to go back to.
MOST = 12


@cache
def _program() -> str:
    """What tells this core from another one, which may paint otherwise."""
    found = hashlib.sha256()
    for file in sorted(Path(core.__path__[0]).rglob("*.py")):
        found.update(file.read_bytes())
    return found.hexdigest()


def mark_of(kept: StoredGraph, variant: str) -> str:
    """What the picture of a graph's variant hangs on."""
    return hashlib.sha256(f"{_program()} {kept.id} {kept.stamp} {variant}".encode()).hexdigest()


def find(session: Session, mark: str) -> bytes | None:
    """The PNG that was kept under a mark."""
    return session.scalar(select(PaintedRow.png).where(PaintedRow.mark == mark))


def keep(session: Session, graph_id: int, mark: str, png: bytes) -> None:
    """Keeps a picture of a graph, in the place of its oldest where there are many."""
    session.execute(insert(PaintedRow).values(mark=mark, graph_id=graph_id, png=png).on_conflict_do_nothing())
    newest = (
        select(PaintedRow.mark)
        .where(PaintedRow.graph_id == graph_id)
        .order_by(PaintedRow.made.desc(), PaintedRow.mark)
        .offset(MOST)
    )
    session.execute(delete(PaintedRow).where(PaintedRow.mark.in_(newest)))
