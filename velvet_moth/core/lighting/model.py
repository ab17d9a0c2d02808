"""From a surface to the light it sends to the eye."""

import math
from collections.abc import Sequence

from velvet_moth.core.language.expr import Expr, Structural, constant
from velvet_moth.core.language.inputs import surface
from velvet_moth.core.language.primitives import (
    absolute,
    clamp,
    combine,
    cross,
    dot,
    maximum,
    mix,
    normalise,
    power,
    saturate,
    select,
    splat,
    square_root,
)
from velvet_moth.core.language.primitives.comparison import less
from velvet_moth.core.language.trace import emitted_function
from velvet_moth.core.lighting.backdrop import screen_place, seen_behind
from velvet_moth.core.lighting.channels import Surface
from velvet_moth.core.lighting.environment import mirrored_surroundings, response
from velvet_moth.core.lighting.layers import (
    DIELECTRIC_REFLECTANCE,
    Layers,
    Light,
    dielectric,
    lamp_lights,
    strands,
    sun_light,
    world_normal,
)
from velvet_moth.core.lighting.lobes import LEAST_ROUGHNESS, highlight, reflectance, sheen_lobe

# Fibres smoother than this would glint in single pixels.
_LEAST_SHEEN = 0.07


def _plain(
    base_colour: Expr, metallic: Expr, roughness: Expr, normal: Expr, occlusion: Expr, form: Expr, light: Light
) -> Layers:
    n = world_normal(normal, form)
    facing, edge = constant(DIELECTRIC_REFLECTANCE), constant(1.0)
    return Layers(
        base_colour,
        metallic,
        roughness=roughness,
        normal=n,
        occlusion=occlusion,
        form=form,
        lights=[light],
        facing=facing,
        edge=edge,
    )


@emitted_function("Light leaving the surface")
def lit(
    base_colour: Expr, metallic: Expr, roughness: Expr, normal: Expr, occlusion: Expr, form: Expr, sun: Expr
) -> Expr:
    """Radiance towards the eye of the plain model; channels outside their range are clamped, as glTF asks.

    ``sun`` is the sun's light that arrives.
    """
    light = Light(surface("sun_direction"), sun, sun)
    return _plain(
        base_colour, metallic, roughness=roughness, normal=normal, occlusion=occlusion, form=form, light=light
    ).radiance()


@emitted_function("Light of a lamp leaving the surface")
def lit_by_lamp(
    base_colour: Expr, metallic: Expr, roughness: Expr, normal: Expr, form: Expr, direction: Expr, arriving: Expr
) -> Expr:
    """What a lamp adds to ``lit``."""
    lamp = Light(direction, arriving, arriving)
    return _plain(
        base_colour, metallic, roughness=roughness, normal=normal, occlusion=constant(1.0), form=form, light=lamp
    ).direct()


def _coat_glint(roughness: Expr, n: Expr, direction: Expr) -> Expr:
    """How much of a light the whole coat mirrors to the eye."""
    v = surface("view_direction")
    cosine = saturate(dot(normalise(v + direction), v))
    fresnel = reflectance(splat(DIELECTRIC_REFLECTANCE, 3), constant(1.0), cosine)
    return fresnel * highlight(n, v, direction, roughness) * saturate(dot(n, direction))


@emitted_function("Clear coat over what lies below")
def coated(under: Expr, strength: Expr, roughness: Expr, n: Expr, occlusion: Expr, arriving: Expr) -> Expr:
    """KHR_materials_clearcoat over the coat's own normal ``n``; what the whole coat mirrors is missing below."""
    v = surface("view_direction")
    answered = response(saturate(dot(n, v)), roughness)
    taken = splat(DIELECTRIC_REFLECTANCE, 3) * answered.x + answered.y
    around = mirrored_surroundings(n, v, roughness) * taken * saturate(occlusion)
    sun = _coat_glint(roughness, n, surface("sun_direction")) * arriving
    return under * (1.0 - taken * strength) + (around + sun) * strength


