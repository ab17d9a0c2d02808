"""The channels of a surface, after glTF 2.0 metallic-roughness and KHR_materials_clearcoat, and its offset."""

from collections.abc import Mapping
from dataclasses import dataclass

from velvet_moth.core.expr import Expr, constant
from velvet_moth.core.ports import Input
from velvet_moth.core.primitives import mix, normalise, splat
from velvet_moth.core.types import P_COLOUR, P_NUMBER, P_VEC3

_BEYOND = "the surface model stops it at 0 and 1"

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
        "normal": Input(P_VEC3, (0.0, 0.0, 1.0), -1.0, 1.0, words="Tangent-space normal; (0, 0, 1) is flat."),
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
        "opacity": Input(
            P_NUMBER, (1.0,), words="Below one half the surface is cut away.", beyond=_BEYOND, idle_at_default=True
        ),
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

_NORMALS = frozenset({"normal"})


@dataclass(frozen=True)
class Surface:
    """A whole surface: one expression a channel, of the channel's type."""

    channels: Mapping[str, Expr]

    def __getitem__(self, key: str) -> Expr:
        return self.channels[key]


def default_surface() -> Surface:
    return Surface({key: constant(*declared.default) for key, declared in CHANNELS.items()})


def mixed(a: Surface, b: Surface, amount: Expr) -> Surface:
    """Every channel mixed linearly; normals are brought back to unit length."""

    def channel(key: str) -> Expr:
        if a[key] is b[key]:
            return a[key]
        value = mix(a[key], b[key], amount)
        return normalise(value) if key in _NORMALS else value

    return Surface({key: channel(key) for key in CHANNELS})


def widened(key: str, value: Expr) -> Expr:
    """A value at the width of its channel."""
    wanted = CHANNELS[key].type.value
    assert wanted is not None
    return splat(value, wanted.width)
