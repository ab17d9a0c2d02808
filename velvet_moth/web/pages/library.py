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
    wanted = _wanted(request.args.get("q", ""), request.args.get("tags", ""))
    order = _order(request.args.get("sort", ""))
    return render_template(
        "library.html",
        project=project,
        lists=[_listed(project.id, wanted, order, motifs) for motifs in (False, True)],
        wanted=wanted,
        tags=listing.tags(db(), project.id),
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


def _wanted(query: str, tags: str) -> listing.Wanted:
    """What an address asks for; ``tags`` are parted by commas."""
    return listing.Wanted(query[:80], tuple(sorted({tag for tag in tags[:400].split(",") if tag})))


def _listed(project: int, wanted: listing.Wanted, order: str, motifs: bool, start: int = 0) -> Listed:
    found = listing.tiles(db(), project, motifs, start, wanted=wanted, order=order)
    return Listed(motifs, found, listing.count(db(), project, motifs, wanted), start + len(found))


@page.get("/tiles")
def more() -> str:
    """The next tiles of a list, as it is scrolled to its end."""
    asked = TilesRequest.model_validate(request.args.to_dict())
    found = _listed(
        projects.first(db()).id, _wanted(asked.q, asked.tags), _order(asked.sort), asked.motifs, asked.start
    )
    return render_template("tiles.html", listed=found)