@emitted_function("Light of a lamp in the clear coat")
def coat_by_lamp(roughness: Expr, n: Expr, direction: Expr, arriving: Expr) -> Expr:
    """Light of one lamp in the clear coat, where it falls along ``direction``."""
    return _coat_glint(roughness, n, direction) * arriving


def _sheenglow(roughness: Expr, n: Expr, direction: Expr) -> Expr:
    """How much of a light the fibres scatter to the eye."""
    return sheen_lobe(n, surface("view_direction"), direction, roughness) * saturate(dot(n, direction))


@emitted_function("Sheen over what lies below")
def with_sheen(under: Expr, tint: Expr, roughness: Expr, n: Expr, occlusion: Expr, arriving: Expr) -> Expr:
    """KHR_materials_sheen: what the fibres take is missing below."""
    v = surface("view_direction")
    colour, rough = saturate(tint), maximum(saturate(roughness), _LEAST_SHEEN)
    share = response(saturate(dot(n, v)), rough).z
    most = maximum(maximum(colour.x, colour.y), colour.z)
    sun = arriving * _sheenglow(rough, n, surface("sun_direction"))
    around = mirrored_surroundings(n, v, rough) * (share * saturate(occlusion))
    return under * (1.0 - most * share) + colour * (sun + around)


@emitted_function("Light of a lamp in the sheen")
def sheen_by_lamp(tint: Expr, roughness: Expr, n: Expr, direction: Expr, arriving: Expr) -> Expr:
    """Light of one lamp in the sheen, where it falls along ``direction``."""
    rough = maximum(saturate(roughness), _LEAST_SHEEN)
    return saturate(tint) * (arriving * _sheenglow(rough, n, direction))


# How far rough glass spreads what is behind it, in heights of the picture, and at how many places that is read.
_SPREAD = 0.09
_SPREAD_PLACES = 9


@emitted_function("Light that passes as through glass")
def seen_through(
    base: Expr, normal: Expr, roughness: Expr, ior: Expr, thickness: Expr, tint: Expr, distance: Expr
) -> Expr:
    """KHR_materials_transmission and KHR_materials_volume: the backdrop where the bent ray leaves, and its tint.

    Rough glass spreads it: the mean of places on a spiral (H. Vogel, "A Better Way to Construct the Sunflower Head",
    1979) about that one, as wide as the square of the roughness.
    """
    view = -surface("view_direction")
    n = select(less(0.0, dot(normal, view)), -normal, normal)
    ratio = 1.0 / maximum(ior, 1.0)
    cosine = -dot(n, view)
    inside = maximum(1.0 - ratio * ratio * (1.0 - cosine * cosine), 0.0)
    bent = view * ratio + n * (ratio * cosine - square_root(inside))
    run = maximum(thickness, 0.0)
    middle = screen_place(surface("moved_position") + bent * run)
    lens = surface("lens")
    reach = roughness * roughness * _SPREAD
    wide = combine(reach * lens.y / maximum(lens.x, 1e-6), reach)
    behind = seen_behind(middle).rgb
    for step in range(1, _SPREAD_PLACES):
        radius, angle = math.sqrt(step / _SPREAD_PLACES), step * 2.399963
        at = clamp(middle + wide * constant(radius * math.cos(angle), radius * math.sin(angle)), 0.0, 1.0)
        behind = behind + seen_behind(at).rgb
    behind = behind * (1.0 / _SPREAD_PLACES)
    left = power(clamp(tint, 0.001, 1.0), splat(run / maximum(distance, 0.001), 3))
    return behind * maximum(base, 0.0) * left


def is_nothing(value: Expr) -> bool:
    """Whether a channel is 0 whatever the pixel, so that its light need not be worked out."""
    return value.operator is Structural.CONSTANT and not any(value.attributes)


