"""What is thrown at the quay and what leaves it: splashes by a rule, drops that spurt, and steam from the ferry's funnel."""

from collections.abc import Mapping
from dataclasses import replace
from functools import cache

from velvet_moth.core.document.graph import Graph
from velvet_moth.core.document.scene import Timing
from velvet_moth.core.document.tracks.track import Key
from velvet_moth.core.emitting.emitter import Emitter, InstanceNumber
from velvet_moth.core.lighting.decals import Decal
from velvet_moth.core.lighting.spread import Spread
from velvet_moth.core.scenery.deck import MOUTH
from velvet_moth.core.scenery.quay import DRAIN, TOP
from velvet_moth.core.throwing.curve import RuleCurve
from velvet_moth.core.throwing.placing import Throw, thrown
from velvet_moth.core.throwing.rule import PlacingRule
from velvet_moth.core.throwing.surroundings import surroundings_of
from velvet_moth.demo.graphs import Textures
from velvet_moth.demo.sketch import Sketch

QUAY_RULE = (
    PlacingRule("Splashes on the quay")
    .with_curve("size", RuleCurve(((0.0, 0.22), (1.0, 0.85)), "smooth"))
    .with_curve("tilt", RuleCurve(((0.05, 90.0), (0.3, 34.0), (0.6, 0.0)), "smooth"))
    .with_curve("reach", RuleCurve(((0.0, 0.12), (1.0, 0.45))))
)
# The seed of the throw that lands beside the drain.
_DRAINED = 26
# The rules that graphs of the demo name, by the names of those.
RULES: Mapping[str, PlacingRule] = {"quay_splash": QUAY_RULE}
# From where it is thrown, and at what, with which strength and seed, at which moment (s).
_FROM = (0.6, 0.9, 2.6)
_AT = (
    ((-0.2, -0.8, 0.2), 0.8, 3, 0.0),
    ((0.95, -0.8, 0.35), 0.45, 11, 0.4),
    ((-0.9, -0.8, -1.2), 0.7, 5, 0.8),
    ((-1.2, 0.0, -1.5), 0.6, 8, 1.1),
    ((0.6, -0.8, 0.12), 0.65, 21, 1.5),
    ((-1.55, -0.8, -0.4), 0.75, 14, 1.9),
    ((0.5, -0.25, -1.5), 0.9, 2, 2.3),
    ((-0.75, -0.8, 0.85), 0.5, 17, 2.7),
    ((1.15, -0.8, -0.75), 0.6, 9, 3.1),
    ((-0.95, -0.8, -0.15), 0.35, _DRAINED, 2.6),
)


@cache
def quay_decals() -> tuple[Decal, ...]:
    """What the demo has thrown, by its rule, each under an id."""
    around = surroundings_of("quay_corner")
    assert around is not None, "the quay has surfaces"
    made: list[Decal] = []
    for at, strength, seed, moment in _AT:
        way = tuple(a - b for a, b in zip(at, _FROM, strict=True))
        throw = Throw(
            _FROM,
            (way[0], way[1], way[2]),
            strength=strength,
            seed=seed,
            moment=moment,
            numbers=(0.15 + 0.05 * (seed % 4), 0.0, 0.0, 0.0),
        )
        made += thrown(around, QUAY_RULE, throw).decals
    return tuple(replace(decal, id=f"splash_{number}") for number, decal in enumerate(made, 1))


