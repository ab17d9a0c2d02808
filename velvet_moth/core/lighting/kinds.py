"""Kinds: how a surface meets what lies behind it."""

from collections.abc import Callable
from dataclasses import dataclass

from velvet_moth.core.language.expr import Expr
from velvet_moth.core.language.inputs import surface
from velvet_moth.core.language.primitives import mix, saturate
from velvet_moth.core.lighting.backdrop import seen_behind
from velvet_moth.core.lighting.channels import Surface
from velvet_moth.core.lighting.model import radiance, unlit

# The light that leaves a surface on a form of such a normal, under so many lamps.
Lighting = Callable[[Surface, Expr, int], Expr]
# From the light that a surface sends to the light that arrives at the eye.
Meeting = Callable[[Expr, Surface], Expr]


@dataclass(frozen=True)
class Kind:
    """One kind: ``lights`` gives the light that leaves the surface, ``meets`` joins it with what is behind.

    It is cut away where its opacity is below the alpha cutoff (``is_cut``), keeps the sun off what lies behind (``casts``),
    is painted onto what lies behind instead of standing before it (``is_projected``), makes no use of its opacity
    (``hides``), or shows another surface from behind (``has_back``).
    """

    key: str
    name: str
    meets: Meeting
    lights: Lighting = radiance
    is_cut: bool = False
    casts: bool = True
    is_projected: bool = False
    hides: bool = False
    has_back: bool = False


def _alone(light: Expr, shown: Surface) -> Expr:
    return light


def _over_what_is_behind(light: Expr, shown: Surface) -> Expr:
    return mix(seen_behind(surface("screen_position")).rgb, light, saturate(shown["opacity"]))


KINDS = {
    kind.key: kind
    for kind in (
        Kind("solid", "Solid", _alone, hides=True),
        Kind("cut_out", "Cut-out", _alone, is_cut=True),
        Kind("two_sided", "Two-sided", _alone, is_cut=True, has_back=True),
        Kind("see_through", "See-through", _over_what_is_behind, casts=False),
        Kind(
            "unlit",
            "Unlit",
            _over_what_is_behind,
            lambda shown, form, lamps: unlit(shown),
            casts=False,
        ),
        Kind("decal", "Decal", _alone, casts=False, is_projected=True),
    )
}
