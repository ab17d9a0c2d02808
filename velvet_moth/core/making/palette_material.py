"""A palette as one material of glTF: its maps packed as the standard asks."""

from collections.abc import Mapping
from typing import Any

import numpy as np

from velvet_moth.core.language.texture import Floats, linear_to_srgb
from velvet_moth.core.making.layer import Layer
from velvet_moth.core.meshes.source import Materials
from velvet_moth.core.pictures.formats import write_png


def _bytes(values: Floats) -> bytes:
    """Values 0..1 (channels, rows, columns) as a PNG."""
    return write_png(np.rint(np.clip(values, 0, 1) * 255).astype(np.uint8).transpose(1, 2, 0))


def palette_pictures(maps: Mapping[str, Layer]) -> dict[str, bytes]:
    """PNG files of the maps of a palette that there are (``base_colour``, ``metallic``, ...), all of one size."""
    base = maps["base_colour"]
    pictures = {"base_colour": _bytes(linear_to_srgb(base.colour))}
    if "metallic" in maps or "roughness" in maps:
        shape = base.values.shape[1:]
        rough = maps["roughness"].number if "roughness" in maps else np.full(shape, 0.6, dtype=np.float32)
        metal = maps["metallic"].number if "metallic" in maps else np.zeros(shape, dtype=np.float32)
        pictures["metallic_roughness"] = _bytes(np.stack((np.ones_like(rough), rough, metal)))
    if "normal" in maps:
        pictures["normal"] = _bytes(maps["normal"].values * 0.5 + 0.5)
    if "emission" in maps and maps["emission"].number.max() > 0:
        pictures["emissive"] = _bytes(linear_to_srgb(base.colour * maps["emission"].number[None]))
    return pictures


def palette_material(name: str, pictures: Mapping[str, bytes]) -> Materials:
    """The material of ``palette_pictures``. No smaller levels: what is beside a tile must not come into it."""
    read = {key: {"index": number} for number, key in enumerate(pictures)}
    surface: dict[str, Any] = {"baseColorTexture": read["base_colour"], "metallicFactor": 0.0}
    made: dict[str, Any] = {"name": name, "pbrMetallicRoughness": surface}
    if "metallic_roughness" in read:
        surface |= {"metallicRoughnessTexture": read["metallic_roughness"], "metallicFactor": 1.0}
    if "normal" in read:
        made["normalTexture"] = read["normal"]
    if "emissive" in read:
        made |= {"emissiveTexture": read["emissive"], "emissiveFactor": [1.0, 1.0, 1.0]}
    return Materials((made,), tuple(pictures.values()))
