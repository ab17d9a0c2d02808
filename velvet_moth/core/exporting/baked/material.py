"""Baked channels as a material of glTF 2.0 and its extensions: packed as the standard asks, constants as factors."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from velvet_moth.core.exporting.baked.surface import BakedSurface
from velvet_moth.core.language.texture import ALPHA_CUTOFF, Floats, linear_to_srgb
from velvet_moth.core.lighting.channels import CHANNELS
from velvet_moth.core.lighting.kinds import KINDS
from velvet_moth.core.pictures.formats import write_png

_PBR = "pbrMetallicRoughness"
_COAT = "extensions/KHR_materials_clearcoat"
_SHEEN = "extensions/KHR_materials_sheen"
_SPECULAR = "extensions/KHR_materials_specular"
_VOLUME = "extensions/KHR_materials_volume"
_TRANSMISSION = "extensions/KHR_materials_transmission"
_THROUGH = "extensions/KHR_materials_diffuse_transmission"
_ANISOTROPY = "extensions/KHR_materials_anisotropy"


@dataclass(frozen=True)
class Part:
    """Where a channel is in a material: the texture's place and the first of its components there, the factor's place and its first.

    Parts of one ``picture`` share a file.
    """

    channel: str
    picture: str
    texture: str
    at: int
    factor: str = ""
    factor_at: int = 0
    is_colour: bool = False
    is_signed: bool = False

    @property
    def width(self) -> int:
        """How many components the channel has."""
        declared = CHANNELS[self.channel].type.value
        assert declared is not None
        return declared.width


# Source: the glTF 2.0 specification, 3.9, and the extensions named above, in the registry of the Khronos Group.
PARTS = (
    Part("base_colour", "base", f"{_PBR}/baseColorTexture", 0, f"{_PBR}/baseColorFactor", is_colour=True),
    Part("opacity", "base", f"{_PBR}/baseColorTexture", 3, f"{_PBR}/baseColorFactor", 3),
    Part("occlusion", "surface", "occlusionTexture", 0),
    Part("roughness", "surface", f"{_PBR}/metallicRoughnessTexture", 1, f"{_PBR}/roughnessFactor"),
    Part("metallic", "surface", f"{_PBR}/metallicRoughnessTexture", 2, f"{_PBR}/metallicFactor"),
    Part("normal", "normal", "normalTexture", 0, is_signed=True),
    Part("emissive", "emissive", "emissiveTexture", 0, "emissiveFactor", is_colour=True),
    Part("clear_coat", "coat", f"{_COAT}/clearcoatTexture", 0, f"{_COAT}/clearcoatFactor"),
    Part("coat_roughness", "coat", f"{_COAT}/clearcoatRoughnessTexture", 1, f"{_COAT}/clearcoatRoughnessFactor"),
    Part("coat_normal", "coat normal", f"{_COAT}/clearcoatNormalTexture", 0, is_signed=True),
    Part("sheen", "sheen", f"{_SHEEN}/sheenColorTexture", 0, f"{_SHEEN}/sheenColorFactor", is_colour=True),
    Part("sheen_roughness", "sheen", f"{_SHEEN}/sheenRoughnessTexture", 3, f"{_SHEEN}/sheenRoughnessFactor"),
    Part(
        "specular_colour",
        "specular",
        f"{_SPECULAR}/specularColorTexture",
        0,
        f"{_SPECULAR}/specularColorFactor",
        is_colour=True,
    ),
    Part("specular", "specular", f"{_SPECULAR}/specularTexture", 3, f"{_SPECULAR}/specularFactor"),
    Part("transmission", "glass", f"{_TRANSMISSION}/transmissionTexture", 0, f"{_TRANSMISSION}/transmissionFactor"),
    Part("thickness", "glass", f"{_VOLUME}/thicknessTexture", 1, f"{_VOLUME}/thicknessFactor"),
    Part(
        "diffuse_transmission_colour",
        "through",
        f"{_THROUGH}/diffuseTransmissionColorTexture",
        0,
        f"{_THROUGH}/diffuseTransmissionColorFactor",
        is_colour=True,
    ),
    Part(
        "diffuse_transmission",
        "through",
        f"{_THROUGH}/diffuseTransmissionTexture",
        3,
        f"{_THROUGH}/diffuseTransmissionFactor",
    ),
    Part("anisotropy_direction", "strands", f"{_ANISOTROPY}/anisotropyTexture", 0, is_signed=True),
    Part("anisotropy", "strands", f"{_ANISOTROPY}/anisotropyTexture", 2, f"{_ANISOTROPY}/anisotropyStrength"),
)
_ALPHA = 3
# Channels that the standard has as one number or colour for the whole material.
WHOLE = {
    "ior": "extensions/KHR_materials_ior/ior",
    "attenuation_distance": f"{_VOLUME}/attenuationDistance",
    "attenuation_colour": f"{_VOLUME}/attenuationColor",
}
# What an extension is there for: without these it is left out.
_GATES = {
    _COAT: ("clear_coat",),
    _SHEEN: ("sheen",),
    _SPECULAR: ("specular", "specular_colour"),
    _VOLUME: ("thickness",),
    _TRANSMISSION: ("transmission",),
    _THROUGH: ("diffuse_transmission",),
    _ANISOTROPY: ("anisotropy",),
}


class Pictures:
    """The PNG files of several materials, each kept once."""

    def __init__(self) -> None:
        self.files: list[bytes] = []

    def add(self, data: bytes) -> int:
        """The number of a file."""
        if data not in self.files:
            self.files.append(data)
        return self.files.index(data)


@dataclass(frozen=True)
class MadeMaterial:
    """A material as the standard writes it, and sentences about what it cannot say."""

    material: Mapping[str, Any]
    words: tuple[str, ...]


def _put(material: dict[str, Any], path: str, value: Any) -> None:
    *folders, name = path.split("/")
    for folder in folders:
        material = material.setdefault(folder, {})
    material[name] = value


def _needed(baked: BakedSurface) -> Iterator[Part]:
    """The parts that differ from what the standard takes where nothing is said."""
    for part in PARTS:
        gates = next((keys for place, keys in _GATES.items() if part.texture.startswith(place)), (part.channel,))
        if any(key in baked.channels for key in gates):
            yield part


def _default(part: Part) -> Floats:
    return np.array(CHANNELS[part.channel].default, dtype=np.float32)[: part.width].reshape(-1, 1, 1)


def material_of(name: str, kind: str, baked: BakedSurface, pictures: Pictures) -> MadeMaterial:
    """The material of a surface of a kind; its textures are added to the ``pictures``."""
    made: dict[str, Any] = {"name": name}
    met = KINDS[kind]
    opacity = baked.channels.get("opacity")
    if opacity is not None:
        made["alphaMode"] = met.alpha_mode
    if met.is_cut and opacity is not None:
        made["alphaCutoff"] = ALPHA_CUTOFF
    if met.is_cut:
        made["doubleSided"] = True
    if met.is_unlit:
        _put(made, "extensions/KHR_materials_unlit", {})
    # Without a word of it the standard takes all of a surface for metal.
    _put(made, f"{_PBR}/metallicFactor", 0.0)
    _put(made, f"{_PBR}/roughnessFactor", float(CHANNELS["roughness"].default[0]))
    _put_parts(made, list(_needed(baked)), baked, pictures)
    words = []
    for key, path in WHOLE.items():
        found = baked.channels.get(key)
        if found is None or (path.startswith(_VOLUME) and "thickness" not in baked.channels):
            continue
        mean = found.mean(axis=(1, 2))
        if found.shape[1] > 1:
            words.append(f"{CHANNELS[key].name} is one value for the whole material: its mean is sent.")
        _put(made, path, float(mean[0]) if len(mean) == 1 else [float(v) for v in mean])
    return MadeMaterial(made, tuple(words))


def _put_parts(made: dict[str, Any], parts: list[Part], baked: BakedSurface, pictures: Pictures) -> None:
    """Factors for what is the same all over, textures for the rest, those of one picture in one file."""
    held = {part: baked.channels.get(part.channel, _default(part))[: part.width] for part in parts}
    for name in dict.fromkeys(part.picture for part in parts):
        own = {part: values for part, values in held.items() if part.picture == name}
        textures = {part.texture for part, values in own.items() if _needs_texture(part, values)}
        for part, values in own.items():
            if part.factor:
                _put_factor(made, part, values)
        number = pictures.add(_packed(own)) if textures else 0
        for texture in sorted(textures):
            _put(made, texture, {"index": number})


def _needs_texture(part: Part, values: Floats) -> bool:
    """Whether a channel is not the same all over, or is another constant than the standard's and has no factor."""
    return values.shape[1] > 1 or (not part.factor and bool(np.abs(values - _default(part)).max() > 1e-3))


