"""Loads Heron Lock into a store that has no such project yet."""

from collections.abc import Callable, Mapping
from dataclasses import replace

from sqlalchemy import Engine
from sqlalchemy.orm import Session

from velvet_moth.core.baking.stack import mesh_stack_from_json
from velvet_moth.core.files.graph_json import graph_from_json, graph_to_json
from velvet_moth.core.meshes.bringing import brought
from velvet_moth.demo.contents import DEMO_GRAPHS, with_others
from velvet_moth.demo.keepers_house import HOUSE, LANTERN
from velvet_moth.demo.meshes import DEMO_MESHES, FLOW_DEPTH, PADDING
from velvet_moth.demo.shipped_pictures import BY, shipped
from velvet_moth.demo.textures import recipes_by_key
from velvet_moth.demo.thrown import RULES
from velvet_moth.store import block_models, graphs, mesh_stacks, meshes, paintings, projects, recipes, rules, textures
from velvet_moth.store.database import load_alone

PROJECT = "Heron Lock"


def texture_ids(
    session: Session, project_id: int, say: Callable[[str], None] = lambda words: None
) -> Mapping[str, str]:
    """The ids of the demo's textures in a project, made where they are missing."""
    known = {row.name: row for row in recipes.listed(session, project_id)}
    found: dict[str, str] = {}
    for key, recipe in recipes_by_key().items():
        row = known.get(recipe.name)
        if row is None:
            say(f"making the texture {recipe.name}")
            row = recipes.add(session, project_id, recipe)
        found.update((f"{key}_{output}", texture.id) for output, texture in recipes.textures_of(session, row).items())
    return found


def _mesh_ids(session: Session, project_id: int, say: Callable[[str], None]) -> Mapping[str, str]:
    """The ids of the demo's meshes, brought in and baked."""
    found: dict[str, str] = {}
    for key, demo in DEMO_MESHES.items():
        say(f"bringing in and baking the mesh {demo.name}")
        file = f"{demo.name}.glb"
        files = {file: demo.make()}
        row = meshes.add(session, project_id, demo.name, files, file, brought(files, file))
        stack = mesh_stack_from_json(demo.stack)
        kept = mesh_stacks.of_mesh(session, row.id)
        kept.document = mesh_stacks.document_of(session, stack)
        work = mesh_stacks.work_on(session, row, stack, kept.document)
        mesh_stacks.keep(session, work, mesh_stacks.bake(work, row.depth))
        found[f"mesh_{key}"] = row.id
        for name, made in demo.flow_maps().items():
            step, size = demo.flows[name]
            of = {
                "mesh": row.id,
                "channels": [],
                "step": step,
                "size": size,
                "depth": FLOW_DEPTH,
                "padding": PADDING,
            }
            found[name] = textures.keep_baked(session, project_id, made.name, made.reading, made.picture, of).id
    return found


def load_demo(engine: Engine, say: Callable[[str], None] = lambda words: None) -> bool:
    """Creates the project once; True where that happened now. ``say`` is called with each thing that takes a while."""
    with Session(engine) as session, session.begin():
        load_alone(session)
        project, is_new = projects.ensure(session, PROJECT)
        if is_new:
            ids = texture_ids(session, project.id, say)
            ids = {**ids, **_mesh_ids(session, project.id, say)}
            palette = next(
                row.id for row in recipes.listed(session, project.id) if row.name == recipes_by_key()["blocks"].name
            )
            for model, mesh in ((HOUSE, "mesh_keepers_house"), (LANTERN, "mesh_block_lantern")):
                drawn = model.with_settings(palette=str(palette))
                block_models.create(session, project.id, drawn).mesh = ids[mesh]
            made: dict[str, str] = {}
            for build in DEMO_GRAPHS:
                name = build.__name__
                graph = with_others(name, build(ids), made)
                if name in RULES:
                    graph = replace(graph, rule=str(rules.keep(session, project.id, RULES[name]).id))
                # Through the file format, so that the demo passes the checks of any import.
                stored = graphs.create(session, project.id, graph_from_json(graph_to_json(graph), name))
                made[name] = str(stored.id)
                png = shipped(name)
                if png is not None:
                    state = paintings.state_of(graphs.load(session, stored.id), "")
                    paintings.keep(session, stored.id, state, png, BY)
        return is_new
