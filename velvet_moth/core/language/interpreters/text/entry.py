"""Entry points for pixels around a function of a module: from what vertices give and what is the same for a draw to targets."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.language.dialects.base import Dialect, EntryText
from velvet_moth.core.language.expr import Expr, inputs_of
from velvet_moth.core.language.inputs import SURFACE_INPUTS, SurfaceInput, surface
from velvet_moth.core.language.interpreters.text.body import Body
from velvet_moth.core.language.interpreters.text.layout import Layout, Places
from velvet_moth.core.language.interval import Interval
from velvet_moth.core.language.primitives import combine, length, normalise
from velvet_moth.core.language.types import NUMBER, VEC2, Type

# So many targets of four numbers every device has that has more than one.
MOST_TARGETS = 8
_TO_EYE = surface("camera_position") - surface("moved_position")
# What is no longer right once it has been interpolated between vertices, or follows from something else.
_DERIVED: Mapping[str, Expr] = {
    **{name: normalise(surface(name)) for name in ("normal", "moved_normal", "object_normal")},
    "tangent": combine(normalise(surface("tangent").xyz), surface("tangent").w),
    "view_direction": normalise(_TO_EYE),
    "camera_distance": length(_TO_EYE),
}
_OF_THE_SCREEN = ("screen_pixel", "screen_position")
_OF_PIXELS = ("is_front", *_OF_THE_SCREEN)
# No surface asks for it; what is asked about the screen follows from it.
SCREEN_SIZE = SurfaceInput(
    "screen_size", VEC2, Interval(1.0, 16384.0), "screen_size", is_per_draw=True, words="pixels across and up"
)


@dataclass(frozen=True)
class Entry:
    """An entry point: what vertices give, by location; what is the same for a draw; and which part of a target holds each result.

    All names that the text has for them begin with the ``prefix``.
    """

    name: str
    given: tuple[SurfaceInput, ...]
    per_draw: tuple[SurfaceInput, ...]
    targets: tuple[Mapping[str, str], ...]
    prefix: str = ""

    def given_name(self, declared: SurfaceInput) -> str:
        """What the text calls something that vertices give."""
        return f"{self.prefix}given_{declared.name}"


def entry_of(name: str, inputs: Sequence[SurfaceInput], members: Mapping[str, Type], prefix: str) -> Entry:
    """The entry point for a function that is given some inputs and gives some members; OperationRefused where those are too many."""
    read = inputs_of([_DERIVED.get(one.name, one.expr) for one in inputs])
    declared = [SURFACE_INPUTS[one] for one in sorted(read) if one not in _OF_PIXELS]
    if not read.isdisjoint(_OF_THE_SCREEN):
        declared.append(SCREEN_SIZE)
    layout = Layout()
    targets: dict[int, dict[str, str]] = {}
    for key, kind in members.items():
        slot = layout.place(key, kind.width)
        targets.setdefault(slot.offset // 4, {})[key] = "xyzw"[slot.offset % 4 : slot.offset % 4 + kind.width]
    if len(targets) > MOST_TARGETS:
        what = f"The surface gives more than the {MOST_TARGETS * 4} numbers that {MOST_TARGETS} targets hold."
        raise OperationRefused(what, "entry point", "Export the functions alone, or unwire channels that are not used.")
    return Entry(
        name,
        tuple(one for one in declared if not one.is_per_draw),
        tuple(one for one in declared if one.is_per_draw),
        tuple(targets[number] for number in sorted(targets)),
        prefix,
    )


def entry_body(entry: Entry, inputs: Sequence[SurfaceInput], places: Places) -> tuple[Body, list[str]]:
    """The statements that work out each input from what is given, and the texts of the inputs."""
    body = Body(places, lambda declared: f"given_{declared.name}", {})
    dialect = places.dialect
    size = f"per_draw.{SCREEN_SIZE.name}"
    place = dialect.place.format(size=size)
    own = {
        "is_front": dialect.chosen(1, dialect.front, "1.0", "0.0"),
        "screen_pixel": f"floor({place})",
        "screen_position": f"{place} / {size}",
        **{one.name: f"per_draw.{one.name}" for one in entry.per_draw},
    }
    wanted = [_DERIVED.get(one.name, one.expr) for one in inputs]
    for name in sorted(inputs_of(wanted) & own.keys()):
        kind = dialect.types[SURFACE_INPUTS[name].type]
        body.lines.append(dialect.local.format(type=kind, name=f"given_{name}", value=own[name]))
    return body, body.write(wanted)


def entry_text(
    dialect: Dialect,
    entry: Entry,
    worked_out: tuple[Body, Sequence[str]],
    inputs: Sequence[SurfaceInput],
    called: tuple[str, str, str],
    members: Mapping[str, Type],
    blocks: Mapping[str, str],
) -> str:
    """The text of an entry point; ``called`` are the function, its point and its result, ``blocks`` the structures by constant."""
    function, point, result = called
    body, texts = worked_out
    lines, arguments = [*body.lines], []
    if inputs:
        lines.append(dialect.unset.format(type=point, name="at"))
        lines += [f"at.{one.name} = {text};" for one, text in zip(inputs, texts, strict=True)]
        arguments.append("at")
    if "constants" in blocks:
        arguments.append("constants")
    value = f"{function}({', '.join(arguments)})"
    lines.append(dialect.local.format(type=result, name="found", value=value))
    four = dialect.types[max(dialect.types, key=lambda kind: kind.width)]
    for number, target in enumerate(entry.targets):
        parts = {
            letter: f"found.{key}" if members[key] is NUMBER else f"found.{key}.{'xyzw'[at]}"
            for key, letters in target.items()
            for at, letter in enumerate(letters)
        }
        lines.append(f"target_{number} = {four}({', '.join(parts.get(letter, '0.0') for letter in 'xyzw')});")
    given = {f"given_{one.name}": dialect.types[one.type] for one in entry.given}
    return dialect.entry(EntryText(given, blocks, len(entry.targets), lines))
