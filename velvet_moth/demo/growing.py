"""What grows and weathers by itself at Heron Lock: water-dock leaves and the slate bluff."""

from typing import Any

from velvet_moth.core.document.graph import Graph
from velvet_moth.demo.graphs import Textures
from velvet_moth.demo.sketch import Sketch


def dock_leaf(textures: Textures) -> Graph:
    """A leaf with two faces: glossy above, downy below, the low sun coming through where it is thin."""
    s = Sketch("Water-dock leaf", "broad_leaf", "low_sun", "two_sided", tags="foliage, two-sided")
    s.add("map", "texture", "Leaf map", texture=textures["dock_leaf_colour"])
    s.add("thin", "texture", "Thickness map", texture=textures["dock_leaf_thickness"])
    s.add("relief", "normal_map", "Veins", texture=textures["dock_leaf_normal"], strength=1.4)
    s.add("data", "vertex_colour", "Baked data")
    s.add("age", "brightness", "Each leaf", colour="@map.colour", stops="@tone.result")
    s.add("tone", "remap", "Tone of each", value="@data.green", to_low=-0.5, to_high=0.6)
    s.add("turn", "mix", "Autumn", a="@age.colour", b="@autumn.colour", amount="@turned.result")
    s.add("autumn", "colour", "Autumn colour", value=(0.34, 0.10, 0.012))
    s.add("turned", "multiply", "How far turned", a="@data.green", b=0.15)
    s.add("downy", "lay_over", "Paler below", {"mode": "screen"}, base="@turn.result", top=(0.10, 0.13, 0.09))
    s.add("kept", "clamp", "Keep in 0..1", value="@turn.result")
    s.add("kept_below", "clamp", "Keep in 0..1", value="@downy.colour")
    s.add("let", "multiply", "Light through", a="@thin.red", b=0.75)
    s.add("lit", "brightness", "Colour of the light", colour="@turn.result", stops=1.6)
    s.add(
        "wind",
        "sway",
        "Wind",
        mask="@bend.result",
        phase="@data.green",
        strength=0.12,
        speed=0.35,
        gusts=0.6,
        flutter=0.03,
    )
    s.add("bend", "multiply", "Bends at the tip", a="@data.red", b="@data.blue")
    shared: dict[str, Any] = {
        "normal": "@relief.normal",
        "diffuse_transmission": "@let.result",
        "diffuse_transmission_colour": "@lit.colour",
    }
    s.add("upper", "surface", "Glossy above", base_colour="@kept.result", roughness=0.38, **shared)
    s.add("lower", "surface", "Downy below", base_colour="@kept_below.result", roughness=0.85, **shared)
    s.dock(surface="@upper.surface", back="@lower.surface", opacity="@map.alpha", offset="@wind.offset")
    s.open("Light through", "let", "b", group="Leaf")
    s.open("Veins", "relief", "strength", 0, 4, group="Leaf")
    s.open("Turned", "turned", "b", group="Season")
    s.open("Autumn colour", "autumn", "value", group="Season")
    s.open("Wind", "wind", key="strength", low=0, high=0.6, step=0.005, unit="m", group="Wind")
    s.variant("First frost", turned=1.0, light_through=0.5)
    s.variant("Gusty", wind=0.4)
    s.variant("Shade leaf", light_through=0.15, veins=2.2)
    return s.graph()


