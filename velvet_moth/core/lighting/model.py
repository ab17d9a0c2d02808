"""From a surface to the light it sends to the eye, and from light to the picture."""

import math
from dataclasses import dataclass

from velvet_moth.core.expr import Expr, Structural
from velvet_moth.core.lighting.channels import Surface
from velvet_moth.core.lighting.environment import environment_diffuse, environment_reflection
from velvet_moth.core.moved import moved_normal
from velvet_moth.core.primitives import (
    combine,
    cross,
    dot,
    exponential,
    maximum,
    minimum,
    mix,
    normalise,
    power,
    saturate,
    select,
    splat,
    square_root,
)
from velvet_moth.core.primitives.comparison import less, where_less
from velvet_moth.core.surroundings import surface
from velvet_moth.core.trace import emitted_function
from velvet_moth.core.types import VEC3

# Below this a highlight is smaller than a pixel and float32 loses it.
LEAST_ROUGHNESS = 0.045
DIELECTRIC_REFLECTANCE = 0.04


@emitted_function("Fresnel reflectance (Schlick)")
def reflectance(facing: Expr, cosine: Expr) -> Expr:
    """C. Schlick, "An Inexpensive BRDF Model for Physically-based Rendering", 1994."""
    edge = saturate(1.0 - cosine)
    squared = edge * edge
    return facing + (1.0 - facing) * (squared * squared * edge)


@emitted_function("Highlight of a light (GGX, height-correlated Smith)")
def highlight(normal: Expr, view: Expr, light: Expr, roughness: Expr) -> Expr:
    """D * V of glTF 2.0 appendix B (Walter et al. 2007; Heitz 2014), without Fresnel."""
    half = normalise(view + light)
    n_h = saturate(dot(normal, half))
    n_v = maximum(dot(normal, view), 1e-4)
    n_l = saturate(dot(normal, light))
    alpha = roughness * roughness
    squared = alpha * alpha
    spread = n_h * n_h * (squared - 1.0) + 1.0
    shape = squared / (math.pi * spread * spread)
    shadow = n_l * square_root(n_v * n_v * (1.0 - squared) + squared)
    mask = n_v * square_root(n_l * n_l * (1.0 - squared) + squared)
    return shape * 0.5 / maximum(shadow + mask, 1e-5)


@emitted_function("Environment response of a rough surface")
def environment_response(facing: Expr, roughness: Expr, cosine: Expr) -> Expr:
    """Scale and bias of the split sum as a polynomial fit.

    Source: B. Karis, "Physically Based Shading on Mobile", 2014.
    """
    a = 1.0 - roughness
    b = 0.0425 - 0.0275 * roughness
    c = 1.04 - 0.572 * roughness
    d = 0.022 * roughness - 0.04
    bend = minimum(a * a, exponential(cosine * (-9.28 * math.log(2.0)))) * a + b
    scale = bend * -1.04 + c
    return facing * scale + (bend * 1.04 + d)


@emitted_function("Normal of the surface in the world")
def world_normal(mapped: Expr, form: Expr) -> Expr:
    """A tangent-space normal turned into the world's axes, about the form's own normal there."""
    tangent = surface("tangent")
    along = normalise(tangent.xyz - form * dot(form, tangent.xyz))
    side = cross(form, along) * tangent.w
    return normalise(along * mapped.x + side * mapped.y + form * mapped.z)


def facing_normal(offset: Expr | None = None) -> Expr:
    """The form's normal on the side that is seen, after the offset where there is one."""
    form = surface("normal") if offset is None else moved_normal(surface("normal"), offset)
    return form * (surface("is_front") * 2.0 - 1.0)


