"""Decal buffers: what decals change of the surface that lies behind them, in pictures as large as the screen.

Decals are painted into them one over the other; then what lies behind is lit with its surface as they leave it.
"""

from velvet_moth.core.language.expr import Expr, constant, sampler
from velvet_moth.core.language.inputs import surface
from velvet_moth.core.language.primitives import combine, cross, dot, maximum, mix, normalise, sample, saturate
from velvet_moth.core.language.trace import emitted_function
from velvet_moth.core.lighting.channels import Surface
from velvet_moth.core.lighting.decals import decal_share
from velvet_moth.core.lighting.layers import facing_normal, seen_side, world_normal
from velvet_moth.core.lighting.model import glow, is_nothing
from velvet_moth.core.lighting.stage_textures import stage_texture

_COLOUR = stage_texture("decal_colour", "base colour of decals in RGB, and what is left of the one below in alpha")
_NORMAL = stage_texture("decal_normal", "normal of decals in the world, and what is left of the one below in alpha")
_FINISH = stage_texture("decal_finish", "roughness of decals and what is left of the one below, then metallic likewise")
_LIGHT = stage_texture("decal_light", "light that decals give off in RGB, and how wet they make what is below in alpha")
# What each holds where there is no decal: parts are weighed by how much they cover.
EMPTY_BUFFERS: dict[str, tuple[float, float, float, float]] = {
    _COLOUR: (0.0, 0.0, 0.0, 1.0),
    _NORMAL: (0.0, 0.0, 0.0, 1.0),
    _FINISH: (0.0, 1.0, 0.0, 1.0),
    _LIGHT: (0.0, 0.0, 0.0, 0.0),
}
_BRIGHTEST = 1000.0

# Of a wet surface: how dark one that soaks up water becomes, and the roughness of water that stands on it.
_SOAKED = 0.4
_STANDING = 0.12


def _seen() -> tuple[Expr, ...]:
    ranges = {_NORMAL: (-1.0, 1.0), _LIGHT: (0.0, _BRIGHTEST)}
    maps = (sampler(key, ("clamp", "clamp"), *ranges.get(key, (0.0, 1.0))) for key in EMPTY_BUFFERS)
    return tuple(sample(one, surface("screen_position"), constant(0.0)) for one in maps)


def _laid_over(before: Expr, left: Expr, own: Expr, covered: Expr) -> tuple[Expr, Expr]:
    """A part with another one over it, both weighed; and what is left below them."""
    rest = 1.0 - covered
    return before * rest + own * covered, left * rest


def buffers_of(shown: Surface) -> dict[str, Expr]:
    """What the buffers hold, by key, once a decal of this surface is painted over what they held before."""
    share = decal_share(shown["opacity"])
    colour, normal, finish, light = _seen()
    covered = share * saturate(shown["colour_amount"])
    turned = world_normal(shown["normal"], facing_normal())
    rough = _laid_over(finish.x, finish.y, saturate(shown["roughness"]), share * saturate(shown["roughness_amount"]))
    metal = _laid_over(finish.z, finish.w, saturate(shown["metallic"]), share * saturate(shown["metallic_amount"]))
    return {
        _COLOUR: combine(*_laid_over(colour.rgb, colour.w, saturate(shown["base_colour"]), covered)),
        _NORMAL: combine(*_laid_over(normal.xyz, normal.w, turned, share * saturate(shown["normal_amount"]))),
        _FINISH: combine(*rough, *metal),
        # What is covered is neither seen to shine nor wet.
        _LIGHT: combine(
            light.rgb * (1.0 - covered) + glow(shown) * share,
            mix(light.w * (1.0 - covered), 1.0, share * saturate(shown["wetness"])),
        ),
    }


@emitted_function("A normal of the world, as the Normal channel has it on the side that is seen")
def _seen_from(normal: Expr, form: Expr) -> Expr:
    """The inverse of ``world_normal``."""
    tangent = surface("tangent")
    along = normalise(tangent.xyz - form * dot(form, tangent.xyz))
    side = cross(form, along) * tangent.w
    return combine(dot(normal, along) * seen_side(), dot(normal, side), dot(normal, form))


@emitted_function("Base colour of a wet surface")
def _soaked(base: Expr, roughness: Expr, metallic: Expr, wetness: Expr) -> Expr:
    """What is rough and no metal soaks up water and darkens.

    After S. Lagarde, "Water drop 3b: Physically based wet surfaces", 2013, with the roughness for the porosity.
    """
    return base * (1.0 - wetness * roughness * (1.0 - metallic) * (1.0 - _SOAKED))


# Layers upon the base, which what covers it hides.
_UPON = ("clear_coat", "sheen", "transmission", "diffuse_transmission")


def under_decals(of: Surface) -> Surface:
    """A surface of what lies behind as decals leave it at this pixel."""
    form = facing_normal()
    colour, normal, finish, light = _seen()
    base = saturate(of["base_colour"]) * colour.w + colour.rgb
    rough = saturate(of["roughness"]) * finish.y + finish.x
    metal = saturate(of["metallic"]) * finish.w + finish.z
    turned = normalise(world_normal(of["normal"], form) * normal.w + normal.xyz)
    return Surface(
        {
            **of.channels,
            **{key: of[key] * colour.w for key in _UPON if not is_nothing(of[key])},
            "base_colour": _soaked(base, rough, metal, light.w),
            "roughness": mix(rough, _STANDING, light.w),
            "metallic": metal,
            "normal": _seen_from(turned, form),
            "emissive": maximum(of["emissive"], 0.0) * maximum(of["emissive_strength"], 0.0) * colour.w + light.rgb,
            "emissive_strength": constant(1.0),
        }
    )
