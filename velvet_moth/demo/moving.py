"""What moves at Heron Lock: the basin's water and the reeds at its edge."""

from velvet_moth.core.document.graph import Graph
from velvet_moth.demo.graphs import Textures
from velvet_moth.demo.sketch import Sketch


def basin_water(textures: Textures) -> Graph:
    """Rolling water over a bed: clear at the steps, murky in the middle, foam where it is shallow."""
    s = Sketch("Basin water", "plane", "low_sun", "see_through", "lock_basin", tags="water, moving")
    s.add("swell", "waves", "Swell", {"count": 4}, length=0.9, height=0.035, steepness=0.7, speed=0.7, spread=0.35)
    s.add("ripple_choice", "texture_choice", "Ripple map", value=textures["ripple_normal"])
    s.add(
        "ripples",
        "drifting_waves",
        "Ripples",
        {"layers": 3},
        texture="@ripple_choice.texture",
        tiling=2.5,
        strength=0.22,
        speed=0.03,
    )
    s.add("bend", "shorten_triple", "Bend of the bed", vector="@ripples.normal")
    s.add("bend_scale", "multiply", "Bend strength", a="@bend.vector", b=0.06)
    s.add("bed", "colour_behind", "Bed", shift="@bend_scale.result")
    s.add("depth", "depth_behind", "Depth")
    s.add("murk", "multiply", "Murk", a="@depth.depth", b=-1.3)
    s.add("clear", "exponential", "What comes through", value="@murk.result")
    s.add("clear_share", "clamp", "Clear share", value="@clear.result")
    s.add("deep", "colour", "Deep colour", value=(0.004, 0.036, 0.034))
    s.add("seen", "mix", "Seen through", a="@deep.colour", b="@bed.colour", amount="@clear_share.result")
    s.add("grain", "fractal_noise", "Foam grain", {"layers": 3}, scale=26.0, gain=0.6, seed=9)
    s.add("shore", "shallow_foam", "Foam", depth=0.13, pattern="@grain.value", softness=0.45)
    s.add("crests", "smooth_step", "On the crests", value="@swell.crest", low=0.86, high=1.05)
    s.add("crest_foam", "multiply", "Broken crests", a="@crests.result", b="@grain.value")
    s.add("foam", "maximum", "All foam", a="@shore.value", b="@crest_foam.result")
    s.add("foam_colour", "colour", "Foam colour", value=(0.62, 0.66, 0.60))
    s.add("surface_colour", "mix", "Water or foam", a="@deep.colour", b="@foam_colour.colour", amount="@foam.result")
    s.add("black", "colour", "No light", value=(0.0, 0.0, 0.0))
    s.add("through", "mix", "Light from the bed", a="@seen.result", b="@black.colour", amount="@foam.result")
    s.add("rough", "mix", "Roughness", a=0.06, b=0.8, amount="@foam.result")
    s.dock(
        base_colour="@surface_colour.result",
        emissive="@through.result",
        normal="@ripples.normal",
        roughness="@rough.result",
        offset="@swell.offset",
    )
    s.open("Deep colour", "deep", "value", group="Water")
    s.open("Murk", "murk", key="b", low=-8, high=0, step=0.01, unit="per m", group="Water")
    s.open("Ripple map", "ripple_choice", "value", group="Waves")
    s.open("Ripple strength", "ripples", "strength", 0, 1, group="Waves")
    s.open("Swell height", "swell", key="height", low=0, high=0.2, step=0.005, unit="m", group="Waves")
    s.open("Swell length", "swell", key="length", low=0.2, high=3, step=0.05, unit="m", group="Waves")
    s.open("Foam depth", "shore", key="depth", low=0, high=0.6, step=0.01, unit="m", group="Foam")
    s.variant("Peat brown", deep_colour=(0.05, 0.02, 0.004), murk=-3.4)
    s.variant("Dead calm", swell_height=0.0, ripple_strength=0.04, foam_depth=0.05, murk=-0.7)
    return s.graph()


def wind_reeds(textures: Textures) -> Graph:
    """Reeds in gusts: the foot holds, the tips swing, light comes through from behind."""
    s = Sketch("Lock-side reeds", "reeds", tags="foliage, moving", mesh=textures["mesh_reeds"])
    s.add("data", "vertex_colour", "Baked data")
    s.add(
        "wind",
        "sway",
        "Wind",
        mask="@data.red",
        phase="@data.green",
        strength=0.22,
        speed=0.3,
        gusts=0.7,
        flutter=0.012,
    )
    s.add(
        "along",
        "gradient",
        "Foot to tip",
        at="@data.red",
        stops=(0.0, 0.02, 0.03, 0.01, 0.35, 0.09, 0.14, 0.03, 0.8, 0.24, 0.25, 0.06, 1.0, 0.45, 0.31, 0.12),
    )
    s.add("each", "random_per_cell", "Each blade", cell="@blade.vector", seed=3, low=-1.1, high=0.0)
    s.add("blade", "combine_two", "Blade", x="@blade_number.result", y=0.0)
    s.add("blade_number", "multiply", "Blade number", a="@data.green", b=997.0)
    s.add("toned", "brightness", "Its own tone", colour="@along.colour", stops="@each.value")
    s.add("side", "face_side", "Side")
    s.add("paler", "lay_over", "Paler behind", {"mode": "screen"}, base="@toned.colour", top=(0.10, 0.11, 0.06))
    s.add("both_sides", "mix", "Both sides", a="@paler.colour", b="@toned.colour", amount="@side.front")
    s.add(
        "glow", "light_through", "Light through", colour="@toned.colour", thin="@thin.result", sharpness=2.5, spread=0.5
    )
    s.add("thin", "remap", "Thin at the tip", value="@data.red", to_low=0.1, to_high=0.9)
    s.add("midrib", "stripes", "Midrib", count=1.0, width=0.12, softness=0.2)
    s.add("rib", "bump", "Rib", height="@midrib.value", depth=0.004)
    s.dock(
        base_colour="@both_sides.result",
        roughness=0.55,
        emissive="@glow.colour",
        normal="@rib.normal",
        offset="@wind.offset",
    )
    s.open("Wind", "wind", key="strength", low=0, high=1, step=0.005, unit="m", group="Wind")
    s.open("Gusts", "wind", "gusts", group="Wind")
    s.open("Flutter", "wind", key="flutter", low=0, high=0.1, step=0.001, unit="m", group="Wind")
    s.open("Foot to tip", "along", "stops", group="Colour")
    s.open("Light through", "glow", "sharpness", 0.5, 8, 0.1, group="Colour")
    s.variant("Storm", wind=0.6, flutter=0.05)
    s.variant(
        "Winter straw",
        wind=0.12,
        foot_to_tip=(0.0, 0.10, 0.07, 0.04, 0.4, 0.24, 0.17, 0.09, 0.8, 0.42, 0.31, 0.17, 1.0, 0.55, 0.44, 0.27),
    )
    return s.graph()
