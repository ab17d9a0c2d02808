"""Kinds: how a surface meets what lies behind it."""

from collections.abc import Callable
from dataclasses import dataclass

from velvet_moth.core.language.expr import Expr
from velvet_moth.core.language.inputs import surface
from velvet_moth.core.language.primitives import mix, saturate
from velvet_moth.core.lighting.backdrop import seen_behind
from velvet_moth.core.lighting.channels import CHANNELS, Surface
from velvet_moth.core.lighting.model import radiance, unlit

# The light that leaves a surface on a form of such a normal, under so many lamps.
Lighting = Callable[[Surface, Expr, int], Expr]
# From the light that a surface sends to the light that arrives at the eye.
Meeting = Callable[[Expr, Surface], Expr]


@dataclass(frozen=True)
class Kind:
    """One kind: ``lights`` gives the light that leaves the surface, ``meets`` joins it with what is behind.

    It is cut away where its opacity is below the alpha cutoff (``is_cut``), keeps the sun off what lies behind (``casts``),
    is painted onto what lies behind instead of standing before it (``is_projected``), has no light fall on it (``is_unlit``), makes no use of its opacity
    (``hides``), or shows another surface from behind (``has_back``). ``idle`` are the channels that it makes no use of, and
    ``wanted`` those that it is made for.
    """

    key: str
    name: str
    meets: Meeting
    lights: Lighting = radiance
    is_cut: bool = False
    casts: bool = True
    is_projected: bool = False
    is_unlit: bool = False
    hides: bool = False
    has_back: bool = False
    idle: frozenset[str] = frozenset()
    wanted: frozenset[str] = frozenset()

    @property
    def alpha_mode(self) -> str:
        """How glTF 2.0 (3.9.6) calls what its opacity does."""
        return "MASK" if self.is_cut else "OPAQUE" if self.hides else "BLEND"


def _alone(light: Expr, shown: Surface) -> Expr:
    return light


def _over_what_is_behind(light: Expr, shown: Surface) -> Expr:
    return mix(seen_behind(surface("screen_position")).rgb, light, saturate(shown["opacity"]))


_CUT = frozenset({"alpha_cutoff"})
_OF_DECALS = frozenset({"colour_amount", "normal_amount", "roughness_amount", "metallic_amount", "wetness"})
_SEEN_UNLIT = frozenset({"base_colour", "emissive", "emissive_strength", "opacity", "offset"})
# What decal buffers keep (see ``decal_buffers``).
_LEFT_BY_DECALS = _OF_DECALS | {
    *("base_colour", "metallic", "roughness", "normal", "emissive", "emissive_strength", "opacity")
}

KINDS = {
    kind.key: kind
    for kind in (
        Kind("solid", "Solid", _alone, hides=True, idle=_CUT | _OF_DECALS),
        Kind("cut_out", "Cut-out", _alone, is_cut=True, idle=_OF_DECALS),
        Kind("two_sided", "Two-sided", _alone, is_cut=True, has_back=True, idle=_OF_DECALS),
        Kind("see_through", "See-through", _over_what_is_behind, casts=False, idle=_CUT | _OF_DECALS),
        Kind(
            "unlit",
            "Unlit",
            _over_what_is_behind,
            lambda shown, form, lamps: unlit(shown),
            casts=False,
            is_unlit=True,
            idle=frozenset(CHANNELS) - _SEEN_UNLIT,
        ),
        Kind(
            "decal",
            "Decal",
            _alone,
            casts=False,
            is_projected=True,
            idle=frozenset(CHANNELS) - _LEFT_BY_DECALS,
            wanted=_OF_DECALS,
        ),
    )
}
