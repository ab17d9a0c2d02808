"""How a picture is read: as colour, data, a normal map, a flow or a height."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

RoleKey = Literal["colour", "data", "normal", "flow", "height"]
Green = Literal["up", "down"]


@dataclass(frozen=True)
class Role:
    """``words`` for people; ``is_colour`` pictures are decoded from sRGB, ``is_signed`` ones mean -1..1 by 0..1."""

    key: RoleKey
    name: str
    words: str
    is_colour: bool = False
    is_signed: bool = False


ROLES: Mapping[RoleKey, Role] = {
    r.key: r
    for r in (
        Role("colour", "Colour", "colours as seen, decoded from sRGB to light", is_colour=True),
        Role("data", "Data or mask", "numbers as they stand: masks, roughness, packed channels"),
        Role("normal", "Normal map", "directions, -1..1 kept as 0..1", is_signed=True),
        Role("flow", "Flow map", "directions along the surface in red and green, -1..1 kept as 0..1", is_signed=True),
        Role("height", "Height", "one number as it stands: higher is nearer"),
    )
}


@dataclass(frozen=True)
class Reading:
    """The role of a picture and, for normal and flow maps, which way its green points."""

    role: RoleKey = "colour"
    green: Green = "up"

    @property
    def is_colour(self) -> bool:
        """Whether it is decoded from sRGB."""
        return ROLES[self.role].is_colour

    @property
    def turns_green(self) -> bool:
        """Whether green is turned over, so that it points up for whoever reads it."""
        return ROLES[self.role].is_signed and self.green == "down"
