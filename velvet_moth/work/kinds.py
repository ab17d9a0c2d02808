"""What each kind of job does. A function here is all that a new kind needs."""

import tempfile
from collections.abc import Callable, Mapping
from typing import Any

from pydantic import TypeAdapter
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from velvet_moth.core.baking.over_uvs import flow_over_uvs, stack_over_uvs
from velvet_moth.core.baking.stack import EMPTY, mesh_stack_to_json
from velvet_moth.core.baking.to_texture import channels_over_uvs
from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.exporting.baked.glb import baked_glb
from velvet_moth.core.forms.view import Camera
from velvet_moth.core.making.exchange import picture_of
from velvet_moth.core.meshes.apart import brought_here
from velvet_moth.core.pictures.reading import Reading
from velvet_moth.core.render.tracing.scene import Scene
from velvet_moth.core.throwing.rule import rule_from_json
from velvet_moth.core.throwing.surroundings import surroundings_of
from velvet_moth.core.workbench.filming import frames, write_film
from velvet_moth.core.workbench.judging import judged
from velvet_moth.store import (
    baked_files,
    block_meshes,
    block_models,
    films,
    graphs,
    judgements,
    mesh_files,
    mesh_stacks,
    meshes,
    recipes,
    textures,
)
from velvet_moth.store.sources import Sources

Hears = Callable[[float], None]
_CAMERA = TypeAdapter(Camera)
# What it gives is what the job was about in the end; None for what it was asked on.
Work = Callable[[Engine, str, Mapping[str, Any], Hears], str | None]


def read_mesh(engine: Engine, subject: str, arguments: Mapping[str, Any], hears: Hears) -> str:
    """Reads large mesh files and keeps the mesh; the same files give the same mesh."""
    with Session(engine) as session:
        asked = mesh_files.coming(session, arguments)
    found = brought_here(asked.files, asked.main, asked.reading, hears)
    with Session(engine) as session, session.begin():
        return asked.keep(session, found).id


def bake_mesh(engine: Engine, mesh: str, arguments: Mapping[str, Any], hears: Hears) -> None:
    """Bakes a mesh by its stack as it was when it was asked for.

    Doing it twice gives the same: what is kept is known by its content, and by what it was made from.
    """
    with Session(engine) as session:
        row = meshes.load(session, mesh)
        document = dict(arguments["document"])
        stack = mesh_stacks.stack_of(session, document)
        work, depth = mesh_stacks.work_on(session, row, stack, document), row.depth
    done = mesh_stacks.bake(work, depth, hears)
    with Session(engine) as session, session.begin():
        mesh_stacks.keep(session, work, done)


def bake_texture(engine: Engine, mesh: str, arguments: Mapping[str, Any], hears: Hears) -> None:
    """Bakes channels or directions of a mesh, as it was when it was asked for, to a texture that follows it."""
    of = arguments["of"]
    with Session(engine) as session:
        row = meshes.load(session, mesh)
        found = None if arguments["document"] else meshes.packed_mesh(session, arguments["packed"])
        document = arguments["document"] or mesh_stack_to_json(EMPTY)
        stack = mesh_stacks.stack_of(session, document)
        work = mesh_stacks.work_on(session, row, stack, document, arguments["base"])
    on = stack, work.came_in, work.base, work.context(hears=lambda share: hears(share * 0.6))
    if of["step"]:
        layer = flow_over_uvs(*on, of["step"], of["size"], of["padding"])
    elif found is None:
        layer = stack_over_uvs(*on, tuple(of["channels"]), of["size"], of["padding"])
    else:
        layer = channels_over_uvs(found, tuple(of["channels"]), of["size"], of["padding"])
    hears(0.9)
    with Session(engine) as session, session.begin():
        picture = picture_of(layer, of["depth"])
        name, texture = arguments["name"], arguments["texture"]
        textures.keep_baked(session, row.project_id, name, Reading(layer.role), picture, of, texture)


def make_block_mesh(engine: Engine, model: str, arguments: Mapping[str, Any], hears: Hears) -> None:
    """Makes the mesh of a block model again, of the blocks there are when the work begins."""
    with Session(engine) as session:
        asked = block_meshes.coming(session, block_models.HISTORY.load(session, int(model)))
    found = brought_here(asked.files, asked.main, asked.reading, hears)
    with Session(engine) as session, session.begin():
        block_meshes.keep(session, int(model), asked, found)


def make_textures(engine: Engine, stack: str, arguments: Mapping[str, Any], hears: Hears) -> None:
    """Makes the textures of a stack; refused where it has changed since it was asked for, as the newer one is meant then."""
    hears(0.0)
    with Session(engine) as session, session.begin():
        recipes.make(session, int(stack), arguments["revision"])


def make_film(engine: Engine, graph: str, arguments: Mapping[str, Any], hears: Hears) -> str:
    """Films a graph, as it is when the work begins, by NumPy; gives the id of the film.

    It is written to a file without a name: however this ends, nothing stays behind but what is kept.
    """
    film, sources = films.FILM.validate_python(arguments["film"]), Sources(engine)
    with Session(engine) as session:
        kept = graphs.load(session, int(graph))
    film.checked(kept.graph)
    pictures = frames(
        film,
        kept.graph,
        sources.textures(kept.textures),
        sources.graphs(kept.backdrop_graphs),
        sources.meshes(kept.mesh),
    )
    with tempfile.TemporaryFile() as file:
        loop = write_film(film, file, pictures, hears)
        with Session(engine) as session, session.begin():
            return films.keep(session, int(graph), arguments["name"], film, loop, file).id


def judge_throws(engine: Engine, graph: str, arguments: Mapping[str, Any], hears: Hears) -> str:
    """Throws many times at the scene of a graph, as it is when the work begins; gives the id of what was found."""
    sources = Sources(engine)
    with Session(engine) as session:
        kept = graphs.load(session, int(graph))
    rule = rule_from_json(arguments["rule"], "rule")
    scene = Scene.of_graph(kept.graph, sources.meshes(kept.mesh)(kept.graph.mesh))
    around = surroundings_of(kept.graph.backdrop, scene.mesh)
    if around is None:
        raise OperationRefused("There is nothing to throw at.", kept.graph.title, "Choose what lies behind.")
    found = judged(
        kept.graph,
        around,
        rule,
        _CAMERA.validate_python(arguments["camera"]),
        count=arguments["count"],
        seed=arguments["seed"],
        textures=sources.textures(kept.textures),
        variant=arguments["variant"],
        hears=hears,
    )
    with Session(engine) as session, session.begin():
        return judgements.keep(session, judgements.Judging(kept.id, rule.name), found).id


def bake_graph(engine: Engine, graph: str, arguments: Mapping[str, Any], hears: Hears) -> str:
    """Bakes a graph, as it is when the work begins, for other programs; gives the id of the file."""
    choices, sources = baked_files.CHOICES.validate_python(arguments), Sources(engine)
    with Session(engine) as session:
        kept = graphs.load(session, int(graph))
    made = baked_glb(kept.graph, choices, sources.textures(kept.textures), sources.meshes(kept.mesh), hears)
    with Session(engine) as session, session.begin():
        return baked_files.keep(session, kept.id, choices, made).id


# By the name that jobs are kept with.
KINDS: Mapping[str, Work] = {
    "read_mesh": read_mesh,
    "bake": bake_mesh,
    "mesh_texture": bake_texture,
    "make_textures": make_textures,
    "block_mesh": make_block_mesh,
    "film": make_film,
    "judge": judge_throws,
    "bake_graph": bake_graph,
}
