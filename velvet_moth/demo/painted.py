"""What is painted by hand at Heron Lock: strokes on a sheet of the quay, and two surfaces that lie on the same paint."""

from typing import Any

import numpy as np

from velvet_moth.core.document.graph import Graph
from velvet_moth.demo.graphs import Textures
from velvet_moth.demo.sketch import Sketch
from velvet_moth.demo.strokes import Ground, Numbers

# The sheet is so many metres wide, of so many cells.
SIDE, CELLS = 2.4, 72


def _height(x: Numbers, z: Numbers) -> Numbers:
    """How high the worn quay stands at a place, in metres: hollows where feet and carts have been."""
    bowl = np.exp(-((x - 0.35) ** 2 + (z + 0.1) ** 2) / 0.18) + 0.7 * np.exp(-((x + 0.6) ** 2 + (z - 0.45) ** 2) / 0.08)
    return np.asarray(0.03 + 0.006 * np.sin(2.6 * x + 1.0) * np.cos(2.1 * z) - 0.02 * bowl)


QUAY = Ground(_height)
_stroke = QUAY.stroke


def quay_sheet() -> bytes:
    """A sheet over the worn quay, with UVs, as a GLB."""
    return QUAY.file(SIDE, SIDE, (CELLS, CELLS))


_EDGE = SIDE / 2
# By what they mean: the painted layer, and what a hand has drawn on it.
QUAY_PAINT: dict[str, tuple[str, list[dict[str, Any]]]] = {
    "stain": (
        "red",
        [
            _stroke(((-0.95, -0.75), (-0.5, -0.55), (-0.15, -0.15)), 0.13, "red", value=0.9),
            _stroke(((-0.1, -0.1), (0.05, 0.1)), 0.2, "red", value=0.75, softness=0.9),
            _stroke(((0.75, 0.75),), 0.22, "red", value=0.8, softness=0.8),
            _stroke(((-0.6, -0.62), (-0.4, -0.4)), 0.05, "red", mode="take away", value=0.5),
        ],
    ),
    "fade": (
        "green",
        [
            _stroke(((-_EDGE, -_EDGE), (-1.15, 0.2), (-_EDGE, _EDGE)), 0.34, "green", softness=0.95),
            _stroke(((_EDGE, -_EDGE), (1.12, -0.1), (_EDGE, _EDGE)), 0.36, "green", softness=0.95),
            _stroke(((-_EDGE, -_EDGE), (0.1, -1.13), (_EDGE, -_EDGE)), 0.36, "green", softness=0.95),
            _stroke(((-_EDGE, _EDGE), (-0.2, 1.14), (_EDGE, _EDGE)), 0.34, "green", softness=0.95),
            _stroke(((0.85, -0.75),), 0.4, "green", mode="add", value=0.6, softness=1.0),
        ],
    ),
    "puddle": (
        "blue",
        [
            _stroke(((0.2, -0.2), (0.5, 0.0), (0.42, 0.18)), 0.36, "blue", softness=0.9),
            _stroke(((-0.68, 0.42), (-0.5, 0.5)), 0.26, "blue", value=0.9, softness=0.9),
            _stroke(((0.1, 0.3), (-0.2, 0.42)), 0.16, "blue", value=0.7, softness=1.0),
        ],
    ),
    "wetness": (
        "alpha",
        [
            _stroke(((0.1, -0.3), (0.6, 0.05), (0.3, 0.35)), 0.55, "alpha", value=0.9, softness=0.9),
            _stroke(((-0.8, 0.4), (-0.4, 0.55)), 0.42, "alpha", value=0.85, softness=0.9),
            _stroke(((-0.4, 0.5), (0.1, 0.3)), 0.24, "alpha", value=0.8, softness=1.0),
        ],
    ),
}


