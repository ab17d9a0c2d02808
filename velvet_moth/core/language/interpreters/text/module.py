"""Modules: functions from a surface point and values to results, for other programs to call, in any dialect."""

import re
from collections.abc import Callable, Hashable, Mapping, Sequence
from dataclasses import dataclass, field, replace

from velvet_moth.core.language.dialects import Dialect
from velvet_moth.core.language.expr import Expr, Function
from velvet_moth.core.language.inputs import SURFACE_INPUTS, SurfaceInput
from velvet_moth.core.language.interpreters.text.body import MARK, Body, Written, written
from velvet_moth.core.language.interpreters.text.layout import Places, SamplerSlot
from velvet_moth.core.language.interpreters.text.spelling import unwrapped
from velvet_moth.core.language.types import Type


@dataclass(frozen=True)
class ValueMember:
    """A value from outside as a member of the structure of values; ``offset`` is its place in bytes."""

    key: Hashable
    name: str
    type: Type
    offset: int


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

    ``lines`` are the expressions that stand in lines of their own, by the number of the line from 1.
    """

    text: str
    values: tuple[ValueMember, ...]
    samplers: tuple[SamplerSlot, ...]
    inputs: Mapping[str, tuple[SurfaceInput, ...]]
    lines: Mapping[int, Expr] = field(default_factory=dict)


class _NamedPlaces(Places):
    """Values are members of a structure, by names of ours."""

    def __init__(
        self, dialect: Dialect, called: Callable[[Hashable], str], same: Mapping[Hashable, Hashable] | None
    ) -> None:
        super().__init__(same, dialect)
        self.called = called
        self.names: dict[Hashable, tuple[str, Type]] = {}
        self._taken: dict[str, int] = {}

    def value(self, expr: Expr) -> str:
        """The member that holds a value from outside."""
        key = expr.attributes[0]
        if key not in self.names:
            stem = self.called(key)
            number = self._taken[stem] = self._taken.get(stem, 0) + 1
            self.names[key] = (stem if number == 1 else f"{stem}_{number}", expr.type)
        return f"values.{self.names[key][0]}"


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


# What begins like this is seen from everywhere in a text: functions of nodes, and what is known at the point.
_SEEN = r"(?:fn_|at_)\w+"
# The name of a function of one line, of ours or of a dialect.
_OWN_FUNCTION = re.compile(r"^(?:fn )?(?:\w+ )?(\w+)\(", re.MULTILINE)


def write_module(
    dialect: Dialect,
    functions: Sequence[Computed],
    called: Callable[[Hashable], str],
    names: Mapping[Expr, str] | None = None,
    head: Callable[[Module], Sequence[str]] = lambda module: (),
    prefix: str = "",
    same: Mapping[Hashable, Hashable] | None = None,
) -> Module:
    """A module of functions in a dialect; everything that other texts could see begins with a ``prefix``.

    ``called`` names a value from outside by its key, in words of the catalogue; names that come twice are numbered. ``names`` are the
    catalogue's names of the nodes behind expressions. ``same`` gives for keys of textures another one that holds the same texture. ``head`` gives lines of words for the beginning, once the rest is known.
    """
    places = _NamedPlaces(dialect, called, same)
    mains, marked = [], list[Expr]()
    for computed in functions:
        body = Body(places, _of_globals, names or {}, marked=marked)
        mains.append((computed, body, body.write(list(computed.members.values()))))
    bodies = [body for _, body, _ in mains]
    own = _gathered(bodies, places)
    values = _packed(places.names)
    every = [*bodies, *(one.body for one in own.values())]
    samplers = tuple(dict.fromkeys(slot for body in every for slot in body.samplers))
    helpers = list(dict.fromkeys(text for body in every for text in body.helpers))
    reads = {computed.name: _reached(body, own) for computed, body, _ in mains}
    inputs = {key: tuple(SURFACE_INPUTS[name] for name in found) for key, found in reads.items()}
    texts = [one.text for one in own.values()]
    main = [_function(dialect, *one, inputs[one[0].name], bool(values)) for one in mains]
    whole = "\n".join([*helpers, *texts, *main])
    parts = [
        *_structures(dialect, functions, inputs, values),
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
        seen |= {"Values", *(name for one in functions for name in (one.name, one.point, one.result))}
        text = re.sub(rf"\b(?:{_SEEN}|{'|'.join(sorted(seen))})\b", rf"{prefix}\g<0>", text)
        samplers = tuple(replace(slot, name=f"{prefix}{slot.name}") for slot in samplers)
    module = Module("", values, samplers, inputs)
    before = [*dialect.before, *(f"// {line}".rstrip() for line in head(module)), ""]
    lines, held = "\n".join([*before, text]).split("\n"), dict[int, Expr]()
    for at, line in enumerate(lines):
        plain, _, number = line.partition(MARK)
        if number:
            lines[at], held[at + 1] = plain, marked[int(number)]
    return Module("\n".join(lines), values, samplers, inputs, held)


def _structures(
    dialect: Dialect,
    functions: Sequence[Computed],
    inputs: Mapping[str, Sequence[SurfaceInput]],
    values: Sequence[ValueMember],
) -> list[str]:
    """Each point that is no empty one, the values, and the results."""

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
    if values:
        found["Values"] = structure("Values", {member.name: member.type for member in values})
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
