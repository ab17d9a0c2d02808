"""Films of graphs: kept in chunks for a day, so that they can be fetched, and sheets of frames as textures."""

from collections.abc import Iterator
from datetime import timedelta
from typing import BinaryIO

from pydantic import TypeAdapter
from sqlalchemy import delete, func, insert, select
from sqlalchemy.orm import Session

from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.pictures.formats import read_picture
from velvet_moth.core.pictures.reading import Reading
from velvet_moth.core.workbench.filming import Film, Loop
from velvet_moth.store import textures
from velvet_moth.store.blobs import CHUNK
from velvet_moth.store.errors import NotFound
from velvet_moth.store.models import FilmChunkRow, FilmRow, GraphRow, TextureRow

# How long a film is kept to be fetched.
_KEPT = timedelta(days=1)
FILM: TypeAdapter[Film] = TypeAdapter(Film)


def film_of(row: FilmRow) -> Film:
    """What was filmed."""
    return FILM.validate_python(row.film)


def keep(session: Session, graph: int, name: str, film: Film, loop: Loop, file: BinaryIO) -> FilmRow:
    """Keeps a film that was written to a file; older ones that nobody has fetched for a day go."""
    session.execute(delete(FilmRow).where(FilmRow.made < func.now() - _KEPT))
    size = file.seek(0, 2)
    row = FilmRow(graph_id=graph, name=name[:80], film=FILM.dump_python(film, mode="json"), words=loop.words, size=size)
    session.add(row)
    session.flush()
    file.seek(0)
    number = 0
    while data := file.read(CHUNK):
        session.execute(insert(FilmChunkRow), [{"film_id": row.id, "number": number, "data": data}])
        number += 1
    return row


def load(session: Session, key: str) -> FilmRow:
    """The film of that id; NotFound where there is none any more."""
    found = session.get(FilmRow, key)
    if found is None:
        raise NotFound("This film is no longer kept.", f"film {key[:20]}", "Make it again; films are kept for a day.")
    return found


def of_graph(session: Session, graph: int) -> list[FilmRow]:
    """The films of a graph that are kept, the newest first."""
    return list(
        session.scalars(select(FilmRow).where(FilmRow.graph_id == graph).order_by(FilmRow.made.desc()).limit(20))
    )


def stream(session: Session, key: str) -> Iterator[bytes]:
    """The bytes of a film, a chunk at a time."""
    query = select(FilmChunkRow.data).where(FilmChunkRow.film_id == key).order_by(FilmChunkRow.number)
    yield from session.scalars(query.execution_options(yield_per=4))


def as_texture(session: Session, key: str, name: str) -> TextureRow:
    """Keeps a sheet of frames as a texture of the project, which knows its frames."""
    row = load(session, key)
    film = film_of(row)
    if not film.made.is_sheet:
        raise FileRefused("Only a sheet of frames can be a texture.", row.name, "Save the film as a sheet.")
    data = b"".join(stream(session, key))
    project = session.scalars(select(GraphRow.project_id).where(GraphRow.id == row.graph_id)).one()
    clean = textures.clean_name(name)
    made = textures.add_read(session, project, clean, Reading("colour"), data, read_picture(data, clean))
    made.frames = {"columns": film.columns, "rows": film.shape.rows, "rate": film.rate}
    return made
