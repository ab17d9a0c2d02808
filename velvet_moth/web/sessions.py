"""Keeps for each open graph what the last view of it computed, so that an edit computes only its difference."""

from collections import OrderedDict
from dataclasses import dataclass, field
from threading import Lock

from velvet_moth.core.graph import Graph, Source
from velvet_moth.core.session import Session, Shown, TextureSource, picture
from velvet_moth.core.texture.files import write_png
from velvet_moth.store.graphs import Kept

_MOST_OPEN = 12
_MOST_PICTURES = 200
# Larger than shown, so that the browser's scaling smooths the form's edge.
PICTURE_SIZE = (480, 300)


@dataclass
class _Open:
    lock: Lock = field(default_factory=Lock)
    session: Session = field(default_factory=Session)
    revision: int = -1
    variant: str = ""
    on: str = ""


class GraphSessions:
    """Sessions by graph id, the least used dropped first. Safe to use from several threads."""

    def __init__(self, textures: TextureSource) -> None:
        self.textures = textures
        self._open: OrderedDict[int, _Open] = OrderedDict()
        self._lock = Lock()
        self._pictures: OrderedDict[tuple[int, str, str], bytes] = OrderedDict()

    def show(
        self, kept: Kept, variant: str, shown: Source | None, on: str, seen: int | None, seen_variant: str
    ) -> tuple[Shown, bool]:
        """The state of a graph, and whether its ``changed`` swatches are all that differ from what was ``seen``."""
        with self._lock:
            found = self._open.setdefault(kept.id, _Open())
            self._open.move_to_end(kept.id)
            while len(self._open) > _MOST_OPEN:
                self._open.popitem(last=False)
        with found.lock:
            follows = seen is not None and (found.revision, found.variant, found.on) == (seen, seen_variant, on)
            try:
                result = found.session.show(kept.graph, variant, shown, self.textures, on)
            except BaseException:
                found.session, found.revision = Session(), -1
                raise
            found.revision, found.variant, found.on = kept.revision, variant, on
            return result, follows

    def picture(self, graph_id: int, stamp: str, graph: Graph, variant: str) -> bytes:
        """The reference picture of a graph as PNG, remembered by ``stamp``, which tells its states apart."""
        key = (graph_id, stamp, variant)
        with self._lock:
            found = self._pictures.get(key)
        if found is None:
            pixels = picture(graph, PICTURE_SIZE, self.textures, variant)
            found = write_png(pixels[..., :3])
            with self._lock:
                self._pictures[key] = found
                while len(self._pictures) > _MOST_PICTURES:
                    self._pictures.popitem(last=False)
        return found
