"""What stands on meshes at Heron Lock and reads what was baked there: the ferry's rudder, pennants on their line."""

from velvet_moth.core.document.graph import Graph
from velvet_moth.demo.graphs import Textures
from velvet_moth.demo.sketch import Sketch


def rudder(textures: Textures) -> Graph:
    """Seasoned planks under old paint, iron straps that rust: worn on ridges, dirty in hollows, everything projected."""
    s = Sketch("Ferry rudder", "rounded_box", "open_dock", tags="metal, prop, wood", mesh=textures["mesh_rudder_board"])
    s.add("data", "vertex_colour", "Baked here")
    s.add("more", "vertex_colour", "Baked beside it", {"set": "second"})
    s.add("place", "object_position", "Place")
    s.add("parts", "split_three", "Along the grain", vector="@place.position")
    s.add("across", "multiply", "Across", a="@parts.x", b=9.0)
    s.add("along", "multiply", "Along", a="@parts.y", b=0.9)
    s.add("deep", "multiply", "Into the wood", a="@parts.z", b=9.0)
    s.add("fibre_place", "combine_three", "Fibres", x="@across.result", y="@along.result", z="@deep.result")
    s.add("fibre", "fractal_in_space", "Fibre", {"layers": 5}, place="@fibre_place.vector", scale=4.0, gain=0.6, seed=5)
    s.add(
        "wood",
        "gradient",
        "Seasoned wood",
        at="@fibre.value",
        stops=(0.25, 0.085, 0.052, 0.030, 0.5, 0.21, 0.145, 0.092, 0.8, 0.37, 0.29, 0.205),
    )
    s.add("each", "remap", "Each plank", value="@more.green", to_low=-0.55, to_high=0.45)
    s.add("plank", "brightness", "Its own tone", colour="@wood.colour", stops="@each.result")
    # Old paint by a third: it stays where the weather does not reach, and is off on ridges first.
    s.add("ridge", "remap", "Ridges", value="@data.green", from_low=0.56, from_high=0.9)
    s.add("bare", "multiply", "Rubbed off", a="@ridge.result", b=0.7)
    s.add("kept", "subtract", "Still there", a="@data.alpha", b="@bare.result")
    s.add("paint_edge", "smooth_step", "Old paint", value="@kept.result", low=0.515, high=0.535)
    s.add("paint", "colour", "Paint colour", value=(0.035, 0.13, 0.105))
    s.add("faded", "brightness", "Faded", colour="@paint.colour", stops="@fade.result")
    s.add("fade", "remap", "Fading", value="@fibre.value", to_low=-0.4, to_high=0.9)
    s.add("pale", "brightness", "Rubbed wood", colour="@plank.colour", stops="@worn.result")
    s.add("worn", "multiply", "Wear on edges", a="@ridge.result", b=0.9)
    s.add("coat", "mix", "Painted", a="@pale.colour", b="@faded.colour", amount="@paint_edge.result")
    s.add("hollow", "smooth_step", "Hollows", value="@data.red", low=0.72, high=0.3)
    s.add("dirt", "multiply", "Dirt", a="@hollow.result", b=0.85)
    s.add("dirt_colour", "colour", "Dirt colour", value=(0.022, 0.024, 0.016))
    s.add("dirty", "mix", "Dirty", a="@coat.result", b="@dirt_colour.colour", amount="@dirt.result")
    s.add("wood_kept", "clamp", "Keep in 0..1", value="@dirty.result")
    s.add("gloss", "mix", "Gloss", a=0.84, b=0.42, amount="@paint_edge.result")
    s.add("relief", "bump", "Fibres in relief", height="@fibre.value", depth=0.004)
    s.add(
        "planks",
        "surface",
        "Planks",
        base_colour="@wood_kept.result",
        roughness="@gloss.result",
        normal="@relief.normal",
        occlusion="@data.red",
    )
    s.add("rust_places", "fractal_in_space", "Rust", {"layers": 5}, scale=11.0, gain=0.6, seed=9)
    s.add("rusty", "smooth_step", "Rusted", value="@rust_places.value", low=0.42, high=0.56)
    s.add("rubbed", "subtract", "Not on ridges", a="@rusty.result", b="@ridge.result")
    s.add("rust", "clamp", "Rust", value="@rubbed.result")
    s.add("rust_colour", "colour", "Rust colour", value=(0.19, 0.062, 0.022))
    s.add("iron_colour", "mix", "Iron", a=(0.24, 0.235, 0.23), b="@rust_colour.colour", amount="@rust.result")
    s.add("iron_rough", "mix", "Iron roughness", a=0.38, b=0.9, amount="@rust.result")
    s.add("iron_metal", "invert", "Bare metal", value="@rust.result")
    s.add("iron_relief", "bump", "Pits", height="@rust_places.value", depth=0.01)
    s.add(
        "iron",
        "surface",
        "Iron",
        base_colour="@iron_colour.result",
        metallic="@iron_metal.result",
        roughness="@iron_rough.result",
        normal="@iron_relief.normal",
        occlusion="@data.red",
    )
    s.add("is_iron", "smooth_step", "Iron or wood", value="@more.red", low=0.02, high=0.005)
    s.add("both", "mix_surfaces", "Both", a="@planks.surface", b="@iron.surface", amount="@is_iron.result")
    s.dock(surface="@both.surface")
    s.open("Paint colour", "paint", "value", group="Paint")
    s.open("Paint from", "paint_edge", "low", 0.3, 0.7, group="Paint")
    s.open("Paint to", "paint_edge", "high", 0.3, 0.7, group="Paint")
    s.open("Wear on edges", "worn", "b", 0, 2, group="Age")
    s.open("Dirt", "dirt", "b", group="Age")
    s.open("Rust from", "rusty", "low", group="Age")
    s.open("Rust to", "rusty", "high", group="Age")
    s.variant("Just painted", paint_from=0.30, paint_to=0.32, dirt=0.2, wear_on_edges=0.1)
    s.variant("A winter on the bank", paint_from=0.60, paint_to=0.62, dirt=1.0, rust_from=0.2, rust_to=0.4)
    s.variant("Ox-blood", paint_colour=(0.20, 0.028, 0.018))
    return s.graph()


