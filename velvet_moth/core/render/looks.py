"""Looks of the stage: other things to see of a form and its surface than the light it sends."""

from collections.abc import Callable
from dataclasses import dataclass
from math import cos, pi, sin

from velvet_moth.core.document.graph import Source
from velvet_moth.core.forms.mesh import VERTEX_CHANNELS
from velvet_moth.core.language.expr import Expr, Structural, constant
from velvet_moth.core.language.footprint import footprint
from velvet_moth.core.language.inputs import surface
from velvet_moth.core.language.interpreters.cost import cost
from velvet_moth.core.language.primitives import (
    combine,
    dot,
    floor,
    fract,
    length,
    maximum,
    minimum,
    mix,
    saturate,
    select,
    splat,
    step,
)
from velvet_moth.core.language.primitives.comparison import less, logical_or
from velvet_moth.core.language.types import P_COLOUR, P_NUMBER
from velvet_moth.core.lighting.channels import CHANNELS, Surface
from velvet_moth.core.lighting.layers import facing_normal, strands, world_normal
from velvet_moth.core.lighting.shown import lit_picture, unit_picture
from velvet_moth.core.nodes.textures import level_of

Painter = Callable[[Surface], Expr]
# The node that looks are outputs of, as far as the page asks for them.
STAGE = "stage"


@dataclass(frozen=True)
class Look:
    """One way of looking: its name and what it tells, for people; what it paints (sRGB, 0..1).

    What ``adds`` is painted by every sheet of the form at a pixel, hidden or not, one upon the other.
    """

    key: str
    name: str
    words: str
    paint: Painter
    adds: bool = False


LOOKS: dict[str, Look] = {}


def declared_look(name: str, adds: bool = False) -> Callable[[Painter], Painter]:
    """Decorator that enters a look in the table; its docstring tells what is seen."""

    def decorate(paint: Painter) -> Painter:
        key = paint.__name__
        LOOKS[key] = Look(key, name, " ".join((paint.__doc__ or "").split()), paint, adds)
        return paint

    return decorate


def look_at(source: Source) -> Look | None:
    """The look a source stands for; None where it is an output of the graph."""
    return LOOKS.get(source.output) if source.node == STAGE else None


@declared_look("Normals")
def normals(shown: Surface) -> Expr:
    """The normal with all bumps, in the world: right is red, up is green, towards the south is blue."""
    return unit_picture(world_normal(shown["normal"], facing_normal()))


@declared_look("Form's normals")
def form_normals(shown: Surface) -> Expr:
    """The normal of the form alone, as the offset turns it."""
    return unit_picture(facing_normal())


@declared_look("UV checker")
def uv_checker(shown: Surface) -> Expr:
    """Eight fields a repeat, red along U and green along V: stretched or mirrored coordinates show."""
    uv = surface("uv")
    field = floor(uv * 8.0)
    light = select(less(fract((field.x + field.y) * 0.5), 0.25), 1.0, 0.55)
    return combine(fract(uv.x), fract(uv.y), 0.35) * light


@declared_look("Vertex colour")
def vertex_colour(shown: Surface) -> Expr:
    """Red, green and blue of the vertex data, as numbers."""
    return surface("vertex_colour").rgb


def _channel_look(number: int, channel: str) -> None:
    """One number of the vertex data by itself, in grey."""

    def look(shown: Surface) -> Expr:
        of_set = surface("vertex_colour" if number < 4 else "second_vertex_colour")
        return splat(of_set[number % 4], 3)

    look.__name__ = f"vertex_{channel.replace(' ', '_')}"
    look.__doc__ = f"Number {number + 1} of the vertex data: {channel}."
    declared_look(f"Vertex {channel}")(look)


for _number, _channel in enumerate(VERTEX_CHANNELS):
    _channel_look(_number, _channel)


# The colour of a mask over the form: one that plain surfaces and lamps seldom have.
_MASK = (0.86, 0.24, 0.05)


@declared_look("Vertex mask")
def vertex_mask(shown: Surface) -> Expr:
    """Red of the vertex data as a mask, laid over the lit surface in grey."""
    lit = lit_picture(shown)
    grey = (lit.x + lit.y + lit.z) * (1.0 / 3.0)
    masked = constant(*_MASK) * (0.45 + 0.55 * grey)
    return mix(splat(grey, 3), masked, saturate(surface("vertex_colour").r))


