"""The stacks of steps on meshes, kept as they are edited; and baking, which makes of a mesh what its stack says."""

from collections.abc import Callable, Hashable, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from pydantic import TypeAdapter
from sqlalchemy import select
from sqlalchemy.orm import Session

from velvet_moth.core.baking.levels import Level, levels_of
from velvet_moth.core.baking.operations import AnyStackOperation
from velvet_moth.core.baking.stack import EMPTY, MeshStack, baked, mesh_stack_from_json, mesh_stack_to_json
from velvet_moth.core.baking.step import MESHES, BakingContext, Made
from velvet_moth.core.base.cache import BoundedCache
from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.forms.mesh import Mesh
from velvet_moth.core.making.exchange import layer_of
from velvet_moth.core.making.layer import Canvas, Layer
from velvet_moth.core.meshes.bringing import Brought
from velvet_moth.core.meshes.facts import MeshFacts, facts_of
from velvet_moth.core.meshes.formats import Files
from velvet_moth.core.stacks.stack import Stack
from velvet_moth.store import jobs, meshes, strokes, textures
from velvet_moth.store.edits import History
from velvet_moth.store.errors import NotFound
from velvet_moth.store.events import News, announce
from velvet_moth.store.laid import LaidOnMesh
from velvet_moth.store.models import JobRow, MeshRow, MeshStackRevisionRow, MeshStackRow


def _bytes_of(made: Made) -> int:
    return sum(
        96 * len(part.positions) + part.triangles.nbytes if isinstance(part, Mesh) else part.nbytes
        for part in made.values()
    )


_made: BoundedCache[Made] = BoundedCache("steps of meshes", 384 << 20, _bytes_of, "bytes")


class MeshStackHistory(History[MeshStackRow, Stack]):
    """The edits of the stacks of meshes."""

    noun, where_from = "stack", "the meshes"
    rows, edits, owner = MeshStackRow, MeshStackRevisionRow, "stack_id"
    operations = TypeAdapter(AnyStackOperation)

    def document(self, session: Session, row: MeshStackRow) -> MeshStack:
        return stack_in(session, row)

    def title(self, row: MeshStackRow) -> str:
        return str(row.document["name"])

    def write(self, session: Session, row: MeshStackRow, before: Stack, after: Stack) -> None:
        assert isinstance(after, MeshStack), "operations give the kind of stack that they were given"
        row.document = strokes.keep(session, mesh_stack_to_json(after), before, after)

    def written(self, session: Session, row: MeshStackRow, after: Stack, words: str) -> None:
        announce(session, News(mesh_stack=row.id, revision=row.revision, words=words))


HISTORY = MeshStackHistory()


def stack_in(session: Session, row: MeshStackRow) -> MeshStack:
    return stack_of(session, row.document, f"stack of {row.mesh}")


def stack_of(session: Session, document: Mapping[str, Any], where: str = "stack") -> MeshStack:
    """The stack in a document as it is kept, or as pages have it: with marks in the place of strokes."""
    return mesh_stack_from_json(strokes.put_back(session, document, MESHES), where)


def of_mesh(session: Session, key: str) -> MeshStackRow:
    """The stack of a mesh; an empty one where nothing was ever done to it."""
    query = select(MeshStackRow).where(MeshStackRow.mesh == key)
    found = session.scalars(query).first()
    if found is not None:
        return found
    # Two who ask at once must not both begin one.
    meshes.load(session, key, lock=True)
    found = session.scalars(query).first()
    if found is None:
        found = MeshStackRow(mesh=key, document=mesh_stack_to_json(EMPTY), revision=0, undo=[], redo=[])
        session.add(found)
        session.flush()
    return found


@dataclass(frozen=True, eq=False)
class Work:
    """All that a bake needs, so that it holds no connection: the mesh as it came in, the stack, and the textures it reads."""

    mesh: str
    name: str
    base: str
    came_in: Mesh
    stack: MeshStack
    document: dict[str, Any]
    laid: LaidOnMesh
    textures: dict[str, tuple[Hashable, Layer]] = field(default_factory=dict)

    def context(self, most_rays: int = 1 << 16, hears: Callable[[float], None] = lambda share: None) -> BakingContext:
        """What steps ask for, with a memory of what was made before."""

        def texture(key: str) -> tuple[Hashable, Callable[[], Layer]] | None:
            found = self.textures.get(key)
            return found and (found[0], lambda: found[1])

        return BakingContext(texture, _made.get, most_rays, hears, self.laid)


def document_of(session: Session, stack: MeshStack) -> dict[str, Any]:
    """The document that a stack from elsewhere is kept as; its strokes are kept beside it."""
    return strokes.keep(session, mesh_stack_to_json(stack), EMPTY, stack)


