"""A palette as one material of glTF: its maps packed as the standard asks."""

from collections.abc import Mapping

import numpy as np

from velvet_moth.core.language.texture import Floats, linear_to_srgb
from velvet_moth.core.making.layer import Layer
from velvet_moth.core.meshes.source import Material
from velvet_moth.core.pictures.formats import write_png


def _bytes(values: Floats) -> bytes:
    """Values 0..1 (channels, rows, columns) as a PNG."""
    return write_png(np.rint(np.clip(values, 0, 1) * 255).astype(np.uint8).transpose(1, 2, 0))


def palette_material(name: str, maps: Mapping[str, Layer]) -> Material:
    """The pictures of a material, of the maps of a palette that there are (``base_colour``, ``metallic``, ...), all of one size."""
    pictures: dict[str, bytes] = {}
    base = maps["base_colour"]
    pictures["baseColorTexture"] = _bytes(linear_to_srgb(base.colour))
    if "metallic" in maps or "roughness" in maps:
        shape = base.values.shape[1:]
        rough = maps["roughness"].number if "roughness" in maps else np.full(shape, 0.6, dtype=np.float32)
        metal = maps["metallic"].number if "metallic" in maps else np.zeros(shape, dtype=np.float32)
        pictures["metallicRoughnessTexture"] = _bytes(np.stack((np.ones_like(rough), rough, metal)))
    if "normal" in maps:
        pictures["normalTexture"] = _bytes(maps["normal"].values * 0.5 + 0.5)
    if "emission" in maps and maps["emission"].number.max() > 0:
        pictures["emissiveTexture"] = _bytes(linear_to_srgb(base.colour * maps["emission"].number[None]))
    return Material(name, pictures)
