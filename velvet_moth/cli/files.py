"""Files as several commands read and name them."""

import json
from pathlib import Path
from typing import Any

from velvet_moth.core.baking.stack import MeshStack, baked, mesh_stack_from_json
from velvet_moth.core.baking.step import BakingContext
from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.forms import Mesh


def read_file(path: Path) -> bytes:
    """The bytes of a file; FileRefused where it cannot be read."""
    try:
        return path.read_bytes()
    except OSError as error:
        raise FileRefused(f"The file cannot be read: {error.strerror}.", str(path), "Check the path.") from error


def read_json(path: Path) -> Any:
    """The plain data of a stack that was saved from a room."""
    try:
        return json.loads(read_file(path))
    except ValueError as error:
        raise FileRefused(f"This is not JSON: {error}.", str(path), "Save the stack again.") from error


def with_files_beside(source: Path) -> dict[str, bytes]:
    """A mesh's file with those it may refer to."""
    beside = list(source.parent.glob("*.bin")) if source.suffix.lower() == ".gltf" else []
    return {path.name: read_file(path) for path in (source, *beside)}


def stacked(source: Path, stack: str, mesh: Mesh) -> tuple[Mesh, MeshStack]:
    """A mesh as the steps of a file make it, and these steps; the mesh itself and no steps without a file."""
    if not stack:
        return mesh, MeshStack("none")
    found = mesh_stack_from_json(read_json(Path(stack)), stack)
    return baked(found, mesh, str(source), BakingContext()), found


def no_format(output: str, suffixes: str) -> FileRefused:
    """What is said where the name of an output ends in none of the known suffixes."""
    return FileRefused("Its name does not say which format to write.", output, f"Use {suffixes}.")
