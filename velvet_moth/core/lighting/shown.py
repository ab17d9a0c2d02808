"""From a surface to what is drawn: its light as a display colour, or another picture on its form."""

from dataclasses import dataclass

from velvet_moth.core.language.expr import Expr, Structural
from velvet_moth.core.language.inputs import Given, Instancing, surface
from velvet_moth.core.language.primitives import (
    combine,
    maximum,
    saturate,
    splat,
    square_root,
    srgb_decoded,
    srgb_encoded,
)
from velvet_moth.core.language.texture import ALPHA_CUTOFF
from velvet_moth.core.language.trace import emitted_function
from velvet_moth.core.language.types import VEC3
from velvet_moth.core.lighting.channels import Surface
from velvet_moth.core.lighting.decal_buffers import buffers_of
from velvet_moth.core.lighting.decals import ON_DECAL, on_decal
from velvet_moth.core.lighting.kinds import KINDS
from velvet_moth.core.lighting.layers import facing_normal
from velvet_moth.core.lighting.model import is_nothing
from velvet_moth.core.lighting.moved import moved_normal

# Of the tone curve: x (A x + B) / (x (C x + D) + E).
_A, _B, _C, _D, _E = 2.51, 0.03, 2.43, 0.59, 0.14


@emitted_function("Filmic tone curve")
def tone_curve(light: Expr) -> Expr:
    """A rational filmic curve, 0..inf to 0..1. Source: K. Narkowicz, "ACES Filmic Tone Mapping Curve", 2015."""
    x = maximum(light, 0.0)
    return saturate(x * (x * _A + _B) / (x * (x * _C + _D) + _E))


@emitted_function("Linear light to sRGB")
def encoded(light: Expr) -> Expr:
    """The transfer function of IEC 61966-2-1 on values clamped to 0..1."""
    return srgb_encoded(light)


@dataclass(frozen=True)
class Appearance:
    """What is drawn: a display colour, how the form moves (metres), where it is cut away (below one half).

    ``casts`` says whether it keeps the sun off what lies behind; what lets it through does not. ``given`` are the surface
    inputs that follow from it. What ``is_projected`` is drawn onto what lies behind: its picture is linear light and
    distance, or, where there are decal ``buffers``, the first of those. With ``instancing`` the form is drawn many times.
    """

    picture: Expr
    offset: Expr | None = None
    opacity: Expr | None = None
    casts: bool = True
    given: Given | None = None
    is_projected: bool = False
    buffers: tuple[tuple[str, Expr], ...] = ()
    instancing: Instancing | None = None


def moving(shown: Surface) -> Expr | None:
    """How the surface moves the form; None where it does not."""
    offset = shown["offset"]
    return None if is_nothing(offset) else offset


def moved_by(offset: Expr | None) -> Given | None:
    """What follows of the form's movement for every point of it; None where it does not move."""
    if offset is None:
        return None
    return Given({"moved_normal": moved_normal(surface("normal"), offset, surface("position"))})


def shown_light(light: Expr) -> Expr:
    """The display colour (sRGB, 0..1) of linear light."""
    return encoded(tone_curve(light * surface("exposure")))


@emitted_function("The light that is shown as a colour")
def light_of(colour: Expr) -> Expr:
    """The inverse of ``shown_light``: that of the transfer function, then the tone curve as a quadratic in the light."""
    shown = srgb_decoded(colour, 0.999)
    a, b, c = shown * _C - _A, shown * _D - _B, shown * _E
    root = square_root(maximum(b * b - a * c * 4.0, 0.0))
    return (b + root) / (a * -2.0) / surface("exposure")


def lit_picture(shown: Surface, kind: str = "solid", lamps: int = 0) -> Expr:
    """The display colour (sRGB, 0..1) of a surface under the rig, joined as light with what lies behind."""
    met = KINDS[kind]
    return shown_light(met.meets(met.lights(shown, facing_normal(), lamps), shown))


def left_of_cut(shown: Surface) -> Expr:
    """Below one half where a surface that is cut out is cut away."""
    opacity = shown["opacity"]
    return opacity if shown.is_default("alpha_cutoff") else opacity - shown["alpha_cutoff"] + ALPHA_CUTOFF


def appearance(shown: Surface, picture: Expr | None = None, kind: str = "solid", lamps: int = 0) -> Appearance:
    """A surface of a kind under a rig of so many lamps; or another ``picture`` on the form as the surface moves it."""
    met = KINDS[kind]
    if met.is_projected:
        buffers = tuple(buffers_of(shown).items()) if picture is None else ()
        painted = buffers[0][1] if picture is None else on_decal(light_of(picture))
        return Appearance(painted, casts=False, given=ON_DECAL, is_projected=True, buffers=buffers)
    left = left_of_cut(shown)
    is_cut = met.is_cut and left.operator is not Structural.CONSTANT
    if picture is None:
        picture = lit_picture(shown, kind, lamps)
    offset = moving(shown)
    return Appearance(picture, offset, left if is_cut else None, met.casts, moved_by(offset))


def plain_picture(value: Expr) -> Expr:
    """An unlit value as a display colour: light is encoded, nothing else is done to it."""
    if value.type.width == 2:
        value = combine(value, 0.0)
    wide = splat(value if value.type.width < 4 else value.rgb, 3)
    assert wide.type is VEC3
    return encoded(wide)


def unit_picture(value: Expr) -> Expr:
    """Components -1..1 as a display colour around mid-grey, as normal maps are stored."""
    return saturate(value * 0.5 + 0.5)
