"""The value types of expressions and of node inputs and outputs."""

from dataclasses import dataclass


@dataclass(frozen=True, eq=False)
class Type:
    """A type of expression: ``width`` components of ``base``; width 0 for what is not made of components."""

    name: str
    glsl: str
    base: str
    width: int

    def __repr__(self) -> str:
        return self.name


NUMBER = Type("number", "float", "float", 1)
VEC2 = Type("vec2", "vec2", "float", 2)
VEC3 = Type("vec3", "vec3", "float", 3)
VEC4 = Type("vec4", "vec4", "float", 4)
BOOL = Type("bool", "bool", "bool", 1)
TEXTURE = Type("texture", "sampler2D", "texture", 0)
BUNDLE = Type("bundle", "void", "bundle", 0)

FLOATS = (NUMBER, VEC2, VEC3, VEC4)


def float_of_width(width: int) -> Type:
    """The float type with 1 to 4 components."""
    return FLOATS[width - 1]


@dataclass(frozen=True, eq=False)
class PortType:
    """What an input takes or an output gives, as the artist knows it.

    ``value`` is the expression type that carries it; None for a whole surface (many expressions), for
    ``flexible``, which takes the widest type wired to the node's flexible inputs, and for lists of stops,
    which are edited and never wired: ``stop`` is the number of components of one.
    """

    name: str
    words: str
    value: Type | None
    strands: int
    stop: int = 0


P_NUMBER = PortType("number", "one number", NUMBER, 1)
P_VEC2 = PortType("vec2", "two numbers", VEC2, 2)
P_VEC3 = PortType("vec3", "three numbers", VEC3, 3)
P_VEC4 = PortType("vec4", "four numbers", VEC4, 4)
P_COLOUR = PortType("colour", "a colour", VEC3, 3)
P_BOOL = PortType("bool", "yes or no", BOOL, 1)
P_TEXTURE = PortType("texture", "a texture", TEXTURE, 0)
P_SURFACE = PortType("surface", "a whole surface", None, 0)
P_FLEXIBLE = PortType("flexible", "a number, vector or colour", None, 1)

P_GRADIENT = PortType("gradient", "2 to 8 stops, each a place 0..1 and a colour", None, 0, stop=4)
P_CURVE = PortType("curve", "2 to 8 points, each a place 0..1 and a height", None, 0, stop=2)

PORT_TYPES = {
    t.name: t
    for t in (
        P_NUMBER,
        P_VEC2,
        P_VEC3,
        P_VEC4,
        P_COLOUR,
        P_BOOL,
        P_TEXTURE,
        P_SURFACE,
        P_FLEXIBLE,
        P_GRADIENT,
        P_CURVE,
    )
}


def can_carry(given: PortType, taken: PortType) -> bool:
    """Whether an output's type flows into an input without losing anything.

    One number widens to any vector or colour; a colour and three numbers are the same components.
    Nothing narrows by itself: which component to keep is the artist's choice.
    """
    if given is taken:
        return True
    if taken is P_FLEXIBLE:
        return given in (P_NUMBER, P_VEC2, P_VEC3, P_VEC4, P_COLOUR)
    if given is P_NUMBER:
        return taken in (P_VEC2, P_VEC3, P_VEC4, P_COLOUR)
    return {given, taken} == {P_VEC3, P_COLOUR}


def widest(types: list[PortType]) -> PortType | None:
    """The type that flexible inputs agree on; None where they cannot agree (two and three numbers)."""
    best = P_NUMBER
    for found in types:
        if found is best or can_carry(found, best):
            # Three numbers met by a colour become a colour: it is the more telling name.
            best = P_COLOUR if {found, best} == {P_VEC3, P_COLOUR} else best
        elif can_carry(best, found):
            best = found
        else:
            return None
    return best
