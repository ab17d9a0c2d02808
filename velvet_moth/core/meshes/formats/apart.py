"""Mesh files read in a process of their own."""

from velvet_moth.core.base.apart import Apart
from velvet_moth.core.meshes.formats import Files, check_mesh_file, read_mesh
from velvet_moth.core.meshes.source import SourceMesh

# Seconds; a text file of a million vertices takes a third of them on a slow machine.
PATIENCE = 45.0


class MeshReader:
    """Reads meshes in the processes of ``apart``."""

    def __init__(self, apart: Apart, patience: float = PATIENCE) -> None:
        self.apart, self.patience = apart, patience

    def read(self, files: Files, name: str) -> tuple[SourceMesh, str]:
        """As ``read_mesh``; FileRefused also where reading takes too long or too much memory."""
        check_mesh_file(files, name)
        return self.apart.read(self.patience, "Simplify the mesh, or save it in parts.", read_mesh, files, name)