def quay_splash(textures: Textures) -> Graph:
    """Silt, dye and lamp oil thrown at the quay: an outline by noise of the world, rings, wet as long as they are fresh."""
    s = Sketch("Thrown at the quay", "corner", kind="decal", backdrop="quay_corner", tags="decal, thrown")
    s.add("each", "decal", "Each splash")
    s.add("blot", "splash", "Outline", size=0.46, raggedness=0.75, grain=8.0, softness=0.12, seed=4)
    s.add(
        "bands",
        "rings",
        "Thick to thin",
        distance="@blot.distance",
        count=5.0,
        softness=0.45,
        inner=(0.035, 0.024, 0.013),
        outer=(0.16, 0.115, 0.068),
    )
    s.add("dry", "brightness", "Paler when dry", colour="@bands.colour", stops="@pale.result")
    s.add("pale", "multiply", "How pale", a="@each.dryness", b=1.1)
    s.add("cover", "number", "Cover", value=0.92)
    s.add("seen", "multiply", "Opacity", a="@blot.mask", b="@cover.value")
    s.add("fresh", "invert", "Fresh", value="@each.dryness")
    s.add("rough", "mix", "Roughness", a=0.85, b="@gloss.result", amount="@fresh.result")
    s.add("gloss", "clamp", "Gloss of each", value="@each.first")
    s.add("gleam", "number", "Metallic", value=0.0)
    s.add("height", "multiply", "Height", a="@blot.mask", b="@fresh.result")
    s.add("relief", "bump", "Relief", height="@height.result", depth=0.012)
    s.dock(
        base_colour="@dry.colour",
        opacity="@seen.result",
        roughness="@rough.result",
        metallic="@gleam.value",
        normal="@relief.normal",
    )
    s.open("Inner colour", "bands", "inner", group="Colour")
    s.open("Outer colour", "bands", "outer", group="Colour")
    s.open("Rings", "bands", "count", 2, 16, 1, group="Colour")
    s.open("Step softness", "bands", "softness", 0.001, 1, group="Colour")
    s.open("Cover", "cover", "value", group="Colour")
    s.open("Metallic", "gleam", "value", group="Colour")
    s.open("Raggedness", "blot", "raggedness", 0, 1, group="Outline")
    s.open("Lobes", "blot", "grain", 1, 40, 0.5, "per m", "Outline")
    s.variant(
        "Dye",
        inner_colour=(0.02, 0.09, 0.2),
        outer_colour=(0.07, 0.28, 0.38),
        rings=3.0,
        step_softness=0.02,
        lobes=11.0,
        cover=0.85,
    )
    s.variant(
        "Lamp oil",
        inner_colour=(0.012, 0.010, 0.008),
        outer_colour=(0.06, 0.045, 0.02),
        rings=2.0,
        step_softness=0.9,
        raggedness=0.4,
        lobes=5.0,
        metallic=0.35,
    )
    # What landed beside the drain is drawn to it and in.
    beside = next(decal for decal in quay_decals() if decal.seed == _DRAINED)
    wide, high, deep = beside.size
    at, end, own = 6.0, 8.5, f"decal/{beside.id}"
    s.keys(f"{own}/place", Key(at, beside.place, "gather"), Key(end, (DRAIN[0], TOP, DRAIN[1])))
    s.keys(f"{own}/size", Key(at, beside.size, "smooth"), Key(end, (wide * 0.12, high * 0.12, deep)))
    spread = Spread(smallest=0.08, speed=1.4, easing="settle", hold=3.0, ending="dry", over=3.0)
    return replace(s.graph(), decals=quay_decals(), spread=spread, timing=Timing(10.0, 30.0))


def splash_drops(textures: Textures) -> Graph:
    """Drops that leave where something splashes: they fly, fall and shrink, darker as they thin."""
    s = Sketch("Splash drops", "drop", backdrop="", tags="instances, thrown")
    s.add("each", "instance_data", "Each drop")
    s.add("tone", "mix", "Tone of each", a=(0.035, 0.026, 0.016), b=(0.15, 0.12, 0.08), amount="@each.random")
    s.dock(base_colour="@tone.result", roughness=0.16)
    s.open("Thick", "tone", "a", group="Drops")
    s.open("Thin", "tone", "b", group="Drops")
    # By the names of what they belong to.
    s.variant("Dye", thick=(0.02, 0.09, 0.2), thin=(0.07, 0.28, 0.38))
    s.variant("Lamp oil", thick=(0.012, 0.010, 0.008), thin=(0.06, 0.045, 0.02))
    drops = Emitter(
        burst=34.0,
        life=(0.35, 0.8),
        speed=(0.9, 2.4),
        cone=32.0,
        radius=0.05,
        gravity=7.0,
        drag=0.8,
        size=(0.045, 0.1),
        size_curve=((0.0, 1.0), (0.6, 0.8), (1.0, 0.0)),
        facing="along",
        numbers=(InstanceNumber("Wetness", ((0.0, 1.0), (1.0, 0.3))),),
    )
    return replace(s.graph(), emitter=drops, timing=Timing(2.0, 30.0))


