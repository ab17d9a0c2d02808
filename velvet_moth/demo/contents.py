"""What Heron Lock consists of: its graphs, and the surfaces of their backdrops."""

from collections.abc import Mapping
from dataclasses import replace
from functools import cache

from velvet_moth.core.document.graph import Graph
from velvet_moth.core.document.scene import BackdropMaterial
from velvet_moth.core.pictures.library import NamedPicture
from velvet_moth.demo.ageing import boathouse_wall, signal_lantern
from velvet_moth.demo.built import block_lantern, keepers_house
from velvet_moth.demo.graphs import basin_shimmer, ferry_enamel, pebble_patch, slate_step
from velvet_moth.demo.grounds import boathouse_tiles, chalk_marks, ferry_crate, rain_seep, silt_splash
from velvet_moth.demo.growing import dock_leaf, slate_bluff
from velvet_moth.demo.meshes import DEMO_MESHES
from velvet_moth.demo.metal_and_hair import bronze_gear, ferrywomans_braid
from velvet_moth.demo.moving import basin_water, wind_reeds
from velvet_moth.demo.painted import gravel_quay_patch, planks_on_the_quay, setts_on_the_quay, slate_on_the_quay
from velvet_moth.demo.sea import estuary
from velvet_moth.demo.streams import weir_stream
from velvet_moth.demo.textures import made_textures, recipes_by_key
from velvet_moth.demo.thrown import SPURTS, quay_splash, splash_drops, steam_ribbon
from velvet_moth.demo.weathered import pennants, rudder

DEMO_GRAPHS = (
    pebble_patch,
    slate_step,
    basin_shimmer,
    ferry_enamel,
    boathouse_tiles,
    silt_splash,
    chalk_marks,
    rain_seep,
    ferry_crate,
    wind_reeds,
    slate_bluff,
    dock_leaf,
    ferrywomans_braid,
    bronze_gear,
    rudder,
    pennants,
    gravel_quay_patch,
    setts_on_the_quay,
    planks_on_the_quay,
    slate_on_the_quay,
    weir_stream,
    estuary,
    boathouse_wall,
    signal_lantern,
    splash_drops,
    quay_splash,
    steam_ribbon,
    block_lantern,
    keepers_house,
    basin_water,
)
# The surfaces of parts of the backdrops of some: the names of graphs above that come before them.
BACKDROP_MATERIALS: Mapping[str, Mapping[str, tuple[str, str]]] = {
    "basin_water": {"lock_basin.bed": ("pebble_patch", "")},
    "chalk_marks": {"wall_and_floor.floor": ("slate_step", "")},
    "rain_seep": {"wall_and_floor.floor": ("slate_step", "")},
}


def with_others(name: str, graph: Graph, keys: Mapping[str, str]) -> Graph:
    """The graph of the demo of that name with the other graphs it uses, by the keys those are kept by."""
    chosen = BACKDROP_MATERIALS.get(name, {})
    return replace(
        graph,
        spurt=keys[SPURTS[name]] if name in SPURTS else "",
        backdrop_materials=tuple(BackdropMaterial(part, keys[other], v) for part, (other, v) in sorted(chosen.items())),
    )


@cache
def named_graphs() -> Mapping[str, Graph]:
    """The graphs by name; textures, meshes and other graphs are called by their names in the demo."""
    names = {key: key for key in (*texture_names(), *mesh_names())}
    keys = {build.__name__: build.__name__ for build in DEMO_GRAPHS}
    return {build.__name__: with_others(build.__name__, build(names), keys) for build in DEMO_GRAPHS}


def texture_names() -> list[str]:
    """What its stacks make, by "stack_output", and what is baked of its meshes."""
    made = [f"{key}_{output.id}" for key, recipe in recipes_by_key().items() for output in recipe.outputs]
    return made + [key for mesh in DEMO_MESHES.values() for key in mesh.flows]


@cache
def demo_textures() -> Mapping[str, NamedPicture]:
    """All of them, made, by name."""
    flows = [mesh.flow_maps() for mesh in DEMO_MESHES.values()]
    return {**made_textures(), **{key: made for one in flows for key, made in one.items()}}


def mesh_names() -> list[str]:
    """What its meshes are called by graphs."""
    return [f"mesh_{key}" for key in DEMO_MESHES]