def glow(shown: Surface) -> Expr:
    """The light that a surface gives off by itself."""
    return maximum(shown["emissive"], 0.0) * maximum(shown["emissive_strength"], 0.0)


def unlit(shown: Surface) -> Expr:
    """Light leaving a surface that no light falls on: its base colour as it is (KHR_materials_unlit), and its emissive."""
    return maximum(shown["base_colour"], 0.0) + glow(shown)


# The channels beyond the plain model; where all of them are as they are by default, none of them costs anything.
_WHOLE = (
    "anisotropy",
    "specular",
    "specular_colour",
    "ior",
    "transmission",
    "diffuse_transmission",
)


def radiance(shown: Surface, form: Expr, lamps: int = 0) -> Expr:
    """Light leaving a surface towards the eye, of the sun, the surroundings, and so many lamps of the rig.

    Lobes that are not there cost nothing.
    """
    others, sun = lamp_lights(lamps), sun_light(form)
    if all(shown.is_default(key) for key in _WHOLE):
        *plain, occlusion = (shown[k] for k in ("base_colour", "metallic", "roughness", "normal", "occlusion"))
        light = lit(*plain, occlusion, form, sun.arriving)
        for lamp in others:
            light = light + lit_by_lamp(*plain, form, lamp.direction, lamp.arriving)
        normal = None
    else:
        normal = world_normal(shown["normal"], form)
        light = _whole_model(shown, normal, form, [sun, *others])
    if not is_nothing(shown["sheen"]):
        normal = world_normal(shown["normal"], form) if normal is None else normal
        light = with_sheen(light, shown["sheen"], shown["sheen_roughness"], normal, shown["occlusion"], sun.arriving)
        for lamp in others:
            light = light + sheen_by_lamp(
                shown["sheen"], shown["sheen_roughness"], normal, lamp.direction, lamp.arriving
            )
    light = light + glow(shown)
    if is_nothing(shown["clear_coat"]):
        return light
    rough = maximum(saturate(shown["coat_roughness"]), LEAST_ROUGHNESS)
    over = form if shown.is_default("coat_normal") else world_normal(shown["coat_normal"], form)
    strength = saturate(shown["clear_coat"])
    light = coated(light, strength, rough, over, shown["occlusion"], sun.arriving)
    for lamp in others:
        light = light + coat_by_lamp(rough, over, lamp.direction, lamp.arriving) * strength
    return light


def _whole_model(shown: Surface, normal: Expr, form: Expr, lights: Sequence[Light]) -> Expr:
    """The base with everything the extensions of glTF add to it."""
    specular = saturate(shown["specular"])
    facing = dielectric(shown["ior"], specular, maximum(shown["specular_colour"], 0.0))
    metal = saturate(shown["metallic"])
    base = saturate(shown["base_colour"])
    strand = None
    if not is_nothing(shown["anisotropy"]):
        stretch = clamp(shown["anisotropy"], -1.0, 1.0)
        given = strands(shown["anisotropy_direction"], normal)
        # Below 0 it lies across: a quarter turn about the normal.
        along = select(less(stretch, 0.0), cross(normal, given), given)
        strand = (along, cross(normal, along), absolute(stretch))
    layers = Layers(
        base,
        metal,
        roughness=shown["roughness"],
        normal=normal,
        occlusion=shown["occlusion"],
        form=form,
        lights=lights,
        facing=facing,
        edge=specular,
        strand=strand,
    )
    below = layers.diffuse()
    if not is_nothing(shown["diffuse_transmission"]):
        passing = layers.through(shown["diffuse_transmission_colour"])
        below = mix(below, passing, saturate(shown["diffuse_transmission"]))
    if not is_nothing(shown["transmission"]):
        keys = ("ior", "thickness", "attenuation_colour", "attenuation_distance")
        behind = seen_through(base, normal, layers.rough, *(shown[key] for key in keys))
        below = mix(below, behind * (1.0 - metal) * layers.passed, saturate(shown["transmission"]))
    return layers.reflected() + below
