"""Modules: functions from a surface point and values to results, for other programs to call, in any dialect."""

import re
from collections.abc import Callable, Collection, Hashable, Mapping, Sequence
from dataclasses import dataclass, field, replace

from velvet_moth.core.language.dialects import Dialect
from velvet_moth.core.language.expr import Expr, Function
from velvet_moth.core.language.inputs import SURFACE_INPUTS, SurfaceInput
from velvet_moth.core.language.interpreters.text.body import MARK, Body, Written, written
from velvet_moth.core.language.interpreters.text.entry import Entry, entry_body, entry_of, entry_text
from velvet_moth.core.language.interpreters.text.layout import Places, SamplerSlot
from velvet_moth.core.language.interpreters.text.spelling import unwrapped
from velvet_moth.core.language.types import BOOL, Type


@dataclass(frozen=True)
class ValueMember:
    """A value from outside as a member of the structure of values; ``offset`` is its place in bytes."""

    key: Hashable
    name: str
    type: Type
    offset: int


@dataclass(frozen=True)
class Switch:
    """A yes or no that is settled where the text is built, by the ``name`` it has there; ``value`` is the default."""

    key: Hashable
    name: str
    value: bool


@dataclass(frozen=True)
class Computed:
    """One function of a module: its ``name``, the structure it gives, and what that holds.

    It takes a structure of what is known at a point, which is called ``point`` and holds what is read.
    """

    name: str
    result: str
    point: str
    members: Mapping[str, Expr]


@dataclass(frozen=True)
class Module:
    """The text of a module, and what it takes: the values, the textures, and by function the inputs of its point.

    ``lines`` are the expressions that stand in lines of their own, by the number of the line from 1. ``per_draw`` are the inputs of
    an ``entry`` point that are the same for a draw, in the order of their structure.
    """

    text: str
    values: tuple[ValueMember, ...]
    samplers: tuple[SamplerSlot, ...]
    inputs: Mapping[str, tuple[SurfaceInput, ...]]
    lines: Mapping[int, Expr] = field(default_factory=dict)
    switches: tuple[Switch, ...] = ()
    entry: Entry | None = None
    per_draw: tuple[ValueMember, ...] = ()


class _NamedPlaces(Places):
    """Values are members of a structure, by names of ours; a yes or no is a switch, whose name begins with a ``prefix``."""

    def __init__(
        self,
        dialect: Dialect,
        called: Callable[[Hashable], str],
        same: Mapping[Hashable, Hashable] | None,
        prefix: str,
    ) -> None:
        super().__init__(same, dialect)
        self.called = called
        self.prefix = prefix
        self.names: dict[Hashable, tuple[str, Type]] = {}
        self.switches: dict[Hashable, str] = {}
        self._taken: dict[str, int] = {}

    def value(self, expr: Expr) -> str:
        """The member or switch that holds a value from outside."""
        key = expr.attributes[0]
        if expr.type is BOOL:
            if key not in self.switches:
                self.switches[key] = self.dialect.switch_name(f"{self.prefix}{self._name(key)}")
            return self.switches[key]
        if key not in self.names:
            self.names[key] = (self._name(key), expr.type)
        return f"values.{self.names[key][0]}"

    def _name(self, key: Hashable) -> str:
        stem = self.called(key)
        number = self._taken[stem] = self._taken.get(stem, 0) + 1
        return stem if number == 1 else f"{stem}_{number}"


def _of_globals(declared: SurfaceInput) -> str:
    return f"at_{declared.name}"


def _gathered(bodies: Sequence[Body], places: Places) -> dict[Function, Written]:
    """Every function that some statements call, each before its callers."""
    found: dict[Function, Written] = {}
    todo = [(f, False) for body in reversed(bodies) for f in reversed([*body.functions])]
    while todo:
        function, is_ready = todo.pop()
        if is_ready:
            found[function] = found.pop(function)
        elif function not in found:
            found[function] = written(function, places, _of_globals)
            todo.append((function, True))
            todo.extend((f, False) for f in reversed(found[function].body.functions) if f not in found)
    return found


