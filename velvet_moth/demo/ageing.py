"""What time does at Heron Lock: the boathouse wall's paint, and a lantern that is about to fail."""

from velvet_moth.core.document.graph import Graph
from velvet_moth.core.document.scene import Timing
from velvet_moth.core.document.tracks.track import Key
from velvet_moth.demo.graphs import Textures
from velvet_moth.demo.sketch import Sketch


def boathouse_wall(textures: Textures) -> Graph:
    """Green paint over boards: in twelve seconds it fades, crackles and lets its undercoat be seen, then it is fresh again."""
    s = Sketch("Boathouse wall", "corner", "open_dock", tags="wood, paint, ageing")
    s.add("boards", "brick", "Boards", tiling=(7, 1), shift=0.37, gap=0.07, softness=0.1, seed=4)
    s.add("each", "random_per_cell", "Tone of each board", cell="@boards.cell", seed=9, low=0.82, high=1.12)
    s.add("stretched", "tile", "Along the boards", tiling=(14, 1.5))
    s.add("grain", "fractal_noise", "Grain of the wood", {"layers": 4}, uv="@stretched.uv", scale=1.0, gain=0.6, seed=3)
    s.add(
        "wood",
        "gradient",
        "Wood",
        at="@grain.value",
        stops=(0.0, 0.10, 0.065, 0.04, 0.5, 0.26, 0.19, 0.125, 1.0, 0.40, 0.32, 0.23),
    )
    s.add("undercoat", "colour", "Undercoat", value=(0.52, 0.40, 0.25))
    s.add("paint", "colour", "Paint", value=(0.02, 0.13, 0.065))
    s.add("brushed", "remap", "Brushed", value="@grain.value", to_low=0.86, to_high=1.08)
    s.add("toned", "multiply", "Brush strokes", a="@paint.colour", b="@brushed.result")
    s.add("painted", "multiply", "Each board", a="@toned.result", b="@each.value")
    # The paint cracks in pieces longer than wide, and gives way first where boards end.
    s.add("pieces", "tile", "Pieces", tiling=(1.6, 1))
    s.add("crackle", "crackle", "Crackle", uv="@pieces.uv", scale=9.0, amount=0.0, width=0.11, spread=0.7, seed=6)
    s.add("patches", "fractal_noise", "Where it peels", {"layers": 4}, scale=4.0, gain=0.6, seed=12)
    s.add("rim", "invert", "Ends of boards", value="@boards.brick")
    s.add("weak", "multiply", "Held less", a="@rim.result", b=0.35)
    s.add("worn_first", "add", "What goes first", a="@patches.value", b="@weak.result")
    s.add("pieces_first", "mix", "Piece by piece", a="@worn_first.result", b="@crackle.piece", amount=0.35)
    s.add("peel", "age_by_mask", "Peeling", where="@pieces_first.result", amount=0.0, softness=0.08)
    s.add("bare", "smooth_step", "Down to the wood", value="@peel.mask", low=0.7, high=1.0)
    s.add("gone", "maximum", "Paint that is gone", a="@peel.mask", b="@crackle.cracks")
    s.add("under", "mix", "Undercoat over wood", a="@undercoat.colour", b="@wood.colour", amount="@bare_share.result")
    s.add("bare_share", "multiply", "Wood in places", a="@bare.result", b="@grain.value")
    s.add("colour", "mix", "Paint over all", a="@painted.result", b="@under.result", amount="@gone.result")
    s.add("joints", "multiply", "Joints are dark", a="@colour.result", b="@boards.brick")
    s.add("gloss", "number", "Gloss", value=0.24)
    s.add("rough", "mix", "Roughness", a="@gloss.value", b=0.88, amount="@gone.result")
    s.add("thick", "multiply", "Paint is thick", a="@left.result", b=0.35)
    s.add("left", "invert", "Paint that is left", value="@gone.result")
    s.add("raised", "multiply", "Curled edges", a="@crackle.curl", b=0.5)
    s.add("relief", "add", "Paint and curls", a="@thick.result", b="@raised.result")
    s.add("fine", "multiply", "Fine grain", a="@grain.value", b=0.12)
    s.add("on_boards", "add", "With the grain", a="@relief.result", b="@fine.result")
    s.add("height", "multiply", "On boards", a="@on_boards.result", b="@boards.brick")
    s.add("bumps", "bump", "Relief", height="@height.result", depth=0.035)
    s.dock(base_colour="@joints.result", roughness="@rough.result", normal="@bumps.normal", occlusion="@boards.brick")
    s.open("Paint", "paint", "value", group="Paint")
    s.open("Undercoat", "undercoat", "value", group="Paint")
    s.open("Gloss", "gloss", "value", 0, 1, group="Paint")
    s.open("Crackle", "crackle", "amount", group="Age")
    s.open("Peeling", "peel", "amount", group="Age")
    s.open("Width of cracks", "crackle", "width", 0, 0.6, group="Age")
    s.variant("Oxblood", paint=(0.16, 0.015, 0.012), undercoat=(0.40, 0.42, 0.40))
    s.variant("Fresh", crackle=0.0, peeling=0.0, paint=(0.02, 0.13, 0.065), gloss=0.24)
    green, faded = (0.02, 0.13, 0.065), (0.14, 0.23, 0.15)
    s.keys("paint", Key(1.0, green, "smooth"), Key(12.0, faded), after="there_and_back")
    s.keys("gloss", Key(0.0, (0.24,), "settle"), Key(7.0, (0.66,), "hold"), Key(12.0, (0.66,)), after="there_and_back")
    s.keys("crackle", Key(1.5, (0.0,), "gather"), Key(9.0, (0.8,), "smooth"), Key(12.0, (1.0,)), after="there_and_back")
    # Slowly, then all at once, and the last of it holds on.
    s.keys(
        "peeling",
        Key(4.0, (0.0,), "hand", (), (0.01,)),
        Key(8.5, (0.24,), "hand", (0.1,), (0.1,)),
        Key(12.0, (0.5,), "smooth", (0.01,)),
        after="there_and_back",
    )
    s.timing = Timing(24.0, 30.0)
    return s.graph()


