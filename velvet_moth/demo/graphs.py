"""Paints and stones of Heron Lock. Each takes texture ids by the names in ``textures.py``."""

from collections.abc import Mapping

from velvet_moth.core.document.graph import Graph
from velvet_moth.demo.sketch import Sketch

Textures = Mapping[str, str]


def ferry_enamel(textures: Textures) -> Graph:
    """Flake base coat in three colours by view, under a gloss whose roughness follows the rim."""
    s = Sketch("Ferry enamel", tags="car paint, metal")
    s.add("flake_tile", "tile", "Flake tiling", tiling=(6, 6))
    s.add("flake_map", "normal_map", "Flake map", texture=textures["flake_normal"], uv="@flake_tile.uv", strength=0.55)
    s.add("flake_height", "texture", "Flake height", texture=textures["flake_height"], uv="@flake_tile.uv")
    s.add("face_tint", "colour", "Face tint", value=(0.52, 0.045, 0.022))
    s.add("side_tint", "colour", "Side tint", value=(0.40, 0.035, 0.10))
    s.add("rim_shade", "colour", "Rim shade", value=(0.045, 0.006, 0.02))
    s.add("turning", "view_falloff", "Turning away", power=0.9)
    s.add("rim", "view_falloff", "Rim", power=3.0)
    s.add(
        "two_tints",
        "mix",
        "Two tints",
        a="@face_tint.colour",
        b="@side_tint.colour",
        amount="@turning.value",
    )
    s.add("three_colours", "mix", "Three colours", a="@two_tints.result", b="@rim_shade.colour", amount="@rim.value")
    s.add(
        "base_coat",
        "surface",
        "Flake coat",
        base_colour="@three_colours.result",
        metallic=1.0,
        roughness=0.34,
        normal="@flake_map.normal",
    )
    s.add("gloss_fall", "view_falloff", "Gloss fall", power=1.5)
    s.add("gloss_scale", "multiply", "Gloss roughness", a="@gloss_fall.value", b=0.35)
    s.add("gloss_range", "clamp", "Keep in 0..1", value="@gloss_scale.result")
    s.add(
        "gloss",
        "surface",
        "Clear gloss",
        base_colour="@two_tints.result",
        roughness="@gloss_range.result",
        clear_coat=1.0,
        coat_roughness=0.04,
    )
    s.add("seen_face_on", "view_falloff", "Face-on", {"direction": "centre"}, power=2.2)
    s.add("sparkle", "smooth_step", "Flake mask", value="@flake_height.red", low=0.15, high=0.75)
    s.add("flakes_face_on", "multiply", "Flakes face-on", a="@sparkle.result", b="@seen_face_on.value")
    s.add(
        "layers",
        "mix_surfaces",
        "Gloss under flakes",
        a="@gloss.surface",
        b="@base_coat.surface",
        amount="@flakes_face_on.result",
    )
    s.dock(surface="@layers.surface")
    s.open("Face tint", "face_tint", "value")
    s.open("Side tint", "side_tint", "value")
    s.open("Rim shade", "rim_shade", "value")
    s.open("Flake tiling", "flake_tile", "tiling", 1, 24, 0.5)
    s.open("Flake strength", "flake_map", "strength", 0, 2)
    s.open("Flake roughness", "base_coat", "roughness")
    s.open("Gloss roughness", "gloss_scale", "b", -2, 4, 0.05)
    s.open("Rim width", "rim", "power", 0.5, 8, 0.1)
    s.variant("Night ferry", face_tint=(0.02, 0.11, 0.30), side_tint=(0.05, 0.04, 0.26), rim_shade=(0.004, 0.008, 0.03))
    s.variant("Coarse flake", flake_tiling=(2, 2), flake_strength=1.2, flake_roughness=0.22)
    s.variant(
        "Harbour green",
        face_tint=(0.03, 0.22, 0.12),
        side_tint=(0.14, 0.26, 0.03),
        rim_shade=(0.004, 0.02, 0.02),
        gloss_roughness=-0.8,
    )
    s.variant("Salt-dulled", gloss_roughness=3.2, flake_roughness=0.7, rim_width=1.2)
    return s.graph()