def _reached(body: Body, functions: Mapping[Function, Written]) -> list[str]:
    """The inputs that statements read, and the functions they call."""
    names, todo, seen = dict.fromkeys(body.inputs), [*body.functions], set()
    while todo:
        function = todo.pop()
        if function not in seen:
            seen.add(function)
            names.update(dict.fromkeys(functions[function].body.inputs))
            todo.extend(functions[function].body.functions)
    return sorted(names)


def _packed(names: Mapping[Hashable, tuple[str, Type]]) -> tuple[ValueMember, ...]:
    """In an order in which the usual layouts of constants agree: fours, threes each with a number after it, twos, numbers."""
    by_width: dict[int, list[tuple[Hashable, str, Type]]] = {1: [], 2: [], 3: [], 4: []}
    for key, (name, type_) in names.items():
        by_width[type_.width].append((key, name, type_))
    order = [*by_width[4]]
    for three in by_width[3]:
        order += [three, *by_width[1][:1]]
        del by_width[1][:1]
    order += [*by_width[2], *by_width[1]]
    members, at = [], 0
    for key, name, type_ in order:
        aligned = {1: 4, 2: 8, 3: 16, 4: 16}[type_.width]
        at = (at + aligned - 1) // aligned * aligned
        members.append(ValueMember(key, name, type_, at))
        at += 4 * type_.width
    return tuple(members)


# What begins like this is seen from everywhere in a text: functions of nodes, what is known at the point, what an entry is given
# and makes.
_SEEN = r"(?:fn_|at_|given_|target_)\w+"
_OF_ENTRIES = ("constants", "per_draw", "PerDraw", "ValuesBlock", "PerDrawBlock", "Targets", "pixel_shader")
# The name of a function of one line, of ours or of a dialect.
_OWN_FUNCTION = re.compile(r"^(?:fn )?(?:\w+ )?(\w+)\(", re.MULTILINE)


def write_module(
    dialect: Dialect,
    functions: Sequence[Computed],
    called: Callable[[Hashable], str],
    names: Mapping[Expr, str] | None = None,
    head: Callable[[Module], Sequence[str]] = lambda module: (),
    *,
    prefix: str = "",
    same: Mapping[Hashable, Hashable] | None = None,
    is_on: Callable[[Hashable], bool] = lambda key: False,
    reduced: Collection[Expr] = frozenset(),
    has_entry: bool = False,
) -> Module:
    """A module of functions in a dialect; everything that other texts could see begins with a ``prefix``.

    ``called`` names a value from outside by its key, in words of the catalogue; names that come twice are numbered. ``names`` are the
    catalogue's names of the nodes behind expressions. ``same`` gives for keys of textures another one that holds the same texture.
    ``head`` gives lines of words for the beginning, once the rest is known. ``is_on`` gives what a switch is by default.
    ``reduced`` are the expressions that a device may hold with fewer bits. With an entry point, for the first function,
    OperationRefused where that gives more than targets hold.
    """
    places = _NamedPlaces(dialect, called, same, prefix)
    mains, marked = [], list[Expr]()
    for computed in functions:
        body = Body(places, _of_globals, names or {}, marked=marked, reduced=reduced)
        mains.append((computed, body, body.write(list(computed.members.values()))))
    own = _gathered([body for _, body, _ in mains], places)
    values = _packed(places.names)
    switches = tuple(Switch(key, name, is_on(key)) for key, name in places.switches.items())
    reads = {computed.name: _reached(body, own) for computed, body, _ in mains}
    inputs = {key: tuple(SURFACE_INPUTS[name] for name in found) for key, found in reads.items()}
    first = functions[0]
    given, kinds = inputs[first.name], {key: e.type for key, e in first.members.items()}
    entry_name = dialect.entry_name or f"{prefix}pixel_shader"
    entry = entry_of(entry_name, given, kinds, prefix) if has_entry else None
    per_draw = _packed({one.name: (one.name, one.type) for one in entry.per_draw}) if entry else ()
    worked_out = entry_body(entry, given, places) if entry else None
    every = (
        [body for _, body, _ in mains] + [one.body for one in own.values()] + ([worked_out[0]] if worked_out else [])
    )
    samplers = tuple(dict.fromkeys(slot for body in every for slot in body.samplers))
    helpers = list(dict.fromkeys(text for body in every for text in body.helpers))
    texts = [one.text for one in own.values()]
    main = [_function(dialect, *one, inputs[one[0].name], bool(values)) for one in mains]
    if entry and worked_out:
        blocks = {**({"constants": "Values"} if values else {}), **({"per_draw": "PerDraw"} if per_draw else {})}
        called_so = (first.name, first.point, first.result)
        main.append(entry_text(dialect, entry, worked_out, given, called_so, kinds, blocks))
    whole = "\n".join([*helpers, *texts, *main])
    parts = [
        *(
            dialect.switch.format(name=one.name, number=number, value="true" if one.value else "false")
            for number, one in enumerate(switches)
        ),
        *_structures(dialect, functions, inputs, {"Values": values, "PerDraw": per_draw}),
        *(dialect.texture.format(name=slot.name, number=number) for number, slot in enumerate(samplers)),
        *(
            dialect.private.format(type=dialect.types[SURFACE_INPUTS[name].type], name=f"at_{name}")
            for name in sorted({name for found in reads.values() for name in found})
        ),
        *(text for name, text in dialect.further.items() if name in whole and re.search(rf"\b{name}\b", whole)),
        *helpers,
        *texts,
        *main,
    ]
    text = "\n".join([*parts, ""])
    if prefix:
        seen = {found for part in [*helpers, *dialect.further.values()] for found in _OWN_FUNCTION.findall(part)}
        seen |= {name for slot in samplers for name in (slot.name, f"{slot.name}_sampler")}
        seen |= {
            "Values",
            *(_OF_ENTRIES if entry else ()),
            *(name for one in functions for name in (one.name, one.point, one.result)),
        }
        text = re.sub(rf"\b(?:{_SEEN}|{'|'.join(sorted(seen))})\b", rf"{prefix}\g<0>", text)
        samplers = tuple(replace(slot, name=f"{prefix}{slot.name}") for slot in samplers)
    module = Module("", values, samplers, inputs, switches=switches, entry=entry, per_draw=per_draw)
    before = [*dialect.before, *(f"// {line}".rstrip() for line in head(module)), ""]
    lines, held = "\n".join([*before, text]).split("\n"), dict[int, Expr]()
    for at, line in enumerate(lines):
        plain, _, number = line.partition(MARK)
        if number:
            lines[at], held[at + 1] = plain, marked[int(number)]
    return replace(module, text="\n".join(lines), lines=held)