def _weathered(s: Sketch, colour: str, height: str, roughness: str, relief: float) -> None:
    """Lets stones on the quay's slabs be stained, end, stand in water and be wet as it is painted."""
    s.add("paint", "vertex_colour", "Painted here")
    s.add("stain_much", "power", "Stained", base="@paint.red", exponent=1.6)
    s.add("stain_amount", "multiply", "Stain", a="@stain_much.result", b=0.85)
    s.add("stained", "mix", "With its stain", a=colour, b=(0.012, 0.009, 0.007), amount="@stain_amount.result")
    s.add("ends", "remap", "Fade", value="@paint.green", to_low=-0.1, to_high=1.05)
    s.add("over", "subtract", "Above the fade", a=height, b="@ends.result")
    s.add("kept", "smooth_step", "Stone by stone", value="@over.result", low=-0.02, high=0.02)
    s.add("slate", "fractal_noise", "Slab", {"layers": 5}, scale=9.0, gain=0.6, seed=8)
    s.add("slab", "gradient", "Slabs", at="@slate.value", stops=(0.3, 0.03, 0.032, 0.034, 0.7, 0.085, 0.084, 0.08))
    s.add("ground", "mix", "On the slabs", a="@slab.colour", b="@stained.result", amount="@kept.result")
    s.add("high", "multiply", "Height over the slabs", a=height, b="@kept.result")
    s.add("ground_rough", "mix", "Roughness of both", a=0.75, b=roughness, amount="@kept.result")
    s.add("level", "multiply", "Water level", a="@paint.blue", b=0.85)
    s.add("below", "subtract", "Below the water", a="@level.result", b="@high.result")
    s.add("water", "smooth_step", "Puddle", value="@below.result", low=0.0, high=0.07)
    s.add("damp", "multiply", "How dark wet is", a="@paint.alpha", b=0.55)
    s.add("darker", "mix", "Damp", a="@ground.result", b=(0.01, 0.01, 0.009), amount="@damp.result")
    s.add("murk", "mix", "Under water", a="@darker.result", b=(0.006, 0.008, 0.007), amount="@water.result")
    s.add("seen_colour", "clamp", "Keep in 0..1", value="@murk.result")
    s.add("smoother", "mix", "Wet is smoother", a="@ground_rough.result", b=0.22, amount="@paint.alpha")
    s.add("mirror", "mix", "Water is smooth", a="@smoother.result", b=0.03, amount="@water.result")
    s.add("surface_height", "maximum", "Flat under water", a="@high.result", b="@level.result")
    s.add("bumps", "bump", "Relief", height="@surface_height.result", depth=relief)
    s.dock(base_colour="@seen_colour.result", roughness="@mirror.result", normal="@bumps.normal")
    s.open("Stain", "stain_amount", "b", group="Paint")
    s.open("Fade reaches", "ends", "to_high", -0.1, 1.3, group="Paint")
    s.open("Water level", "level", "b", 0, 1.2, group="Paint")
    s.open("Wet darkens", "damp", "b", group="Paint")
    s.open("Relief", "bumps", "depth", 0, 0.1, 0.001, group="Stones")
    s.variant("After rain", water_level=1.15, wet_darkens=0.8)
    s.variant("A dry week", water_level=0.0, wet_darkens=0.15, stain=0.6)


def gravel_quay_patch(textures: Textures) -> Graph:
    """Rounded stones on the quay, with depth by parallax: where they end, stand in water, are wet or stained is painted by hand."""
    s = _on_the_sheet("Gravel quay patch", textures, "ground, stone, painted")
    s.add("seen", "cell_noise", "Stones as seen", scale=13.0, seed=5)
    s.add("seen_dome", "smooth_step", "Their height", value="@seen.edge", low=0.0, high=0.4)
    s.add("deep", "parallax_by_value", "Depth", height="@seen_dome.result", depth=0.012)
    s.add("stones", "cell_noise", "Stones", uv="@deep.uv", scale=13.0, seed=5)
    s.add("dome", "smooth_step", "Rounded", value="@stones.edge", low=0.0, high=0.4)
    s.add("tall", "remap", "Each its height", value="@stones.random", to_low=0.5, to_high=1.0)
    s.add("height", "multiply", "Height", a="@dome.result", b="@tall.result")
    s.add(
        "granite",
        "gradient",
        "Granites",
        at="@stones.random",
        stops=(0.0, 0.045, 0.043, 0.042, 0.35, 0.13, 0.105, 0.08, 0.65, 0.06, 0.07, 0.082, 1.0, 0.24, 0.205, 0.165),
    )
    s.add("grain", "fractal_noise", "Grain", {"layers": 4}, uv="@deep.uv", scale=60.0, gain=0.5)
    s.add("speckle", "remap", "Speckle", value="@grain.value", to_low=-0.3, to_high=0.3)
    s.add("stone", "brightness", "Stone", colour="@granite.colour", stops="@speckle.result")
    s.add("in_silt", "smooth_step", "Out of the silt", value="@height.result", low=0.05, high=0.3)
    s.add("laid", "mix", "In silt", a=(0.045, 0.036, 0.026), b="@stone.colour", amount="@in_silt.result")
    s.add("rough", "mix", "Roughness", a=0.95, b=0.62, amount="@in_silt.result")
    _weathered(s, "@laid.result", "@height.result", "@rough.result", 0.022)
    s.open("Silt", "laid", "a", group="Stones")
    return s.graph()


