"""What is made and worn at Heron Lock: bronze lock gear, and the ferrywoman's braid."""

from velvet_moth.core.document.graph import Graph
from velvet_moth.core.document.tracks.track import Key
from velvet_moth.demo.graphs import Textures
from velvet_moth.demo.sketch import Sketch

# A card ends where its picture does.
HELD = {"texture_wrap": "clamp"}


def bronze_gear(textures: Textures) -> Graph:
    """Bronze by five maps, and verdigris that grows from where water stands."""
    s = Sketch("Bronze gear", "pipe", "studio_strips", tags="metal, prop")
    s.add("tiled", "tile", "Map tiling", tiling=(1, 1))
    for key, label in (("base", "Base colour"), ("metallic", "Metallic"), ("roughness", "Roughness")):
        s.add(key, "texture", f"{label} map", texture=textures[f"gear_{key}"], uv="@tiled.uv")
    s.add("specular", "texture", "Specular colour map", texture=textures["gear_specular"], uv="@tiled.uv")
    s.add("relief", "normal_map", "Normal map", texture=textures["gear_normal"], uv="@tiled.uv", strength=1.0)
    s.add("grown", "fractal_in_space", "Verdigris places", {"layers": 5}, scale=3.2, gain=0.6, seed=7)
    s.add("box", "bounds_position", "Height on the form")
    s.add("lower", "split_three", "Lower is wetter", vector="@box.vector")
    s.add("weight", "remap", "Wetter below", value="@lower.y", to_low=0.62, to_high=0.38)
    s.add("grows", "multiply", "Grows", a="@grown.value", b="@weight.result")
    s.add("edge", "smooth_step", "Verdigris", value="@grows.result", low=0.27, high=0.33)
    s.add("green", "colour", "Verdigris colour", value=(0.045, 0.15, 0.115))
    s.add("pale", "brightness", "Paler inside", colour="@green.colour", stops="@grain.result")
    s.add("grain", "remap", "Its grain", value="@grown.value", to_low=-1.0, to_high=0.8)
    s.add(
        "metal",
        "surface",
        "Bronze",
        base_colour="@base.colour",
        metallic="@metallic.red",
        roughness="@roughness.red",
        normal="@relief.normal",
        specular_colour="@specular.colour",
    )
    s.add("crust", "surface", "Crust", base_colour="@pale.colour", roughness=0.92, normal="@bumps.normal")
    s.add("bumps", "bump", "Crust relief", height="@grown.value", depth=0.05)
    s.add("aged", "mix_surfaces", "Aged bronze", a="@metal.surface", b="@crust.surface", amount="@edge.result")
    s.dock(surface="@aged.surface")
    s.open("Map tiling", "tiled", "tiling", 0.25, 8, 0.25, group="Metal")
    s.open("Relief", "relief", "strength", 0, 3, group="Metal")
    s.open("Verdigris from", "edge", "low", 0, 0.6, group="Age")
    s.open("Verdigris to", "edge", "high", 0, 0.6, group="Age")
    s.open("Verdigris colour", "green", "value", group="Age")
    s.variant("New casting", verdigris_from=0.58, verdigris_to=0.6, relief=0.5)
    s.variant("A winter under water", verdigris_from=0.16, verdigris_to=0.22)
    s.variant("Iron-stained", verdigris_colour=(0.30, 0.12, 0.04), verdigris_from=0.22)
    return s.graph()


