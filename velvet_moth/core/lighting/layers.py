"""What is shared by the parts of a surface: its normals, and a base that reflects, scatters and lets light through."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import reduce

from velvet_moth.core.language.expr import Expr, constant
from velvet_moth.core.language.inputs import surface
from velvet_moth.core.language.primitives import (
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
from velvet_moth.core.language.primitives.comparison import less
from velvet_moth.core.language.trace import emitted_function
from velvet_moth.core.lighting.environment import mirrored_surroundings, response
from velvet_moth.core.lighting.harmonics import diffuse_around
from velvet_moth.core.lighting.lobes import LEAST_ROUGHNESS, highlight, reflectance, strand_highlight
from velvet_moth.core.lighting.shadow import sun_arrives

DIELECTRIC_REFLECTANCE = 0.04


@emitted_function("Normal of the surface in the world")
def world_normal(mapped: Expr, form: Expr) -> Expr:
    """A tangent-space normal turned into the world's axes, about the form's normal on the side that is seen.

    On the back it is reversed whole, as glTF has it for double-sided materials.
    """
    tangent = surface("tangent")
    along = normalise(tangent.xyz - form * dot(form, tangent.xyz))
    side = cross(form, along) * tangent.w
    return normalise(along * (mapped.x * seen_side()) + side * mapped.y + form * mapped.z)


def seen_side() -> Expr:
    """1 where the front is seen, -1 where the back is."""
    return surface("is_front") * 2.0 - 1.0


def facing_normal() -> Expr:
    """The normal of the form as the surface moves it, on the side that is seen."""
    return surface("moved_normal") * seen_side()


@emitted_function("Direction of the strands in the world")
def strands(direction: Expr, normal: Expr) -> Expr:
    """A tangent-space direction turned into the world's axes, square to a unit normal: the same from both sides."""
    tangent = surface("tangent")
    along = normalise(tangent.xyz - normal * dot(normal, tangent.xyz))
    turned = along * direction.x + cross(normal, along) * (direction.y * tangent.w * seen_side())
    return normalise(turned + along * 1e-6)


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


@dataclass(frozen=True)
class Light:
    """A light as a surface point has it: the unit direction to it, and what of it arrives there.

    ``behind`` is what arrives on the side of the surface that is not seen.
    """

    direction: Expr
    arriving: Expr
    behind: Expr


def sun_light(form: Expr) -> Light:
    """The sun, past what casts shadows, on a surface of the unit normal ``form``."""
    place, colour = surface("moved_position"), surface("sun_colour")
    return Light(surface("sun_direction"), colour * sun_arrives(place, form), colour * sun_arrives(place, -form))


