"""Stacks of steps, kept as they are edited, and the textures they make: when asked, and whenever what they read changes."""

from collections.abc import Hashable

from pydantic import TypeAdapter
from sqlalchemy import func, select, update
from sqlalchemy.orm import Session

from velvet_moth.core.baking.operations import AnyStackOperation
from velvet_moth.core.base.cache import BoundedCache
from velvet_moth.core.base.errors import FileRefused, OperationRefused
from velvet_moth.core.making.exchange import layer_of, picture_of
from velvet_moth.core.making.layer import Canvas
from velvet_moth.core.making.recipe import (
    Layers,
    MakingContext,
    Recipe,
    TextureLayer,
    evaluate,
    recipe_from_json,
    recipe_to_json,
)
from velvet_moth.core.pictures.reading import Reading
from velvet_moth.core.stacks.stack import Stack
from velvet_moth.store import textures
from velvet_moth.store.edits import History
from velvet_moth.store.errors import NotFound
from velvet_moth.store.events import News, announce
from velvet_moth.store.models import RecipeRevisionRow, RecipeRow, TextureRow

_made: BoundedCache[Layers] = BoundedCache(
    "steps of stacks", 256 << 20, lambda layers: sum(layer.values.nbytes for layer in layers.values()), "bytes"
)


def context(session: Session) -> MakingContext:
    """Gives steps the project's textures, and remembers what steps made."""

    def layer(key: str, canvas: Canvas) -> TextureLayer | None:
        try:
            row = textures.load(session, key)
        except NotFound:
            return None
        reading = textures.reading_of(row)
        mark: Hashable = (row.sha256, row.role, row.green)
        return mark, lambda: layer_of(textures.picture_of(session, row), reading, canvas)

    return MakingContext(layer, _made.get)


class RecipeHistory(History[RecipeRow, Stack]):
    """The edits of stacks."""

    noun, where_from = "stack", "the textures"
    rows, edits, owner = RecipeRow, RecipeRevisionRow, "recipe_id"
    operations = TypeAdapter(AnyStackOperation)

    def document(self, session: Session, row: RecipeRow) -> Recipe:
        return recipe_of(row)

    def title(self, row: RecipeRow) -> str:
        return row.name

    def write(self, session: Session, row: RecipeRow, before: Stack, after: Stack) -> None:
        assert isinstance(after, Recipe), "operations give the kind of stack that they were given"
        own = {texture.id for texture in textures_of(session, row).values()}
        if own & _all_read(session, after):
            raise OperationRefused("A stack cannot read what it makes itself.", after.name, "Choose another texture.")
        row.name, row.document = after.name, recipe_to_json(after)

    def written(self, session: Session, row: RecipeRow, after: Stack, words: str) -> None:
        announce(session, News(stack=row.id, revision=row.revision, words=words))


HISTORY = RecipeHistory()


def load(session: Session, key: int) -> RecipeRow:
    return HISTORY.load(session, key)


def listed(session: Session, project_id: int) -> list[RecipeRow]:
    """The stacks of a project, the first made first."""
    found = select(RecipeRow).where(RecipeRow.project_id == project_id, RecipeRow.deleted.is_(None))
    return list(session.scalars(found.order_by(RecipeRow.id)))


def recipe_of(row: RecipeRow) -> Recipe:
    return recipe_from_json(row.document, f"recipe {row.id}")


def textures_of(session: Session, row: RecipeRow) -> dict[str, TextureRow]:
    """The textures a recipe makes, by the id of the output."""
    found = select(TextureRow).where(TextureRow.recipe_id == row.id, TextureRow.deleted.is_(None))
    return {t.output or "": t for t in session.scalars(found)}


def with_textures(session: Session, project_id: int) -> set[int]:
    """The ids of the stacks that have made textures which are still there."""
    found = select(TextureRow.recipe_id).where(
        TextureRow.project_id == project_id, TextureRow.recipe_id.is_not(None), TextureRow.deleted.is_(None)
    )
    return {key for key in session.scalars(found) if key is not None}


