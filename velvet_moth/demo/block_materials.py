"""The palette of Heron Lock's block models: some thirty materials, each of a relief and a gradient of colours."""

from collections.abc import Mapping
from typing import Any

from velvet_moth.core.making.beginnings import stack

# Reliefs that several materials share: the step that makes it and what is set there, and how deep its bumps are (widths of a tile).
RELIEFS: Mapping[str, tuple[str, dict[str, Any], float]] = {
    "grain": ("fractal_noise", {"cells": 3, "layers": 6, "stretch": 6, "seed": 41}, 0.010),
    "planks": (
        "layout",
        {"pattern": "planks", "across": 1, "up": 4, "gap": 0.07, "bevel": 0.1, "uneven": 0.3, "seed": 42},
        0.030,
    ),
    "running": ("layout", {"across": 2, "up": 4, "gap": 0.12, "bevel": 0.12, "uneven": 0.4, "seed": 43}, 0.030),
    "thirds": (
        "layout",
        {"across": 3, "up": 8, "gap": 0.14, "bevel": 0.14, "shift": 0.34, "uneven": 0.4, "seed": 44},
        0.026,
    ),
    "stacked": (
        "layout",
        {"across": 2, "up": 4, "gap": 0.1, "bevel": 0.2, "shift": 0.0, "uneven": 0.5, "seed": 45},
        0.030,
    ),
    "slates": ("layout", {"across": 2, "up": 3, "gap": 0.05, "bevel": 0.5, "uneven": 0.7, "seed": 46}, 0.036),
    "ashlar": (
        "layout",
        {"pattern": "tiles", "across": 1, "up": 1, "gap": 0.06, "bevel": 0.1, "uneven": 0.1, "seed": 47},
        0.026,
    ),
    "rubble": ("cells", {"count": 14, "jitter": 0.9, "edge": 0.5, "seed": 48}, 0.040),
    "plaster": ("fractal_noise", {"cells": 5, "layers": 6, "gain": 0.6, "seed": 49}, 0.012),
    "straw": ("fractal_noise", {"cells": 6, "layers": 6, "stretch": 8, "gain": 0.65, "seed": 50}, 0.030),
    "moss": ("fractal_noise", {"cells": 12, "layers": 5, "gain": 0.7, "seed": 51}, 0.040),
    "metal": ("brushed_metal", {"fineness": 120, "seed": 52}, 0.003),
    "patina": ("grunge", {"cells": 5, "amount": 0.55, "contrast": 0.7, "seed": 53}, 0.010),
    "pebbles": ("cells", {"count": 60, "jitter": 1.0, "edge": 0.45, "seed": 54}, 0.028),
    "panes": (
        "layout",
        {"pattern": "tiles", "across": 2, "up": 2, "gap": 0.1, "bevel": 0.03, "uneven": 0.0, "seed": 55},
        0.030,
    ),
    "strands": (
        "layout",
        {"across": 3, "up": 6, "gap": 0.04, "bevel": 0.5, "shift": 0.34, "uneven": 0.2, "seed": 56},
        0.060,
    ),
}
Light = tuple[float, float, float]
# In the order of their numbers: the relief, its darkest and lightest colour, roughness, metallic, how much light comes out.
MATERIALS: Mapping[str, tuple[str, Light, Light, float, float, float]] = {
    "planks": ("planks", (0.06, 0.032, 0.016), (0.36, 0.22, 0.12), 0.62, 0.0, 0.0),
    "tarred planks": ("planks", (0.008, 0.007, 0.007), (0.055, 0.045, 0.042), 0.38, 0.0, 0.0),
    "weathered planks": ("planks", (0.05, 0.045, 0.04), (0.34, 0.31, 0.28), 0.82, 0.0, 0.0),
    "green paint": ("planks", (0.012, 0.035, 0.028), (0.05, 0.17, 0.13), 0.4, 0.0, 0.0),
    "white paint": ("planks", (0.16, 0.15, 0.13), (0.72, 0.71, 0.66), 0.45, 0.0, 0.0),
    "oak beam": ("grain", (0.045, 0.024, 0.012), (0.2, 0.115, 0.06), 0.66, 0.0, 0.0),
    "red brick": ("running", (0.2, 0.17, 0.14), (0.34, 0.085, 0.045), 0.8, 0.0, 0.0),
    "dark brick": ("running", (0.1, 0.09, 0.08), (0.11, 0.04, 0.03), 0.72, 0.0, 0.0),
    "small brick": ("thirds", (0.24, 0.2, 0.16), (0.4, 0.15, 0.07), 0.82, 0.0, 0.0),
    "yellow brick": ("stacked", (0.22, 0.19, 0.14), (0.5, 0.36, 0.16), 0.78, 0.0, 0.0),
    "sooty brick": ("stacked", (0.02, 0.018, 0.017), (0.075, 0.05, 0.042), 0.85, 0.0, 0.0),
    "slate": ("slates", (0.012, 0.014, 0.018), (0.085, 0.1, 0.125), 0.5, 0.0, 0.0),
    "clay tiles": ("slates", (0.05, 0.018, 0.01), (0.38, 0.13, 0.06), 0.7, 0.0, 0.0),
    "quay stone": ("ashlar", (0.05, 0.047, 0.042), (0.27, 0.255, 0.23), 0.84, 0.0, 0.0),
    "rubble": ("rubble", (0.03, 0.027, 0.024), (0.24, 0.21, 0.17), 0.88, 0.0, 0.0),
    "whitewash": ("plaster", (0.5, 0.48, 0.43), (0.84, 0.82, 0.77), 0.9, 0.0, 0.0),
    "old whitewash": ("patina", (0.74, 0.71, 0.64), (0.24, 0.2, 0.14), 0.92, 0.0, 0.0),
    "ochre plaster": ("plaster", (0.32, 0.18, 0.05), (0.58, 0.38, 0.14), 0.88, 0.0, 0.0),
    "thatch": ("straw", (0.07, 0.045, 0.018), (0.5, 0.37, 0.17), 0.9, 0.0, 0.0),
    "old thatch": ("straw", (0.035, 0.03, 0.018), (0.22, 0.19, 0.12), 0.92, 0.0, 0.0),
    "rope": ("strands", (0.08, 0.055, 0.03), (0.45, 0.34, 0.2), 0.85, 0.0, 0.0),
    "new copper": ("metal", (0.62, 0.26, 0.13), (0.93, 0.52, 0.34), 0.26, 1.0, 0.0),
    "old copper": ("patina", (0.2, 0.1, 0.06), (0.16, 0.42, 0.33), 0.62, 0.35, 0.0),
    "bronze": ("metal", (0.34, 0.2, 0.08), (0.66, 0.44, 0.2), 0.32, 1.0, 0.0),
    "iron": ("metal", (0.1, 0.1, 0.105), (0.26, 0.25, 0.25), 0.48, 1.0, 0.0),
    "rust": ("patina", (0.05, 0.02, 0.012), (0.27, 0.085, 0.028), 0.86, 0.15, 0.0),
    "moss": ("moss", (0.012, 0.022, 0.006), (0.12, 0.19, 0.045), 0.95, 0.0, 0.0),
    "gravel": ("pebbles", (0.035, 0.032, 0.028), (0.3, 0.28, 0.25), 0.88, 0.0, 0.0),
    "silt": ("plaster", (0.03, 0.024, 0.017), (0.1, 0.08, 0.055), 0.5, 0.0, 0.0),
    "window": ("panes", (0.05, 0.045, 0.04), (0.012, 0.02, 0.026), 0.12, 0.0, 0.0),
    "lit window": ("panes", (0.05, 0.03, 0.015), (1.0, 0.55, 0.2), 0.2, 0.0, 1.0),
    "lamp glass": ("plaster", (0.9, 0.45, 0.14), (1.0, 0.72, 0.36), 0.15, 0.0, 1.0),
}
ENTRY: Mapping[str, int] = {name: number for number, name in enumerate(MATERIALS, start=1)}
COLUMNS, ROWS = 8, 8


