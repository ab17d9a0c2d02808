"""Surfaces of what is built of blocks: the lock-keeper's house through its years and a night, and the lantern that glows."""

from velvet_moth.core.document.graph import Graph
from velvet_moth.core.document.tracks.track import Key
from velvet_moth.demo.block_materials import COLUMNS, ROWS
from velvet_moth.demo.graphs import Textures
from velvet_moth.demo.sketch import Sketch

PADDING = 0.0625


def _tiles(s: Sketch, textures: Textures, ways: str) -> None:
    """The palette, each block a little lighter or darker than the next."""
    s.add("block", "block", "Each block", seed=3.0)
    s.add(
        "tile",
        "palette_tile",
        "Its material",
        {"ways": ways},
        base_colour=textures["blocks_base"],
        metallic=textures["blocks_metallic"],
        roughness=textures["blocks_roughness"],
        normal=textures["blocks_normal"],
        height=textures["blocks_height"],
        emission=textures["blocks_emission"],
        columns=float(COLUMNS),
        rows=float(ROWS),
        padding=PADDING,
        seed=5.0,
    )
    s.add("own_tone", "remap", "Its own tone", value="@block.random", to_low=-0.3, to_high=0.2)
    s.add("toned", "brightness", "Toned", colour="@tile.base_colour", stops="@own_tone.result")


def keepers_house(textures: Textures) -> Graph:
    """Planks, brick, thatch and lit windows; weather gathers in corners and rubs off edges, snow stays on what faces up."""
    s = Sketch(
        "Lock-keeper's house",
        "voxel_block",
        "lantern_dusk",
        tags="blocks, building, prop",
        mesh=textures["mesh_keepers_house"],
    )
    _tiles(s, textures, "mirrored")
    s.add("data", "vertex_colour", "Baked here")
    s.add("place", "object_position", "Place")
    s.add(
        "patches", "fractal_in_space", "Patches", {"layers": 4}, place="@place.position", scale=1.6, gain=0.6, seed=8.0
    )
    # Corners that see little of the sky keep dirt, the more where patches are.
    s.add("hidden", "remap", "Hidden corners", value="@data.red", from_low=0.95, from_high=0.35)
    s.add("gathered", "multiply", "Gathered", a="@hidden.result", b="@patches.value")
    s.add("streaked", "smooth_step", "Weathered", value="@gathered.result", low=0.05, high=0.4)
    s.add("dirt", "multiply", "Dirt", a="@streaked.result", b=0.0)
    s.add("dirt_colour", "colour", "Dirt colour", value=(0.03, 0.03, 0.016))
    s.add("dirty", "mix", "Dirty", a="@toned.colour", b="@dirt_colour.colour", amount="@dirt.result")
    # What sticks out is bleached where its edges are rubbed.
    s.add("ridge", "smooth_step", "Outer edges", value="@data.green", low=0.55, high=0.85)
    s.add("rubbed", "multiply", "Rubbed", a="@ridge.result", b=0.0)
    s.add("pale", "brightness", "Bleached", colour="@dirty.result", stops="@rubbed.result")
    s.add("up", "slope", "Faces up")
    s.add("open", "smooth_step", "Under the sky", value="@data.red", low=0.3, high=0.75)
    s.add("lies", "multiply", "Where snow stays", a="@up.value", b="@open.result")
    s.add("drift", "add", "Drifted", a="@lies.result", b="@patches.value")
    s.add("edge", "smooth_step", "Snow edge", value="@drift.result", low=1.02, high=1.2)
    s.add("snow", "multiply", "Snow", a="@edge.result", b=0.0)
    s.add("white", "colour", "Snow colour", value=(0.78, 0.82, 0.88))
    s.add("covered", "mix", "Covered", a="@pale.colour", b="@white.colour", amount="@snow.result")
    s.add("kept", "clamp", "Keep in 0..1", value="@covered.result")
    s.add("gloss", "mix", "Gloss", a="@tile.roughness", b=0.92, amount="@dull.result")
    s.add("dull", "maximum", "Dull", a="@dirt.result", b="@snow.result")
    s.add("bare", "invert", "Not under snow", value="@snow.result")
    s.add("metal", "multiply", "Metal", a="@tile.metallic", b="@bare.result")
    s.add("bumps", "normal_strength", "Bumps", normal="@tile.normal", strength="@bare.result")
    s.add("glow", "multiply", "Glow", a="@tile.base_colour", b="@tile.emission")
    s.dock(
        base_colour="@kept.result",
        metallic="@metal.result",
        roughness="@gloss.result",
        normal="@bumps.normal",
        occlusion="@data.red",
        emissive="@glow.result",
        emissive_strength=1.5,
    )
    s.open("Weather", "dirt", "b", group="Years")
    s.open("Rubbed edges", "rubbed", "b", high=2.0, unit="stops", group="Years")
    s.open("Snow", "snow", "b", group="Years")
    s.open("Lamps", "dock", "emissive_strength", high=20.0, step=0.1, group="Night")
    s.variant("Weathered", weather=0.95, rubbed_edges=1.1)
    s.variant("Snow on top", weather=0.4, rubbed_edges=0.4, snow=1.0, lamps=2.5)
    s.variant("Night", weather=0.5, rubbed_edges=0.5, lamps=5.0)
    s.keys("scene/sun", Key(0.0, (0.04,)), variant="night")
    return s.graph()


def block_lantern(textures: Textures) -> Graph:
    """Bronze, copper and slate about a glass that glows; every block's tile is turned by chance."""
    s = Sketch("Block lantern", "voxel_block", "lantern_dusk", tags="blocks, prop", mesh=textures["mesh_block_lantern"])
    _tiles(s, textures, "turned and mirrored")
    s.add("kept", "clamp", "Keep in 0..1", value="@toned.colour")
    s.add("glow", "multiply", "Glow", a="@tile.base_colour", b="@tile.emission")
    s.dock(
        base_colour="@kept.result",
        metallic="@tile.metallic",
        roughness="@tile.roughness",
        normal="@tile.normal",
        emissive="@glow.result",
        emissive_strength=3.0,
    )
    s.open("Flame", "dock", "emissive_strength", high=20.0, step=0.1)
    return s.graph()
