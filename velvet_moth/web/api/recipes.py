"""Recipes: made, changed, and looked at while they are being changed."""

from typing import Any

import numpy as np
from flask import Blueprint

from velvet_moth.core.making import TEXTURES, Layer
from velvet_moth.core.making.exchange import picture_of
from velvet_moth.core.making.recipe import Recipe, evaluate, grid_of, recipe_from_json
from velvet_moth.core.pictures.levels import rgba
from velvet_moth.core.pictures.small import shrunk
from velvet_moth.core.stacks.stack import problems
from velvet_moth.store import jobs, projects, recipes
from velvet_moth.store.models import RecipeRow
from velvet_moth.web.api.answers import Id
from velvet_moth.web.api.contract import takes
from velvet_moth.web.api.job_answers import JobState
from velvet_moth.web.api.jobs import job_state
from velvet_moth.web.api.schemas import PreviewRequest, RecipeRequest, StackEdit, StackStep
from velvet_moth.web.api.stacks import described_step, picture_address
from velvet_moth.web.api.texture_answers import AtlasGrid, Preview, RecipeState, Stacks, StepKind
from velvet_moth.web.database import db
from velvet_moth.web.lanes import MAKING

api = Blueprint("recipes", __name__, url_prefix="/api/recipes")

SMALL = 64


def _state(row: RecipeRow) -> RecipeState:
    """The stack as plain data, with the texture that each output is."""
    made = {output: texture.id for output, texture in recipes.textures_of(db(), row).items()}
    document: Any = row.document
    undo, redo = recipes.HISTORY.newest(db(), row)
    return {
        "id": row.id,
        "revision": row.revision,
        "stack": document,
        "textures": made,
        "is_made": row.made == row.document,
        "undo": undo.words,
        "redo": redo.words,
    }


def _atlas(recipe: Recipe, key: str) -> AtlasGrid | None:
    """Where the cells of a step's grid lie, if it has one."""
    use = recipe.use(key)
    grid = grid_of(use) if use else None
    if grid is None:
        return None
    return {
        "columns": grid.columns,
        "rows": grid.rows,
        "clean": grid.clean_levels(recipe.columns, recipe.rows),
        "boxes": [grid.box(index) for index in range(1, grid.count + 1)],
    }


def all_steps() -> list[StepKind]:
    return [described_step(step) for step in TEXTURES.steps.values()]


def _small(layer: Layer) -> str:
    """A layer as seen, with its alpha, as the address of a small PNG."""
    samples = rgba(picture_of(layer, "8 bit").samples)
    return picture_address(shrunk(samples, SMALL))


@api.get("")
@takes()
def listed() -> Stacks:
    """The stacks of the project, the first made first."""
    project = projects.first(db()).id
    made = recipes.with_textures(db(), project)
    return {
        "stacks": [
            {"id": row.id, "name": row.name, "steps": len(row.document["steps"]), "has_textures": row.id in made}
            for row in recipes.listed(db(), project)
        ]
    }


@api.post("")
@takes(body=RecipeRequest)
def create(asked: RecipeRequest) -> RecipeState:
    """Keeps a stack; its textures are made when asked."""
    return _state(recipes.create(db(), projects.first(db()).id, recipe_from_json(asked.recipe)))


@api.get("/<int:key>")
@takes()
def read(key: int) -> RecipeState:
    return _state(recipes.load(db(), key))


@api.post("/<int:key>/operations")
@takes(body=StackEdit)
def edit(key: int, asked: StackEdit) -> RecipeState:
    return _state(recipes.HISTORY.change(db(), key, asked.revision, asked.operation))


@api.post("/<int:key>/undo")
@takes(body=StackStep)
def undo(key: int, asked: StackStep) -> RecipeState:
    return _state(recipes.HISTORY.undo(db(), key, asked.revision))


@api.post("/<int:key>/redo")
@takes(body=StackStep)
def redo(key: int, asked: StackStep) -> RecipeState:
    return _state(recipes.HISTORY.redo(db(), key, asked.revision))


@api.post("/<int:key>/make")
@takes(body=StackStep)
def make(key: int, asked: StackStep) -> JobState:
    """Has the textures of the stack made as it is; all that use them follow once that is done."""
    row = recipes.ready(db(), key, asked.revision)
    arguments = {"revision": asked.revision}
    return job_state(jobs.begin(db(), "make_textures", f"Making {row.name}", str(key), arguments))


@api.delete("/<int:key>")
@takes()
def delete(key: int) -> Id:
    """Takes a stack away that has made no texture."""
    recipes.delete(db(), key)
    return {"id": key}


@api.post("/<int:key>/restore")
@takes()
def restore(key: int) -> RecipeState:
    return _state(recipes.restore(db(), key))


@api.post("/preview")
@takes(body=PreviewRequest)
def preview(asked: PreviewRequest) -> Preview:
    """One layer of a stack, and a small picture of every step that can be made, without keeping anything."""
    recipe = recipe_from_json(asked.recipe)
    wrong = problems(recipe)
    canvas = recipe.preview(asked.most)
    steps = []
    for use in recipe.steps:
        if use.id in wrong:
            break
        steps.append(use.id)
    with MAKING.turn():
        made = evaluate(recipe, canvas, recipes.context(db()), set(steps))
    layers = made.get(asked.step) or (made[steps[-1]] if steps else {})
    shown = layers.get(asked.layer) or next(iter(layers.values()), None)
    samples = rgba(picture_of(shown, "8 bit").samples) if shown else np.zeros((1, 1, 4), np.uint8)
    return dict(
        problems=wrong,
        small={key: _small(next(iter(found.values()))) for key, found in made.items()},
        # Apart, since a browser's picture forgets the colour of what is transparent.
        picture=picture_address(samples[..., :3]) if shown else "",
        alpha=picture_address(samples[..., 3:]) if shown and shown.channels in (2, 4) else "",
        role=shown.role if shown else "",
        size=[shown.values.shape[2], shown.values.shape[1]] if shown else [canvas.columns, canvas.rows],
        atlas=_atlas(recipe, asked.step),
    )
