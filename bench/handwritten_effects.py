"""Graphs that exist only to be measured against the same effect written by hand."""

from velvet_moth.core.document.graph import Graph
from velvet_moth.demo.sketch import Sketch


def triplanar(textures: dict[str, str]) -> Graph:
    """Moss over stone by their heights, both laid on from three sides."""
    s = Sketch("Triplanar height mix")
    s.add("stone", "triplanar", texture=textures["ripple_height"], tiling=1.2)
    s.add("moss", "triplanar", texture=textures["flake_height"], tiling=2.0)
    s.add("up", "slope")
    s.add(
        "mixed",
        "height_mix",
        a="@stone.colour",
        b="@moss.colour",
        a_height="@stone.alpha",
        b_height="@moss.alpha",
        amount="@up.value",
    )
    s.add("rough", "mix", a=0.4, b=0.9, amount="@mixed.mask")
    s.dock(base_colour="@mixed.result", roughness="@rough.result")
    return s.graph()


def ink(textures: dict[str, str]) -> Graph:
    """Black water that only mirrors."""
    s = Sketch("Ink", "plane")
    s.add("waves", "drifting_waves", settings={"layers": 2}, texture=textures["ripple_normal"], tiling=2.5, speed=0.03)
    s.dock(base_colour=(0.0, 0.0, 0.0), roughness=0.08, normal="@waves.normal")
    return s.graph()


def tiles(textures: dict[str, str]) -> Graph:
    """Glazed tiles, each of its own tone and gloss."""
    s = Sketch("Tiles", "plane")
    s.add("brick", "brick", tiling=(4.0, 8.0), shift=0.5, gap=0.08, softness=0.02, seed=3.0)
    s.add("gloss", "random_per_cell", cell="@brick.cell", seed=8.0, low=0.12, high=0.3)
    s.add("glaze", "mix", a=(0.05, 0.2, 0.22), b=(0.1, 0.36, 0.34), amount="@brick.random")
    s.add("colour", "mix", a=(0.3, 0.28, 0.25), b="@glaze.result", amount="@brick.brick")
    s.add("rough", "mix", a=0.9, b="@gloss.value", amount="@brick.brick")
    s.dock(base_colour="@colour.result", roughness="@rough.result")
    return s.graph()


def hologram(textures: dict[str, str]) -> Graph:
    """A projection in the air that only emits."""
    s = Sketch("Hologram", "sphere", kind="unlit")
    s.add("rim", "view_falloff", power=2.5)
    s.add("place", "object_position")
    s.add("time", "time")
    s.add("run", "multiply", a="@time.seconds", b=0.1)
    s.add("split", "split_three", vector="@place.position")
    s.add("along", "add", a="@split.y", b="@run.result")
    s.add("uv", "combine_two", x="@along.result", y=0.0)
    s.add("lines", "stripes", uv="@uv.vector", count=40.0, width=0.5, softness=0.2)
    s.add("faint", "multiply", a="@lines.value", b=0.35)
    s.add("glow", "add", a="@rim.value", b="@faint.result")
    s.add("cyan", "colour", value=(0.1, 0.8, 1.0))
    s.add("light", "multiply", a="@cyan.colour", b="@glow.result")
    s.dock(base_colour=(0.0, 0.0, 0.0), emissive="@light.result", emissive_strength=3.0, opacity="@glow.result")
    return s.graph()
