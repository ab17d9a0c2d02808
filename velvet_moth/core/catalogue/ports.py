"""Inputs and outputs of nodes: what a node's signature declares and the page shows."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace

from velvet_moth.core.catalogue.settings import spoken
from velvet_moth.core.language.interval import Interval
from velvet_moth.core.language.types import (
    P_BOOL,
    P_COLOUR,
    P_FLEXIBLE,
    P_NUMBER,
    P_SURFACE,
    P_TEXTURE,
    P_VEC2,
    P_VEC3,
    P_VEC4,
    PortType,
)


@dataclass(frozen=True)
class Input:
    """One input of a node.

    ``default`` are the components an unwired input carries; ``source`` names a surface input it reads
    instead of a value of its own. ``low``..``high`` is the useful range a slider offers; ``beyond`` tells
    what happens outside it, where that is wrong and not just unusual. ``per_vertex`` inputs move the
    form, so they take nothing that exists per pixel only. What is ``idle_at_default`` costs nothing until
    it is wired, set or opened as a parameter. ``role`` is ``mask`` (0 to 1, meant to vary), ``seed``, or
    ``direction`` (components of -1 to 1).
    ``limits`` gives, by the ranges of the node's inputs, other ends than the slider's for ``beyond`` to hold.
    ``reads`` names the texture input whose reading it belongs to. An ``extra`` input is shown only where it is
    used or asked for. A whole surface that ``fills`` gives its channels to the inputs of the same names that are not wired.
    """

    type: PortType
    default: tuple[float, ...] = ()
    low: float = 0.0
    high: float = 1.0
    step: float = 0.01
    unit: str = ""
    words: str = ""
    source: str = ""
    beyond: str = ""
    per_vertex: bool = False
    idle_at_default: bool = False
    wirable: bool = True
    missing: str = "white"
    role: str = ""
    reads: str = ""
    extra: bool = False
    fills: bool = False
    key: str = ""
    name: str = ""
    limits: Callable[[Mapping[str, Interval]], Interval] | None = None

    @property
    def shapes_the_shader(self) -> bool:
        """Whether another value is another shader: toggles are settled at build, stops are counted."""
        return self.type is P_BOOL or self.type.stop > 0

    @property
    def in_steps(self) -> bool:
        """Whether there are no values between two of its own, so that keys over time hold."""
        return self.type is P_BOOL or self.type is P_TEXTURE

    def named(self, key: str) -> "Input":
        """The same input under its key, named after it where it has no name."""
        return replace(self, key=key, name=self.name or spoken(key))


@dataclass(frozen=True)
class Output:
    """One output of a node. ``channel`` is that of the vertex data which it gives, of the first set."""

    type: PortType
    name: str = "Result"
    key: str = ""
    unit: str = ""
    channel: str = ""


def number(
    default: float,
    low: float = 0.0,
    high: float = 1.0,
    step: float = 0.01,
    unit: str = "",
    words: str = "",
    beyond: str = "",
    name: str = "",
) -> Input:
    """Declares an input for one number, with the ends of its slider and its unit."""
    return Input(P_NUMBER, (default,), low=low, high=high, step=step, unit=unit, words=words, beyond=beyond, name=name)


def mask(default: float, words: str = "", beyond: str = "") -> Input:
    """A number 0..1 that is meant to vary over the surface."""
    return Input(P_NUMBER, (default,), words=words, beyond=beyond, role="mask")


def flexible(default: float, low: float = 0.0, high: float = 1.0, words: str = "", name: str = "") -> Input:
    """A number that widens to the widest vector or colour wired to the node's flexible inputs."""
    return Input(P_FLEXIBLE, (default,), low, high, words=words, name=name)


def colour(red: float, green: float, blue: float, words: str = "", wirable: bool = True) -> Input:
    """Linear light, 0..1 and above for emissive."""
    return Input(P_COLOUR, (red, green, blue), words=words, wirable=wirable)


def vec2(x: float, y: float, low: float = 0.0, high: float = 1.0, step: float = 0.01, words: str = "") -> Input:
    """Declares an input for two numbers."""
    return Input(P_VEC2, (x, y), low, high, step, words=words)


def vec3(x: float, y: float, z: float, low: float = -1.0, high: float = 1.0, words: str = "") -> Input:
    """Declares an input for three numbers."""
    return Input(P_VEC3, (x, y, z), low, high, words=words)


def direction(*components: float, words: str = "") -> Input:
    """Declares an input for a direction of two or three components, each -1 to 1."""
    taken = P_VEC2 if len(components) == 2 else P_VEC3
    return Input(taken, components, -1.0, 1.0, words=words, role="direction")


def vec4(x: float, y: float, z: float, w: float, low: float = 0.0, high: float = 1.0, words: str = "") -> Input:
    """Declares an input for four numbers."""
    return Input(P_VEC4, (x, y, z, w), low, high, words=words)


def uv() -> Input:
    """Texture coordinates; the form's own where nothing is wired."""
    return Input(P_VEC2, source="uv", words="Where to read; the form's own UV where nothing is wired.")


def from_surface(type_: PortType, source: str, words: str) -> Input:
    """An input that reads the surface point where nothing is wired."""
    return Input(type_, source=source, words=words)


def toggle(default: bool, words: str = "") -> Input:
    """Declares an input for yes or no, settled when the shader is built."""
    return Input(P_BOOL, (float(default),), words=words)


def texture(missing: str = "white", words: str = "The texture to read.") -> Input:
    """``missing`` is what is read while none is chosen: ``white`` or ``flat`` (a normal map without bumps)."""
    return Input(P_TEXTURE, missing=missing, words=words)


def stops(type_: PortType, *components: float, words: str = "") -> Input:
    """A list of stops edited in place: for each its place 0..1, then its colour or height."""
    return Input(type_, components, words=words, wirable=False)


def surface_port(words: str = "", extra: bool = False, fills: bool = False) -> Input:
    """Declares an input for a whole surface."""
    return Input(P_SURFACE, words=words, extra=extra, fills=fills)


NUMBER_OUT = Output(P_NUMBER, "Value")
VEC2_OUT = Output(P_VEC2, "Vector")
UV_OUT = Output(P_VEC2, "UV")
VEC3_OUT = Output(P_VEC3, "Vector")
NORMAL_OUT = Output(P_VEC3, "Normal")
VEC4_OUT = Output(P_VEC4, "Vector")
COLOUR_OUT = Output(P_COLOUR, "Colour")
FLEXIBLE_OUT = Output(P_FLEXIBLE, "Result")
TEXTURE_OUT = Output(P_TEXTURE, "Texture")
BOOL_OUT = Output(P_BOOL, "Answer")
SURFACE_OUT = Output(P_SURFACE, "Surface")
