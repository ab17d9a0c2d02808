"""Keeps for each open graph what the last view of it computed, so that an edit computes only its difference."""

from collections import OrderedDict
from dataclasses import dataclass, field
from threading import Lock

from sqlalchemy.orm import Session as Database

from velvet_moth.core.document.graph import Source
from velvet_moth.core.pictures.formats.png import write_png
from velvet_moth.core.workbench.session import Session, Shown, picture
from velvet_moth.store import paintings
from velvet_moth.store.graphs import StoredGraph
from velvet_moth.store.shelf import Shelf
from velvet_moth.web.lanes import PAINTING

_MOST_OPEN = 12
_MOST_FRESH = 40
# Larger than shown, so that the browser's scaling smooths the form's edge.
PICTURE_SIZE = (320, 200)


@dataclass
class _Open:
    session: Session
    lock: Lock = field(default_factory=Lock)
    # What was shown last, and the mark it goes by.
    shown: Shown | None = None
    mark: str = ""


class GraphSessions:
    """Sessions by graph id, the least used dropped first. Safe to use from several threads."""

    def __init__(self, shelf: Shelf) -> None:
        self.shelf = shelf
        self._open: OrderedDict[int, _Open] = OrderedDict()
        self._lock = Lock()
        self._fresh: OrderedDict[str, bytes] = OrderedDict()

    def show(
        self, kept: StoredGraph, variant: str, output: Source | None, on: str, mark: str, seen: str
    ) -> tuple[Shown, Shown | None]:
        """The state of a graph, which goes by ``mark``, and the one before where that is what a page has ``seen``."""
        with self._lock:
            found = self._open.setdefault(kept.id, _Open(Session()))
            self._open.move_to_end(kept.id)
            while len(self._open) > _MOST_OPEN:
                self._open.popitem(last=False)
        with found.lock:
            before = found.shown if found.mark == seen else None
            try:
                textures, inspections = self.shelf.source(kept.textures), self.shelf.inspections(kept.textures)
                behind = self.shelf.graphs(kept.backdrop_graphs)
                shown = found.session.show(kept.graph, variant, output, textures, on, inspections, behind)
            except BaseException:
                found.session, found.shown, found.mark = Session(), None, ""
                raise
            found.shown, found.mark = shown, mark
            return shown, before

    def picture(self, session: Database, kept: StoredGraph, variant: str) -> bytes:
        """The reference picture of a graph as PNG; it is painted once for each state of a graph."""
        mark = paintings.state_of(kept, variant)
        found = paintings.find(session, mark)
        if found is not None:
            return found
        # Nobody waits, or paints, with a connection of the database in hand.
        session.commit()
        # One at a time: a library full of them must not keep the processors from whoever edits.
        with PAINTING.turn():
            found = self._fresh.get(mark)
            if found is None:
                textures, behind = self.shelf.source(kept.textures), self.shelf.graphs(kept.backdrop_graphs)
                pixels = picture(kept.graph, PICTURE_SIZE, textures, variant, graphs=behind)
                found = self._fresh[mark] = write_png(pixels[..., :3])
                # Whoever waited for it meanwhile finds it here, before it can be read from the database.
                while len(self._fresh) > _MOST_FRESH:
                    self._fresh.popitem(last=False)
        paintings.keep(session, kept.id, mark, found)
        return found