def basin_shimmer(textures: Textures) -> Graph:
    """Two layers of one ripple map that drift apart, over a colour that deepens face-on."""
    s = Sketch("Basin shimmer", tags="water")
    s.add("wide", "tile", "Wide ripples", tiling=(1.5, 1.5))
    s.add("fine", "tile", "Fine ripples", tiling=(4, 4))
    s.add("wide_drift", "scroll", "Wide drift", uv="@wide.uv", speed=(0.03, 0.02))
    s.add("fine_drift", "scroll", "Fine drift", uv="@fine.uv", speed=(-0.05, 0.04))
    s.add("wide_map", "normal_map", "Wide map", texture=textures["ripple_normal"], uv="@wide_drift.uv", strength=0.22)
    s.add("fine_map", "normal_map", "Fine map", texture=textures["ripple_normal"], uv="@fine_drift.uv", strength=0.16)
    s.add("ripples", "combine_normals", "Ripples", base="@wide_map.normal", detail="@fine_map.normal")
    s.add("deep", "colour", "Deep colour", value=(0.002, 0.022, 0.026))
    s.add("shallow", "colour", "Shallow colour", value=(0.04, 0.13, 0.10))
    s.add("grazing", "view_falloff", "Grazing", power=1.6)
    s.add("water", "mix", "Water colour", a="@deep.colour", b="@shallow.colour", amount="@grazing.value")
    s.dock(base_colour="@water.result", normal="@ripples.normal", roughness=0.16)
    s.open("Deep colour", "deep", "value")
    s.open("Shallow colour", "shallow", "value")
    s.open("Wide strength", "wide_map", "strength", 0, 2)
    s.open("Fine strength", "fine_map", "strength", 0, 2)
    s.open("Roughness", "dock", "roughness")
    s.variant("Peat brown", deep_colour=(0.03, 0.012, 0.003), shallow_colour=(0.28, 0.15, 0.05))
    s.variant("Spring melt", deep_colour=(0.03, 0.12, 0.14), shallow_colour=(0.40, 0.55, 0.48), wide_strength=0.5)
    return s.graph()


def slate_step(textures: Textures) -> Graph:
    """Slate with veins of moss where fractal noise is high; all patterns computed, no texture read."""
    s = Sketch("Slate step", tags="ground, moss, stone")
    s.add("stone_noise", "fractal_noise", "Stone", {"layers": 5}, scale=5.0, gain=0.55, seed=4)
    s.add("moss_noise", "fractal_noise", "Moss places", {"layers": 3}, scale=2.5, gain=0.5, seed=21)
    s.add("moss_mask", "smooth_step", "Moss mask", value="@moss_noise.value", low=0.48, high=0.60)
    s.add("dark", "colour", "Dark slate", value=(0.012, 0.017, 0.022))
    s.add("light", "colour", "Light slate", value=(0.085, 0.095, 0.105))
    s.add("moss_colour", "colour", "Moss", value=(0.028, 0.05, 0.008))
    s.add("stone_colour", "mix", "Stone colour", a="@dark.colour", b="@light.colour", amount="@stone_noise.value")
    s.add("stone_rough", "remap", "Stone roughness", value="@stone_noise.value", to_low=0.35, to_high=0.75)
    s.add("stone", "surface", "Slate", base_colour="@stone_colour.result", roughness="@stone_rough.result")
    s.add("moss", "surface", "Moss coat", base_colour="@moss_colour.colour", roughness=0.95, occlusion=0.8)
    s.add("mossy", "mix_surfaces", "Mossy slate", a="@stone.surface", b="@moss.surface", amount="@moss_mask.result")
    s.dock(surface="@mossy.surface")
    s.open("Dark slate", "dark", "value")
    s.open("Light slate", "light", "value")
    s.open("Moss", "moss_colour", "value")
    s.open("Moss begins", "moss_mask", "low", 0.2, 0.8)
    s.open("Moss ends", "moss_mask", "high", 0.3, 0.9)
    s.variant("Dry summer", moss=(0.11, 0.075, 0.02), light_slate=(0.16, 0.15, 0.135))
    s.variant("After rain", dark_slate=(0.004, 0.006, 0.009), moss_begins=0.42, moss_ends=0.52)
    return s.graph()


def pebble_patch(textures: Textures) -> Graph:
    """Quay gravel: cells with a tone of their own and dark gaps."""
    s = Sketch("Quay pebbles", tags="ground, stone")
    s.add("cells", "cell_noise", "Pebbles", scale=9.0, seed=5)
    s.add("gap", "smooth_step", "Gaps", value="@cells.distance", low=0.68, high=0.5)
    s.add("warm", "colour", "Warm pebble", value=(0.24, 0.15, 0.09))
    s.add("cool", "colour", "Cool pebble", value=(0.07, 0.09, 0.11))
    s.add("grout", "colour", "Silt", value=(0.012, 0.009, 0.006))
    s.add("tone", "mix", "Each its tone", a="@warm.colour", b="@cool.colour", amount="@cells.random")
    s.add("laid", "mix", "In silt", a="@grout.colour", b="@tone.result", amount="@gap.result")
    s.add("wet", "remap", "Wet gaps", value="@gap.result", to_low=0.15, to_high=0.7)
    s.dock(base_colour="@laid.result", roughness="@wet.result", occlusion="@gap.result")
    s.open("Warm pebble", "warm", "value")
    s.open("Cool pebble", "cool", "value")
    s.open("Silt", "grout", "value")
    s.open("Pebbles across", "cells", "scale", 2, 24, 0.5)
    s.variant("Chalk gravel", warm_pebble=(0.72, 0.68, 0.58), cool_pebble=(0.5, 0.52, 0.5), silt=(0.25, 0.22, 0.17))
    return s.graph()
