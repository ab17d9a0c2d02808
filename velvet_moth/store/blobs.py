"""Bytes kept once by their content, in chunks, so that no single answer of the database is large."""

import hashlib
from collections.abc import Collection, Iterator

from sqlalchemy import exists, insert, select
from sqlalchemy.dialects.postgresql import insert as insert_new
from sqlalchemy.orm import Session

from velvet_moth.store.models import BlobChunkRow, BlobRow

CHUNK = 1 << 20


def put(session: Session, data: bytes) -> str:
    """Keeps the bytes and gives their SHA-256; the same bytes are kept once."""
    digest = hashlib.sha256(data).hexdigest()
    if session.scalar(select(exists().where(BlobRow.sha256 == digest))):
        return digest
    kept = insert_new(BlobRow).values(sha256=digest, size=len(data)).on_conflict_do_nothing()
    # Somebody else may be keeping the same at this very moment: then the chunks are theirs.
    if session.execute(kept.returning(BlobRow.sha256)).first() is not None:
        chunks = [
            {"sha256": digest, "number": number, "data": data[at : at + CHUNK]}
            for number, at in enumerate(range(0, len(data), CHUNK))
        ]
        for chunk in chunks:
            session.execute(insert(BlobChunkRow), [chunk])
    return digest


def stream(session: Session, sha256: str) -> Iterator[bytes]:
    """The chunks in their order, one at a time."""
    query = select(BlobChunkRow.data).where(BlobChunkRow.sha256 == sha256).order_by(BlobChunkRow.number)
    yield from session.scalars(query.execution_options(yield_per=4))


def some(session: Session, keys: Collection[str]) -> dict[str, bytes]:
    """The bytes of several by their hashes; those that are not kept are left out."""
    query = select(BlobChunkRow.sha256, BlobChunkRow.data).where(BlobChunkRow.sha256.in_(keys))
    found: dict[str, bytes] = {}
    for sha256, data in session.execute(query.order_by(BlobChunkRow.number)) if keys else ():
        found[sha256] = found.get(sha256, b"") + data
    return found


def get(session: Session, sha256: str) -> bytes:
    """All the bytes; empty where nothing of that hash is kept."""
    return b"".join(stream(session, sha256))