def ferrywomans_braid(textures: Textures) -> Graph:
    """Hair on cards: colour turns from root to tip, roots lie dark, and the light runs across the strands."""
    s = Sketch("Ferrywoman's braid", "strand_cards", "open_dock", "cut_out", tags="hair", mesh=textures["mesh_braid"])
    s.add("strands", "texture", "Strand map", HELD, texture=textures["braid_colour"])
    s.add("ids", "texture", "Strand numbers", HELD, texture=textures["braid_ids"])
    s.add("depth", "texture", "Depth map", HELD, texture=textures["braid_depth"])
    s.add("flow", "texture", "Strand directions", HELD, texture=textures["braid_flow"])
    s.add("data", "vertex_colour", "Baked data")
    s.add(
        "along",
        "gradient",
        "Root to tip",
        at="@data.red",
        stops=(0.0, 0.055, 0.018, 0.008, 0.45, 0.20, 0.065, 0.022, 1.0, 0.46, 0.20, 0.07),
    )
    s.add("each", "remap", "Each strand", value="@ids.red", to_low=-0.5, to_high=0.7)
    s.add("toned", "brightness", "Its own tone", colour="@along.colour", stops="@each.result")
    # The dye creeps up from the tips, strand by strand.
    s.add("dye", "colour", "Dye", value=(0.07, 0.36, 0.40))
    s.add("by_strand", "mix", "Some strands first", a="@data.red", b="@ids.red", amount=0.12)
    s.add("creeping", "age_by_mask", "Creeping up", where="@by_strand.result", amount=0.0, softness=0.2)
    s.add("dyed", "mix", "Dyed", a="@toned.colour", b="@dye.colour", amount="@creeping.mask")
    s.add("deep", "multiply", "How deep it lies", a="@depth.red", b="@outside.result")
    s.add("outside", "invert", "Outer cards", value="@inner.result")
    s.add("inner", "multiply", "Inner cards", a="@data.blue", b=0.75)
    s.add("occlusion", "remap", "Occlusion", value="@deep.result", to_low=0.12, to_high=1.0)
    s.add("dark", "multiply", "Occlusion on colour", a="@dyed.result", b="@occlusion.result")
    s.add("kept", "clamp", "Keep in 0..1", value="@dark.result")
    s.add("gloss", "multiply", "Occlusion on the light", a="@occlusion.result", b=0.9)
    s.add("signed", "remap", "Directions", value="@flow.colour", to_low=-1.0, to_high=1.0)
    s.add("turned", "shorten_triple", "Along the strand", vector="@signed.result")
    s.add("thick", "multiply", "Full to the tips", a="@strands.alpha", b=2.2)
    s.add("full", "clamp", "Strands", value="@thick.result")
    s.dock(
        base_colour="@kept.result",
        roughness=0.34,
        specular="@gloss.result",
        occlusion="@occlusion.result",
        anisotropy=0.75,
        anisotropy_direction="@turned.vector",
        sheen=(0.10, 0.045, 0.02),
        sheen_roughness=0.45,
        opacity="@full.result",
    )
    s.open("Root to tip", "along", "stops", group="Colour")
    s.open("Strand tones", "each", "to_high", 0, 2, group="Colour")
    s.open("Dye", "dye", "value", group="Colour")
    s.open("Dyed", "creeping", "amount", group="Colour")
    s.open("Occlusion", "occlusion", "to_low", group="Light")
    s.open("Roughness", "dock", "roughness", group="Light")
    s.open("Across the strand", "dock", "anisotropy", -1, 1, group="Light")
    s.variant(
        "Straw fair",
        root_to_tip=(0.0, 0.17, 0.09, 0.035, 0.5, 0.52, 0.33, 0.13, 1.0, 0.78, 0.60, 0.32),
    )
    s.variant(
        "Wet", roughness=0.16, root_to_tip=(0.0, 0.012, 0.006, 0.004, 0.5, 0.05, 0.02, 0.01, 1.0, 0.12, 0.05, 0.02)
    )
    s.variant(
        "Dyed tips",
        root_to_tip=(0.0, 0.02, 0.012, 0.012, 0.5, 0.05, 0.03, 0.05, 1.0, 0.12, 0.08, 0.07),
        dyed=0.4,
    )
    s.keys(
        "dyed",
        Key(0.0, (0.16,), "settle"),
        Key(4.0, (0.42,), "smooth"),
        Key(5.0, (0.45,)),
        after="there_and_back",
        variant="dyed_tips",
    )
    return s.graph()
