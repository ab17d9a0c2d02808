"""Grounds of Heron Lock that somebody has walked on: boathouse tiles, and silt thrown on planks."""

from dataclasses import replace
from typing import Any

from velvet_moth.core.document.graph import Graph
from velvet_moth.core.lighting.decals import Decal
from velvet_moth.demo.graphs import Textures
from velvet_moth.demo.sketch import Sketch


def boathouse_tiles(textures: Textures) -> Graph:
    """Tiles that each have a tone and a roughness of their own, worn where feet go, moss in the joints."""
    s = Sketch("Boathouse tiles", "plane", tags="ground, ceramic")
    s.add("tiles", "brick", "Tiles", tiling=(5, 5), shift=0.5, gap=0.09, seed=2)
    s.add("tone", "random_per_cell", "Tone of each", cell="@tiles.cell", seed=11)
    s.add("polish", "random_per_cell", "Polish of each", cell="@tiles.cell", seed=12, low=0.22, high=0.55)
    s.add(
        "glaze",
        "gradient",
        "Glazes",
        at="@tone.value",
        stops=(0.0, 0.14, 0.045, 0.025, 0.45, 0.28, 0.10, 0.045, 0.8, 0.38, 0.19, 0.09, 1.0, 0.07, 0.13, 0.14),
    )
    s.add("grain", "fractal_noise", "Grain", {"layers": 5}, scale=9.0, gain=0.6, seed=31)
    s.add("grain_tone", "multiply", "Grain over glaze", a="@glaze.colour", b="@grain_range.result")
    s.add(
        "grain_range",
        "remap",
        "Grain range",
        value="@grain.value",
        from_low=0.2,
        from_high=0.8,
        to_low=0.55,
        to_high=1.0,
    )
    s.add("joint_edge", "disc", "Rounded", uv="@tiles.uv", inner=0.42, outer=0.62)
    s.add("joint_height", "multiply", "Height", a="@tiles.brick", b="@joint_edge.value")
    s.add("moss_noise", "fractal_noise", "Moss places", {"layers": 4}, scale=3.0, gain=0.55, seed=5)
    s.add("moss_height", "remap", "Moss height", value="@moss_noise.value", from_low=0.3, from_high=0.7)
    s.add("moss_colour", "colour", "Moss", value=(0.035, 0.055, 0.01))
    s.add(
        "mossy",
        "height_mix",
        "Moss in the joints",
        a="@grain_tone.result",
        b="@moss_colour.colour",
        a_height="@joint_height.result",
        b_height="@moss_height.result",
        amount=0.36,
        sharpness=0.8,
    )
    s.add("rough", "mix", "Roughness", a="@polish.value", b=0.95, amount="@mossy.mask")
    s.add("relief", "bump", "Relief", height="@joint_height.result", depth=0.03)
    s.dock(base_colour="@mossy.result", roughness="@rough.result", normal="@relief.normal", occlusion="@shade.result")
    s.add("shade", "remap", "Shade of joints", value="@joint_height.result", to_low=0.45, to_high=1.0)
    s.open("Glazes", "glaze", "stops", group="Tiles")
    s.open("Tiles", "tiles", "tiling", 1, 16, 1, group="Tiles")
    s.open("Joint", "tiles", "gap", 0, 0.4, group="Tiles")
    s.open("Moss", "mossy", "amount", group="Moss")
    s.open("Moss colour", "moss_colour", "value", group="Moss")
    s.variant("Scrubbed", moss=0.0)
    s.variant(
        "Blue room",
        glazes=(0.0, 0.01, 0.03, 0.09, 0.4, 0.03, 0.09, 0.20, 0.75, 0.35, 0.38, 0.36, 1.0, 0.02, 0.05, 0.12),
        moss=0.2,
    )
    return s.graph()