def steam_ribbon(textures: Textures) -> Graph:
    """Ribbons of steam from the ferry's funnel: they spin up a spiral, flow, and are trimmed at both ends by what each was given."""
    s = Sketch(
        "Steam ribbon", "strip", rig="lantern_dusk", kind="unlit", backdrop="ferry_deck", tags="instances, ribbon"
    )
    s.add("each", "instance_data", "Each ribbon")
    s.add("place", "uv", "Along the ribbon")
    s.add("parts", "split_two", "U and V", vector="@place.uv")
    s.add("back", "negate", "Backwards", value="@each.first")
    s.add("way", "combine_two", "Upwards", x=0.0, y="@back.result")
    s.add("flow", "scroll", "Flow", uv="@place.uv", speed="@way.vector")
    s.add("long", "tile", "Drawn out", uv="@flow.uv", tiling=(1.3, 2.4))
    s.add("wisps", "fractal_noise", "Wisps", {"layers": 4}, uv="@long.uv", scale=3.2, gain=0.55, seed=7)
    s.add("body", "smooth_step", "Body", value="@wisps.value", low=0.22, high=0.62)
    s.add("trim", "trim_strip", "Trimmed", start="@each.second", end="@each.third", soft_start=0.25, soft_end=0.35)
    s.add("off", "subtract", "From the middle", a="@parts.x", b=0.5)
    s.add("aside", "absolute", "To either side", value="@off.result")
    s.add("edge", "smooth_step", "Soft sides", value="@aside.result", low=0.5, high=0.08)
    s.add("thick", "multiply", "Thickness", a="@body.result", b="@edge.result")
    s.add("cover", "number", "Cover", value=1.0)
    s.add("density", "multiply", "Density", a="@thick.result", b="@cover.value")
    s.add("seen", "multiply", "Opacity", a="@density.result", b="@trim.mask")
    s.add("warm", "mix", "Lit from below", a=(0.42, 0.43, 0.46), b=(0.62, 0.58, 0.53), amount="@each.random")
    s.add("taper", "curve", "Wider upwards", value="@parts.y", points=(0.0, 0.35, 0.45, 0.9, 1.0, 1.5))
    s.add("swirl", "multiply", "Swirl", a="@parts.y", b="@twist.value")
    s.add("twist", "number", "Twist", value=0.4)
    s.add("shape", "shape_strip", "Shape", width="@taper.value", swirl="@swirl.result", made=0.3)
    s.dock(base_colour="@warm.result", opacity="@seen.result", offset="@shape.offset")
    s.open("Cover", "cover", "value", group="Steam")
    s.open("Twist", "twist", "value", -2, 2, 0.01, "turns", "Steam")
    s.open("Wisps", "wisps", "scale", 1, 16, 0.1, group="Steam")
    ribbons = Emitter(
        rate=2.2,
        life=(2.4, 3.4),
        speed=(0.4, 0.6),
        cone=7.0,
        radius=0.04,
        size=(0.55, 0.85),
        size_curve=((0.0, 1.0), (1.0, 1.0)),
        path="spiral",
        length=1.25,
        path_radius=0.13,
        turns=1.3,
        swirl=0.22,
        place=(MOUTH[0], MOUTH[1] - 0.06, MOUTH[2]),
        seed=6.0,
        numbers=(
            InstanceNumber("Flow", ((0.0, 0.4), (1.0, 0.4)), 0.35),
            InstanceNumber("Begins", ((0.0, -0.3), (0.45, -0.3), (1.0, 0.95))),
            InstanceNumber("Ends", ((0.0, 0.0), (0.4, 1.25), (1.0, 1.25))),
            InstanceNumber("Form", ((0.0, 1.0), (1.0, 1.0)), 1.0),
        ),
    )
    return replace(s.graph(), emitter=ribbons, timing=Timing(8.0, 30.0))


# The graphs whose emitters start where others are thrown at: names of the demo.
SPURTS: Mapping[str, str] = {"quay_splash": "splash_drops"}
