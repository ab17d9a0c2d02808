"""Stacks to begin from, as plain data: each makes what an artist needs most often, and every step of it can be changed."""

from collections.abc import Mapping
from typing import Any

Plain = Mapping[str, Any]


def stack(
    name: str,
    size: int | tuple[int, int],
    steps: Mapping[str, tuple[str, Plain]],
    outputs: Mapping[str, tuple[str, str, str]],
) -> dict[str, Any]:
    """A recipe: ``steps`` by id, as (kind, values); ``outputs`` by id, as (name, "step" or "step.layer", depth)."""
    made = []
    for key, (called, source, depth) in outputs.items():
        step, _, layer = source.partition(".")
        made.append({"id": key, "name": called, "step": step, "layer": layer or "picture", "depth": depth})
    return {
        "name": name,
        "size": [size, size] if isinstance(size, int) else list(size),
        "steps": [{"id": key, "step": kind, "values": dict(values)} for key, (kind, values) in steps.items()],
        "outputs": made,
    }


def noise(name: str, size: int, kind: str, values: Plain, strength: float) -> dict[str, Any]:
    """A height and its normal map."""
    return stack(
        name,
        size,
        {"height": (kind, values), "normal": ("normal_from_height", {"strength": strength})},
        {"height": (f"{name} height", "height", "16 bit"), "normal": (f"{name} normal", "normal", "8 bit")},
    )


BEGINNINGS: Mapping[str, dict[str, Any]] = {
    recipe["name"]: recipe
    for recipe in (
        noise("Grain", 512, "fractal_noise", {}, 0.03),
        noise("Flakes", 512, "flakes", {}, 0.02),
        noise("Pebbles", 512, "cells", {}, 0.05),
        stack(
            "Clouds",
            512,
            {"clouds": ("cloud_heights", {})},
            {"clouds": ("Clouds", "clouds", "8 bit")},
        ),
        stack(
            "Bricks",
            1024,
            {
                "wall": ("layout", {}),
                "grain": ("fractal_noise", {"cells": 24, "layers": 4}),
                "worn": (
                    "blend",
                    {"under": {"step": "wall"}, "over": {"step": "grain"}, "mode": "multiply", "amount": 0.35},
                ),
                "normal": ("normal_from_height", {"strength": 0.02}),
                "shade": ("occlusion_from_height", {"height": {"step": "worn"}, "depth": 0.03}),
                "masks": (
                    "pack_channels",
                    {
                        "red": {"step": "shade"},
                        "green": {"step": "wall", "layer": "ids"},
                        "blue": {"step": "wall", "layer": "gaps"},
                    },
                ),
            },
            {
                "normal": ("Brick normal", "normal", "8 bit"),
                "masks": ("Brick occlusion, ids, gaps", "masks", "8 bit"),
                "height": ("Brick height", "worn", "16 bit"),
            },
        ),
        stack(
            "Worn metal",
            1024,
            {
                "grain": ("fractal_noise", {"cells": 5, "layers": 6}),
                "metal": ("colourise", {"gradient": [0, 0.32, 0.17, 0.06, 0.6, 0.55, 0.33, 0.14, 1, 0.78, 0.55, 0.30]}),
                "dirt": ("grunge", {"amount": 0.35, "seed": 4}),
                "scratches": ("scratches", {"count": 220}),
                "set": (
                    "metal_set",
                    {"base": {"step": "metal"}, "dirt": {"step": "dirt"}, "scratches": {"step": "scratches"}},
                ),
                "normal": ("normal_from_height", {"height": {"step": "set", "layer": "bump"}, "strength": 0.01}),
            },
            {
                "base": ("Worn metal colour", "set.base_colour", "8 bit"),
                "metallic": ("Worn metal metallic", "set.metallic", "8 bit"),
                "roughness": ("Worn metal roughness", "set.roughness", "8 bit"),
                "specular": ("Worn metal specular colour", "set.specular", "8 bit"),
                "normal": ("Worn metal normal", "normal", "8 bit"),
            },
        ),
        stack(
            "Atlas of marks",
            1024,
            {
                "first": ("chalk_mark", {"mark": "arrow"}),
                "second": ("chalk_mark", {"mark": "ring", "seed": 2}),
                "third": ("chalk_mark", {"mark": "cross", "seed": 3}),
                "sheet": (
                    "atlas",
                    {
                        "columns": 2,
                        "rows": 2,
                        "tiles": [
                            {"name": mark, "maps": {"picture": {"step": key}}}
                            for key, mark in (("first", "arrow"), ("second", "ring"), ("third", "cross"))
                        ],
                    },
                ),
            },
            {"marks": ("Marks", "sheet", "8 bit")},
        ),
        stack(
            "Tile palette",
            512,
            {
                "grain": ("fractal_noise", {"cells": 8, "layers": 4}),
                "normal": ("normal_from_height", {"strength": 0.01}),
                "palette": (
                    "tile_palette",
                    {
                        "columns": 2,
                        "rows": 2,
                        "tiles": [
                            {"name": "clay", "maps": {"base_colour": [0.42, 0.2, 0.1], "roughness": [0.7]}},
                            {"name": "stone", "maps": {"base_colour": [0.3, 0.3, 0.28], "normal": {"step": "normal"}}},
                            {
                                "name": "brass",
                                "maps": {"base_colour": [0.7, 0.5, 0.2], "metallic": [1.0], "roughness": [0.3]},
                            },
                            {"name": "glass", "maps": {"base_colour": [0.05, 0.2, 0.22], "roughness": [0.1]}},
                        ],
                    },
                ),
            },
            {
                "base": ("Palette base colour", "palette.base_colour", "8 bit"),
                "metallic": ("Palette metallic", "palette.metallic", "8 bit"),
                "roughness": ("Palette roughness", "palette.roughness", "8 bit"),
                "normal": ("Palette normal", "palette.normal", "8 bit"),
            },
        ),
        stack(
            "Leaf",
            512,
            {
                "leaf": ("leaf", {}),
                "normal": ("normal_from_height", {"height": {"step": "leaf", "layer": "height"}, "wrap": "ends"}),
            },
            {
                "colour": ("Leaf colour", "leaf", "8 bit"),
                "normal": ("Leaf normal", "normal", "8 bit"),
                "thickness": ("Leaf thickness", "leaf.thickness", "8 bit"),
            },
        ),
        stack(
            "Hair card",
            1024,
            {"hair": ("hair_strands", {})},
            {
                "colour": ("Hair colour", "hair", "8 bit"),
                "flow": ("Hair flow", "hair.flow", "8 bit"),
                "depth": ("Hair depth", "hair.depth", "8 bit"),
                "ids": ("Hair strand ids", "hair.ids", "8 bit"),
            },
        ),
        stack(
            "Splash",
            512,
            {
                "splash": ("splash", {}),
                "normal": ("normal_from_height", {"height": {"step": "splash", "layer": "height"}}),
            },
            {"mask": ("Splash mask", "splash", "8 bit"), "normal": ("Splash normal", "normal", "8 bit")},
        ),
    )
}