def chalk_marks(textures: Textures) -> Graph:
    """The lock keepers' chalk, each mark a decal with a picture and a tint of its own, worn where the wall is rough."""
    s = Sketch("Lock keepers' marks", "corner", "open_dock", "decal", "wall_and_floor", tags="decal")
    s.add("decal", "decal", "Each mark")
    s.add(
        "marks",
        "atlas_cell",
        "Mark",
        texture=textures["chalk_marks"],
        columns=4,
        rows=2,
        padding=0.03125,
        index="@decal.index",
    )
    s.add("place", "position", "On the wall", {"at": "moved"})
    s.add("rub_noise", "fractal_in_space", "Rubbed off", {"layers": 5}, place="@place.position", scale=9.0, gain=0.6)
    s.add("age", "number", "Age", value=0.35)
    s.add("edge", "add", "A soft edge", a="@age.value", b=0.25)
    s.add("left", "smooth_step", "What is left", value="@rub_noise.value", low="@age.value", high="@edge.result")
    s.add("chalked", "multiply", "Chalk", a="@marks.alpha", b="@left.result")
    s.add("chalk", "colour", "Chalk colour", value=(0.86, 0.84, 0.78))
    s.add("tinted", "multiply", "Tint of each", a="@chalk.colour", b="@decal.tint")
    s.add("dust", "bump", "Grain of chalk", height="@chalked.result", depth=0.004)
    s.dock(base_colour="@tinted.result", roughness=0.95, normal="@dust.normal", opacity="@chalked.result")
    s.open("Age", "age", "value", 0, 0.8, group="Chalk")
    s.open("Chalk colour", "chalk", "value", group="Chalk")
    s.open("Grain", "dust", key="depth", low=0, high=0.02, step=0.001, unit="m", group="Chalk")
    s.variant("Fresh", age=0.0)
    s.variant("Many winters", age=0.5)
    s.variant("Red lead", chalk_colour=(0.42, 0.045, 0.015), age=0.2, grain=0.001)
    return s.graph()


def rain_seep(textures: Textures) -> Graph:
    """Rain that seeps down a wall and stands on the floor: decals that only wet what they lie on, and flatten it there."""
    s = Sketch("Rain seep", "corner", "open_dock", "decal", "wall_and_floor", tags="decal, water")
    s.add("away", "disc", "Away from the middle")
    s.add("place", "position", "On the wall", {"at": "moved"})
    s.add("long", "multiply", "Drawn out downwards", a="@place.position", b=(7.0, 0.9, 7.0))
    s.add("ragged", "fractal_in_space", "Ragged", {"layers": 5}, place="@long.result", scale=1.0, gain=0.55, seed=4)
    s.add("spread", "number", "How much rain", value=0.8)
    s.add("bite", "multiply", "Bitten out", a="@ragged.value", b=0.8)
    s.add("reach", "add", "Reach", a="@away.distance", b="@bite.result")
    s.add("from", "add", "Where it ends", a="@spread.value", b=-0.24)
    s.add("wet", "smooth_step", "Wet", value="@reach.result", low="@spread.value", high="@from.result")
    s.add("soaking", "smooth_step", "Standing water", value="@wet.result", low=0.5, high=1.0)
    s.add("slime", "colour", "Slime", value=(0.05, 0.075, 0.03))
    s.add("growth", "number", "How much slime", value=0.25)
    s.add("green", "multiply", "Green", a="@wet.result", b="@growth.value")
    s.dock(
        base_colour="@slime.colour",
        opacity=1.0,
        colour_amount="@green.result",
        normal_amount="@soaking.result",
        roughness_amount=0.0,
        metallic_amount=0.0,
        wetness="@wet.result",
    )
    s.open("Rain", "spread", "value", 0.3, 1.1, group="Seep")
    s.open("Slime", "growth", "value", group="Seep")
    s.open("Slime colour", "slime", "value", group="Seep")
    s.variant("Drying", rain=0.6, slime=0.1)
    s.variant("Downpour", rain=0.98, slime=0.0)
    s.variant("Never dry", rain=0.86, slime=0.85)
    places = (
        Decal((-0.55, 0.35, -1.2), size=(1.5, 2.2, 0.4), index=1.0),
        Decal((0.75, 0.2, -1.2), size=(1.0, 1.9, 0.4), index=2.0),
        Decal((0.05, -1.1, -0.25), tilt=90.0, size=(2.3, 1.7, 0.4), index=3.0),
    )
    return replace(s.graph(), decals=places)


