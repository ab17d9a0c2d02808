"""Recipes: stacks of steps, and the textures they make, made anew whenever the stack or what it reads changes."""

from collections.abc import Hashable

from sqlalchemy import select
from sqlalchemy.orm import Session

from velvet_moth.core.base.cache import BoundedCache
from velvet_moth.core.base.errors import FileRefused, OperationRefused
from velvet_moth.core.making.exchange import layer_of, picture_of
from velvet_moth.core.making.layer import Canvas
from velvet_moth.core.making.recipe import Layers, MakingContext, Recipe, TextureLayer, evaluate
from velvet_moth.core.making.recipe_json import recipe_from_json, recipe_to_json
from velvet_moth.core.pictures.reading import Reading
from velvet_moth.store import textures
from velvet_moth.store.errors import NotFound
from velvet_moth.store.models import RecipeRow, TextureRow

_made: BoundedCache[Layers] = BoundedCache(
    "steps of stacks", 256 << 20, lambda layers: sum(layer.values.nbytes for layer in layers.values()), "bytes"
)


class StaleRecipe(OperationRefused):
    """The recipe was changed elsewhere since it was opened."""

    code = "stale-recipe"


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


def load(session: Session, key: int, lock: bool = False) -> RecipeRow:
    query = select(RecipeRow).where(RecipeRow.id == key)
    # A row that was read before it was locked may have changed until then.
    locked = query.with_for_update().execution_options(populate_existing=True)
    row = session.scalars(locked if lock else query).first() if 0 < key < 2**31 else None
    if row is None:
        raise NotFound("There is no such recipe.", f"recipe {key}", "Make a new one.")
    return row


def listed(session: Session, project_id: int) -> list[RecipeRow]:
    return list(session.scalars(select(RecipeRow).where(RecipeRow.project_id == project_id).order_by(RecipeRow.id)))


def recipe_of(row: RecipeRow) -> Recipe:
    return recipe_from_json(row.document, f"recipe {row.id}")


def textures_of(session: Session, row: RecipeRow) -> dict[str, TextureRow]:
    """The textures a recipe makes, by the id of the output."""
    found = select(TextureRow).where(TextureRow.recipe_id == row.id, TextureRow.deleted.is_(None))
    return {t.output or "": t for t in session.scalars(found)}


def add(session: Session, project_id: int, recipe: Recipe) -> RecipeRow:
    """Keeps a recipe and makes its textures."""
    row = RecipeRow(project_id=project_id, name=recipe.name, document=recipe_to_json(recipe), revision=0)
    session.add(row)
    session.flush()
    _make(session, row, recipe)
    return row


def change(session: Session, key: int, revision: int, recipe: Recipe) -> RecipeRow:
    """Another stack in the place of the one of ``revision``; its textures and all that use them follow."""
    row = load(session, key, lock=True)
    if row.revision != revision:
        raise StaleRecipe("This recipe was changed elsewhere meanwhile.", recipe.name, "Open it again to see how.")
    own = {t.id for t in textures_of(session, row).values()}
    if own & _all_read(session, recipe):
        raise OperationRefused("A recipe cannot read what it makes itself.", recipe.name, "Choose another texture.")
    row.name, row.document, row.revision = recipe.name, recipe_to_json(recipe), row.revision + 1
    session.flush()
    _make(session, row, recipe)
    return row


def _all_read(session: Session, recipe: Recipe) -> set[str]:
    """The textures a recipe reads, and those that the recipes of these read."""
    found: set[str] = set()
    todo = list(recipe.textures())
    while todo:
        key = todo.pop()
        if key in found:
            continue
        found.add(key)
        texture = session.get(TextureRow, key)
        if texture is not None and texture.recipe_id is not None:
            todo += recipe_of(load(session, texture.recipe_id)).textures()
    return found


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
    """Makes the textures anew of every recipe that reads a changed one."""
    changed = textures.load(session, texture)
    for row in listed(session, changed.project_id):
        try:
            recipe = recipe_of(row)
        except FileRefused:
            # One that cannot be read must not stop the others.
            continue
        if texture in recipe.textures():
            _make(session, row, recipe)
