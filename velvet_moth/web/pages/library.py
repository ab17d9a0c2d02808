"""The library: the project's graphs as pictures, its textures, and ways to begin."""

from dataclasses import dataclass

from flask import Blueprint, render_template, request

from velvet_moth.demo.starters import STARTERS
from velvet_moth.store import listing, projects, textures
from velvet_moth.web.api.schemas import TilesRequest
from velvet_moth.web.database import db

# More of them are seen in the room of textures.
MOST_TEXTURES = 24

page = Blueprint("library", __name__)


@page.get("/")
def show() -> str:
    project = projects.first(db())
    query = request.args.get("q", "")[:80]
    return render_template(
        "library.html",
        project=project,
        lists=[_listed(project.id, query, motifs) for motifs in (False, True)],
        query=query,
        textures=textures.listed(db(), project.id, MOST_TEXTURES + 1),
        most_textures=MOST_TEXTURES,
        starters=STARTERS,
    )


@dataclass(frozen=True)
class Listed:
    """A part of a list of graphs, or of motifs; ``count`` is that of the whole list."""

    motifs: bool
    tiles: list[listing.Tile]
    count: int
    next: int


def _listed(project: int, query: str, motifs: bool, start: int = 0) -> Listed:
    found = listing.tiles(db(), project, motifs, start, query=query)
    return Listed(motifs, found, listing.count(db(), project, motifs, query), start + len(found))


@page.get("/tiles")
def more() -> str:
    """The next tiles of a list, as it is scrolled to its end."""
    asked = TilesRequest.model_validate(request.args.to_dict())
    found = _listed(projects.first(db()).id, asked.q, asked.motifs, asked.start)
    return render_template("tiles.html", listed=found)