def _steps() -> dict[str, tuple[str, dict[str, Any]]]:
    found: dict[str, tuple[str, dict[str, Any]]] = {}
    for key, (step, values, depth) in RELIEFS.items():
        found[key] = (step, values)
        found[f"{key}_bumps"] = ("normal_from_height", {"height": {"step": key}, "strength": depth})
    for name, (relief, dark, light, *_) in MATERIALS.items():
        gradient = [0, *dark, 0.35, *((a + b) / 2 for a, b in zip(dark, light, strict=True)), 1, *light]
        found[_key(name)] = ("colourise", {"before": {"step": relief}, "gradient": gradient})
    found["palette"] = (
        "tile_palette",
        {"columns": COLUMNS, "rows": ROWS, "padding": 0.0625, "tiles": [_tile(name) for name in MATERIALS]},
    )
    return found


def _key(name: str) -> str:
    return f"of_{name.replace(' ', '_')}"


def _tile(name: str) -> dict[str, Any]:
    relief, _, _, roughness, metallic, light = MATERIALS[name]
    maps = {
        "base_colour": {"step": _key(name)},
        "metallic": [metallic],
        "roughness": [roughness],
        "normal": {"step": f"{relief}_bumps"},
        "height": {"step": relief},
        # Light comes through panes, and not through what frames them.
        "emission": {"step": relief} if light and relief == "panes" else [light],
    }
    return {"name": name, "maps": maps}


BLOCK_PALETTE = stack(
    "Lock-keeper's materials",
    1024,
    _steps(),
    {
        "base": ("Block base colour", "palette.base_colour", "8 bit"),
        "metallic": ("Block metallic", "palette.metallic", "8 bit"),
        "roughness": ("Block roughness", "palette.roughness", "8 bit"),
        "normal": ("Block normal", "palette.normal", "8 bit"),
        "height": ("Block height", "palette.height", "8 bit"),
        "emission": ("Block light", "palette.emission", "8 bit"),
    },
)
