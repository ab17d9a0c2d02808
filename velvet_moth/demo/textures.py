"""The textures of Heron Lock: stacks of steps, and what they make, by name."""

from collections.abc import Mapping
from functools import cache
from typing import Any

from velvet_moth.core.making.beginnings import noise, stack
from velvet_moth.core.making.exchange import picture_of
from velvet_moth.core.making.recipe import MakingContext, Recipe, evaluate, recipe_from_json
from velvet_moth.core.pictures.library import NamedPicture
from velvet_moth.core.pictures.reading import Reading
from velvet_moth.demo.block_materials import BLOCK_PALETTE

# Linear light, as everywhere.
BRONZE = [0, 0.24, 0.12, 0.04, 0.6, 0.46, 0.27, 0.10, 1, 0.66, 0.44, 0.20]

# The marks the lock keepers leave, in the order of their numbers.
CHALK = ("tally", "arrow", "ring", "cross", "wave", "eye", "spiral", "heron")

# The glazes of the boathouse floor: base colour, and how rough the firing left it.
GLAZES: Mapping[str, tuple[float, float, float, float]] = {
    "oxblood": (0.28, 0.03, 0.025, 0.22),
    "rust": (0.36, 0.10, 0.03, 0.42),
    "clay": (0.42, 0.20, 0.10, 0.70),
    "buff": (0.55, 0.40, 0.24, 0.64),
    "straw": (0.58, 0.46, 0.16, 0.35),
    "moss": (0.12, 0.17, 0.05, 0.38),
    "reed": (0.20, 0.30, 0.12, 0.30),
    "celadon": (0.33, 0.46, 0.36, 0.18),
    "lock water": (0.03, 0.15, 0.16, 0.15),
    "dusk": (0.06, 0.10, 0.20, 0.24),
    "slate": (0.09, 0.11, 0.13, 0.58),
    "plum": (0.14, 0.03, 0.10, 0.26),
    "soot": (0.02, 0.02, 0.022, 0.74),
    "ash": (0.34, 0.34, 0.33, 0.66),
    "bone": (0.68, 0.63, 0.53, 0.32),
    "lime wash": (0.76, 0.75, 0.71, 0.82),
}


def _glaze(name: str, red: float, green: float, blue: float, roughness: float) -> dict[str, Any]:
    maps = {"base_colour": [red, green, blue], "roughness": [roughness], "normal": {"step": "pitted"}}
    return {"name": name, "maps": maps}


STACKS: Mapping[str, dict[str, Any]] = {
    "flake": noise("Flake", 512, "flakes", {"count": 48, "seed": 7}, 0.0195),
    "ripple": noise("Ripple", 256, "fractal_noise", {"cells": 6, "layers": 4, "seed": 3}, 0.055),
    "dock_leaf": stack(
        "Water-dock leaf",
        512,
        {
            "leaf": ("leaf", {"shape": "lance", "width": 0.5, "veins": 12, "teeth": 22, "notch": 0.25, "seed": 9}),
            "normal": (
                "normal_from_height",
                {"height": {"step": "leaf", "layer": "height"}, "strength": 0.02, "wrap": "ends"},
            ),
        },
        {
            "colour": ("Dock leaf colour", "leaf", "8 bit"),
            "normal": ("Dock leaf normal", "normal", "8 bit"),
            "thickness": ("Dock leaf thickness", "leaf.thickness", "8 bit"),
        },
    ),
    "braid": stack(
        "Ferrywoman's braid",
        512,
        {"hair": ("hair_strands", {"count": 170, "clumps": 5, "curl": 0.35, "seed": 12})},
        {
            "colour": ("Braid colour", "hair", "8 bit"),
            "flow": ("Braid flow", "hair.flow", "8 bit"),
            "depth": ("Braid depth", "hair.depth", "8 bit"),
            "ids": ("Braid strand ids", "hair.ids", "8 bit"),
        },
    ),
    "gear": stack(
        "Bronze gear",
        512,
        {
            "grain": ("fractal_noise", {"cells": 4, "layers": 6, "seed": 21}),
            "bronze": ("colourise", {"gradient": BRONZE}),
            "silt": ("grunge", {"cells": 4, "amount": 0.4, "contrast": 0.5, "seed": 22}),
            "wear": ("scratches", {"count": 140, "length": 0.3, "turn": 75, "seed": 23}),
            "set": (
                "metal_set",
                {"base": {"step": "bronze"}, "dirt": {"step": "silt"}, "scratches": {"step": "wear"}},
            ),
            "normal": ("normal_from_height", {"height": {"step": "set", "layer": "bump"}, "strength": 0.012}),
        },
        {
            "base": ("Gear base colour", "set.base_colour", "8 bit"),
            "metallic": ("Gear metallic", "set.metallic", "8 bit"),
            "roughness": ("Gear roughness", "set.roughness", "8 bit"),
            "specular": ("Gear specular colour", "set.specular", "8 bit"),
            "normal": ("Gear normal", "normal", "8 bit"),
        },
    ),
    "chalk": stack(
        "Chalk marks",
        (1024, 512),
        {
            **{mark: ("chalk_mark", {"mark": mark, "seed": 3 * at + 1}) for at, mark in enumerate(CHALK)},
            "sheet": (
                "atlas",
                {
                    "tiles": [{"name": mark, "maps": {"picture": {"step": mark}}} for mark in CHALK],
                    "columns": 4,
                    "rows": 2,
                },
            ),
        },
        {"marks": ("Chalk marks", "sheet", "8 bit")},
    ),
    "blocks": BLOCK_PALETTE,
    "glaze": stack(
        "Boathouse glazes",
        512,
        {
            "pits": ("fractal_noise", {"cells": 10, "layers": 4, "seed": 31}),
            "pitted": ("normal_from_height", {"strength": 0.012}),
            "palette": ("tile_palette", {"tiles": [_glaze(name, *values) for name, values in GLAZES.items()]}),
        },
        {
            "base": ("Glaze base colour", "palette.base_colour", "8 bit"),
            "roughness": ("Glaze roughness", "palette.roughness", "8 bit"),
            "normal": ("Glaze normal", "palette.normal", "8 bit"),
        },
    ),
}


def recipes_by_key() -> dict[str, Recipe]:
    return {key: recipe_from_json(data, f"demo {key}") for key, data in STACKS.items()}


@cache
def made_textures() -> dict[str, NamedPicture]:
    """What the stacks make, by "stack_output"."""
    found: dict[str, NamedPicture] = {}
    for key, recipe in recipes_by_key().items():
        wanted = {output.step for output in recipe.outputs}
        layers = evaluate(recipe, recipe.canvas, MakingContext(lambda key, canvas: None), wanted)
        for output in recipe.outputs:
            layer = layers[output.step][output.layer]
            picture = picture_of(layer, output.depth)
            found[f"{key}_{output.id}"] = NamedPicture(output.name, Reading(layer.role), picture)
    return found
