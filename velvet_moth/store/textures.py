"""Textures: the file as it came, kept once by content; how it is read; its levels, made once."""

import secrets
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from sqlalchemy import select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from velvet_moth.core.base.cache import BoundedCache
from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.pictures.formats import Picture, PictureFormat, Samples, read_picture, write_picture
from velvet_moth.core.pictures.inspection import Inspection, inspect
from velvet_moth.core.pictures.levels import levels_of
from velvet_moth.core.pictures.reading import ROLES, Reading
from velvet_moth.store import blobs
from velvet_moth.store.errors import NotFound
from velvet_moth.store.events import News
from velvet_moth.store.models import LevelsRow, TextureRow
from velvet_moth.store.named_rows import NamedRows

_pictures: BoundedCache[Picture] = BoundedCache("pictures", 192 << 20, lambda picture: picture.samples.nbytes, "bytes")
_levels: BoundedCache[tuple[Samples, ...]] = BoundedCache(
    "levels of textures", 256 << 20, lambda levels: sum(level.nbytes for level in levels), "bytes"
)


TEXTURES = NamedRows(TextureRow, "texture", lambda row: News(revision=row.revision, texture=row.id))
clean_name, load, rename = TEXTURES.clean_name, TEXTURES.load, TEXTURES.rename
delete, restore = TEXTURES.delete, TEXTURES.restore


def checked(reading: Reading) -> Reading:
    if reading.role not in ROLES or reading.green not in ("up", "down"):
        raise OperationRefused(
            f"The role {reading.role!r} with green {reading.green!r} is not known.",
            "texture",
            f"Use one of {', '.join(ROLES)}, with green up or down.",
        )
    return reading


@dataclass(frozen=True)
class TextureState:
    """A texture as it stood when it was asked for; its picture is the file of that hash."""

    id: str
    revision: int
    name: str
    reading: Reading
    width: int
    height: int
    sha256: str


def reading_of(row: TextureRow | TextureState) -> Reading:
    if isinstance(row, TextureState):
        return row.reading
    return Reading(row.role, row.green)


def add_read(
    session: Session, project_id: int, name: str, reading: Reading, data: bytes, read: tuple[Picture, PictureFormat]
) -> TextureRow:
    """Keep a file as it is, with what was ``read`` from it; the same file read the same way is kept once."""
    picture, format_ = read
    return _kept(session, project_id, name=name, reading=reading, data=data, picture=picture, format_=format_.key)


def add(session: Session, project_id: int, name: str, reading: Reading, picture: Picture) -> TextureRow:
    """Keep a picture made here, as PNG or, where it holds floats, as OpenEXR."""
    return _kept(session, project_id, name, reading, *_encoded(picture))


def add_made(
    session: Session, project_id: int, name: str, reading: Reading, picture: Picture, of: tuple[int, str]
) -> TextureRow:
    """Keep what a recipe made, as its output: a texture of its own even where another holds the same picture."""
    data, _, format_ = _encoded(picture)
    row = _new(
        session,
        project_id,
        name=name,
        reading=reading,
        digest=blobs.put(session, data),
        picture=picture,
        format_=format_,
    )
    row.recipe_id, row.output = of
    return row


def keep_baked(
    session: Session,
    project_id: int,
    name: str,
    reading: Reading,
    picture: Picture,
    of: dict[str, Any],
    key: str = "",
) -> TextureRow:
    """Keep what was baked ``of`` a mesh: in the texture ``key``, in the one of that name that holds the same, or in a new one."""
    same = select(TextureRow).where(
        TextureRow.project_id == project_id, TextureRow.deleted.is_(None), TextureRow.baked == of
    )
    same = same.where(TextureRow.id == key) if key else same.where(TextureRow.name == name)
    found = session.scalars(same.with_for_update()).first()
    if found is not None:
        replace_picture(session, found, found.name, reading, picture)
        return found
    if key:
        raise NotFound("The texture no longer follows the mesh.", name, "Bake it from the mesh once more.")
    data, _, format_ = _encoded(picture)
    digest = blobs.put(session, data)
    row = _new(session, project_id, name=name, reading=reading, digest=digest, picture=picture, format_=format_)
    row.baked = of
    return row


def baked_of(session: Session, mesh: str) -> list[TextureRow]:
    """The textures that follow a mesh."""
    query = select(TextureRow).where(TextureRow.baked["mesh"].astext == mesh, TextureRow.deleted.is_(None))
    return list(session.scalars(query.order_by(TextureRow.id)))


def _encoded(picture: Picture) -> tuple[bytes, Picture, str]:
    key = "exr" if picture.depth.startswith("float") else "png"
    return write_picture(picture, key), picture, key


def replace_picture(session: Session, row: TextureRow, name: str, reading: Reading, picture: Picture) -> bool:
    """What a recipe makes now in the place of what it made; whether that is another picture."""
    row.name = clean_name(name)
    data, _, key = _encoded(picture)
    digest = blobs.put(session, data)
    if (digest, reading) == (row.sha256, reading_of(row)):
        return False
    row.role, row.green = reading.role, reading.green
    _describe(row, digest, picture, key)
    TEXTURES.changed(session, row)
    _make_levels(session, row, picture)
    return True


def _kept(
    session: Session, project_id: int, name: str, reading: Reading, data: bytes, picture: Picture, format_: str
) -> TextureRow:
    clean_name(name), checked(reading)
    digest = blobs.put(session, data)
    same = select(TextureRow).where(
        TextureRow.project_id == project_id,
        TextureRow.sha256 == digest,
        TextureRow.role == reading.role,
        TextureRow.green == reading.green,
        TextureRow.deleted.is_(None),
    )
    found = session.scalars(same).first()
    return found or _new(
        session, project_id, name=name, reading=reading, digest=digest, picture=picture, format_=format_
    )


