"""The statements of main and of functions: one named local a shared value, one function a traced node."""

from collections import Counter
from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from itertools import chain

from velvet_moth.core.base.plain_names import identifier, plain_words
from velvet_moth.core.language.dialects import GLSL_ES, Dialect
from velvet_moth.core.language.expr import Expr, Function, Primitive, Structural, topological_order
from velvet_moth.core.language.inputs import SURFACE_INPUTS, SurfaceInput
from velvet_moth.core.language.interpreters.text.layout import Places, SamplerSlot
from velvet_moth.core.language.interpreters.text.spelling import constant_text, spelling_of, unwrapped
from velvet_moth.core.language.types import BOOL, FLOATS

# How an input is written: as the pixel or the vertex shader has it.
InputText = Callable[[SurfaceInput], str]


# Before the number of what a line holds, at its end; in no text that leaves.
MARK = "\x02"


@dataclass
class Body:
    """Statements of one function or of main, and what they rely on."""

    places: "Places"
    spelled: InputText
    names: Mapping[Expr, str]
    arguments: Sequence[str] = ()
    lines: list[str] = field(default_factory=list)
    texts: dict[Expr, str] = field(default_factory=dict)
    counts: dict[str, int] = field(default_factory=dict)
    helpers: dict[str, None] = field(default_factory=dict)
    functions: dict[Function, None] = field(default_factory=dict)
    inputs: dict[str, None] = field(default_factory=dict)
    samplers: dict[SamplerSlot, None] = field(default_factory=dict)
    # So many of the lines are all that ``early`` needs.
    first: int = 0
    # Where lines are followed to what they hold: expressions by the number that their line ends with.
    marked: list[Expr] | None = None
    # What may be held with fewer bits.
    reduced: Collection[Expr] = frozenset()

    def write(self, outputs: Sequence[Expr], early: Expr | None = None) -> list[str]:
        """Statements for all outputs; those of the one that is needed ``early`` come first."""
        order = topological_order(outputs) if early is None else topological_order([early, *outputs])
        last_early = order.index(early) if early is not None else -1
        uses = Counter(chain.from_iterable([e.args for e in order]))
        uses.update(outputs)
        texts, names, lines, dialect = self.texts, self.names, self.lines, self.places.dialect
        # An expression remembers how it is spelled for the stage, whose texts are written most often.
        is_kept = dialect is GLSL_ES
        for place, expr in enumerate(order):
            args = expr.args
            is_named = bool(args) and (uses[expr] > 1 or expr in names) and expr.type in _NAMED
            operator = expr.operator
            if isinstance(operator, Primitive):
                spelling = expr.spelling if is_kept else None
                if spelling is None:
                    spelling = spelling_of(expr, operator, dialect)
                    if is_kept:
                        expr.spelling = spelling
                if spelling.helper:
                    self.helpers[spelling.helper] = None
                pattern = spelling.outer if is_named else spelling.inner
                text = pattern % tuple([texts[args[i]] for i in spelling.order])
            elif operator is Structural.UNIFORM:
                text = self.places.value(expr)
            else:
                text = _STRUCTURAL[operator](self, expr, [texts[a] for a in args])
            if is_named:
                words = plain_words(names.get(expr, ""))
                name = self.local(words)
                pattern = dialect.reduced if dialect.reduced and expr in self.reduced else dialect.local
                line = pattern.format(type=dialect.types[expr.type], name=name, value=text)
                line = f"{line}  // {words}" if words else line
                if self.marked is not None:
                    line = f"{line}{MARK}{len(self.marked)}"
                    self.marked.append(expr)
                lines.append(line)
                text = name
            texts[expr] = text
            if place == last_early:
                self.first = len(lines)
        return [texts[o] for o in outputs]

    def local(self, words: str) -> str:
        """A name of its own; the prefix keeps it clear of GLSL's own words and of our functions."""
        stem = f"v_{identifier(words)}_" if words else "t"
        number = self.counts[stem] = self.counts.get(stem, 0) + 1
        return f"{stem}{number}"

    def function(self, function: Function) -> str:
        """The name of a function in the text, which is written with it."""
        self.functions[function] = None
        return f"fn_{function.name}"

    def bundle(self, function: Function, args: Sequence[str]) -> str:
        """Call a function of several results; its ``out`` locals share a stem that is returned."""
        stem, dialect = self.local(function.words), self.places.dialect
        for index, result in enumerate(function.results):
            self.lines.append(dialect.unset.format(type=dialect.types[result.type], name=f"{stem}_{index}"))
        outs = [dialect.out_argument.format(name=f"{stem}_{i}") for i in range(len(function.results))]
        self.lines.append(f"{self.function(function)}({', '.join([*args, *outs])});  // {plain_words(function.words)}")
        return stem

    def sampler(self, expr: Expr) -> str:
        """The name of a texture's sampler."""
        slot = self.places.sampler(expr)
        self.samplers[slot] = None
        return slot.name

    def input(self, name: str) -> str:
        """The text that reads a surface input."""
        self.inputs[name] = None
        text = self.spelled(SURFACE_INPUTS[name])
        return text if text.isidentifier() else f"at_{name}"