# How bright the flame is, by seconds: it sinks, catches, and nearly goes out.
FLICKER = (
    *((0.0, 1.0), (0.35, 0.82), (0.6, 1.05), (0.9, 0.9), (1.2, 1.0), (1.45, 0.45), (1.6, 0.7), (1.75, 0.22)),
    *((2.1, 0.3), (2.3, 0.85), (2.6, 0.74), (3.0, 1.0), (3.4, 0.94), (4.0, 1.0)),
)


def signal_lantern(textures: Textures) -> Graph:
    """The lock's lantern in dented brass, its panes lit by a flame that sinks and catches again, without a seam."""
    s = Sketch("Signal lantern", "rounded_box", "lantern_dusk", tags="metal, glass, light, ageing")
    s.add("frame", "brick", "Frame", tiling=(1, 1), shift=0.0, gap=0.27, softness=0.015)
    s.add("bars", "brick", "Bars", tiling=(2, 2), shift=0.0, gap=0.055, softness=0.02)
    s.add("sides", "slope", "Upright sides", {"facing": "sideways"}, begins=0.4, ends=0.7)
    s.add("barred", "multiply", "Barred", a="@frame.brick", b="@bars.brick")
    s.add("panes", "multiply", "Panes", a="@barred.result", b="@sides.value")
    s.add("near_flame", "disc", "Near the flame", centre=(0.5, 0.4), inner=0.02, outer=0.5)
    s.add(
        "glow",
        "gradient",
        "Glow through the glass",
        at="@near_flame.value",
        stops=(0.0, 0.16, 0.035, 0.006, 0.45, 0.75, 0.26, 0.05, 0.8, 1.0, 0.55, 0.16, 1.0, 1.0, 0.85, 0.5),
    )
    s.add("soot_noise", "fractal_noise", "Soot", {"layers": 4}, scale=5.0, gain=0.6, seed=8)
    s.add("soot", "remap", "Soot on the glass", value="@soot_noise.value", from_low=0.3, from_high=0.7, to_low=0.5)
    s.add("seen", "multiply", "Light that comes out", a="@glow.colour", b="@soot.result")
    s.add("light", "multiply", "From the panes", a="@seen.result", b="@panes.result")
    s.add("flame", "number", "Flame", value=1.0)
    s.add("strength", "multiply", "Strength", a="@flame.value", b=3.0)
    s.add("brass", "colour", "Brass", value=(0.46, 0.26, 0.09))
    s.add("glass", "colour", "Glass", value=(0.05, 0.022, 0.008))
    s.add("base", "mix", "Brass and glass", a="@brass.colour", b="@glass.colour", amount="@panes.result")
    s.add("metal", "invert", "Metal", value="@panes.result")
    s.add("worn", "remap", "Dull in places", value="@soot_noise.value", to_low=0.24, to_high=0.62)
    s.add("rough", "mix", "Roughness", a="@worn.result", b=0.09, amount="@panes.result")
    s.add("dents", "gradient_noise", "Dents", scale=6.0, seed=3)
    s.add("raised", "multiply", "Dented", a="@dents.value", b=0.3)
    s.add("height", "add", "Height", a="@raised.result", b="@metal.result")
    s.add("relief", "bump", "Relief", height="@height.result", depth=0.02)
    s.dock(
        base_colour="@base.result",
        metallic="@metal.result",
        roughness="@rough.result",
        normal="@relief.normal",
        emissive="@light.result",
        emissive_strength="@strength.result",
    )
    s.open("Flame", "flame", "value", 0, 2, group="Light")
    s.open("Brass", "brass", "value", group="Metal")
    s.open("Soot", "soot", "to_low", group="Glass")
    s.variant("Steady", flame=1.0)
    s.variant("Signalling", brass=(0.30, 0.31, 0.30))
    for target in ("flame", "scene/lamp_1"):
        s.keys(target, *(Key(time, (value,), "smooth") for time, value in FLICKER), after="again")
    s.keys(
        "flame",
        *(
            Key(time, (0.05 if at % 2 else 1.5,), "hold")
            for at, time in enumerate((0.0, 0.5, 1.0, 1.5, 2.0, 3.25, 4.0))
        ),
        after="again",
        variant="signalling",
    )
    s.timing = Timing(4.0, 30.0)
    return s.graph()
