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
    order = _order(request.args.get("sort", ""))
    return render_template(
        "library.html",
        project=project,
        lists=[_listed(project.id, query, order, motifs) for motifs in (False, True)],
        query=query,
        order=order,
        orders=listing.ORDERS,
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


def _order(asked: str) -> str:
    """The order asked for; the first one where there is no such order."""
    return asked if asked in listing.ORDERS else next(iter(listing.ORDERS))


def _listed(project: int, query: str, order: str, motifs: bool, start: int = 0) -> Listed:
    found = listing.tiles(db(), project, motifs, start, query=query, order=order)
    return Listed(motifs, found, listing.count(db(), project, motifs, query), start + len(found))


@page.get("/tiles")
def more() -> str:
    """The next tiles of a list, as it is scrolled to its end."""
    asked = TilesRequest.model_validate(request.args.to_dict())
    found = _listed(projects.first(db()).id, asked.q, _order(asked.sort), asked.motifs, asked.start)
    return render_template("tiles.html", listed=found)
