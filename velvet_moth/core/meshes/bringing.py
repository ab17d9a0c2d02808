"""All that bringing a file in gives: the mesh, how it was read and why, and what was found out about it."""

from collections.abc import Callable
from dataclasses import dataclass

from velvet_moth.core.forms.mesh import Mesh
from velvet_moth.core.meshes.facts import MeshFacts, facts_of
from velvet_moth.core.meshes.formats import FORMATS, Files, read_mesh
from velvet_moth.core.meshes.intake import MeshReading, taken_in
from velvet_moth.core.meshes.orient import guessed

# What is done when the file is read, and when normals and tangents are made: the share of the time, of a text file.
_READ, _TAKEN_IN = 0.3, 0.75


@dataclass(frozen=True, eq=False)
class Brought:
    """``notes`` are sentences for people: how axis and unit were found, what was made, what was left out.

    ``has_uvs``: whether the UVs are the file's own; ``depth``: how its colours were kept.
    """

    mesh: Mesh
    format: str
    reading: MeshReading
    notes: tuple[str, ...]
    has_uvs: bool
    depth: str
    facts: MeshFacts


def brought(
    files: Files,
    name: str,
    reading: MeshReading | None = None,
    hears: Callable[[float], None] = lambda share: None,
) -> Brought:
    """The mesh of a file among those that came together; read as it says or as is guessed, unless a ``reading`` is chosen.

    ``hears`` hears the share that is done, 0 to 1, and may raise to end it.
    """
    hears(0.02)
    source, key = read_mesh(files, name)
    hears(_READ)
    notes: tuple[str, ...] = ()
    if reading is None:
        found = guessed(source, FORMATS[key].up, FORMATS[key].unit, FORMATS[key].name)
        reading, notes = MeshReading(found.up, found.unit), (found.why_up, found.why_unit)
    taken = taken_in(source, reading)
    has_uvs = source.uvs is not None
    hears(_TAKEN_IN)
    return Brought(
        taken.mesh,
        key,
        reading,
        notes=(*notes, *taken.made, *source.left_out),
        has_uvs=has_uvs,
        depth=source.depth,
        facts=facts_of(taken.mesh, has_uvs, source.depth),
    )
