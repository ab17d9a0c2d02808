"""The estuary beyond Heron Lock: a sheet of sea whose shallows are painted by hand."""

import numpy as np

from velvet_moth.core.document.graph import Graph
from velvet_moth.demo.graphs import Textures
from velvet_moth.demo.sketch import Sketch
from velvet_moth.demo.strokes import Ground, Numbers

# Metres, and cells along a side.
SIDE, CELLS = 9.0, 130


def _level(x: Numbers, z: Numbers) -> Numbers:
    return np.zeros_like(x)


SEA = Ground(_level)


def estuary_sheet() -> bytes:
    """A level sheet of sea with UVs, as a GLB."""
    return SEA.file(SIDE, SIDE, (CELLS, CELLS))


# A bank along the left, a bar across the mouth, a channel kept deep through it.
SHALLOWS = [
    SEA.stroke(((-5.0, 4.6), (-4.4, 1.4), (-4.7, -1.2), (-4.2, -4.6)), 1.9, "red", value=0.85, softness=1.0),
    SEA.stroke(((-3.6, 0.4), (-1.8, 0.9), (-0.6, 0.5)), 0.9, "red", mode="add", value=0.55, softness=1.0),
    SEA.stroke(((0.9, -0.5), (2.2, -0.9), (3.9, -0.4)), 0.85, "red", mode="add", value=0.7, softness=1.0),
    SEA.stroke(((2.9, 2.6), (3.6, 3.0)), 0.8, "red", value=0.6, softness=1.0),
    SEA.stroke(
        ((-0.2, 4.2), (0.1, 1.6), (0.35, -1.0), (0.1, -4.2)),
        0.6,
        "red",
        mode="take away",
        value=0.8,
        softness=0.9,
    ),
]


def estuary(textures: Textures) -> Graph:
    """The sea beyond the lock: shallows as they were painted, crests that the sun shines through, waves from one texture."""
    s = Sketch("Estuary", "plane", "open_dock", tags="water, moving, painted", mesh=textures["mesh_estuary"])
    s.add("data", "vertex_colour", "Painted here")
    s.add("height_map", "texture_choice", "Wave map", value=textures["ripple_height"])
    s.add("calm", "remap", "Lower in the shallows", value="@data.red", to_low=1.0, to_high=0.25)
    for key, name, tiling, height, speed, layers in (
        ("swell", "Swell", 0.06, 0.8, 0.035, 3),
        ("chop", "Chop", 0.15, 0.08, 0.08, 4),
    ):
        s.add(f"{key}_high", "multiply", f"{name} height", a="@calm.result", b=height)
        s.add(
            key,
            "waves_by_texture",
            name,
            {"layers": layers},
            texture="@height_map.texture",
            tiling=tiling,
            height=f"@{key}_high.result",
            speed=speed,
            level=3.0,
        )
    s.add("together", "add", "Both", a="@swell.offset", b="@chop.offset")
    s.add("parts", "split_three", "Up", vector="@together.result")
    s.add("bounded", "clamp", "Never beyond", value="@parts.y", low=-0.3, high=0.3)
    s.add("offset", "combine_three", "Offset", x=0.0, y="@bounded.result", z=0.0)
    s.add("ripple_map", "texture_choice", "Ripple map", value=textures["ripple_normal"])
    s.add(
        "ripples",
        "drifting_waves",
        "Ripples",
        {"layers": 4},
        texture="@ripple_map.texture",
        tiling=3.0,
        strength=0.12,
        speed=0.04,
    )
    s.add(
        "bed",
        "gradient",
        "Deep to shallow",
        at="@data.red",
        stops=(0.0, 0.004, 0.02, 0.034, 0.35, 0.008, 0.07, 0.08, 0.7, 0.07, 0.24, 0.2, 1.0, 0.34, 0.36, 0.24),
    )
    s.add("crest", "remap", "Crest", value="@parts.y", from_low=-0.05, from_high=0.24)
    s.add("high", "clamp", "How high", value="@crest.result")
    s.add(
        "glow",
        "light_through",
        "Sun through the crests",
        colour=(0.05, 0.32, 0.26),
        thin="@high.result",
        sharpness=2.0,
        spread=0.5,
    )
    s.add("grain", "fractal_in_space", "Foam grain", {"layers": 4}, scale=9.0, gain=0.7, seed=3)
    s.add("breaks", "smooth_step", "Breaking", value="@high.result", low=0.72, high=1.1)
    s.add("shore", "smooth_step", "On the bank", value="@data.red", low=0.93, high=1.1)
    s.add("white", "maximum", "Where it foams", a="@breaks.result", b="@shore.result")
    s.add("lace", "multiply", "Torn", a="@white.result", b="@grain.value")
    s.add("foam", "smooth_step", "Foam", value="@lace.result", low=0.25, high=0.6)
    s.add("colour", "mix", "Sea and foam", a="@bed.colour", b=(0.75, 0.78, 0.76), amount="@foam.result")
    s.add("rough", "mix", "Roughness", a=0.24, b=0.8, amount="@foam.result")
    s.dock(
        base_colour="@colour.result",
        roughness="@rough.result",
        normal="@ripples.normal",
        emissive="@glow.colour",
        offset="@offset.vector",
    )
    s.open("Deep to shallow", "bed", "stops", group="Water")
    s.open("Swell height", "swell_high", "b", 0, 2, 0.01, unit="m", group="Waves")
    s.open("Chop height", "chop_high", "b", 0, 0.6, 0.005, unit="m", group="Waves")
    s.open("Wave map", "height_map", "value", group="Waves")
    s.open("Light through", "glow", "sharpness", 0.5, 8, 0.1, group="Water")
    s.variant("Flat calm", swell_height=0.2, chop_height=0.06)
    s.variant(
        "Grey blow",
        swell_height=0.7,
        chop_height=0.2,
        deep_to_shallow=(0.0, 0.012, 0.018, 0.02, 0.5, 0.04, 0.06, 0.055, 1.0, 0.16, 0.17, 0.14),
    )
    return s.graph()
