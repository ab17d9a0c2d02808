"""Whole surfaces, and the dock where a graph ends."""

from collections.abc import Mapping
from typing import Annotated as A

from velvet_moth.core.catalogue.ports import (
    COLOUR_OUT,
    SURFACE_OUT,
    colour,
    direction,
    mask,
    number,
    surface_port,
)
from velvet_moth.core.catalogue.registry import node
from velvet_moth.core.language import primitives as p
from velvet_moth.core.language.expr import Expr, constant
from velvet_moth.core.language.inputs import surface as at_point
from velvet_moth.core.lighting.axes import tangent_to_world
from velvet_moth.core.lighting.channels import CHANNELS, Surface, default_surface, mixed, widened

GROUP = "Surfaces"
DOCK = "dock"
BACK = "back"


_FILLS = "A whole surface; channels wired below replace its own."


def _of(channels: Mapping[str, Expr]) -> Surface:
    return Surface({key: widened(key, value) for key, value in channels.items()})


def _filled(surface: Surface, channels: Mapping[str, Expr]) -> Surface:
    """A surface with some channels in the place of its own."""
    return Surface({**surface.channels, **_of(channels).channels})


@node(
    "Surface",
    GROUP,
    ("material", "layer", "car paint", "velvet", "cloth", "plastic", "hair", "anisotropy", "highlight"),
    ("describe one layer of paint",),
    inputs={"surface": surface_port(_FILLS, extra=True, fills=True), **CHANNELS},
)
def surface(surface: Surface, **channels: Expr) -> A[Surface, SURFACE_OUT]:
    """All channels of one surface on one wire.

    Formula: glTF 2.0 metallic-roughness with clear coat; where a whole surface is wired, each wired channel in its place
    Use: Describe each layer of paint by itself, then mix the layers whole. Or change a few channels of a surface.
    See: mix_surfaces
    """
    return _filled(surface, channels)


@node(
    "Emission",
    GROUP,
    ("unlit", "glow", "self-lit", "fullbright", "hologram", "neon", "fire", "lava", "lamp"),
    ("make it glow by itself", "ignore the lights"),
)
def emission(
    colour: A[Expr, colour(0.1, 0.8, 1.0, words="The light it gives off.")],
    strength: A[Expr, number(1.0, 0.0, 20.0, 0.05, words="Above 1 it is brighter than white.")],
) -> A[Surface, SURFACE_OUT]:
    """A surface that only gives off light: lamps and surroundings leave no trace on it, and cost nothing.

    Formula: emissive = colour, strength as set; base colour and reflection 0
    Use: Screens, lanterns, runes; mixed by a mask into a surface that is lit. A whole graph of it is the kind Unlit.
    See: surface, mix_surfaces
    """
    dark = {"base_colour": constant(0.0, 0.0, 0.0), "specular": constant(0.0)}
    return _of({**default_surface().channels, **dark, "emissive": colour, "emissive_strength": strength})


@node(
    "Strand highlight",
    GROUP,
    ("hair highlight", "second highlight", "anisotropic specular", "fuzz", "fur", "hair"),
    ("add a second shine to hair",),
)
def strand_shine(
    direction: A[Expr, direction(1.0, 0.0, words="Of the strands in tangent space, as Decode flow gives it.")],
    shift: A[Expr, number(0.1, -1.0, 1.0, words="Moves it towards the root or the tip; a noise breaks it up.")],
    sharpness: A[Expr, number(40.0, 1.0, 200.0, 1.0, words="Higher is narrower.")],
    colour: A[Expr, colour(0.4, 0.3, 0.2, words="The light it mirrors; that of the strand for the second one.")],
) -> A[Expr, COLOUR_OUT]:
    """The sun mirrored along strands, moved by a shift of its own: one more highlight beside that of the surface.

    Formula: colour sun (1 - dot(t, h)^2)^(sharpness / 2) where lit, t = normalise(strand + normal shift), h half-way
    between view and sun. T. Scheuermann, "Practical Real-Time Hair Rendering and Shading", 2004
    Use: To Emissive, for the coloured second highlight of hair; times Sun reach for shadow.
    See: light_through, sun_reach, decode_flow
    """
    normal, towards = at_point("normal"), at_point("sun_direction")
    strand = p.normalise(tangent_to_world(p.combine(direction, 0.0)) + normal * shift)
    half = p.normalise(at_point("view_direction") + towards)
    along = p.dot(strand, half)
    across = p.assume(p.maximum(1.0 - along * along, 0.0), 0.0, 1.0)
    lit = p.saturate(p.dot(normal, towards) * 4.0)
    return colour * at_point("sun_colour") * (p.power(across, p.maximum(sharpness, 0.0) * 0.5) * lit)