def pennants(textures: Textures) -> Graph:
    """Pennants that hold where they are tied and beat at their tips, each in a tone and at a time of its own."""
    s = Sketch(
        "Signal pennants", "pennant", "open_dock", "two_sided", tags="cloth, moving", mesh=textures["mesh_pennants"]
    )
    s.add("data", "vertex_colour", "Baked here")
    s.add(
        "wind",
        "sway",
        "Wind",
        mask="@data.red",
        phase="@data.green",
        heading=90.0,
        strength=0.22,
        speed=0.45,
        gusts=0.6,
        flutter=0.03,
    )
    s.add(
        "dye",
        "gradient",
        "Dyes",
        at="@data.green",
        stops=(0.0, 0.30, 0.05, 0.04, 0.35, 0.42, 0.30, 0.09, 0.7, 0.05, 0.16, 0.24, 1.0, 0.36, 0.33, 0.28),
    )
    s.add("weave", "fractal_in_space", "Weave", {"layers": 4}, scale=38.0, gain=0.6, seed=2)
    s.add("tone", "remap", "Its tone", value="@weave.value", to_low=-0.5, to_high=0.5)
    s.add("cloth", "brightness", "Cloth", colour="@dye.colour", stops="@tone.result")
    s.add("bleach", "multiply", "Bleached at the tip", a="@data.red", b=0.35)
    s.add("pale", "mix", "Bleached", a="@cloth.colour", b=(0.55, 0.52, 0.46), amount="@bleach.result")
    s.add("kept", "clamp", "Keep in 0..1", value="@pale.result")
    s.add("glow", "light_through", "Light through", colour="@kept.result", thin=0.6, sharpness=2.0, spread=0.6)
    s.dock(base_colour="@kept.result", roughness=0.8, emissive="@glow.colour", offset="@wind.offset")
    s.open("Wind", "wind", key="strength", low=0, high=1, step=0.005, unit="m", group="Wind")
    s.open("Flutter", "wind", key="flutter", low=0, high=0.1, step=0.001, unit="m", group="Wind")
    s.open("Dyes", "dye", "stops", group="Cloth")
    s.open("Bleached at the tip", "bleach", "b", group="Cloth")
    s.variant("Still air", wind=0.03, flutter=0.004)
    s.variant("New cloth", bleached_at_the_tip=0.0)
    return s.graph()
