"""Loads Heron Lock into a store that has no such project yet."""

from collections.abc import Mapping
from dataclasses import replace

from sqlalchemy import Engine
from sqlalchemy.orm import Session

from velvet_moth.core.document.graph import Graph
from velvet_moth.core.document.scene import BackdropMaterial
from velvet_moth.core.files.graph_json import graph_from_json, graph_to_json
from velvet_moth.demo.graphs import basin_shimmer, ferry_enamel, pebble_patch, slate_step
from velvet_moth.demo.grounds import boathouse_tiles, chalk_marks, ferry_crate, silt_splash
from velvet_moth.demo.growing import dock_leaf, slate_bluff
from velvet_moth.demo.metal_and_hair import bronze_gear, ferrywomans_braid
from velvet_moth.demo.moving import basin_water, wind_reeds
from velvet_moth.demo.textures import recipes_by_key
from velvet_moth.store import graphs, projects, recipes
from velvet_moth.store.database import load_alone

PROJECT = "Heron Lock"
DEMO_GRAPHS = (
    pebble_patch,
    slate_step,
    basin_shimmer,
    ferry_enamel,
    boathouse_tiles,
    silt_splash,
    chalk_marks,
    ferry_crate,
    wind_reeds,
    slate_bluff,
    dock_leaf,
    ferrywomans_braid,
    bronze_gear,
    basin_water,
)
# What parts of the backdrops of some wear: the names of graphs above that come before them.
BACKDROP_MATERIALS: Mapping[str, Mapping[str, tuple[str, str]]] = {
    "basin_water": {"lock_basin.bed": ("pebble_patch", "")},
    "chalk_marks": {"wall_and_floor.floor": ("slate_step", "")},
}


def texture_ids(session: Session, project_id: int) -> Mapping[str, str]:
    """The ids of the demo's textures in a project, made where they are missing."""
    known = {row.name: row for row in recipes.listed(session, project_id)}
    found: dict[str, str] = {}
    for key, recipe in recipes_by_key().items():
        row = known.get(recipe.name) or recipes.add(session, project_id, recipe)
        found.update((f"{key}_{output}", texture.id) for output, texture in recipes.textures_of(session, row).items())
    return found


def with_backdrop_materials(name: str, graph: Graph, keys: Mapping[str, str]) -> Graph:
    """The graph of the demo of that name with the surfaces of its backdrop, by the keys those graphs are kept by."""
    chosen = BACKDROP_MATERIALS.get(name, {})
    return replace(
        graph,
        backdrop_materials=tuple(BackdropMaterial(part, keys[other], v) for part, (other, v) in sorted(chosen.items())),
    )


def load_demo(engine: Engine) -> bool:
    """Create the project once; True where that happened now."""
    with Session(engine) as session, session.begin():
        load_alone(session)
        project, is_new = projects.ensure(session, PROJECT)
        if is_new:
            ids = texture_ids(session, project.id)
            made: dict[str, str] = {}
            for build in DEMO_GRAPHS:
                name = build.__name__
                graph = with_backdrop_materials(name, build(ids), made)
                # Through the file format, so that the demo passes the checks of any import.
                made[name] = str(graphs.create(session, project.id, graph_from_json(graph_to_json(graph), name)).id)
        return is_new
