"""How a block model looks: the palette it is drawn in, and the graphs that some of its entries have instead of a tile."""

import hashlib
from collections.abc import Mapping
from dataclasses import dataclass

import orjson
from sqlalchemy.orm import Session

from velvet_moth.core.base.cache import BoundedCache
from velvet_moth.core.base.errors import FileRefused, OperationRefused
from velvet_moth.core.blocks.model import Settings
from velvet_moth.core.document.graph import Graph, empty_graph
from velvet_moth.core.making.palette import Palette, has_palette, palette_of
from velvet_moth.core.pictures.atlas import Grid
from velvet_moth.core.render.palette_surface import InPlace, palette_surface
from velvet_moth.store import graphs, recipes, textures
from velvet_moth.store.edits import LARGEST_ID
from velvet_moth.store.errors import NotFound
from velvet_moth.store.graphs import StoredGraph
from velvet_moth.store.models import RecipeRow

_NO_TILES = Grid(1, 1, 0.0)
# By what their stacks are; small.
_palettes: BoundedCache[Palette] = BoundedCache("palettes", 64)


@dataclass(frozen=True)
class PaletteMade:
    """A palette with the textures that there are of it, by the map each holds."""

    palette: Palette
    textures: dict[str, str]


def palettes(session: Session, project_id: int) -> list[RecipeRow]:
    """The stacks of a project that make a palette."""
    found = []
    for row in recipes.listed(session, project_id):
        try:
            is_one = has_palette(recipes.recipe_of(row))
        except FileRefused:
            is_one = False
        found += [row] if is_one else []
    return found


def palette_made(session: Session, settings: Settings) -> PaletteMade | None:
    """The palette that a model of such settings is drawn in; None where it has none, or that is gone or makes none."""
    key = settings.palette
    number = int(key) if key.isascii() and key.isdigit() else 0
    if not 0 < number <= LARGEST_ID:
        return None
    try:
        row = recipes.load(session, number)
        document = hashlib.sha256(orjson.dumps(row.document)).digest()
        palette = _palettes.get(document, lambda: palette_of(recipes.recipe_of(row)))
    except (NotFound, FileRefused, OperationRefused):
        return None
    made = recipes.textures_of(session, row)
    return PaletteMade(palette, {key: made[output].id for key, output in palette.outputs.items() if output in made})


@dataclass(frozen=True)
class BlockLook:
    """What a model of some settings looks like. ``palette`` is None where there is none; ``others`` are the graphs that there are

    of those that entries name. ``tiles`` tells one state of the palette's textures from another.
    """

    settings: Settings
    palette: PaletteMade | None
    others: Mapping[str, StoredGraph]
    tiles: str

    @property
    def gone(self) -> list[int]:
        """The entries that name a graph which there is not."""
        entries = self.settings.entries.items()
        return sorted(number for number, entry in entries if entry.graph and entry.graph not in self.others)

    def stamp(self, *entries: int) -> str:
        """The cache key of the looks of some ``entries``; without them, of all."""
        shown = [
            f"{number}.{self.others[entry.graph].stamp}.{entry.variant}"
            for number, entry in sorted(self.settings.entries.items())
            if entry.graph in self.others and (not entries or number in entries)
        ]
        return hashlib.sha256(" ".join((self.tiles, *shown)).encode()).hexdigest()[:24]

    def name(self, entry: int) -> str:
        """What an entry is called."""
        return self.palette.palette.name(entry) if self.palette else f"entry {entry}"

    def surface(self, title: str, *entries: int) -> Graph:
        """The graph that shows such a model, or one of some ``entries`` alone."""
        sharing: dict[tuple[str, str], list[int]] = {}
        for number, entry in sorted(self.settings.entries.items()):
            if entry.graph in self.others and (not entries or number in entries):
                sharing.setdefault((entry.graph, entry.variant), []).append(number)
        in_place = [
            InPlace(self.others[key].graph, variant, tuple(entries)) for (key, variant), entries in sharing.items()
        ]
        if self.palette is None and not in_place:
            return empty_graph(title)
        made = self.palette
        return palette_surface(title, made.textures if made else {}, made.palette.grid if made else _NO_TILES, in_place)


def look_of(session: Session, project_id: int, settings: Settings) -> BlockLook:
    """How a model of a project looks that has such settings."""
    made = palette_made(session, settings)
    others = graphs.named(session, project_id, {entry.graph for entry in settings.entries.values() if entry.graph})
    read = textures.states(session, sorted(made.textures.values())) if made else {}
    tiles = "-".join(f"{key}.{state.revision}" for key, state in sorted(read.items()))
    return BlockLook(settings, made, others, tiles)