def ferry_crate(textures: Textures) -> Graph:
    """A crate of planks and iron, open at the top: one mark outside, another inside, mirrored right or as it comes."""
    s = Sketch("Ferry crate", "box", "open_dock", "cut_out", tags="wood, prop")
    s.add("planks", "brick", "Planks", tiling=(1, 5), shift=0.0, gap=0.035, seed=4)
    s.add("stretch", "tile", "Along the grain", tiling=(2.0, 22.0))
    s.add("grain", "fractal_noise", "Grain", {"layers": 5}, uv="@stretch.uv", scale=2.0, gain=0.6, seed=3)
    s.add("tone", "random_per_cell", "Tone of each", cell="@planks.cell", seed=9, low=-0.6, high=0.35)
    s.add("dark", "colour", "Dark wood", value=(0.09, 0.05, 0.026))
    s.add("pale", "colour", "Pale wood", value=(0.36, 0.23, 0.125))
    s.add("wood", "mix", "Wood", a="@dark.colour", b="@pale.colour", amount="@grain.value")
    s.add("each", "brightness", "Each plank", colour="@wood.result", stops="@tone.value")
    s.add("jointed", "multiply", "Dark joints", a="@each.colour", b="@planks.brick")
    s.add("side", "face_side", "Side")
    s.add("right", "toggle", "Mirrored right", value=1.0)
    s.add("turned", "mirror_back", "Turned over behind")
    s.add("plain_uv", "uv", "As it comes")
    s.add("place", "choose", "Which way round", condition="@right.answer", yes="@turned.uv", no="@plain_uv.uv")
    cell: dict[str, Any] = {
        "texture": textures["chalk_marks"],
        "columns": 4,
        "rows": 2,
        "padding": 0.03125,
        "uv": "@place.result",
    }
    s.add("outer", "atlas_cell", "Mark outside", index=8, **cell)
    s.add("inner", "atlas_cell", "Mark inside", index=2, **cell)
    s.add("mark", "mix", "Mark of this side", a="@inner.alpha", b="@outer.alpha", amount="@side.front")
    s.add("worn", "smooth_step", "Worn", value="@grain.value", low=0.25, high=0.6)
    s.add("chalk", "multiply", "Chalk left", a="@mark.result", b="@worn.result")
    s.add("chalk_colour", "colour", "Chalk", value=(0.84, 0.80, 0.70))
    s.add("marked", "mix", "Marked", a="@jointed.result", b="@chalk_colour.colour", amount="@chalk.result")
    s.add("edge", "grid_distance", "To the edge", tiling=(1, 1))
    s.add("strap", "smooth_step", "Iron strap", value="@edge.distance", low=0.072, high=0.064)
    s.add("rust_noise", "fractal_noise", "Rust", {"layers": 4}, scale=7.0, gain=0.6, seed=17)
    s.add("iron", "colour", "Iron", value=(0.26, 0.25, 0.25))
    s.add("rust", "colour", "Rust colour", value=(0.19, 0.065, 0.02))
    s.add("rusty", "mix", "Rusty iron", a="@iron.colour", b="@rust.colour", amount="@rusted.result")
    s.add("rusted", "smooth_step", "Rusted", value="@rust_noise.value", low=0.42, high=0.62)
    s.add("bound", "mix", "Bound", a="@marked.result", b="@rusty.result", amount="@strap.result")
    s.add("bare", "invert", "Bare iron", value="@rusted.result")
    s.add("metal", "multiply", "Metal", a="@strap.result", b="@bare.result")
    s.add("rough", "mix", "Roughness", a=0.78, b=0.38, amount="@metal.result")
    s.add("inside_shade", "mix", "Dim inside", a=0.45, b=1.0, amount="@side.front")
    s.add("raised", "sum_of_heights", "Relief", first="@planks.brick", first_strength=0.5, second="@strap.result")
    s.add("relief", "bump", "Bumps", height="@raised.height", depth=0.012)
    s.add("in_box", "bounds_position", "In its box")
    s.add("open_at", "number", "Open above", value=0.9)
    s.add("height", "split_three", "Height", vector="@in_box.vector")
    s.add("kept", "compare", "Below", {"asks": "below"}, a="@height.y", b="@open_at.value")
    s.add("cut", "choose", "Cut away", condition="@kept.answer", yes=1.0, no=0.0)
    s.dock(
        base_colour="@bound.result",
        metallic="@metal.result",
        roughness="@rough.result",
        normal="@relief.normal",
        occlusion="@inside_shade.result",
        opacity="@cut.result",
    )
    s.open("Mirrored right", "right", "value", group="Marks")
    s.open("Mark outside", "outer", "index", 1, 8, 1, group="Marks")
    s.open("Mark inside", "inner", "index", 1, 8, 1, group="Marks")
    s.open("Open above", "open_at", "value", 0.1, 1.1, group="Crate")
    s.open("Pale wood", "pale", "value", group="Crate")
    s.open("Dark wood", "dark", "value", group="Crate")
    s.variant("As it comes", mirrored_right=0.0)
    s.variant("Half broken", open_above=0.52, mark_outside=4.0)
    s.variant("Tarred", pale_wood=(0.03, 0.026, 0.024), dark_wood=(0.008, 0.008, 0.009), mark_outside=7.0)
    return s.graph()


