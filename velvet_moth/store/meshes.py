"""Meshes: the files as they came, kept once by content; how they are read; and what the stage draws of them."""

import secrets
from collections.abc import Callable, Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from velvet_moth.core.baking.levels import Level
from velvet_moth.core.base.cache import BoundedCache
from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.forms.mesh import Mesh
from velvet_moth.core.meshes.bringing import Brought
from velvet_moth.core.meshes.facts import MeshFacts
from velvet_moth.core.meshes.formats import Files
from velvet_moth.core.meshes.packed import from_bytes, to_bytes
from velvet_moth.store import blobs
from velvet_moth.store.events import News
from velvet_moth.store.models import MeshRow
from velvet_moth.store.named_rows import NamedRows

_meshes: BoundedCache[Mesh] = BoundedCache(
    "meshes", 512 << 20, lambda mesh: 96 * len(mesh.positions) + mesh.triangles.nbytes, "bytes"
)
LONGEST_NOTE = 400


@dataclass(frozen=True)
class MeshState:
    """A mesh as it stood when it was asked for; what is drawn of it has that hash. Corners of its box are in metres.

    ``channels`` are those it carries, by their places, each with what it means.
    """

    id: str
    revision: int
    name: str
    packed: str
    low: tuple[float, float, float]
    high: tuple[float, float, float]
    channels: Mapping[str, str]
    levels: Sequence[Mapping[str, Any]]

    def at(self, level: int) -> "MeshState":
        """Drawn at a level of detail: 0 is the full mesh; after the last one it is the last."""
        shown = min(level, len(self.levels))
        return replace(self, packed=self.levels[shown - 1]["packed"]) if shown else self


MESHES = NamedRows(MeshRow, "mesh", lambda row: News(revision=row.revision, mesh=row.id))
load, rename, delete, restore = MESHES.load, MESHES.rename, MESHES.delete, MESHES.restore


def _any(row: MeshRow) -> bool:
    return True


def add(
    session: Session,
    project_id: int,
    name: str,
    files: Files,
    main: str,
    brought: Brought,
    is_same: Callable[[MeshRow], bool] = _any,
) -> MeshRow:
    """Keeps files that came together, the ``main`` one first, with what was brought in from them.

    What gives the same mesh as one of the project is that one, if it ``is_same`` otherwise too.
    """
    row = MeshRow(id=f"m{secrets.token_hex(6)}", project_id=project_id, name=MESHES.clean_name(name), revision=0)
    packed = blobs.put(session, to_bytes(brought.mesh))
    same = select(MeshRow).where(MeshRow.project_id == project_id, MeshRow.base == packed, MeshRow.deleted.is_(None))
    found = next(filter(is_same, session.scalars(same.order_by(MeshRow.created, MeshRow.id))), None)
    if found is not None:
        return found
    _keep(row, _kept_files(session, files, main), brought, packed)
    session.add(row)
    MESHES.changed(session, row)
    return row


def replace_files(session: Session, key: str, files: Files, main: str, brought: Brought) -> MeshRow:
    """Other files in the place of a mesh's own; everything that uses it follows."""
    row = load(session, key, lock=True)
    _keep(row, _kept_files(session, files, main), brought, blobs.put(session, to_bytes(brought.mesh)))
    MESHES.changed(session, row)
    return row


def read_again(session: Session, key: str, files: list[list[str]], brought: Brought) -> MeshRow:
    """The same ``files`` (names and hashes), read another way; OperationRefused where they have been replaced meanwhile."""
    row = load(session, key, lock=True)
    if row.files != files:
        what = "A new version of the file has come in meanwhile."
        raise OperationRefused(what, row.name, "Choose the axis and the unit again.")
    _keep(row, files, brought, blobs.put(session, to_bytes(brought.mesh)))
    MESHES.changed(session, row)
    return row


def _kept_files(session: Session, files: Files, main: str) -> list[list[str]]:
    names = [main, *sorted(name for name in files if name != main)]
    return [[name[:200], blobs.put(session, files[name])] for name in names]


def _keep(row: MeshRow, files: list[list[str]], brought: Brought, packed: str) -> None:
    reading = brought.reading
    row.files, row.format = files, brought.format
    row.up, row.unit, row.smooth_below = reading.up, reading.unit, reading.smooth_below
    row.notes = [note[:LONGEST_NOTE] for note in brought.notes]
    row.facts, row.has_uvs, row.depth = asdict(brought.facts), brought.has_uvs, brought.depth
    row.base = row.packed = packed
    row.channels, row.levels = dict(brought.mesh.carried or {}), []


def set_made(
    session: Session, row: MeshRow, mesh: Mesh, has_uvs: bool, facts: MeshFacts, levels: Sequence[Level]
) -> None:
    """What a stack has made of a mesh; everything that uses it follows."""
    row.packed = blobs.put(session, to_bytes(mesh))
    row.facts, row.has_uvs, row.channels = asdict(facts), has_uvs, dict(mesh.carried or {})
    row.levels = [
        {
            "packed": blobs.put(session, to_bytes(level.mesh)),
            "vertices": len(level.mesh.positions),
            "triangles": len(level.mesh.triangles),
            "share": level.share,
            "error": level.error,
            "screen": level.screen,
            "losses": [asdict(loss) for loss in level.losses],
        }
        for level in levels
    ]
    MESHES.changed(session, row)


def files_of(session: Session, row: MeshRow) -> tuple[dict[str, bytes], str]:
    """The files as they came, by name; and which is the main one."""
    return {name: blobs.get(session, sha256) for name, sha256 in row.files}, row.files[0][0]


def mesh_of(session: Session, of: MeshRow | MeshState) -> Mesh:
    """What is drawn of a mesh."""
    return packed_mesh(session, of.packed)


def packed_mesh(session: Session, sha256: str) -> Mesh:
    """A mesh by the hash of its packed bytes."""
    return _meshes.get(sha256, lambda: from_bytes(blobs.get(session, sha256)))


def listed(session: Session, project_id: int) -> list[MeshRow]:
    """The meshes of a project, the first one first."""
    query = select(MeshRow).where(MeshRow.project_id == project_id, MeshRow.deleted.is_(None))
    return list(session.scalars(query.order_by(MeshRow.created, MeshRow.name, MeshRow.id)))


def states(session: Session, keys: Sequence[str]) -> dict[str, MeshState]:
    """Some meshes as they stand now, by id; those that are gone are left out."""
    if not keys:
        return {}
    rows = session.scalars(select(MeshRow).where(MeshRow.id.in_(keys), MeshRow.deleted.is_(None)))
    return {row.id: state_of(row) for row in rows}


def state_of(row: MeshRow) -> MeshState:
    facts: Mapping[str, Any] = row.facts
    low, high = ((float(x), float(y), float(z)) for x, y, z in (facts["low"], facts["high"]))
    return MeshState(row.id, row.revision, row.name, row.packed, low, high, row.channels, row.levels)
