"""Keys as they are being drawn: what they would become, before they are kept."""

from flask import Blueprint

from velvet_moth.core.document.tracks.pieces import Pieces, pieces_for
from velvet_moth.core.document.tracks.track import checked_track
from velvet_moth.core.operations.tracks import takes_of
from velvet_moth.store import graphs
from velvet_moth.web.api.contract import takes
from velvet_moth.web.api.schemas import TrackRequest
from velvet_moth.web.database import db

api = Blueprint("tracks", __name__, url_prefix="/api/graphs")


@api.post("/<int:key>/pieces")
@takes(body=TrackRequest)
def pieces(key: int, asked: TrackRequest) -> Pieces:
    """The polynomial pieces of a track as it is drawn at the moment."""
    graph = graphs.load(db(), key).graph
    held = takes_of(graph, asked.target)
    return pieces_for(checked_track(asked.track, held), held)
