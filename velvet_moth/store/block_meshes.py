"""The mesh that follows a block model: its surface, kept as any mesh that came in as a file."""

from sqlalchemy.orm import Session

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.base.plain_names import identifier
from velvet_moth.core.blocks.surface import surface_of
from velvet_moth.core.meshes.bringing import Brought
from velvet_moth.core.meshes.formats import FORMATS
from velvet_moth.core.meshes.intake import MeshReading, as_source
from velvet_moth.store import block_models, jobs, meshes
from velvet_moth.store.errors import NotFound
from velvet_moth.store.mesh_files import Coming
from velvet_moth.store.models import BlockModelRow, MeshRow

# A mesh is made again so many seconds after an edit, with all that was done until then.
CALM = 2


def coming(session: Session, row: BlockModelRow) -> Coming:
    """The surface of a model as a file that comes in; OperationRefused where the model is empty."""
    model = block_models.model_of(session, row)
    surface = surface_of(model.blocks, model.settings.size, model.see_through, model.settings.merged)
    if surface is None:
        raise OperationRefused("There are no blocks to make a mesh of.", model.name, "Draw some first.")
    name = f"{identifier(model.name) or 'blocks'}.glb"
    file = FORMATS["gltf"].written(as_source(surface))
    return Coming(row.project_id, {name: file}, name, model.name, _mesh_of(session, row), MeshReading())


def _mesh_of(session: Session, row: BlockModelRow) -> str:
    """The mesh that follows a model; "" where there is none, or it was deleted."""
    try:
        return meshes.load(session, row.mesh).id if row.mesh else ""
    except NotFound:
        return ""


def keep(session: Session, key: int, asked: Coming, brought: Brought) -> MeshRow:
    """Keeps the mesh of a model; the same surface is the same mesh."""
    mesh = asked.keep(session, brought)
    row = block_models.HISTORY.find(session, key, lock=True)
    row.mesh = mesh.id
    return mesh


def follow(session: Session, row: BlockModelRow) -> None:
    """Asks for the mesh of a model to be made again, where it has one: once for all edits of a short while."""
    if row.mesh and _mesh_of(session, row):
        jobs.begin_soon(session, "block_mesh", f"Surface of {row.name}", str(row.id), CALM)