def work_on(session: Session, row: MeshRow, stack: MeshStack, document: dict[str, Any], base: str = "") -> Work:
    """What is needed to compute a stack on a mesh; on an earlier version of it by the hash ``base``."""
    read: dict[str, tuple[Hashable, Layer]] = {}
    for key in stack.textures():
        try:
            texture = textures.load(session, key)
        except NotFound:
            # The step that reads it says so.
            continue
        picture = textures.picture_of(session, texture)
        size = Canvas(texture.width, texture.height)
        mark = (texture.sha256, texture.role, texture.green)
        read[key] = (mark, layer_of(picture, textures.reading_of(texture), size))
    base = base or row.base
    came_in = meshes.packed_mesh(session, base)
    return Work(row.id, row.name, base, came_in, stack, document, LaidOnMesh.of(session, row.id), read)


def work_as_asked(session: Session, key: str, document: dict[str, Any]) -> Work:
    """What is needed to compute a stack on the mesh ``key`` as a page has it, kept or not; refused as reading it is."""
    row = meshes.load(session, key)
    return work_on(session, row, stack_of(session, document), document)


@dataclass(frozen=True, eq=False)
class Baked:
    """A mesh as its stack has made it, and what was found out about it."""

    mesh: Mesh
    has_uvs: bool
    facts: MeshFacts
    levels: tuple[Level, ...]


def bake(work: Work, depth: str, hears: Callable[[float], None] = lambda share: None) -> Baked:
    """Computes a stack; ``depth`` is how the colours of the file were kept. ``hears`` hears the share that is done."""
    parts = len(work.stack.steps) + len(work.stack.levels) + 1
    done = 0

    def within(share: float) -> None:
        hears((done + share) / parts)

    def remember(key: Hashable, make: Callable[[], Made]) -> Made:
        nonlocal done
        found = _made.get(key, make)
        done = min(done + 1, len(work.stack.steps))
        within(0.0)
        return found

    made = baked(work.stack, work.came_in, work.base, replace(work.context(hears=within), remember=remember))
    has_uvs = bool(made.uvs.any())
    done = len(work.stack.steps)
    count = len(work.stack.levels)
    levels = levels_of(made, work.stack.levels, work.stack.weights, lambda s: within(s * count)) if count else ()
    return Baked(made, has_uvs, facts_of(made, has_uvs, depth if not work.stack.outputs else ""), levels)


def keep(session: Session, work: Work, done: Baked) -> MeshRow:
    """Puts what was baked in the place of what the mesh was; OperationRefused where a new version came in meanwhile."""
    row = meshes.load(session, work.mesh, lock=True)
    if row.base != work.base:
        raise OperationRefused("A new version of the file has come in meanwhile.", row.name, "Bake again.")
    of_mesh(session, work.mesh).made = work.document
    work.laid.keep(session)
    meshes.set_made(session, row, done.mesh, done.has_uvs, done.facts, done.levels)
    for texture in textures.baked_of(session, work.mesh):
        bake_texture(session, row, texture.name, dict(texture.baked or {}), texture.id)
    return row


def bake_texture(session: Session, row: MeshRow, name: str, of: dict[str, Any], texture: str = "") -> JobRow:
    """Asks for a texture to be baked of a mesh as it is now: a new one, or ``texture`` once more.

    ``of`` is what is kept with it: the ``mesh``; its ``channels``, or the ``step`` whose directions it holds; ``size``,
    ``depth`` and ``padding``. Channels are those that are baked; directions are of the steps as they are edited now.
    """
    stack = of_mesh(session, row.id)
    document = stack.document if of["step"] and not texture else stack.made
    now = {"packed": row.packed, "base": row.base, "document": document}
    arguments = {"of": of, "name": textures.clean_name(name), "texture": texture, **now}
    return jobs.begin(session, "mesh_texture", f"Baking the texture {name}", row.id, arguments)


def add(
    session: Session, project_id: int, name: str, files: Files, main: str, brought: Brought, stack: MeshStack
) -> MeshRow:
    """Keeps a mesh as ``meshes.add`` does, with steps on it, and asks for these to be baked."""
    document = document_of(session, stack)

    def is_same(row: MeshRow) -> bool:
        return of_mesh(session, row.id).made == document

    row = meshes.add(session, project_id, name, files, main, brought, is_same)
    kept = of_mesh(session, row.id)
    if kept.made != document:
        kept.document = document
        ask(session, row, document)
    return row


def ask(session: Session, row: MeshRow, document: dict[str, Any]) -> JobRow:
    """Asks for a mesh to be baked by a stack in plain data."""
    return jobs.begin(session, "bake", f"Baking {row.name}", row.id, {"document": document, "base": row.base})


def follow(session: Session, row: MeshRow) -> None:
    """After another version has come in: asks for what was baked before; until that is done the mesh is as it came in."""
    stack = of_mesh(session, row.id)
    if stack.made is not None:
        document, stack.made = stack.made, None
        ask(session, row, document)
