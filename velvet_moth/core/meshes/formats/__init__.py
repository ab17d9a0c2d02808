"""File formats of meshes, one file each."""

from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.meshes.formats.base import Damaged, Files, MeshFormat
from velvet_moth.core.meshes.formats.gltf import GLTF
from velvet_moth.core.meshes.formats.obj import OBJ
from velvet_moth.core.meshes.formats.ply import PLY
from velvet_moth.core.meshes.source import SourceMesh, checked

__all__ = ["FORMATS", "MOST_BYTES", "Damaged", "Files", "MeshFormat", "check_mesh_file", "read_mesh"]

# OBJ last: it has no mark of its own, so the others are asked first.
FORMATS: dict[str, MeshFormat] = {f.key: f for f in (GLTF, PLY, OBJ)}
MOST_BYTES = 256 << 20


def check_mesh_file(files: Files, name: str) -> MeshFormat:
    """The format of a file that is worth reading; FileRefused with a sentence for any other."""
    data, where = files[name], f"file {name!r}"
    if not data:
        raise FileRefused("The file is empty.", where, "Choose a mesh.")
    size = sum(len(one) for one in files.values())
    if size > MOST_BYTES:
        what = f"The file has {size / 2**20:.0f} MB; at most {MOST_BYTES >> 20} MB are read."
        raise FileRefused(what, where, "Simplify the mesh, or save it in parts.")
    found = next((f for f in FORMATS.values() if f.is_this(data)), None)
    if found is None:
        known = ", ".join(f.name for f in FORMATS.values())
        raise FileRefused("This is no mesh that can be read here.", where, f"Export it as one of {known}.")
    return found


def read_mesh(files: Files, name: str) -> tuple[SourceMesh, str]:
    """The mesh in the file of that ``name`` among ``files``, and the key of its format; FileRefused with a sentence."""
    format_ = check_mesh_file(files, name)
    where = f"file {name!r}"
    try:
        return checked(format_.decode(files, name), where), format_.key
    except Damaged as error:
        raise FileRefused(str(error), where, "Export it again from where it was made.") from error