def _new(
    session: Session, project_id: int, name: str, reading: Reading, digest: str, picture: Picture, format_: str
) -> TextureRow:
    row = TextureRow(
        id=f"t{secrets.token_hex(6)}",
        project_id=project_id,
        name=clean_name(name),
        role=reading.role,
        green=reading.green,
        revision=0,
    )
    _describe(row, digest, picture, format_)
    session.add(row)
    session.flush()
    _make_levels(session, row, picture)
    TEXTURES.told(session, row)
    return row


def _describe(row: TextureRow, digest: str, picture: Picture, format_: str) -> None:
    row.sha256, row.format = digest, format_
    row.width, row.height = picture.size
    row.channels, row.depth = picture.channels, picture.depth


def levels_key(row: TextureRow | TextureState) -> tuple[str, str]:
    """What the levels depend on: the file, and what of its reading shapes them."""
    reading = reading_of(row)
    return (
        row.sha256,
        f"{'outlined colour' if reading.is_colour else 'plain'}{' turned' if reading.turns_green else ''}",
    )


def _make_levels(session: Session, row: TextureRow, picture: Picture) -> tuple[Samples, ...]:
    # It will be asked for at once, to be looked at.
    _pictures.get(row.sha256, lambda: picture)
    made = levels_of(picture, reading_of(row))
    sha256, way = levels_key(row)
    small = b"".join(level.tobytes() for level in made[1:])
    values = {"sha256": sha256, "way": way, "levels": blobs.put(session, small)}
    session.execute(insert(LevelsRow).values(values).on_conflict_do_nothing())
    return _levels.get((sha256, way), lambda: made)


def picture_of(session: Session, row: TextureRow | TextureState) -> Picture:
    """The picture as its file holds it."""
    return _pictures.get(row.sha256, lambda: read_picture(blobs.get(session, row.sha256), row.name)[0])


def levels(session: Session, row: TextureRow | TextureState) -> tuple[Samples, ...]:
    """All levels, (rows, columns, 4), row 0 at the bottom, as the GPU gets them."""

    def read() -> tuple[Samples, ...]:
        found = session.get(LevelsRow, levels_key(row))
        picture = picture_of(session, row)
        if found is None:
            return levels_of(picture, reading_of(row))
        first = levels_of(picture, reading_of(row), only_first=True)
        return (*first, *_split(blobs.get(session, found.levels), first[0]))

    return _levels.get(levels_key(row), read)


def _split(data: bytes, first: Samples) -> Sequence[Samples]:
    """The levels after the first, from their bytes one after the other."""
    found, (rows, columns), at = [], first.shape[:2], 0
    values = np.frombuffer(data, dtype=first.dtype)
    while max(rows, columns) > 1:
        rows, columns = max(rows // 2, 1), max(columns // 2, 1)
        count = rows * columns * 4
        found.append(values[at : at + count].reshape(rows, columns, 4))
        at += count
    return found


_inspections: BoundedCache[Inspection] = BoundedCache("inspections of textures", 1024)


def inspection(session: Session, row: TextureRow | TextureState) -> Inspection:
    """What is found out about a texture as it is read."""
    key = (row.sha256, reading_of(row), row.name)
    return _inspections.get(key, lambda: inspect(picture_of(session, row), reading_of(row), row.name))


def listed(session: Session, project_id: int, most: int | None = None) -> list[TextureRow]:
    """The textures of a project, the first made first; ``most`` of them where that is given."""
    query = select(TextureRow).where(TextureRow.project_id == project_id, TextureRow.deleted.is_(None))
    return list(session.scalars(query.order_by(TextureRow.created, TextureRow.name, TextureRow.id).limit(most)))


def read_as(session: Session, key: str, reading: Reading) -> TextureRow:
    """Reads the same file another way; every graph that uses it follows."""
    row = load(session, key, lock=True)
    reading = checked(reading)
    if reading_of(row) != reading:
        row.role, row.green = reading.role, reading.green
        TEXTURES.changed(session, row)
        if session.get(LevelsRow, levels_key(row)) is None:
            _make_levels(session, row, picture_of(session, row))
    return row


def replace_file(
    session: Session, key: str, data: bytes, read: tuple[Picture, PictureFormat]
) -> tuple[TextureRow, str]:
    """Another file, with what was ``read`` from it, in the place of a texture's own; every use of it follows."""
    row = load(session, key, lock=True)
    picture, format_ = read
    digest = blobs.put(session, data)
    if digest != row.sha256:
        # From now on it is what that file is, and nothing that a mesh makes.
        row.baked = None
        _describe(row, digest, picture, format_.key)
        TEXTURES.changed(session, row)
        _make_levels(session, row, picture)
    return row, picture.note


def states(session: Session, keys: Sequence[str]) -> dict[str, TextureState]:
    """Some textures as they stand now, by id; those that are gone are left out."""
    if not keys:
        return {}
    rows = session.scalars(select(TextureRow).where(TextureRow.id.in_(keys), TextureRow.deleted.is_(None)))
    return {
        r.id: TextureState(
            r.id, r.revision, name=r.name, reading=reading_of(r), width=r.width, height=r.height, sha256=r.sha256
        )
        for r in sorted(rows, key=lambda row: row.id)
    }
