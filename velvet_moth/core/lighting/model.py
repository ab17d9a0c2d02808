"""From a surface to the light it sends to the eye, and from light to the picture."""

import math
from dataclasses import dataclass

from velvet_moth.core.backdrop import screen_place, seen_behind
from velvet_moth.core.expr import Expr, Structural, constant
from velvet_moth.core.lighting.channels import CHANNELS, Surface
from velvet_moth.core.lighting.environment import environment_diffuse, environment_reflection, response
from velvet_moth.core.lighting.lobes import LEAST_ROUGHNESS, highlight, reflectance, sheen_lobe, strand_highlight
from velvet_moth.core.moved import moved_normal
from velvet_moth.core.primitives import (
    absolute,
    clamp,
    combine,
    cross,
    dot,
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

DIELECTRIC_REFLECTANCE = 0.04


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


@emitted_function("Direction of the strands in the world")
def strands(direction: Expr, normal: Expr) -> Expr:
    """A tangent-space direction turned into the world's axes, square to a unit normal."""
    tangent = surface("tangent")
    along = normalise(tangent.xyz - normal * dot(normal, tangent.xyz))
    turned = along * direction.x + cross(normal, along) * (direction.y * tangent.w)
    return normalise(turned + along * 1e-6)


@emitted_function("Light leaving the surface")
def lit(base_colour: Expr, metallic: Expr, roughness: Expr, normal: Expr, occlusion: Expr, form: Expr) -> Expr:
    """Radiance towards the eye of the plain model; channels outside their range are clamped, as glTF asks."""
    n = world_normal(normal, form)
    facing, edge = constant(DIELECTRIC_REFLECTANCE), constant(1.0)
    return Layers(base_colour, metallic, roughness, n, occlusion, form, facing, edge).radiance()


@emitted_function("Reflectance of a non-metal")
def dielectric(ior: Expr, specular: Expr, tint: Expr) -> Expr:
    """Facing the eye. KHR_materials_ior and KHR_materials_specular."""
    away = (ior - 1.0) / maximum(ior + 1.0, 1.0)
    return minimum(tint * (away * away), 1.0) * specular


def _mirrored(facing: Expr, edge: Expr, answered: Expr) -> Expr:
    """The share of white surroundings that is reflected, after any number of bounces."""
    single = facing * answered.x + edge * answered.y
    average = facing + (edge - facing) * (1.0 / 21.0)
    lost = 1.0 - (answered.x + answered.y)
    return single + single * average * lost / (1.0 - average * lost)


class Layers:
    """What is shared by the parts of a surface: a base that reflects, scatters, and may let light through.

    ``normal`` and ``form`` are unit vectors of the world; ``facing`` and ``edge`` the reflectance of the non-metal
    head-on and at grazing angles. As glTF has it, metal and non-metal are mixed whole. Light scattered several times
    between microfacets is not lost.
    Source: C. Fdez-Agueera, "A Multiple-Scattering Microfacet Model for Real-Time Image-based Lighting", 2019.
    """

    def __init__(
        self,
        base_colour: Expr,
        metallic: Expr,
        roughness: Expr,
        normal: Expr,
        occlusion: Expr,
        form: Expr,
        facing: Expr,
        edge: Expr,
        strand: tuple[Expr, Expr, Expr] | None = None,
    ) -> None:
        self.normal, self.form, self.facing, self.edge = normal, form, facing, edge
        self.strand = strand
        self.base, self.metal = saturate(base_colour), saturate(metallic)
        self.rough = maximum(saturate(roughness), LEAST_ROUGHNESS)
        self.open = saturate(occlusion)
        self.view, self.light = surface("view_direction"), surface("sun_direction")
        answered = response(saturate(dot(normal, self.view)), self.rough)
        self.whole = answered.x + answered.y
        paint = _mirrored(facing, edge, answered)
        self.mirrored = mix(splat(paint, 3), _mirrored(self.base, constant(1.0), answered), self.metal)
        # What is not mirrored goes on into the base.
        self.passed = 1.0 - paint
        self.scattered = self.base * (1.0 - self.metal) * self.passed
        # A bump may not be lit through the form it sits on.
        self.reached = select(less(0.0, dot(form, self.light)), saturate(dot(normal, self.light)), 0.0)

    def reflected(self) -> Expr:
        """The sun and the surroundings in the base's own reflection."""
        n, v = self.normal, self.view
        cosine = saturate(dot(normalise(v + self.light), v))
        more = 1.0 / maximum(self.whole, 0.05) - 1.0
        paint = reflectance(self.facing, self.edge, cosine) * (self.facing * more + 1.0)
        metal = reflectance(self.base, constant(1.0), cosine) * (self.base * more + 1.0)
        fresnel = mix(splat(paint, 3), metal, self.metal)
        bent = n
        if self.strand is None:
            lobe = highlight(n, v, self.light, self.rough)
        else:
            along, side, strength = self.strand
            lobe = strand_highlight(n, along, side, v, self.light, self.rough, strength)
            bent = strand_normal(n, side, v, self.rough, strength)
        around = environment_reflection(bent * (2.0 * dot(bent, v)) - v, self.rough) * self.open
        return fresnel * (lobe * self.reached) * surface("sun_colour") + self.mirrored * around

    def diffuse(self) -> Expr:
        """Light scattered on the side it came to."""
        sun = surface("sun_colour") * (self.reached * (1.0 / math.pi))
        return self.scattered * (sun + environment_diffuse(self.normal) * self.open)

    def through(self, tint: Expr) -> Expr:
        """Light scattered out on the other side than it came to. KHR_materials_diffuse_transmission."""
        behind = saturate(-dot(self.normal, self.light))
        sun = select(less(0.0, -dot(self.form, self.light)), behind, 0.0) * (1.0 / math.pi)
        light = surface("sun_colour") * sun + environment_diffuse(-self.normal) * self.open
        return maximum(tint, 0.0) * (1.0 - self.metal) * self.passed * light

    def radiance(self) -> Expr:
        return self.reflected() + self.diffuse()


@emitted_function("Normal that strands reflect the surroundings about")
def strand_normal(normal: Expr, side: Expr, view: Expr, roughness: Expr, strength: Expr) -> Expr:
    """The bent normal of KHR_materials_anisotropy's image-based light."""
    bent = normalise(cross(cross(side, view), side) + normal * 1e-5)
    away = 1.0 - strength * (1.0 - roughness)
    squared = away * away
    return normalise(mix(bent, normal, squared * squared))


@emitted_function("Clear coat over what lies below")
def coated(under: Expr, strength: Expr, roughness: Expr, n: Expr) -> Expr:
    """KHR_materials_clearcoat over the coat's own normal ``n``; what the whole coat mirrors is missing below."""
    v = surface("view_direction")
    light = surface("sun_direction")
    n_v = saturate(dot(n, v))
    facing, edge = splat(DIELECTRIC_REFLECTANCE, 3), constant(1.0)
    answered = response(n_v, roughness)
    taken = facing * answered.x + answered.y
    around = environment_reflection(n * (2.0 * dot(n, v)) - v, roughness) * taken
    fresnel = reflectance(facing, edge, saturate(dot(normalise(v + light), v)))
    sun = fresnel * highlight(n, v, light, roughness) * saturate(dot(n, light)) * surface("sun_colour")
    return under * (1.0 - taken * strength) + (around + sun) * strength


@emitted_function("Sheen over what lies below")
def woolly(under: Expr, tint: Expr, roughness: Expr, n: Expr, occlusion: Expr) -> Expr:
    """KHR_materials_sheen: what the fibres take is missing below."""
    v = surface("view_direction")
    light = surface("sun_direction")
    colour, rough = saturate(tint), maximum(saturate(roughness), 0.07)
    share = response(saturate(dot(n, v)), rough).z
    most = maximum(maximum(colour.x, colour.y), colour.z)
    sun = surface("sun_colour") * (sheen_lobe(n, v, light, rough) * saturate(dot(n, light)))
    around = environment_reflection(n * (2.0 * dot(n, v)) - v, rough) * (share * saturate(occlusion))
    return under * (1.0 - most * share) + colour * (sun + around)


@emitted_function("Light that passes as through glass")
def seen_through(base: Expr, normal: Expr, ior: Expr, thickness: Expr, tint: Expr, distance: Expr) -> Expr:
    """KHR_materials_transmission and KHR_materials_volume: the backdrop where the bent ray leaves, and its tint."""
    view = -surface("view_direction")
    n = select(less(0.0, dot(normal, view)), -normal, normal)
    ratio = 1.0 / maximum(ior, 1.0)
    cosine = -dot(n, view)
    inside = maximum(1.0 - ratio * ratio * (1.0 - cosine * cosine), 0.0)
    bent = view * ratio + n * (ratio * cosine - square_root(inside))
    run = maximum(thickness, 0.0)
    behind = seen_behind(screen_place(surface("moved_position") + bent * run)).rgb
    left = power(clamp(tint, 0.001, 1.0), splat(run / maximum(distance, 0.001), 3))
    return behind * maximum(base, 0.0) * left


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


# The channels beyond the plain model; where all of them are as they are by default, none of them costs anything.
_WHOLE = (
    "anisotropy",
    "specular",
    "specular_colour",
    "ior",
    "transmission",
    "diffuse_transmission",
)


def _is_default(shown: Surface, key: str) -> bool:
    value = shown[key]
    return value.operator is Structural.CONSTANT and value.attributes == constant(*CHANNELS[key].default).attributes


def radiance(shown: Surface, form: Expr) -> Expr:
    """Light leaving a surface towards the eye; lobes that are not there cost nothing."""
    if all(_is_default(shown, key) for key in _WHOLE):
        light = lit(*(shown[k] for k in ("base_colour", "metallic", "roughness", "normal", "occlusion")), form)
        normal = None
    else:
        normal = world_normal(shown["normal"], form)
        light = _whole_model(shown, normal, form)
    if not _is_zero(shown["sheen"]):
        normal = world_normal(shown["normal"], form) if normal is None else normal
        light = woolly(light, shown["sheen"], shown["sheen_roughness"], normal, shown["occlusion"])
    if not _is_zero(shown["emissive"]):
        strength = shown["emissive_strength"]
        glow = maximum(shown["emissive"], 0.0)
        light = light + (glow if _is_default(shown, "emissive_strength") else glow * maximum(strength, 0.0))
    if _is_zero(shown["clear_coat"]):
        return light
    rough = maximum(saturate(shown["coat_roughness"]), LEAST_ROUGHNESS)
    over = form if _is_default(shown, "coat_normal") else world_normal(shown["coat_normal"], form)
    return coated(light, saturate(shown["clear_coat"]), rough, over)


def _whole_model(shown: Surface, normal: Expr, form: Expr) -> Expr:
    """The base with everything the extensions of glTF add to it."""
    specular = saturate(shown["specular"])
    facing = dielectric(shown["ior"], specular, maximum(shown["specular_colour"], 0.0))
    metal = saturate(shown["metallic"])
    base = saturate(shown["base_colour"])
    strand = None
    if not _is_zero(shown["anisotropy"]):
        stretch = clamp(shown["anisotropy"], -1.0, 1.0)
        given = strands(shown["anisotropy_direction"], normal)
        # Below 0 it lies across: a quarter turn about the normal.
        along = select(less(stretch, 0.0), cross(normal, given), given)
        strand = (along, cross(normal, along), absolute(stretch))
    layers = Layers(
        base,
        metal,
        shown["roughness"],
        normal,
        shown["occlusion"],
        form,
        facing,
        specular,
        strand,
    )
    below = layers.diffuse()
    if not _is_zero(shown["diffuse_transmission"]):
        passing = layers.through(shown["diffuse_transmission_colour"])
        below = mix(below, passing, saturate(shown["diffuse_transmission"]))
    if not _is_zero(shown["transmission"]):
        keys = ("ior", "thickness", "attenuation_colour", "attenuation_distance")
        behind = seen_through(base, normal, *(shown[key] for key in keys))
        below = mix(below, behind * (1.0 - metal) * layers.passed, saturate(shown["transmission"]))
    return layers.reflected() + below


@dataclass(frozen=True)
class Look:
    """What is drawn: a display colour, how the form moves (metres), where it is cut away (below one half)."""

    picture: Expr
    offset: Expr | None = None
    opacity: Expr | None = None


def moving(shown: Surface) -> Expr | None:
    """How the surface moves the form; None where it does not."""
    offset = shown["offset"]
    return None if _is_zero(offset) else offset


def lit_picture(shown: Surface, kind: str = "solid") -> Expr:
    """The display colour (sRGB, 0..1) of a surface under the rig; what is behind a see-through one is mixed in as light."""
    light = radiance(shown, facing_normal(moving(shown)))
    if kind == "see_through":
        light = mix(seen_behind(surface("screen_position")).rgb, light, saturate(shown["opacity"]))
    return encoded(tone_curve(light * surface("exposure")))


def look(shown: Surface, picture: Expr | None = None, kind: str = "solid") -> Look:
    """A surface of a kind under the rig; or another ``picture`` on the form as the surface moves it."""
    opacity = shown["opacity"]
    is_cut = kind == "cut_out" and opacity.operator is not Structural.CONSTANT
    if picture is None:
        picture = lit_picture(shown, kind)
    return Look(picture, moving(shown), opacity if is_cut else None)


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