@node(
    "Mix surfaces",
    GROUP,
    ("layer", "blend materials", "blend surfaces", "material blend"),
    ("lay one paint over another by a mask",),
)
def mix_surfaces(
    a: A[Surface, surface_port("Where the amount is 0.")],
    b: A[Surface, surface_port("Where the amount is 1.")],
    amount: A[Expr, mask(0.5, words="0 gives A, 1 gives B.", beyond="the mix goes past A or B there")],
) -> A[Surface, SURFACE_OUT]:
    """Mixes two whole surfaces, channel by channel, normals included.

    Formula: A + (B - A) * amount for every channel; normals brought back to unit length
    Use: Gloss over flake, moss over stone, by any mask.
    See: surface, mix
    """
    return mixed(a, b, amount)


@node(
    "Coat over",
    GROUP,
    ("clear coat", "varnish", "lacquer", "clearcoat", "car paint", "plastic", "gloss"),
    ("put gloss over a surface", "make it look wet"),
)
def coat_over(
    surface: A[Surface, surface_port("What lies under the coat.")],
    strength: A[Expr, mask(1.0, words="0 no coat, 1 a full one.")],
    roughness: A[Expr, number(0.05, words="0 mirrors sharply.")],
) -> A[Surface, SURFACE_OUT]:
    """Lays a clear coat over a whole surface, over the coat it may have already.

    Formula: coat = c + (1 - c) strength; coat roughness mixed by strength
    Use: Varnish, ice, rain: strength by a mask of wetness.
    See: mix_surfaces, layer_stack, puddle
    """
    return Surface(
        {
            **surface.channels,
            "clear_coat": p.mix(surface["clear_coat"], 1.0, strength),
            "coat_roughness": p.mix(surface["coat_roughness"], roughness, strength),
        }
    )


Mask = A[Expr, mask(0.0, words="Where the layer lies.", beyond="the mix goes past the layer there")]


@node("Layer stack", GROUP, ("layered material", "stack"), ("lay several paints over each other",))
def layer_stack(
    base: A[Surface, surface_port("The lowest.")],
    first: A[Surface, surface_port("Over the base.")],
    first_mask: Mask,
    second: A[Surface, surface_port("Over the first.")],
    second_mask: Mask,
    third: A[Surface, surface_port("Over the second.")],
    third_mask: Mask,
) -> A[Surface, SURFACE_OUT]:
    """Up to three whole surfaces over a base, each by its own mask; a mask of 0 costs little and shows nothing.

    Formula: mix(mix(mix(base, first, m1), second, m2), third, m3), normals brought back to unit length
    Use: Wood, paint, dirt and moss in the order they came.
    See: mix_surfaces, edge_wear, cavity
    """
    return mixed(mixed(mixed(base, first, first_mask), second, second_mask), third, third_mask)


@node(
    "Light through",
    GROUP,
    ("translucency", "subsurface", "backlight", "leaf", "leaves", "wax", "skin", "sss"),
    ("let light through a leaf",),
    form="reeds",
)
def light_through(
    colour: A[Expr, colour(0.35, 0.6, 0.1, words="The light that comes through.")],
    thin: A[Expr, number(1.0, words="0 lets nothing through, 1 all.")],
    spread: A[Expr, number(0.3, words="How much bumps bend the light on its way.")],
    sharpness: A[Expr, number(3.0, 0.5, 16.0, 0.1, words="Higher keeps it towards the sun.")],
) -> A[Expr, COLOUR_OUT]:
    """The sun seen through a thin part, from the other side.

    Formula: colour thin sun clamp(dot(view, -normalise(sun + n spread)), 0, 1) ^ sharpness
    Use: To Emissive, added to what is there: leaves, pennants, wave crests against the sun.
    See: face_side, sun_direction, view_falloff
    """
    towards = at_point("sun_direction")
    through = p.normalise(towards + at_point("normal") * spread)
    seen = p.power(p.saturate(-p.dot(at_point("view_direction"), through)), sharpness)
    return colour * at_point("sun_colour") * (seen * p.saturate(thin))


@node(
    "Dock",
    GROUP,
    inputs={
        "surface": surface_port(_FILLS, fills=True),
        BACK: surface_port(
            "What a two-sided surface shows from behind; without one both sides are the same.", extra=True
        ),
        **CHANNELS,
    },
    hidden=True,
)
def dock(surface: Surface, back: Surface, **channels: Expr) -> A[Surface, SURFACE_OUT]:
    """The surface the stage shows.

    Formula: the whole surface where one is wired, each wired channel in its place
    Use: Wire a whole surface, or channels one by one. From behind, a two-sided one shows what is wired to Back, cut out
    and moved as the front is.
    """
    del back  # a matter of the kind: the whole graph's surface turns to it
    return _filled(surface, channels)