def setts_on_the_quay(textures: Textures) -> Graph:
    """Hewn setts in rows on the very same paint."""
    s = _on_the_sheet("Setts on the quay", textures, "ground, stone, painted")
    s.add("rows", "brick", "Setts", tiling=(7.0, 13.0), gap=0.16, softness=0.14, seed=4)
    s.add("worn", "fractal_noise", "Hewn", {"layers": 4}, scale=26.0, gain=0.55, seed=3)
    s.add("tall", "remap", "Each its height", value="@rows.random", to_low=0.55, to_high=0.9)
    s.add("face", "remap", "Uneven faces", value="@worn.value", to_low=0.75, to_high=1.1)
    s.add("block", "multiply", "Height of each", a="@rows.brick", b="@tall.result")
    s.add("height", "multiply", "Height", a="@block.result", b="@face.result")
    s.add(
        "basalt",
        "gradient",
        "Basalts",
        at="@rows.random",
        stops=(0.0, 0.028, 0.03, 0.035, 0.5, 0.058, 0.057, 0.058, 1.0, 0.11, 0.1, 0.09),
    )
    s.add("tone", "remap", "Tone", value="@worn.value", to_low=-0.6, to_high=0.5)
    s.add("hewn", "brightness", "Hewn stone", colour="@basalt.colour", stops="@tone.result")
    s.add("joint", "smooth_step", "Out of the joints", value="@height.result", low=0.05, high=0.3)
    s.add("laid", "mix", "In sand", a=(0.13, 0.105, 0.075), b="@hewn.colour", amount="@joint.result")
    s.add("rough", "mix", "Roughness", a=0.95, b=0.55, amount="@joint.result")
    _weathered(s, "@laid.result", "@height.result", "@rough.result", 0.018)
    s.open("Sand", "laid", "a", group="Stones")
    return s.graph()


def planks_on_the_quay(textures: Textures) -> Graph:
    """Tarred planks with gaps on the very same paint."""
    s = _on_the_sheet("Planks on the quay", textures, "ground, wood, painted")
    s.add("rows", "brick", "Planks", tiling=(2.0, 15.0), gap=0.12, softness=0.1, seed=9)
    s.add("drawn", "tile", "Along the grain", tiling=(1.0, 16.0))
    s.add("fibre", "fractal_noise", "Fibres", {"layers": 5}, uv="@drawn.uv", scale=5.0, gain=0.6, seed=2)
    s.add("tall", "remap", "Each its height", value="@rows.random", to_low=0.6, to_high=0.95)
    s.add("face", "remap", "Raised grain", value="@fibre.value", to_low=0.8, to_high=1.05)
    s.add("plank", "multiply", "Height of each", a="@rows.brick", b="@tall.result")
    s.add("height", "multiply", "Height", a="@plank.result", b="@face.result")
    s.add(
        "larch",
        "gradient",
        "Larch",
        at="@fibre.value",
        stops=(0.25, 0.06, 0.042, 0.03, 0.5, 0.15, 0.11, 0.075, 0.75, 0.25, 0.2, 0.145),
    )
    s.add("tone", "remap", "Tone", value="@rows.random", to_low=-0.5, to_high=0.4)
    s.add("wood", "brightness", "Each its tone", colour="@larch.colour", stops="@tone.result")
    s.add("joint", "smooth_step", "Out of the gaps", value="@height.result", low=0.05, high=0.35)
    s.add("laid", "mix", "Over the gaps", a=(0.012, 0.011, 0.01), b="@wood.colour", amount="@joint.result")
    s.add("rough", "mix", "Roughness", a=0.95, b=0.7, amount="@joint.result")
    _weathered(s, "@laid.result", "@height.result", "@rough.result", 0.012)
    s.open("Gaps", "laid", "a", group="Wood")
    return s.graph()


def slate_on_the_quay(textures: Textures) -> Graph:
    """Broken slate, laid flat, on the very same paint."""
    s = _on_the_sheet("Slate on the quay", textures, "ground, stone, painted")
    s.add("plates", "cell_noise", "Plates", scale=6.5, seed=12)
    s.add("flat", "smooth_step", "Flat", value="@plates.edge", low=0.0, high=0.09)
    s.add("split", "fractal_noise", "Split", {"layers": 5}, scale=16.0, gain=0.55, seed=6)
    s.add("steps", "remap", "In layers", value="@split.value", to_low=0.82, to_high=1.08)
    s.add("tall", "remap", "Each its height", value="@plates.random", to_low=0.55, to_high=0.95)
    s.add("plate", "multiply", "Height of each", a="@flat.result", b="@tall.result")
    s.add("height", "multiply", "Height", a="@plate.result", b="@steps.result")
    s.add(
        "slate_colour",
        "gradient",
        "Slates",
        at="@plates.random",
        stops=(0.0, 0.03, 0.035, 0.043, 0.45, 0.062, 0.07, 0.075, 0.75, 0.075, 0.062, 0.075, 1.0, 0.1, 0.108, 0.1),
    )
    s.add("tone", "remap", "Tone", value="@split.value", to_low=-0.5, to_high=0.5)
    s.add("broken", "brightness", "Broken slate", colour="@slate_colour.colour", stops="@tone.result")
    s.add("joint", "smooth_step", "Out of the joints", value="@height.result", low=0.05, high=0.3)
    s.add("laid", "mix", "In clay", a=(0.085, 0.07, 0.055), b="@broken.colour", amount="@joint.result")
    s.add("rough", "mix", "Roughness", a=0.95, b=0.45, amount="@joint.result")
    _weathered(s, "@laid.result", "@height.result", "@rough.result", 0.01)
    s.open("Clay", "laid", "a", group="Stones")
    return s.graph()


def _on_the_sheet(title: str, textures: Textures, tags: str) -> Sketch:
    return Sketch(title, "plane", "open_dock", tags=tags, mesh=textures["mesh_quay_sheet"])