def create(session: Session, project_id: int, recipe: Recipe) -> RecipeRow:
    """Keeps a stack; its textures are made when asked."""
    row = RecipeRow(project_id=project_id, name=recipe.name, document=recipe_to_json(recipe), revision=0)
    row.undo, row.redo = [], []
    session.add(row)
    session.flush()
    return row


def add(session: Session, project_id: int, recipe: Recipe) -> RecipeRow:
    """Keeps a stack and makes its textures."""
    row = create(session, project_id, recipe)
    return make(session, row.id, row.revision)


def ready(session: Session, key: int, revision: int) -> RecipeRow:
    """A stack as it is at a revision; OperationRefused where nothing comes of it."""
    row = HISTORY.current(session, key, revision)
    if not recipe_of(row).outputs:
        raise OperationRefused("This stack makes no texture.", row.name, "Tick a texture at one of its steps first.")
    return row


def make(session: Session, key: int, revision: int) -> RecipeRow:
    """Makes the textures of a stack as it is at a revision; all that use them follow."""
    row = ready(session, key, revision)
    row.made = row.document
    _make(session, row, recipe_of(row))
    return row


def delete(session: Session, key: int) -> None:
    """Takes a stack away that has made nothing; ``restore`` brings it back."""
    row = HISTORY.find(session, key, lock=True)
    made = ", ".join(texture.name for texture in list(textures_of(session, row).values())[:3])
    if made:
        raise OperationRefused(f"This stack has made {made}.", row.name, "Delete its textures first, or keep it.")
    # A deleted texture that is brought back must not name a stack that is gone.
    session.execute(update(TextureRow).where(TextureRow.recipe_id == row.id).values(recipe_id=None, output=None))
    row.deleted = row.deleted or func.now()
    session.flush()


def restore(session: Session, key: int) -> RecipeRow:
    """Brings a deleted stack back."""
    row = HISTORY.find(session, key, lock=True)
    row.deleted = None
    session.flush()
    return row


def _all_read(session: Session, recipe: Recipe) -> set[str]:
    """The textures a stack reads, and those that their own stacks read, as they are edited and as they were made."""
    found: set[str] = set()
    todo = list(recipe.textures())
    while todo:
        key = todo.pop()
        if key in found:
            continue
        found.add(key)
        texture = session.get(TextureRow, key)
        if texture is not None and texture.recipe_id is not None:
            row = HISTORY.find(session, texture.recipe_id)
            todo += recipe_of(row).textures()
            if made := _made_by(row):
                todo += made.textures()
    return found


def _made_by(row: RecipeRow) -> Recipe | None:
    """The stack that the textures of a row were last made by."""
    return None if row.made is None else recipe_from_json(row.made, f"recipe {row.id}")


def _make(session: Session, row: RecipeRow, recipe: Recipe) -> None:
    made = evaluate(recipe, recipe.canvas, context(session), {o.step for o in recipe.outputs})
    before = textures_of(session, row)
    for output in recipe.outputs:
        layer = made[output.step][output.layer]
        picture, reading = picture_of(layer, output.depth), Reading(layer.role)
        known = before.pop(output.id, None)
        if known is None:
            textures.add_made(session, row.project_id, output.name, reading, picture, (row.id, output.id))
        elif textures.replace_picture(session, known, output.name, reading, picture):
            follow(session, known.id)
    for orphan in before.values():
        # What is no longer made stays as it is: graphs may use it.
        orphan.recipe_id = orphan.output = None
    session.flush()


def follow(session: Session, texture: str) -> None:
    """Makes the textures of every stack that was made from a changed texture."""
    changed = textures.load(session, texture)
    for row in listed(session, changed.project_id):
        try:
            made = _made_by(row)
            if made is not None and texture in made.textures():
                _make(session, row, made)
        except (FileRefused, OperationRefused):
            # One that cannot be read or made, for a texture that is gone, must stop neither the others nor the change.
            continue
