"""A texture replaced by another in everything that reads it, and taken back again."""

from dataclasses import dataclass, field
from typing import Any

from sqlalchemy.orm import Session

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.editing.crafts import ReplaceTexture
from velvet_moth.core.making.recipe_json import recipe_from_json
from velvet_moth.store import graphs, listing, recipes, textures


@dataclass(frozen=True)
class Replaced:
    """What was changed: graphs by id with their new revision, recipes also with what they were before."""

    graphs: list[dict[str, Any]] = field(default_factory=list)
    recipes: list[dict[str, Any]] = field(default_factory=list)


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
        done.graphs.append({"id": kept.id, "title": kept.graph.title, "revision": revision})
    for row in recipes.listed(session, project):
        recipe = recipes.recipe_of(row)
        if old in recipe.textures():
            before = row.document
            changed = recipes.change(session, row.id, row.revision, recipe.with_texture(old, new))
            done.recipes.append({"id": row.id, "title": row.name, "revision": changed.revision, "before": before})
    if not done.graphs and not done.recipes:
        raise OperationRefused("Nothing uses this texture.", "texture", "Replace one that is used.")
    return done


def take_back(session: Session, done: Replaced) -> None:
    """Undoes a replacement; refused as a whole where something was changed since."""
    for graph in done.graphs:
        graphs.undo(session, graph["id"], graph["revision"])
    for recipe in done.recipes:
        recipes.change(session, recipe["id"], recipe["revision"], recipe_from_json(recipe["before"]))
