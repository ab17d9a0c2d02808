"""Mesh files brought in by a process of their own."""

from collections.abc import Callable

from velvet_moth.core.base.apart import Apart, refusals
from velvet_moth.core.meshes.bringing import Brought, brought
from velvet_moth.core.meshes.formats import Files, check_mesh_file
from velvet_moth.core.meshes.intake import MeshReading

# Seconds; a text file of a million vertices takes half of them on a slow machine.
PATIENCE = 90.0
_SMALLER = "Simplify the mesh, or save it in parts."


def _brought(files: Files, reading: MeshReading | None, name: str) -> Brought:
    return brought(files, name, reading)


class MeshReader:
    """Brings meshes in by the processes of ``apart``."""

    def __init__(self, apart: Apart, patience: float = PATIENCE) -> None:
        self.apart, self.patience = apart, patience

    def read(self, files: Files, name: str, reading: MeshReading | None = None) -> Brought:
        """As ``brought``; FileRefused also where reading takes too long or too much memory."""
        check_mesh_file(files, name)
        return self.apart.read(self.patience, _SMALLER, _brought, files, reading, name)


def brought_here(files: Files, name: str, reading: MeshReading | None, hears: Callable[[float], None]) -> Brought:
    """As ``brought``, in a process that is already one of its own; ``hears`` hears the share that is done."""
    with refusals(f"file {name!r}", _SMALLER):
        return brought(files, name, reading, hears)
