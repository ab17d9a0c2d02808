"""Pictures of graphs as they were painted: a library that is opened again has them at once."""

import hashlib
from dataclasses import dataclass

from sqlalchemy import delete, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from velvet_moth.core.base.program import program
from velvet_moth.store.graphs import StoredGraph
from velvet_moth.store.models import PaintedRow

# Of each graph so many are kept: its variants, and a few states to go back to.
MOST = 12


def state_of(kept: StoredGraph, variant: str) -> str:
    """What the picture of a graph's variant depends on, besides the program that paints it."""
    return hashlib.sha256(f"{kept.id} {kept.stamp} {variant}".encode()).hexdigest()


@dataclass(frozen=True)
class Painting:
    """A PNG of a state; where this program did not paint it, it only stands in: it was shipped, or another one did."""

    png: bytes
    is_stand_in: bool


def find(session: Session, state: str) -> Painting | None:
    """The picture of a state: this program's own, else the newest of those that can stand in."""
    is_other = PaintedRow.program != program()
    found = select(PaintedRow.png, is_other).where(PaintedRow.state == state)
    row = session.execute(found.order_by(is_other, PaintedRow.made.desc()).limit(1)).first()
    return Painting(*row) if row else None


def keep(session: Session, graph_id: int, state: str, png: bytes, by: str | None = None) -> None:
    """Keeps a picture of a graph, painted by this program or ``by`` another, in the place of its oldest where there are many."""
    painter = by or program()
    row = insert(PaintedRow).values(state=state, program=painter, graph_id=graph_id, png=png)
    session.execute(row.on_conflict_do_nothing())
    # One that this program painted needs no stand-in.
    if painter == program():
        session.execute(delete(PaintedRow).where(PaintedRow.state == state, PaintedRow.program != painter))
    newest = (
        select(PaintedRow.state)
        .where(PaintedRow.graph_id == graph_id)
        .order_by(PaintedRow.made.desc(), PaintedRow.state)
        .offset(MOST)
    )
    session.execute(delete(PaintedRow).where(PaintedRow.state.in_(newest)))
