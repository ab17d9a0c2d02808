"""The rule of placing: what becomes of a throw, as small curves. A document of its own, which graphs name."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Annotated, Any

from pydantic import TypeAdapter

from velvet_moth.core.base.errors import FileRefused, OperationRefused
from velvet_moth.core.base.points import Axis
from velvet_moth.core.base.records import Mended, OneOf, Text, read
from velvet_moth.core.throwing.curve import RuleCurve, checked_curve

FORMAT, VERSION = "velvet-moth-rule", 1
LONGEST_NAME = 80


@dataclass(frozen=True)
class RulePart:
    """One part of every rule: its name, what it does, the two sides of its curve, and the curve it has at first.

    The heights of a ``fixed`` part are given, and so is the number of its points: only their places are set.
    """

    name: str
    words: str
    across: Axis
    up: Axis
    first: RuleCurve
    fixed: tuple[float, ...] = ()


_STRENGTH = Axis("Strength", "", 0.0, 1.0)
_THROWN = Axis("Distance thrown", "m", 0.0, 100.0)
_SIZE = Axis("Size", "m", 0.01, 20.0)
_WALL = Axis("Distance to a wall", "m", 0.0, 20.0)
_SLANT = Axis("Angle of the throw from straight on", "°", 0.0, 90.0)

PARTS: Mapping[str, RulePart] = {
    "size": RulePart(
        "Size",
        "How large a splash becomes, by the strength of the throw.",
        _STRENGTH,
        _SIZE,
        RuleCurve(((0.0, 0.12), (1.0, 0.7))),
    ),
    "distance": RulePart(
        "Far throws",
        "A factor on the size, by how far it was thrown.",
        _THROWN,
        Axis("Factor", "", 0.0, 10.0),
        RuleCurve(((0.0, 0.8), (2.0, 1.0), (8.0, 1.4))),
    ),
    "variation": RulePart(
        "Chance in size",
        "By which share the size differs from throw to throw.",
        _STRENGTH,
        Axis("Share", "", 0.0, 0.9),
        RuleCurve(((0.0, 0.25), (1.0, 0.15))),
    ),
    "tilt": RulePart(
        "Tilt at a wall",
        "How far a splash stands up towards a wall that is near: 0 lies flat, 90 stands against it.",
        _WALL,
        Axis("Tilt", "°", 0.0, 90.0),
        RuleCurve(((0.04, 90.0), (0.5, 0.0))),
    ),
    "reach": RulePart(
        "Reach",
        "How far around the hit surfaces get something of it, if nothing is in its way.",
        _STRENGTH,
        Axis("Reach", "m", 0.01, 20.0),
        RuleCurve(((0.0, 0.1), (1.0, 0.6))),
    ),
    "pieces": RulePart(
        "Pieces",
        "The size of what another surface gets when something breaks the splash, by how far that is.",
        Axis("Distance to the surface, as a share of the reach", "", 0.0, 1.0),
        Axis("Share of the size", "", 0.0, 1.0),
        RuleCurve(((0.0, 0.8), (1.0, 0.3))),
    ),
    "stretch": RulePart(
        "Stretch",
        "How many times as long as wide it becomes, by how slantwise it hits.",
        _SLANT,
        Axis("Length by width", "", 1.0, 8.0),
        RuleCurve(((20.0, 1.0), (80.0, 2.6))),
    ),
    "roll": RulePart(
        "Roll by chance",
        "By how much it is turned by chance, to either side.",
        _SLANT,
        Axis("Roll", "°", 0.0, 180.0),
        RuleCurve(((10.0, 180.0), (60.0, 12.0))),
    ),
    "number": RulePart(
        "Number",
        "Which picture it gets, by chance; fractions are left off.",
        Axis("Chance", "", 0.0, 1.0),
        Axis("Number", "", 0.0, 4096.0),
        RuleCurve(((0.0, 1.0), (1.0, 4.999))),
    ),
    "fade": RulePart(
        "Fade",
        "At which angle between a face and the splash it begins to fade, and at which it is gone.",
        Axis("Angle", "°", 0.0, 90.0),
        Axis("Share", "", 0.0, 1.0),
        RuleCurve(((60.0, 1.0), (75.0, 0.0))),
        fixed=(1.0, 0.0),
    ),
}
PartKey = Annotated[Text, OneOf({key: part.name for key, part in PARTS.items()})]


@dataclass(frozen=True)
class PlacingRule:
    """A name, and the curve of every part that differs from the one it has at first."""

    name: Text
    curves: Mapping[PartKey, RuleCurve] = field(default_factory=dict)

    def curve(self, part: str) -> RuleCurve:
        """The curve of a part."""
        return self.curves.get(part, PARTS[part].first)

    def at(self, part: str, x: float) -> float:
        """What a part makes of a number."""
        return self.curve(part).at(x)

    def with_curve(self, part: str, curve: RuleCurve | None) -> "PlacingRule":
        """The rule with another curve of a part; None for the one it has at first. OperationRefused where it does not fit."""
        others = {key: own for key, own in self.curves.items() if key != part}
        if part not in PARTS:
            raise OperationRefused(
                f"A rule has no part {part[:40]!r}.", self.name, f"Choose one of {', '.join(PARTS)}."
            )
        kept = curve and checked_part(part, curve)
        return replace(self, curves=others if kept is None or kept == PARTS[part].first else {**others, part: kept})


def checked_part(key: str, curve: RuleCurve) -> RuleCurve:
    """The curve of a part; OperationRefused where it does not fit."""
    part = PARTS[key]
    checked_curve(curve, part.across, part.up, part.name)
    if part.fixed and tuple(y for _, y in curve.points) != part.fixed:
        raise OperationRefused(
            f"The points of {part.name} have the heights {', '.join(f'{y:g}' for y in part.fixed)}.",
            part.name,
            "Move their places alone.",
        )
    return curve


def checked_rule(rule: PlacingRule) -> PlacingRule:
    """The rule with a clean name; OperationRefused where a part does not fit."""
    name = " ".join(rule.name.split())
    if not name or len(name) > LONGEST_NAME or not name.isprintable():
        raise OperationRefused(f"A rule needs a name of 1 to {LONGEST_NAME} letters.", "rule", "Type another one.")
    made = PlacingRule(name)
    for part, curve in rule.curves.items():
        made = made.with_curve(part, curve)
    return made


_RULE = TypeAdapter(PlacingRule)


def rule_to_json(rule: PlacingRule) -> dict[str, Any]:
    """The rule as plain data, whole: every part with its curve."""
    whole = {part: rule.curve(part) for part in PARTS}
    body: dict[str, Any] = _RULE.dump_python(replace(rule, curves=whole), mode="json")
    return {"format": FORMAT, "version": VERSION, **body}


def rule_from_json(data: Any, where: str, mended: Mended | None = None) -> PlacingRule:
    """The rule in plain data; FileRefused with a sentence where it is none. With ``mended`` parts that do not fit are left out."""
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise FileRefused("This is no rule of placing.", where, "Choose a file that was exported as one.")
    if data.get("version") != VERSION:
        raise FileRefused("This rule is of a newer version.", where, "Update the program.")
    body = {key: value for key, value in data.items() if key not in ("format", "version")}
    try:
        return checked_rule(read(_RULE, body, where, mended))
    except OperationRefused as error:
        raise FileRefused(error.what, f"{where}: {error.where}", error.mend) from error


FIRST_RULE = PlacingRule("As first thrown")
