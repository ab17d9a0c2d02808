"""The channels of a surface, after glTF 2.0 metallic-roughness and its KHR_materials extensions, and its offset."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from velvet_moth.core.catalogue.ports import Input, direction
from velvet_moth.core.language.expr import Expr, constant
from velvet_moth.core.language.inputs import surface
from velvet_moth.core.language.primitives import mix, normalise, select, splat
from velvet_moth.core.language.primitives.comparison import less
from velvet_moth.core.language.texture import ALPHA_CUTOFF
from velvet_moth.core.language.types import P_COLOUR, P_NUMBER, P_VEC3

_BEYOND = "the surface model stops it at 0 and 1"


def _share(default: float, words: str, name: str = "") -> Input:
    """A channel of 0 to 1 that costs nothing until it is used."""
    return Input(P_NUMBER, (default,), words=words, beyond=_BEYOND, idle_at_default=True, extra=True, name=name)


def _tint(value: float, words: str, name: str = "") -> Input:
    return Input(P_COLOUR, (value,) * 3, words=words, idle_at_default=True, extra=True, name=name)


def _amount(default: float, high: float, words: str, unit: str = "", low: float = 0.0) -> Input:
    return Input(P_NUMBER, (default,), low, high, unit=unit, words=words, idle_at_default=True, extra=True)


CHANNELS: dict[str, Input] = {
    key: declared.named(key)
    for key, declared in {
        "base_colour": Input(
            P_COLOUR,
            (0.5, 0.5, 0.5),
            words="Colour of the diffuse light, or of the metal's reflection.",
            beyond=_BEYOND,
        ),
        "metallic": Input(P_NUMBER, (0.0,), words="0 for paint, wood, stone; 1 for bare metal.", beyond=_BEYOND),
        "roughness": Input(P_NUMBER, (0.5,), words="0 mirrors sharply, 1 is dull.", beyond=_BEYOND),
        "normal": direction(0.0, 0.0, 1.0, words="Tangent-space normal; (0, 0, 1) is flat."),
        "occlusion": Input(
            P_NUMBER, (1.0,), words="How much of the surroundings' light arrives.", beyond=_BEYOND, idle_at_default=True
        ),
        "emissive": Input(
            P_COLOUR, (0.0, 0.0, 0.0), words="Light the surface gives off by itself.", idle_at_default=True
        ),
        "clear_coat": Input(
            P_NUMBER, (0.0,), words="Strength of a clear gloss layer on top.", beyond=_BEYOND, idle_at_default=True
        ),
        "coat_roughness": Input(
            P_NUMBER, (0.05,), words="Roughness of the clear coat.", beyond=_BEYOND, name="Coat rough"
        ),
        "coat_normal": replace(
            direction(0.0, 0.0, 1.0, words="The coat's own tangent-space normal; flat by itself."),
            idle_at_default=True,
            extra=True,
        ),
        "emissive_strength": _amount(1.0, 20.0, "Makes the emissive light brighter than white."),
        "anisotropy": Input(
            P_NUMBER,
            (0.0,),
            -1.0,
            1.0,
            words="Stretches the highlight along the direction; below 0 across it, as on hair.",
            idle_at_default=True,
            extra=True,
        ),
        "anisotropy_direction": replace(
            direction(1.0, 0.0, words="In tangent space: a flow map by Decode flow, or the form's tangent as it is."),
            idle_at_default=True,
            extra=True,
            name="Strand direction",
        ),
        "sheen": _tint(0.0, "Light scattered by fibres that stand up: velvet, dust, moss."),
        "sheen_roughness": _share(0.3, "0 keeps the sheen to the rim."),
        "specular": _share(1.0, "How much of the reflection a non-metal keeps."),
        "specular_colour": _tint(1.0, "Tints the reflection of a non-metal seen head-on."),
        "ior": _amount(1.5, 2.5, "Index of refraction of a non-metal: water 1.33, gloss 1.5.", low=1.0),
        "transmission": _share(0.0, "How much light passes as through glass, instead of being scattered."),
        "thickness": _amount(0.0, 1.0, "How far light runs inside; bends what is seen behind.", "m"),
        "attenuation_colour": _tint(1.0, "The colour white light has after the tint distance.", "Volume tint"),
        "attenuation_distance": Input(
            P_NUMBER,
            (1.0,),
            0.01,
            10.0,
            unit="m",
            words="How far light runs inside until it has the volume's tint.",
            idle_at_default=True,
            extra=True,
            name="Tint distance",
        ),
        "diffuse_transmission": _share(0.0, "How much light is let through scattered: leaves, paper, wave crests."),
        "diffuse_transmission_colour": _tint(1.0, "The colour of the light let through.", "Through colour"),
        "opacity": Input(
            P_NUMBER,
            (1.0,),
            words="How much of it is there. Below 1 what is behind shows through; a cut-out surface is cut away where this is below its alpha cutoff.",
            beyond=_BEYOND,
            idle_at_default=True,
        ),
        "alpha_cutoff": Input(
            P_NUMBER,
            (ALPHA_CUTOFF,),
            words="A cut-out or two-sided surface is cut away where its opacity is below this.",
            beyond=_BEYOND,
            idle_at_default=True,
            extra=True,
            name="Cut below",
        ),
        "colour_amount": _share(1.0, "How much of a decal's base colour covers the one below it.", "Colour share"),
        "normal_amount": _share(1.0, "How much of a decal's normal replaces the one below it.", "Normal share"),
        "roughness_amount": _share(1.0, "How much of a decal's roughness replaces the one below it.", "Rough share"),
        "metallic_amount": _share(1.0, "How much of a decal's metallic replaces the one below it.", "Metallic share"),
        "wetness": _share(0.0, "How wet a decal makes what lies below it: darker where it is rough, and smoother."),
        "offset": Input(
            P_VEC3,
            (0.0, 0.0, 0.0),
            -1.0,
            1.0,
            unit="m",
            words="Moves the form, along x, y, z.",
            per_vertex=True,
            idle_at_default=True,
        ),
    }.items()
}

NORMALS = frozenset({"normal", "coat_normal"})
# What belongs to the form and not to one of its sides.
_SHARED = frozenset({"opacity", "alpha_cutoff", "offset"})


@dataclass(frozen=True)
class Surface:
    """A whole surface: one expression a channel, of the channel's type."""

    channels: Mapping[str, Expr]

    def __getitem__(self, key: str) -> Expr:
        return self.channels[key]

    def is_default(self, key: str) -> bool:
        """Whether a channel is what it is by itself, at every pixel."""
        return self[key] is constant(*CHANNELS[key].default)


def default_surface() -> Surface:
    """The surface of a dock with nothing wired."""
    return Surface({key: constant(*declared.default) for key, declared in CHANNELS.items()})


def mixed(a: Surface, b: Surface, amount: Expr) -> Surface:
    """Every channel mixed linearly; normals are brought back to unit length."""

    def channel(key: str) -> Expr:
        if a[key] is b[key]:
            return a[key]
        value = mix(a[key], b[key], amount)
        return normalise(value) if key in NORMALS else value

    return Surface({key: channel(key) for key in CHANNELS})


def two_sided(front: Surface, back: Surface) -> Surface:
    """A surface that shows another one from behind. Its outline and how it moves are the front's: the sides share them."""

    def channel(key: str) -> Expr:
        if front[key] is back[key] or key in _SHARED:
            return front[key]
        return select(less(0.5, surface("is_front")), front[key], back[key])

    return Surface({key: channel(key) for key in CHANNELS})


def widened(key: str, value: Expr) -> Expr:
    """A value at the width of its channel."""
    wanted = CHANNELS[key].type.value
    assert wanted is not None
    return splat(value, wanted.width)
