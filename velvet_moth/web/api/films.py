"""Films of a graph: asked for as a job, or drawn by a page's stage frame by frame; fetched, and sheets of frames kept as textures."""

from flask import Blueprint, Response, request

from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.pictures.films import FILM_FORMATS
from velvet_moth.core.workbench.filming import Film
from velvet_moth.store import films, graphs, jobs
from velvet_moth.store.models import FilmRow
from velvet_moth.web.api.contract import sends, takes
from velvet_moth.web.api.film_answers import ComingFilmState, FilmFormats, Films, FilmState, FilmWeight, FramesHere
from velvet_moth.web.api.job_answers import JobState
from velvet_moth.web.api.jobs import job_state
from velvet_moth.web.api.schemas import FilmRequest, FrameRequest, NameRequest
from velvet_moth.web.api.texture_answers import TextureOnly
from velvet_moth.web.api.textures import described
from velvet_moth.web.coming_films import coming_films
from velvet_moth.web.database import db, release
from velvet_moth.web.large import collected, sent

api = Blueprint("films", __name__, url_prefix="/api")


def _state(row: FilmRow) -> FilmState:
    film = films.film_of(row)
    return {
        "id": row.id,
        "name": row.name,
        "format": film.format,
        "words": row.words,
        "size": row.size,
        "made": row.made.isoformat(),
        "frames": film.shape.frames,
        "rate": film.rate,
        "width": film.shape.width,
        "height": film.shape.height,
        "columns": film.columns,
    }


def _film(key: int, asked: FilmRequest) -> Film:
    graph = graphs.load(db(), key).graph
    return asked.film.checked(graph)


@api.get("/film_formats")
@takes()
def formats() -> FilmFormats:
    """The ways to keep a film."""
    return {
        "formats": [
            {
                "key": made.key,
                "name": made.name,
                "words": made.words,
                "keeps_clear": made.keeps_clear,
                "holds_light": made.holds_light,
                "is_even": made.is_even,
                "is_sheet": made.is_sheet,
            }
            for made in FILM_FORMATS.values()
        ]
    }


@api.post("/graphs/<int:key>/films/weight")
@takes(body=FilmRequest)
def weight(key: int, asked: FilmRequest) -> FilmWeight:
    """What a film would be, before it is made, and what is wrong with it, as long as it is being typed."""
    wrong = ""
    try:
        film = _film(key, asked)
    except FileRefused as error:
        film, wrong = asked.film, f"{error.what} {error.mend}"
    shape = film.shape
    return {
        "bytes": 0 if wrong else film.weight,
        "frames": max(shape.frames, 0),
        "width": shape.width,
        "height": shape.height,
        "wrong": wrong,
    }


@api.get("/graphs/<int:key>/films")
@takes()
def listed(key: int) -> Films:
    """The films of a graph that are kept."""
    return {"films": [_state(row) for row in films.of_graph(db(), key)]}


@api.post("/graphs/<int:key>/films")
@takes(body=FilmRequest)
def make(key: int, asked: FilmRequest) -> JobState:
    """Has a film be drawn by the reference, as a job; its subject is the film's id in the end."""
    film = _film(key, asked)
    arguments = {"film": films.FILM.dump_python(film, mode="json"), "name": asked.name}
    return job_state(jobs.begin(db(), "film", f"Film of {asked.name}", str(key), arguments))


@api.post("/graphs/<int:key>/films/coming")
@takes(body=FilmRequest)
def begin(key: int, asked: FilmRequest) -> ComingFilmState:
    """Begins a film whose frames the page sends."""
    film = _film(key, asked)
    return {"key": coming_films().begin(key, film), "frames": film.shape.frames}


@api.post("/films/coming/<key>/frame/<int:number>")
@takes(upload=("file",))
def add_frame(key: str, number: int) -> FramesHere:
    """The next frame: RGBA of 8 bits, row 0 at the bottom."""
    found = request.files.get("file")
    if found is None:
        raise FileRefused("No frame came with the request.", f"frame {number}", "Begin the film again.")
    release()
    return {"frames": coming_films().get(key).add(number, found.read())}


@api.post("/films/coming/<key>/finish")
@takes(body=FrameRequest)
def finish(key: str, asked: FrameRequest) -> FilmState:
    """Ends a film, which is kept from then on."""
    coming = coming_films().get(key)
    with coming.lock:
        coming.filming.finish()
        row = films.keep(db(), coming.graph, asked.name, coming.filming.film, coming.filming.loop, coming.file)
        db().flush()
        db().refresh(row)
        state = _state(row)
    coming_films().end(key)
    return state


@api.delete("/films/coming/<key>")
@takes()
def give_up(key: str) -> FramesHere:
    """Gives a film up; nothing of it stays."""
    coming_films().end(key)
    return {"frames": 0}


@api.get("/films/<key>")
@takes()
def one(key: str) -> FilmState:
    return _state(films.load(db(), key))


@api.get("/films/<key>/file")
@sends("application/octet-stream")
def file(key: str) -> Response:
    """The film as a file."""
    row = films.load(db(), key)
    made = films.film_of(row).made
    plain = "".join(c if c.isascii() and c.isalnum() else "-" for c in row.name.lower()).strip("-") or "film"
    headers = {"Content-Disposition": f'attachment; filename="{plain}{made.suffix}"'}
    return sent(*collected(films.stream(db(), key)), made.media_type, headers)


@api.post("/films/<key>/texture")
@takes(body=NameRequest)
def as_texture(key: str, asked: NameRequest) -> TextureOnly:
    """Keeps a sheet of frames as a texture of the project."""
    return {"texture": described(films.as_texture(db(), key, asked.name))}
