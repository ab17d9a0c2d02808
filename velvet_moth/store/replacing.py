"""A texture replaced by another in everything that reads it, and taken back again."""

from dataclasses import dataclass, field
from typing import Annotated

from annotated_types import Ge, Le, MaxLen
from sqlalchemy.orm import Session

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.editing.crafts import ReplaceTexture
from velvet_moth.core.stacks.operations import replace_texture
from velvet_moth.store import graphs, listing, recipes, textures
from velvet_moth.store.edits import LARGEST_ID

MOST_REPLACED = 2000
RowId = Annotated[int, Ge(0), Le(LARGEST_ID)]


@dataclass(frozen=True)
class ReplacedIn:
    """A graph or stack that was changed, with its new revision."""

    id: RowId
    title: str
    revision: RowId


@dataclass(frozen=True)
class Replaced:
    """What a replacement changed."""

    graphs: Annotated[list[ReplacedIn], MaxLen(MOST_REPLACED)] = field(default_factory=list)
    recipes: Annotated[list[ReplacedIn], MaxLen(MOST_REPLACED)] = field(default_factory=list)


def replace_everywhere(session: Session, old: str, new: str) -> Replaced:
    """Chooses the texture ``new`` in every graph, motif and recipe that reads ``old``; each graph can undo it."""
    if old == new:
        raise OperationRefused("This is the texture itself.", "texture", "Choose another one.")
    project = textures.load(session, old).project_id
    textures.load(session, new)
    done = Replaced()
    for tile in listing.using_texture(session, project, old):
        kept = graphs.load(session, tile.id)
        try:
            batch = ReplaceTexture(old, new).batch(kept.graph)
        except OperationRefused:
            # It reads the texture inside a motif only, which is changed by itself.
            continue
        revision = graphs.change(session, kept.id, kept.revision, batch).revision
        done.graphs.append(ReplacedIn(kept.id, kept.graph.title, revision))
    for row in recipes.listed(session, project):
        recipe = recipes.recipe_of(row)
        if old in recipe.textures():
            was_made = row.made == row.document
            revision = recipes.HISTORY.change(session, row.id, row.revision, replace_texture(recipe, old, new)).revision
            if was_made:
                recipes.make(session, row.id, revision)
            done.recipes.append(ReplacedIn(row.id, row.name, revision))
    if not done.graphs and not done.recipes:
        raise OperationRefused("Nothing uses this texture.", "texture", "Replace one that is used.")
    return done


def take_back(session: Session, done: Replaced) -> None:
    """Undoes a replacement; refused as a whole where something was changed since."""
    for graph in done.graphs:
        graphs.undo(session, graph.id, graph.revision)
    for recipe in done.recipes:
        row = recipes.load(session, recipe.id)
        was_made = row.made == row.document
        row = recipes.HISTORY.undo(session, recipe.id, recipe.revision)
        if was_made:
            recipes.make(session, row.id, row.revision)