@emitted_function("Light leaving the surface")
def lit(base_colour: Expr, metallic: Expr, roughness: Expr, normal: Expr, occlusion: Expr, form: Expr) -> Expr:
    """Radiance towards the eye; channels outside their range are clamped, as glTF asks. ``form`` is its normal."""
    base = maximum(base_colour, 0.0)
    metal = saturate(metallic)
    rough = maximum(saturate(roughness), LEAST_ROUGHNESS)
    n = world_normal(normal, form)
    v = surface("view_direction")
    light = surface("sun_direction")
    n_v = saturate(dot(n, v))
    n_l = saturate(dot(n, light))
    diffuse = base * (1.0 - metal)
    facing = mix(splat(DIELECTRIC_REFLECTANCE, 3), base, metal)
    fresnel = reflectance(facing, saturate(dot(normalise(v + light), v)))
    # A bump may not be lit through the form it sits on.
    reached = select(less(0.0, dot(form, light)), n_l, 0.0)
    from_sun = (diffuse * (1.0 - fresnel) * (1.0 / math.pi) + fresnel * highlight(n, v, light, rough)) * reached
    mirrored = n * (2.0 * dot(n, v)) - v
    response = environment_response(facing, rough, n_v)
    from_around = (
        environment_diffuse(n) * diffuse * (1.0 - response) + environment_reflection(mirrored, rough) * response
    )
    return from_sun * surface("sun_colour") + from_around * saturate(occlusion)


@emitted_function("Clear coat over what lies below")
def coated(under: Expr, strength: Expr, roughness: Expr, n: Expr) -> Expr:
    """KHR_materials_clearcoat over the form's own normal ``n``."""
    v = surface("view_direction")
    light = surface("sun_direction")
    n_v = saturate(dot(n, v))
    f = splat(DIELECTRIC_REFLECTANCE, 3)
    taken = reflectance(f, n_v) * strength
    mirrored = n * (2.0 * dot(n, v)) - v
    around = environment_reflection(mirrored, roughness) * environment_response(f, roughness, n_v)
    fresnel = reflectance(f, saturate(dot(normalise(v + light), v)))
    sun = fresnel * highlight(n, v, light, roughness) * saturate(dot(n, light)) * surface("sun_colour")
    return under * (1.0 - taken) + (around + sun) * strength


@emitted_function("Filmic tone curve")
def tone_curve(light: Expr) -> Expr:
    """A rational filmic curve, 0..inf to 0..1. Source: K. Narkowicz, "ACES Filmic Tone Mapping Curve", 2015."""
    x = maximum(light, 0.0)
    return saturate(x * (x * 2.51 + 0.03) / (x * (x * 2.43 + 0.59) + 0.14))


@emitted_function("Linear light to sRGB")
def encoded(light: Expr) -> Expr:
    """The transfer function of IEC 61966-2-1 on values clamped to 0..1."""
    v = saturate(light)
    curved = 1.055 * power(v, 1.0 / 2.4) - 0.055
    straight = v * 12.92
    return where_less(0.0031308, v, curved, straight)


def _is_zero(value: Expr) -> bool:
    return value.operator is Structural.CONSTANT and not any(value.attributes)


def radiance(shown: Surface, form: Expr) -> Expr:
    """Light leaving a surface towards the eye; a coat and a glow that are not there cost nothing."""
    light = lit(*(shown[k] for k in ("base_colour", "metallic", "roughness", "normal", "occlusion")), form)
    if not _is_zero(shown["emissive"]):
        light = light + maximum(shown["emissive"], 0.0)
    if _is_zero(shown["clear_coat"]):
        return light
    rough = maximum(saturate(shown["coat_roughness"]), LEAST_ROUGHNESS)
    return coated(light, saturate(shown["clear_coat"]), rough, form)


@dataclass(frozen=True)
class Look:
    """What is drawn: a display colour, how the form moves (metres), where it is cut away (below one half)."""

    picture: Expr
    offset: Expr | None = None
    opacity: Expr | None = None


def _moving(shown: Surface) -> Expr | None:
    offset = shown["offset"]
    return None if _is_zero(offset) else offset


def lit_picture(shown: Surface) -> Expr:
    """The display colour (sRGB, 0..1) of a surface under the rig."""
    form = facing_normal(_moving(shown))
    return encoded(tone_curve(radiance(shown, form) * surface("exposure")))


def look(shown: Surface, picture: Expr | None = None) -> Look:
    """A surface under the rig; or another ``picture`` on the form as the surface moves it."""
    if picture is not None:
        return Look(picture, _moving(shown))
    opacity = shown["opacity"]
    return Look(lit_picture(shown), _moving(shown), None if opacity.operator is Structural.CONSTANT else opacity)


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
