"""Parts: what a wire takes of the value it carries, such as one channel of a colour."""

from collections.abc import Callable
from dataclasses import dataclass

from velvet_moth.core.language.expr import Expr
from velvet_moth.core.language.primitives import luminance
from velvet_moth.core.language.types import P_COLOUR, P_FLEXIBLE, P_NUMBER, P_VEC2, P_VEC3, P_VEC4, PortType, can_carry


@dataclass(frozen=True)
class Part:
    """One way to take less of a value. ``given`` are the types it can be taken of, ``made`` what comes out."""

    key: str
    words: str
    given: tuple[PortType, ...]
    made: PortType
    take: Callable[[Expr], Expr]


_TWO = (P_VEC2, P_VEC3, P_VEC4, P_COLOUR)
_THREE = (P_VEC3, P_VEC4, P_COLOUR)

# In the order of preference for a wire that is drawn by hand.
PARTS = {
    p.key: p
    for p in (
        Part("luminance", "luminance", (P_COLOUR,), P_NUMBER, luminance),
        Part("xyz", "first three", (P_VEC4,), P_VEC3, lambda e: e.xyz),
        Part("xy", "first two", _THREE, P_VEC2, lambda e: e.xy),
        Part("x", "X or red", _TWO, P_NUMBER, lambda e: e.x),
        Part("y", "Y or green", _TWO, P_NUMBER, lambda e: e.y),
        Part("z", "Z or blue", _THREE, P_NUMBER, lambda e: e.z),
        Part("w", "W or alpha", (P_VEC4,), P_NUMBER, lambda e: e.w),
    )
}


def type_of_part(given: PortType, part: str) -> PortType | None:
    """The type a part has; None where the value has no such part. No part is the whole value."""
    if not part:
        return given
    return PARTS[part].made if given in PARTS[part].given else None


def fitting_part(given: PortType, taken: PortType) -> str | None:
    """What a wire takes by itself: nothing less than the whole where that fits, None where no part does.

    One number of several is taken only where one number is asked for: widened again, it would say less.
    """
    if can_carry(given, taken):
        return ""
    parts = (p for p in PARTS.values() if given in p.given and can_carry(p.made, taken))
    return next((p.key for p in parts if p.made is not P_NUMBER or taken is P_NUMBER), None)


def fit(given: PortType, taken: PortType) -> int:
    """How well a value flows into an input: 3 as it is, 2 widened, 1 a part of it, 0 not at all."""
    part = fitting_part(given, taken)
    if part is None:
        return 0
    return 1 if part else 3 if given is taken or taken is P_FLEXIBLE else 2


def part_of_part(first: str, then: str) -> str:
    """What is taken when ``then`` is taken of what ``first`` gives."""
    if not first or not then:
        return first or then
    # Letters pick components; luminance is of whole colours and one number has no parts.
    return "".join(first["xyz".index(c)] for c in then) if first in ("xy", "xyz") and set(then) <= set("xyz") else then
