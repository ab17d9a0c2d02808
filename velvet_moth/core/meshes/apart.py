"""Mesh files brought in by a process of their own."""

from velvet_moth.core.base.apart import Apart
from velvet_moth.core.meshes.bringing import Brought, brought
from velvet_moth.core.meshes.formats import Files, check_mesh_file
from velvet_moth.core.meshes.intake import MeshReading

# Seconds; a text file of a million vertices takes half of them on a slow machine.
PATIENCE = 90.0


def _brought(files: Files, reading: MeshReading | None, name: str) -> Brought:
    return brought(files, name, reading)


class MeshReader:
    """Brings meshes in by the processes of ``apart``."""

    def __init__(self, apart: Apart, patience: float = PATIENCE) -> None:
        self.apart, self.patience = apart, patience

    def read(self, files: Files, name: str, reading: MeshReading | None = None) -> Brought:
        """As ``brought``; FileRefused also where reading takes too long or too much memory."""
        check_mesh_file(files, name)
        return self.apart.read(self.patience, "Simplify the mesh, or save it in parts.", _brought, files, reading, name)
