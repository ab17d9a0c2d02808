"""Textures and graphs as the core asks for them: decoded, with what was found out about them, cached by content."""

from collections.abc import Mapping

from sqlalchemy import Engine
from sqlalchemy.orm import Session

from velvet_moth.core.base.cache import BoundedCache
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.forms.mesh import Mesh
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.pictures.inspection import Inspection
from velvet_moth.core.pictures.levels import texture_of
from velvet_moth.core.pictures.reading import Reading
from velvet_moth.core.workbench.problems import Inspections
from velvet_moth.core.workbench.session import GraphSource, MeshSource, TextureSource
from velvet_moth.store.graphs import StoredGraph
from velvet_moth.store.meshes import MeshState, mesh_of
from velvet_moth.store.textures import TextureState, inspection, levels, levels_key


class Sources:
    """Safe to use from several threads; the database is asked only for what is not at hand."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine
        self._decoded: BoundedCache[Texture] = BoundedCache(
            "textures to evaluate", 768 << 20, lambda t: sum(level.nbytes for level in t.levels), "bytes"
        )

    def textures(self, states: Mapping[str, TextureState]) -> TextureSource:
        """Gives textures by their id; None for an id that is not among the ``states``."""

        def texture(key: str) -> Texture | None:
            state = states.get(key)
            return self._decoded.get(levels_key(state), lambda: self._read(state)) if state else None

        return texture

    def _read(self, state: TextureState) -> Texture:
        with Session(self._engine) as session:
            return texture_of(levels(session, state), state.reading.is_colour)

    def graphs(self, stored: Mapping[str, StoredGraph]) -> GraphSource:
        """Gives graphs by the keys they are ``stored`` by."""

        def graph(key: str) -> tuple[Graph, TextureSource] | None:
            kept = stored.get(key)
            return (kept.graph, self.textures(kept.textures)) if kept else None

        return graph

    def meshes(self, state: MeshState | None) -> MeshSource:
        """Gives the mesh of that state by its id, and no other."""

        def mesh(key: str) -> Mesh | None:
            if state is None or state.id != key:
                return None
            with Session(self._engine) as session:
                return mesh_of(session, state)

        return mesh

    def inspections(self, states: Mapping[str, TextureState]) -> Inspections:
        """Gives by id a texture's name, how it is read, and what was found out about it."""

        def found(key: str) -> tuple[str, Reading, Inspection] | None:
            state = states.get(key)
            if state is None:
                return None
            with Session(self._engine) as session:
                return state.name, state.reading, inspection(session, state)

        return found