@declared_look("Flow heading")
def flow_heading(shown: Surface) -> Expr:
    """Where directions kept in red and green of the vertex data head: a colour for each, grey where it is still."""
    data = surface("vertex_colour")
    along = data.rg * 2.0 - 1.0
    facing = facing_normal()
    way = strands(along, facing) * saturate(length(along))
    shade = 0.55 + 0.45 * saturate(dot(facing, surface("view_direction")))
    # Three colours a third of a turn apart, seen from above; what rises is brighter.
    parts = (way.x * cos(turn) + way.z * sin(turn) + way.y * 0.6 for turn in (0.0, 2.0 * pi / 3.0, -2.0 * pi / 3.0))
    return saturate(combine(*(0.5 + 0.5 * part for part in parts))) * shade


@declared_look("Depth")
def depth(shown: Surface) -> Expr:
    """How far the surface is from the eye: white near, darker with every metre, a fine line every tenth of one."""
    away = surface("camera_distance")
    line = step(constant(0.06), fract(away * 10.0))
    return splat(saturate(1.7 - away * 0.27) * (0.75 + 0.25 * line), 3)


@declared_look("Facing side")
def facing_side(shown: Surface) -> Expr:
    """Front sides green, back sides red, shaded by how they face the eye."""
    from_front = mix(combine(0.66, 0.20, 0.18), combine(0.19, 0.44, 0.40), surface("is_front"))
    facing = saturate(dot(facing_normal(), surface("view_direction")))
    return from_front * (0.45 + 0.55 * facing)


@declared_look("Texture level")
def texture_level(shown: Surface) -> Expr:
    """Which level of a texture of 1024 pixels is read here: 0 grey, then blue, green, yellow, red."""
    level = level_of(constant(1024.0, 1024.0), *footprint(surface("uv")))
    first = mix(combine(0.5, 0.5, 0.5), combine(0.25, 0.4, 0.85), saturate(level))
    second = mix(first, combine(0.3, 0.65, 0.35), saturate(level - 1.0))
    third = mix(second, combine(0.85, 0.75, 0.25), saturate(level - 2.0))
    return mix(third, combine(0.8, 0.25, 0.2), saturate(level - 3.0))


@declared_look("Out of range")
def out_of_range(shown: Surface) -> Expr:
    """The lit surface in grey; magenta where a channel leaves 0 to 1 and the surface model stops it, cyan where a value
    is no number at all."""
    beyond: Expr | None = None
    for key, declared in CHANNELS.items():
        value = shown[key]
        if not declared.beyond or value.operator is Structural.CONSTANT:
            continue
        low, high = value, value
        if declared.type is P_COLOUR:
            low = minimum(minimum(value.x, value.y), value.z)
            high = maximum(maximum(value.x, value.y), value.z)
        assert declared.type in (P_COLOUR, P_NUMBER)
        found = logical_or(less(low, -0.001), less(1.001, high))
        beyond = found if beyond is None else logical_or(beyond, found)
    grey = lit_picture(shown)
    plain = splat((grey.x + grey.y + grey.z) * (1.0 / 3.0), 3)
    told = plain if beyond is None else select(beyond, combine(0.9, 0.1, 0.75), plain)
    # Of no number neither is true.
    every = [
        value[i] if value.type.width > 1 else value
        for value in shown.channels.values()
        for i in range(value.type.width)
    ]
    sums = [value for value in every if value.operator is not Structural.CONSTANT]
    for value in sums:
        told = select(logical_or(less(value, 0.0), less(-1.0, value)), told, combine(0.1, 0.85, 0.9))
    return told


# From black over red and yellow to white, as what is added up grows.
_HEAT = (1.0, 0.42, 0.16)


@declared_look("Overdraw", adds=True)
def overdraw(shown: Surface) -> Expr:
    """How many sheets of the form are shaded at a pixel: dark red once, bright red four times, white twenty times."""
    return constant(*(part * 0.25 for part in _HEAT))


@declared_look("Cost heat", adds=True)
def cost_heat(shown: Surface) -> Expr:
    """What a pixel costs, every sheet of the form counted: bright red at 2000 operations, white at 12000."""
    spent = cost(list(shown.channels.values())).operations / 2000.0
    return constant(*(part * spent for part in _HEAT))