def lamp_lights(count: int) -> list[Light]:
    """The first lamps of a rig at the surface point; their light thins with the square of the distance."""
    found = []
    for number in range(1, count + 1):
        towards = surface(f"lamp_place_{number}") - surface("moved_position")
        arriving = surface(f"lamp_colour_{number}") / maximum(dot(towards, towards), 0.01)
        found.append(Light(normalise(towards), arriving, arriving))
    return found


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
        lights: Sequence[Light],
        facing: Expr,
        edge: Expr,
        strand: tuple[Expr, Expr, Expr] | None = None,
    ) -> None:
        self.normal, self.form, self.facing, self.edge = normal, form, facing, edge
        self.strand = strand
        self.base, self.metal = saturate(base_colour), saturate(metallic)
        self.rough = maximum(saturate(roughness), LEAST_ROUGHNESS)
        self.open = saturate(occlusion)
        self.view = surface("view_direction")
        answered = response(saturate(dot(normal, self.view)), self.rough)
        self.whole = answered.x + answered.y
        if strand is not None:
            along, side, strength = strand
            stretched = strand_response(normal, along, side, self.view, self.rough, strength)
            answered, self.whole = answered * (stretched / maximum(self.whole, 0.05)), stretched
        paint = _mirrored(facing, edge, answered)
        self.mirrored = mix(splat(paint, 3), _mirrored(self.base, constant(1.0), answered), self.metal)
        # What is not mirrored goes on into the base.
        self.passed = 1.0 - paint
        self.scattered = self.base * (1.0 - self.metal) * self.passed
        self.lights = [(light, self._reached(light.direction)) for light in lights]

    def _reached(self, light: Expr) -> Expr:
        """The cosine of a light to the surface; a bump may not be lit through the form it sits on."""
        return select(less(0.0, dot(self.form, light)), saturate(dot(self.normal, light)), 0.0)

    def _glints(self) -> Expr:
        """The lights in the base's own reflection."""
        n, v, more = self.normal, self.view, 1.0 / maximum(self.whole, 0.05) - 1.0

        def glint(light: Light, reached: Expr) -> Expr:
            cosine = saturate(dot(normalise(v + light.direction), v))
            paint = reflectance(self.facing, self.edge, cosine) * (self.facing * more + 1.0)
            metal = reflectance(self.base, constant(1.0), cosine) * (self.base * more + 1.0)
            if self.strand is None:
                lobe = highlight(n, v, light.direction, self.rough)
            else:
                along, side, strength = self.strand
                lobe = strand_highlight(
                    n, along, side=side, view=v, light=light.direction, roughness=self.rough, strength=strength
                )
            return mix(splat(paint, 3), metal, self.metal) * (lobe * reached) * light.arriving

        return total([glint(*light) for light in self.lights])

    def _irradiance(self) -> Expr:
        """What arrives of the lights, over pi."""
        return total([light.arriving * (reached * (1.0 / math.pi)) for light, reached in self.lights])

    def reflected(self) -> Expr:
        """The lights and the surroundings in the base's own reflection."""
        v, bent = self.view, self.normal
        if self.strand is not None:
            _, side, strength = self.strand
            bent = strand_normal(bent, side, v, self.rough, strength)
        around = mirrored_surroundings(bent, v, self.rough) * self.open
        return self._glints() + self.mirrored * around

    def diffuse(self) -> Expr:
        """Light scattered on the side it came to."""
        return self.scattered * (self._irradiance() + diffuse_around(self.normal) * self.open)

    def through(self, tint: Expr) -> Expr:
        """Light scattered out on the other side than it came to. KHR_materials_diffuse_transmission."""

        def passing(light: Light) -> Expr:
            cosine = saturate(-dot(self.normal, light.direction))
            return light.behind * (select(less(0.0, -dot(self.form, light.direction)), cosine, 0.0) * (1.0 / math.pi))

        arriving = total([passing(light) for light, _ in self.lights]) + diffuse_around(-self.normal) * self.open
        return maximum(tint, 0.0) * (1.0 - self.metal) * self.passed * arriving

    def radiance(self) -> Expr:
        """Light towards the eye: what is reflected and what is scattered."""
        return self.reflected() + self.diffuse()

    def direct(self) -> Expr:
        """What the lights alone add to ``radiance``."""
        return self._glints() + self.scattered * self._irradiance()


def total(parts: Sequence[Expr]) -> Expr:
    """The sum of at least one part."""
    return reduce(lambda a, b: a + b, parts)


@emitted_function("Response of a stretched highlight")
def strand_response(normal: Expr, along: Expr, side: Expr, view: Expr, roughness: Expr, strength: Expr) -> Expr:
    """The share of white surroundings that ``strand_highlight`` sends to the eye where it reflects all.

    That of a round highlight as wide as the power mean of both widths, at the angle that the view has to the wide one: fitted
    to the integral, within 9 %.
    """
    short = roughness * roughness
    long = short + (1.0 - short) * strength * strength
    mean = power((power(short, 1.6) + power(long, 1.6)) * 0.5, 1.0 / 1.6)
    up, ahead, aside = saturate(dot(normal, view)), dot(along, view), dot(side, view) * (short / long)
    cosine = up / square_root(maximum(up * up + ahead * ahead + aside * aside, 1e-6))
    answered = response(cosine, square_root(mean))
    return answered.x + answered.y


@emitted_function("Normal that strands reflect the surroundings about")
def strand_normal(normal: Expr, side: Expr, view: Expr, roughness: Expr, strength: Expr) -> Expr:
    """The bent normal of KHR_materials_anisotropy's image-based light."""
    bent = normalise(cross(cross(side, view), side) + normal * 1e-5)
    away = 1.0 - strength * (1.0 - roughness)
    squared = away * away
    return normalise(mix(bent, normal, squared * squared))