def silt_splash(textures: Textures) -> Graph:
    """A blot of silt on planks: ragged by the world's own noise, wet in the middle, hard or soft by a toggle."""
    s = Sketch("Silt splash", "plane", tags="decal, ground")
    s.add("planks", "brick", "Planks", tiling=(1, 6), shift=0.37, gap=0.035, seed=4)
    s.add("stretch", "tile", "Along the grain", tiling=(2.0, 30.0))
    s.add("wood_noise", "fractal_noise", "Wood grain", {"layers": 4}, uv="@stretch.uv", scale=2.0, gain=0.6, seed=14)
    s.add("pale", "colour", "Pale wood", value=(0.22, 0.15, 0.09))
    s.add("dark", "colour", "Dark wood", value=(0.06, 0.037, 0.02))
    s.add("wood", "mix", "Wood", a="@dark.colour", b="@pale.colour", amount="@wood_noise.value")
    s.add("each", "brightness", "Each plank", colour="@wood.result", stops="@plank_tone.value")
    s.add("plank_tone", "random_per_cell", "Plank tone", cell="@planks.cell", seed=6, low=-0.7, high=0.4)
    s.add("soft_edge", "toggle", "Soft edge", value=1.0)
    s.add(
        "blot",
        "splash",
        "Blot",
        size=0.36,
        raggedness=0.55,
        grain=4.5,
        softness=0.35,
        seed=8,
        inner_colour=(0.035, 0.025, 0.014),
        outer_colour=(0.17, 0.13, 0.08),
    )
    s.add(
        "hard_blot",
        "splash",
        "Hard blot",
        {"edge": "hard"},
        size=0.36,
        raggedness=0.9,
        grain=7.0,
        seed=23,
        inner_colour=(0.035, 0.025, 0.014),
        outer_colour=(0.17, 0.13, 0.08),
    )
    s.add("mask", "choose", "Edge", condition="@soft_edge.answer", yes="@blot.mask", no="@hard_blot.mask")
    s.add("tint", "choose", "Tint", condition="@soft_edge.answer", yes="@blot.colour", no="@hard_blot.colour")
    s.add("thrown", "mix", "On the planks", a="@joints.result", b="@tint.result", amount="@mask.result")
    s.add("joints", "multiply", "Dark joints", a="@each.colour", b="@planks.brick")
    s.add("wet", "smooth_step", "Wet middle", value="@mask.result", low=0.35, high=0.95)
    s.add("rough", "mix", "Roughness", a=0.7, b=0.12, amount="@wet.result")
    s.add("wood_bump", "multiply", "Wood relief", a="@wood_noise.value", b="@planks.brick")
    s.add(
        "thick",
        "sum_of_heights",
        "Relief",
        first="@wood_bump.result",
        first_strength=0.06,
        second="@mask.result",
        second_strength=0.5,
    )
    s.add("relief", "bump", "Bumps", height="@thick.height", depth=0.018)
    s.dock(base_colour="@thrown.result", roughness="@rough.result", normal="@relief.normal")
    s.open("Soft edge", "soft_edge", "value", group="Blot")
    s.open("Size", "blot", "size", group="Blot")
    s.open("Raggedness", "blot", "raggedness", group="Blot")
    s.open("Wet middle", "blot", "inner_colour", group="Blot")
    s.open("Dry rim", "blot", "outer_colour", group="Blot")
    s.open("Pale wood", "pale", "value", group="Planks")
    s.open("Dark wood", "dark", "value", group="Planks")
    s.variant("Hard edge", soft_edge=0.0)
    s.variant("Lime wash", wet_middle=(0.5, 0.49, 0.45), dry_rim=(0.72, 0.71, 0.66))
    return s.graph()