# What a local can hold; textures and bundles stand where they are used.
_NAMED = frozenset({*FLOATS, BOOL})


@dataclass(frozen=True)
class Written:
    """A function's text and what it relies on."""

    text: str
    body: Body


def _write_function(function: Function, places: Places, spelled: InputText) -> Written:
    # The prefix keeps arguments clear of the words GLSL reserves.
    names = [f"a_{name}" for name in function.argument_names]
    body, dialect = Body(places, spelled, {}, names), places.dialect
    results = body.write(function.results)
    parameters = [dialect.typed(a.type, name) for a, name in zip(function.arguments, names, strict=True)]
    own = f"fn_{function.name}"
    if len(results) == 1:
        kind = dialect.types[function.results[0].type]
        head = dialect.function.format(type=kind, name=own, parameters=", ".join(parameters))
        body.lines.append(f"return {unwrapped(results[0])};")
    else:
        for i, (result, text) in enumerate(zip(function.results, results, strict=True)):
            parameters.append(dialect.out_parameter.format(type=dialect.types[result.type], name=f"r{i}"))
            body.lines.append(f"{dialect.out_target.format(name=f'r{i}')} = {unwrapped(text)};")
        head = dialect.procedure.format(name=own, parameters=", ".join(parameters))
    text = f"// {plain_words(function.words)}\n{head} {{\n" + "".join(f"  {line}\n" for line in body.lines) + "}"
    return Written(text, body)


@lru_cache(maxsize=8192)
def _kept_function(function: Function, dialect: Dialect, spelled: InputText) -> Written:
    return _write_function(function, Places(dialect=dialect), spelled)


def written(function: Function, places: Places, spelled: InputText) -> Written:
    """A function's text, kept from before unless it reads a texture of this very graph (inside a motif)."""
    kept = _kept_function(function, places.dialect, spelled)
    return (
        kept if all(isinstance(s.key, str) for s in kept.body.samplers) else _write_function(function, places, spelled)
    )


def _constant(body: Body, expr: Expr, _: Sequence[str]) -> str:
    if expr.type is BOOL:
        return "true" if expr.attributes[0] else "false"
    return constant_text(body.places.dialect, expr.attributes)


def _call(body: Body, expr: Expr, args: Sequence[str]) -> str:
    function: Function = expr.attributes[0]
    handed = [body.places.dialect.handed(a.type, text) for a, text in zip(function.arguments, args, strict=True)]
    if len(function.results) > 1:
        return body.bundle(function, handed)
    return f"{body.function(function)}({', '.join(handed)})"


_STRUCTURAL: Mapping[Structural, Callable[[Body, Expr, Sequence[str]], str]] = {
    Structural.CONSTANT: _constant,
    Structural.INPUT: lambda body, expr, args: body.input(expr.attributes[0]),
    Structural.SAMPLER: lambda body, expr, args: body.sampler(expr),
    Structural.ARGUMENT: lambda body, expr, args: body.arguments[expr.attributes[0]],
    Structural.CALL: _call,
    Structural.RESULT: lambda body, expr, args: f"{args[0]}_{expr.attributes[0]}",
}


def clear_cache() -> None:
    """Drops the functions written before, for measuring."""
    _kept_function.cache_clear()
