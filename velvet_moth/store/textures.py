"""Textures: kept once by content, decoded with their levels and remembered."""

import hashlib
import secrets
from collections.abc import Callable

from sqlalchemy import Engine, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from velvet_moth.core.errors import OperationRefused
from velvet_moth.core.formats.graph_json import ROLES
from velvet_moth.core.texture.files import MOST_KEPT_BYTES, read_picture, write_png
from velvet_moth.core.texture.image import Pixels, Texture, level_bytes, texture_from_levels
from velvet_moth.store.cache import ByteCache
from velvet_moth.store.graphs import NotFound
from velvet_moth.store.models import BlobRow, TextureRow


def add(session: Session, project_id: int, name: str, role: str, pixels: Pixels) -> TextureRow:
    """Keep a texture; the same picture read the same way is kept once."""
    clean = " ".join(name.split())[:80]
    if not clean or not clean.isprintable():
        raise OperationRefused("A texture needs a name.", "texture", "Type one.")
    if role not in ROLES:
        raise OperationRefused(f"The role {role!r} is not known.", clean, f"Use one of {', '.join(ROLES)}.")
    png = write_png(pixels, compression=3)
    digest = hashlib.sha256(png).hexdigest()
    same = select(TextureRow).where(
        TextureRow.project_id == project_id, TextureRow.sha256 == digest, TextureRow.role == role
    )
    found = session.scalars(same).first()
    if found is not None:
        return found
    session.execute(insert(BlobRow).values(sha256=digest, data=png).on_conflict_do_nothing())
    row = TextureRow(
        id=f"t{secrets.token_hex(6)}",
        project_id=project_id,
        name=clean,
        role=role,
        width=pixels.shape[1],
        height=pixels.shape[0],
        sha256=digest,
    )
    session.add(row)
    session.flush()
    return row


def listed(session: Session, project_id: int) -> list[TextureRow]:
    query = select(TextureRow).where(TextureRow.project_id == project_id)
    return list(session.scalars(query.order_by(TextureRow.created, TextureRow.id)))


def load(session: Session, key: str) -> tuple[TextureRow, bytes]:
    """A texture and its PNG."""
    found = session.execute(
        select(TextureRow, BlobRow.data).join(BlobRow, BlobRow.sha256 == TextureRow.sha256).where(TextureRow.id == key)
    ).first()
    if found is None:
        raise NotFound("There is no such texture.", f"texture {key}", "Choose another, or import it again.")
    return found[0], found[1]


_levels: ByteCache[tuple[Pixels, ...]] = ByteCache(192 << 20, lambda levels: sum(level.nbytes for level in levels))


def levels_of(row: TextureRow, png: bytes) -> tuple[Pixels, ...]:
    """All levels as 8-bit RGBA, row 0 at the bottom, as the GPU gets them."""
    return _levels.get(
        (row.sha256, row.role),
        lambda: level_bytes(read_picture(png, row.name, MOST_KEPT_BYTES).pixels, row.role == "colour"),
    )


def texture_source(engine: Engine) -> Callable[[str], Texture | None]:
    """Gives decoded textures by id, remembering them; None for an id that is not kept."""
    decoded: ByteCache[Texture] = ByteCache(768 << 20, lambda texture: sum(level.nbytes for level in texture.levels))

    def decode(key: str) -> Texture:
        with Session(engine) as session:
            row, png = load(session, key)
            return texture_from_levels(levels_of(row, png), row.role == "colour")

    def source(key: str) -> Texture | None:
        try:
            return decoded.get(key, lambda: decode(key))
        except NotFound:
            return None

    return source
