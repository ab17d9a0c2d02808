"""A texture replaced by another in everything that reads it, and taken back again."""

from dataclasses import dataclass, field
from typing import Annotated, Any

from annotated_types import Ge, Le, MaxLen
from sqlalchemy.orm import Session

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.editing.crafts import ReplaceTexture
from velvet_moth.core.making.recipe_json import recipe_from_json
from velvet_moth.store import graphs, listing, recipes, textures

MOST_REPLACED = 2000
RowId = Annotated[int, Ge(0), Le(graphs.LARGEST_ID)]


@dataclass(frozen=True)
class ReplacedGraph:
    """A graph that was changed, with its new revision."""

    id: RowId
    title: str
    revision: RowId


@dataclass(frozen=True)
class ReplacedRecipe:
    """A recipe that was changed, with its new revision and what it was before."""

    id: RowId
    title: str
    revision: RowId
    before: dict[str, Any]


@dataclass(frozen=True)
class Replaced:
    """What a replacement changed."""

    graphs: Annotated[list[ReplacedGraph], MaxLen(MOST_REPLACED)] = field(default_factory=list)
    recipes: Annotated[list[ReplacedRecipe], MaxLen(MOST_REPLACED)] = field(default_factory=list)


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
        done.graphs.append(ReplacedGraph(kept.id, kept.graph.title, revision))
    for row in recipes.listed(session, project):
        recipe = recipes.recipe_of(row)
        if old in recipe.textures():
            before = row.document
            changed = recipes.change(session, row.id, row.revision, recipe.with_texture(old, new))
            done.recipes.append(ReplacedRecipe(row.id, row.name, changed.revision, before))
    if not done.graphs and not done.recipes:
        raise OperationRefused("Nothing uses this texture.", "texture", "Replace one that is used.")
    return done


def take_back(session: Session, done: Replaced) -> None:
    """Undoes a replacement; refused as a whole where something was changed since."""
    for graph in done.graphs:
        graphs.undo(session, graph.id, graph.revision)
    for recipe in done.recipes:
        recipes.change(session, recipe.id, recipe.revision, recipe_from_json(recipe.before))
