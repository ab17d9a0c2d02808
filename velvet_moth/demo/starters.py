"""Starters: graphs a new one can begin from, with the textures they need."""

from collections.abc import Callable
from dataclasses import dataclass

from sqlalchemy.orm import Session

from velvet_moth.core.document.graph import Graph
from velvet_moth.core.files.graph_json import graph_from_json, graph_to_json
from velvet_moth.demo.graphs import Textures, ferry_enamel
from velvet_moth.demo.grounds import boathouse_tiles, silt_splash
from velvet_moth.demo.heron_lock import texture_ids
from velvet_moth.demo.moving import basin_water, wind_reeds


@dataclass(frozen=True)
class Starter:
    """A starter's name and one sentence for the library."""

    name: str
    sentence: str
    sketch: Callable[[Textures], Graph]

    def build(self, session: Session, project_id: int) -> Graph:
        """The graph, its textures kept in the project."""
        made = self.sketch(texture_ids(session, project_id))
        return graph_from_json(graph_to_json(made), self.name)


STARTERS = {
    "enamel": Starter("Flake enamel", "Two whole surfaces mixed: metal flakes under a clear gloss.", ferry_enamel),
    "water": Starter(
        "Water", "Waves, ripples that drift, a bed seen through murk, foam where it is shallow.", basin_water
    ),
    "foliage": Starter("Wind foliage", "Blades that sway by their vertex data, lit through from behind.", wind_reeds),
    "splash": Starter("Splash", "A ragged blot on planks, soft or hard by a toggle.", silt_splash),
    "tiles": Starter("Tiled floor", "Tiles of many tones and polishes, moss in the joints.", boathouse_tiles),
}