def slate_bluff(textures: Textures) -> Graph:
    """A block of slate pushed out of shape by noise, in flat faces, with lichen where it is level."""
    s = Sketch("Slate bluff", "rounded_box:14", "low_sun", tags="moss, stone")
    s.add("shape", "noise_relief", "Broken shape", {"layers": 3}, scale=1.25, gain=0.42, height=0.62, seed=4)
    s.add("place", "position", "Place")
    s.add("grain", "fractal_in_space", "Grain", {"layers": 5}, scale=5.0, gain=0.6, seed=3)
    s.add("parts", "split_three", "Height", vector="@place.position")
    s.add("lean", "multiply", "Lean of the beds", a="@parts.x", b=0.3)
    s.add("rise", "add", "Along the beds", a="@parts.y", b="@lean.result")
    s.add("wander", "multiply", "Wander", a="@shape.value", b=0.5)
    s.add("warped", "add", "Uneven beds", a="@rise.result", b="@wander.result")
    s.add("bands", "multiply", "Beds", a="@warped.result", b=5.0)
    s.add("bed", "fract", "Each bed", value="@bands.result")
    s.add(
        "colours",
        "gradient",
        "Slate colours",
        at="@bed.result",
        stops=(0.0, 0.050, 0.058, 0.07, 0.3, 0.085, 0.095, 0.11, 0.75, 0.125, 0.12, 0.12, 1.0, 0.055, 0.062, 0.074),
    )
    s.add("tone", "remap", "Tone", value="@grain.value", from_low=0.25, from_high=0.75, to_low=-0.7, to_high=0.6)
    s.add("face", "face", "Each face")
    s.add("lighter", "remap", "Lighter or darker", value="@face.random", to_low=-0.5, to_high=0.5)
    s.add("tones", "add", "Tones", a="@tone.result", b="@lighter.result")
    s.add("stone", "brightness", "Broken tones", colour="@colours.colour", stops="@tones.result")
    s.add("faces", "face_normal", "Flat faces")
    s.add("fine", "bump", "Fine grain", height="@grain.value", depth=0.035)
    s.add("relief", "combine_normals", "Grain on flat faces", base="@faces.normal", detail="@fine.normal")
    s.add("level", "slope", "Level ground", begins=0.45, ends=0.75)
    s.add("spots", "noise_in_space", "Lichen spots", {"kind": "cell"}, scale=7.0, seed=5)
    s.add("ragged", "add", "Ragged spots", a="@spots.value", b="@grain.value")
    s.add("round", "smooth_step", "Where it grows", value="@ragged.result", low=0.92, high=0.78)
    s.add("lichen", "multiply", "Lichen", a="@round.result", b="@level.value")
    s.add("lichen_amount", "multiply", "Lichen amount", a="@lichen.result", b=0.85)
    s.add("lichen_colour", "colour", "Lichen colour", value=(0.30, 0.32, 0.15))
    s.add("grown", "mix", "Overgrown", a="@stone.colour", b="@lichen_colour.colour", amount="@lichen_amount.result")
    s.add("kept", "clamp", "Keep in 0..1", value="@grown.result")
    s.add("rough", "mix", "Roughness", a=0.5, b=0.95, amount="@lichen_amount.result")
    s.dock(base_colour="@kept.result", roughness="@rough.result", normal="@relief.normal", offset="@shape.offset")
    s.open("Broken", "shape", key="height", low=0, high=1, step=0.01, unit="m", group="Shape")
    s.open("Blocks", "shape", "scale", 0.3, 4, 0.05, group="Shape")
    s.open("Slate colours", "colours", "stops", group="Stone")
    s.open("Beds", "bands", "b", 1, 20, 0.5, group="Stone")
    s.open("Lean", "lean", "b", -1, 1, group="Stone")
    s.open("Lichen amount", "lichen_amount", "b", group="Growth")
    s.open("Lichen colour", "lichen_colour", "value", group="Growth")
    s.variant(
        "Red beds",
        slate_colours=(0.0, 0.10, 0.03, 0.022, 0.4, 0.24, 0.09, 0.06, 0.7, 0.30, 0.15, 0.10, 1.0, 0.16, 0.06, 0.045),
    )
    s.variant("Quarried", broken=0.12, lichen_amount=0.0, beds=9.0)
    s.variant("Golden lichen", lichen_amount=1.0, lichen_colour=(0.62, 0.36, 0.02))
    return s.graph()
