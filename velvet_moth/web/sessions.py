"""Keeps for each open graph what the last view of it computed, so that an edit computes only its difference."""

from dataclasses import dataclass, field
from threading import Lock

from sqlalchemy.orm import Session as Database

from velvet_moth.core.base.cache import BoundedCache
from velvet_moth.core.document.graph import Source
from velvet_moth.core.pictures.formats.png import write_png
from velvet_moth.core.workbench.session import Session, Shown, picture
from velvet_moth.store import paintings
from velvet_moth.store.graphs import StoredGraph
from velvet_moth.store.paintings import Painting
from velvet_moth.store.sources import Sources
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

    def __init__(self, sources: Sources) -> None:
        self.sources = sources
        self._open: BoundedCache[_Open] = BoundedCache("open graphs", _MOST_OPEN)
        # Whoever waited for a picture finds it here, before it can be read from the database.
        self._fresh: BoundedCache[bytes] = BoundedCache("fresh pictures", _MOST_FRESH)

    def show(
        self, kept: StoredGraph, variant: str, output: Source | None, on: str, mark: str, seen: str
    ) -> tuple[Shown, Shown | None]:
        """The state of a graph, which goes by ``mark``, and the one before where that is what a page has ``seen``."""
        found = self._open.get(kept.id, lambda: _Open(Session()))
        with found.lock:
            before = found.shown if found.mark == seen else None
            try:
                textures, inspections = self.sources.textures(kept.textures), self.sources.inspections(kept.textures)
                shown = found.session.show(
                    kept.graph,
                    variant,
                    shown=output,
                    textures=textures,
                    on=on,
                    inspections=inspections,
                    graphs=self.sources.graphs(kept.backdrop_graphs),
                    meshes=self.sources.meshes(kept.mesh),
                )
            except BaseException:
                found.session, found.shown, found.mark = Session(), None, ""
                raise
            found.shown, found.mark = shown, mark
            return shown, before

    def picture(self, session: Database, kept: StoredGraph, variant: str, fresh: bool = True) -> Painting:
        """The reference picture of a graph; it is painted once for each state of a graph.

        Unless it is to be ``fresh``, one that another program painted stands in where there is none of this one.
        """
        state = paintings.state_of(kept, variant)
        found = paintings.find(session, state)
        if found is not None and not (fresh and found.is_stand_in):
            return found
        # Nobody waits, or paints, with a connection of the database in hand.
        session.commit()
        # One at a time: a library full of them must not keep the processors from whoever edits.
        with PAINTING.turn():
            png = self._fresh.get(state, lambda: self._painted(kept, variant))
        paintings.keep(session, kept.id, state, png)
        return Painting(png, is_stand_in=False)

    def _painted(self, kept: StoredGraph, variant: str) -> bytes:
        textures, behind = self.sources.textures(kept.textures), self.sources.graphs(kept.backdrop_graphs)
        meshes = self.sources.meshes(kept.mesh)
        return write_png(picture(kept.graph, PICTURE_SIZE, textures, variant, graphs=behind, meshes=meshes)[..., :3])
