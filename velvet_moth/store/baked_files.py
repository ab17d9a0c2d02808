"""Graphs baked for other programs: files kept for a day, so that they can be fetched, with how far each differs."""

from datetime import timedelta

from pydantic import TypeAdapter
from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session, defer

from velvet_moth.core.exporting.baked.difference import beside
from velvet_moth.core.exporting.baked.glb import BakeChoices, BakedFile
from velvet_moth.core.pictures.formats import write_png
from velvet_moth.store.errors import NotFound
from velvet_moth.store.models import BakedFileRow

_KEPT = timedelta(days=1)
# So many of a graph are listed.
_LISTED = 8
CHOICES: TypeAdapter[BakeChoices] = TypeAdapter(BakeChoices)


def keep(session: Session, graph: int, choices: BakeChoices, made: BakedFile) -> BakedFileRow:
    """Keeps what was baked; what was baked longer than a day ago goes."""
    session.execute(delete(BakedFileRow).where(BakedFileRow.made < func.now() - _KEPT))
    found = {
        "choices": CHOICES.dump_python(choices, mode="json"),
        "words": list(made.words),
        "pictures": made.pictures,
        "sides": list(made.difference.sides),
        "size": len(made.data),
    }
    sides = write_png(beside(made.difference.pictures))
    row = BakedFileRow(graph_id=graph, found=found, data=made.data, sides=sides)
    session.add(row)
    session.flush()
    return row


def load(session: Session, key: str) -> BakedFileRow:
    """The one of that id; NotFound where there is none any more."""
    found = session.get(BakedFileRow, key)
    if found is None:
        what = "This baked file is no longer kept."
        raise NotFound(what, f"baked {key[:20]}", "Bake the graph again; files are kept for a day.")
    return found


def of_graph(session: Session, graph: int) -> list[BakedFileRow]:
    """Those of a graph that are kept, the newest first, without their bytes."""
    query = select(BakedFileRow).where(BakedFileRow.graph_id == graph).order_by(BakedFileRow.made.desc())
    bare = query.options(defer(BakedFileRow.data), defer(BakedFileRow.sides)).limit(_LISTED)
    return list(session.scalars(bare))
