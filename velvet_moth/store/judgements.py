"""What many throws at the scene of a graph have shown, kept for a day."""

from dataclasses import asdict, dataclass
from datetime import timedelta
from typing import Any

from sqlalchemy import delete, func
from sqlalchemy.orm import Session

from velvet_moth.core.pictures.formats import write_png
from velvet_moth.core.workbench.judging import COLUMNS, TILE, Judgement
from velvet_moth.store.errors import NotFound
from velvet_moth.store.models import JudgementRow

_KEPT = timedelta(days=1)


@dataclass(frozen=True)
class Judging:
    """What was asked: the graph, and the rule's name."""

    graph: int
    rule: str


def keep(session: Session, asked: Judging, found: Judgement) -> JudgementRow:
    """Keeps what was found; what was found longer than a day ago goes."""
    session.execute(delete(JudgementRow).where(JudgementRow.made < func.now() - _KEPT))
    document: dict[str, Any] = {
        "rule": asked.rule,
        "columns": COLUMNS,
        "tile": TILE,
        "verdicts": [asdict(one) for one in found.verdicts],
        "throws": [asdict(one) for one in found.throws],
        "measured": [asdict(one) for one in found.measured],
    }
    row = JudgementRow(graph_id=asked.graph, found=document, sheet=write_png(found.sheet, 6))
    session.add(row)
    session.flush()
    return row


def load(session: Session, key: str) -> JudgementRow:
    """The one of that id; NotFound where there is none any more."""
    found = session.get(JudgementRow, key)
    if found is None:
        raise NotFound(
            "This judgement is no longer kept.", f"judgement {key[:20]}", "Judge again; it is kept for a day."
        )
    return found
