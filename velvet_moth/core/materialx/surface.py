"""The channels of a surface as the inputs of the standard's glTF surface."""

from collections.abc import Mapping
from dataclasses import dataclass

SURFACE = "gltf_pbr"
# As the standard counts glTF's modes.
ALPHA_MODES = ("OPAQUE", "MASK", "BLEND")


@dataclass(frozen=True)
class Channel:
    """An input of the standard's surface: its name and type. ``is_normal``: it holds a normal of the world, by a normal map."""

    input: str
    type: str
    is_normal: bool = False


# Source: MaterialX 1.39, bxdf/gltf_pbr.mtlx.
CHANNELS: Mapping[str, Channel] = {
    "base_colour": Channel("base_color", "color3"),
    "metallic": Channel("metallic", "float"),
    "roughness": Channel("roughness", "float"),
    "normal": Channel("normal", "vector3", is_normal=True),
    "occlusion": Channel("occlusion", "float"),
    "emissive": Channel("emissive", "color3"),
    "emissive_strength": Channel("emissive_strength", "float"),
    "clear_coat": Channel("clearcoat", "float"),
    "coat_roughness": Channel("clearcoat_roughness", "float"),
    "coat_normal": Channel("clearcoat_normal", "vector3", is_normal=True),
    "anisotropy": Channel("anisotropy_strength", "float"),
    "sheen": Channel("sheen_color", "color3"),
    "sheen_roughness": Channel("sheen_roughness", "float"),
    "specular": Channel("specular", "float"),
    "specular_colour": Channel("specular_color", "color3"),
    "ior": Channel("ior", "float"),
    "transmission": Channel("transmission", "float"),
    "thickness": Channel("thickness", "float"),
    "attenuation_colour": Channel("attenuation_color", "color3"),
    "attenuation_distance": Channel("attenuation_distance", "float"),
    "opacity": Channel("alpha", "float"),
    "alpha_cutoff": Channel("alpha_cutoff", "float"),
}