def _scale(values: Floats) -> float:
    """What a texture of the values is multiplied by: 1, unless they reach beyond it."""
    return max(1.0, float(values.max())) if values.shape[1] > 1 else 1.0


def _put_factor(made: dict[str, Any], part: Part, values: Floats) -> None:
    is_constant = values.shape[1] == 1
    factor = [float(v) for v in values[:, 0, 0]] if is_constant else [_scale(values)] * part.width
    if part.channel == "emissive":
        # Its factor ends at 1: what is brighter has a strength of its own.
        strength = max(1.0, *factor)
        factor = [v / strength for v in factor]
        if strength > 1.0:
            _put(made, "extensions/KHR_materials_emissive_strength/emissiveStrength", strength)
    if part.factor.endswith("baseColorFactor"):
        whole = made[_PBR].setdefault("baseColorFactor", [1.0, 1.0, 1.0, 1.0])
        whole[part.factor_at : part.factor_at + part.width] = [min(1.0, max(0.0, v)) for v in factor]
    else:
        _put(made, part.factor, factor[0] if part.width == 1 else factor)


def _packed(parts: Mapping[Part, Floats]) -> bytes:
    """A PNG of the channels of some parts; what has a factor of its own, or is not there, is full."""
    shape = max((values.shape[1:] for values in parts.values()), default=(1, 1))
    has_alpha = any(part.at == _ALPHA and values.shape[1] > 1 for part, values in parts.items())
    made = np.ones((4 if has_alpha else 3, *shape), dtype=np.float32)
    for part, values in parts.items():
        if (values.shape[1] == 1 and part.factor) or part.at >= len(made):
            continue
        coded = values * 0.5 + 0.5 if part.is_signed else np.clip(values / np.float32(_scale(values)), 0, 1)
        made[part.at : part.at + part.width] = linear_to_srgb(coded) if part.is_colour else coded
    return write_png(np.rint(np.clip(made, 0, 1) * 255).astype(np.uint8).transpose(1, 2, 0))