def _structures(
    dialect: Dialect,
    functions: Sequence[Computed],
    inputs: Mapping[str, Sequence[SurfaceInput]],
    constants: Mapping[str, Sequence[ValueMember]],
) -> list[str]:
    """Each point and each set of constants that is no empty one, and the results."""

    def structure(name: str, members: Mapping[str, Type]) -> str:
        lines = (
            f"  {dialect.member.format(type=dialect.types[kind], name=member)}" for member, kind in members.items()
        )
        return dialect.structure.format(name=name, members="\n".join(lines))

    found: dict[str, str] = {}
    for computed in functions:
        if inputs[computed.name]:
            members = {declared.name: declared.type for declared in inputs[computed.name]}
            found[computed.point] = structure(computed.point, members)
    for name, values in constants.items():
        if values:
            found[name] = structure(name, {member.name: member.type for member in values})
    for computed in functions:
        found[computed.result] = structure(computed.result, {key: e.type for key, e in computed.members.items()})
    return list(found.values())


def _function(
    dialect: Dialect,
    computed: Computed,
    body: Body,
    results: Sequence[str],
    inputs: Sequence[SurfaceInput],
    has_values: bool,
) -> str:
    parameters = []
    if inputs:
        parameters.append(dialect.parameter.format(type=computed.point, name="at"))
    if has_values:
        parameters.append(dialect.parameter.format(type="Values", name="values"))
    head = dialect.function.format(type=computed.result, name=computed.name, parameters=", ".join(parameters))
    lines = [f"at_{declared.name} = at.{declared.name};" for declared in inputs]
    lines += body.lines
    lines.append(dialect.unset.format(type=computed.result, name="found"))
    lines += [f"found.{key} = {unwrapped(text)};" for key, text in zip(computed.members, results, strict=True)]
    lines.append("return found;")
    return f"{head} {{\n" + "".join(f"  {line}\n" for line in lines) + "}"
