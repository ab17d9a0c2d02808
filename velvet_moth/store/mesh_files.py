"""Mesh files that come in: a new mesh, a new version of one, or the same files read another way."""

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any

from sqlalchemy.orm import Session

from velvet_moth.core.meshes.bringing import Brought
from velvet_moth.core.meshes.formats import Files
from velvet_moth.core.meshes.intake import MeshReading
from velvet_moth.store import blobs, jobs, mesh_stacks, meshes
from velvet_moth.store.models import JobRow, MeshRow

# Files of more bytes are read by a job.
MOST_AT_ONCE = 16 << 20


@dataclass(frozen=True, eq=False)
class Coming:
    """Files that came together, the ``main`` one and how they are read; None to guess.

    ``mesh`` is the id of the one whose files they are or become; empty for a new mesh called ``name``. ``kept`` are names and
    hashes where the mesh has these files already, and is only read another way.
    """

    project: int
    files: Files
    main: str
    name: str = ""
    mesh: str = ""
    reading: MeshReading | None = None
    kept: list[list[str]] | None = None

    @property
    def is_large(self) -> bool:
        """Whether reading them is a job."""
        return sum(len(data) for data in self.files.values()) > MOST_AT_ONCE

    def keep(self, session: Session, brought: Brought) -> MeshRow:
        """Keeps what was read of them; what was baked on the mesh before is asked for again."""
        if not self.mesh:
            return meshes.add(session, self.project, self.name, self.files, self.main, brought)
        if self.kept is not None:
            row = meshes.read_again(session, self.mesh, self.kept, brought)
        else:
            row = meshes.replace_files(session, self.mesh, self.files, self.main, brought)
        mesh_stacks.follow(session, row)
        return row

    def ask(self, session: Session) -> JobRow:
        """Asks for them to be read; the job's subject is the mesh when it is done."""
        kept = {name: blobs.put(session, data) for name, data in self.files.items()}
        arguments = {
            "project": self.project,
            "files": kept,
            "main": self.main,
            "name": self.name,
            "mesh": self.mesh,
            "reading": self.reading and asdict(self.reading),
            "kept": self.kept,
        }
        subject = self.mesh or kept[self.main][:32]
        return jobs.begin(session, "read_mesh", f"Reading {self.main}", subject, arguments)


def coming(session: Session, arguments: Mapping[str, Any]) -> Coming:
    """What a job is asked to read."""
    files = {name: blobs.get(session, sha256) for name, sha256 in arguments["files"].items()}
    reading = arguments["reading"]
    return Coming(**{**arguments, "files": files, "reading": reading and MeshReading(**reading)})
