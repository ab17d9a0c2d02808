"""GLSL ES 3.00: readable text with one named local per shared value and one function per traced node.

The fragment shader paints a picture; the vertex shader moves the form by the offset, where there is one.

No name in the text comes from the artist: names and comments are the catalogue's own.
"""

import re
from collections.abc import Callable, Hashable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any

import numpy as np

from velvet_moth.core.expr import Expr, Function, Primitive, Structural, in_order
from velvet_moth.core.interval import EVERYTHING, Interval, spanning
from velvet_moth.core.surroundings import SURFACE_INPUTS, SurfaceInput
from velvet_moth.core.types import BOOL, NUMBER, VEC2, VEC3, VEC4, Type


@dataclass(frozen=True)
class Slot:
    """Where a uniform value lives: ``width`` floats from ``offset`` in the array ``values`` (vec4s)."""

    key: Hashable
    offset: int
    width: int


@dataclass(frozen=True)
class SamplerSlot:
    """A texture unit: GLSL's ``name`` reads the texture bound to ``key`` with these wraps."""

    key: Hashable
    name: str
    wrap: tuple[str, str]


@dataclass(frozen=True)
class Shader:
    """Both shaders of a draw, complete, and the places of everything set from outside."""

    vertex: str
    fragment: str
    slots: tuple[Slot, ...]
    samplers: tuple[SamplerSlot, ...]

    @property
    def floats(self) -> int:
        """The length of the ``values`` array in floats."""
        used = max((s.offset + s.width for s in self.slots), default=0)
        return (used + 3) // 4 * 4


def number_text(value: float) -> str:
    """A float32 literal that reads back as the same float32."""
    text = np.format_float_positional(np.float32(value), unique=True, trim="0")
    if len(text) > 14:
        text = np.format_float_scientific(np.float32(value), unique=True, trim="0").replace("e+", "e")
    return text


class _Layout:
    """Packs uniform values into vec4s: vectors do not straddle two of them, numbers fill the gaps."""

    def __init__(self) -> None:
        self.slots: dict[Hashable, Slot] = {}
        self._gaps: list[tuple[int, int]] = []
        self._end = 0

    def place(self, key: Hashable, width: int) -> Slot:
        if key not in self.slots:
            gap = next((g for g in self._gaps if g[1] >= width and (width != 2 or g[0] % 2 == 0)), None)
            if gap is None:
                gap = (self._end, 4)
                self._end += 4
            else:
                self._gaps.remove(gap)
            if gap[1] > width:
                self._gaps.append((gap[0] + width, gap[1] - width))
            self.slots[key] = Slot(key, gap[0], width)
        return self.slots[key]


def _unwrapped(text: str) -> str:
    """Without the outer pair of parentheses, where it is one pair."""
    if not (text.startswith("(") and text.endswith(")")):
        return text
    depth = 0
    for index, letter in enumerate(text):
        depth += (letter == "(") - (letter == ")")
        if depth == 0 and index < len(text) - 1:
            return text
    return text[1:-1]


# The spelling of an operation, with a place for each argument's text, by primitive, types and attributes:
# as an argument of another, and as a whole statement without outer parentheses.
_spelled: dict[tuple[Any, ...], tuple[str, str]] = {}


def _spelling(expr: Expr, primitive: Primitive) -> tuple[str, str]:
    is_safe = primitive.plain is not None and _is_inside(expr, primitive)
    key = (primitive.name, is_safe, expr.attributes, *[a.type for a in expr.args])
    found = _spelled.get(key)
    if found is None:
        types = [a.type for a in expr.args]
        places = [f"{{{i}}}" for i in range(len(types))]
        spell = primitive.plain if is_safe and primitive.plain else primitive.glsl
        text = spell(types, places, expr.attributes)
        found = _spelled[key] = (text, _unwrapped(text))
    return found


# How far back a proof looks: guards stand close to what they guard.
_DEPTH = 6


def _quick_bound(expr: Expr, depth: int) -> Interval:
    """A range that holds whatever the values set from outside; looks only so far back."""
    if isinstance(expr.operator, Primitive):
        if depth == 0:
            return EVERYTHING
        return expr.operator.bound([_quick_bound(a, depth - 1) for a in expr.args], expr.attributes)
    if expr.operator is Structural.CONSTANT and expr.type is not BOOL:
        return spanning(expr.attributes)
    return SURFACE_INPUTS[expr.attributes[0]].bound if expr.operator is Structural.INPUT else EVERYTHING


def _is_inside(expr: Expr, primitive: Primitive) -> bool:
    """Whether every argument is proved to stay where the primitive's formula has a value."""
    for domain in primitive.domains:
        found = _quick_bound(expr.args[domain.argument], _DEPTH)
        is_out = found.low < domain.low or found.high > domain.high
        if is_out or (domain.excluded is not None and found.low <= domain.excluded <= found.high):
            return False
    return True


@dataclass
class _Body:
    """Statements of one function or of main, and what they rely on."""

    places: "_Places"
    spelled: "Spelling"
    names: Mapping[Expr, str]
    arguments: Sequence[str] = ()
    lines: list[str] = field(default_factory=list)
    texts: dict[Expr, str] = field(default_factory=dict)
    counts: dict[str, int] = field(default_factory=dict)
    helpers: dict[str, str] = field(default_factory=dict)
    functions: dict[Function, None] = field(default_factory=dict)
    inputs: dict[str, None] = field(default_factory=dict)
    samplers: dict[SamplerSlot, None] = field(default_factory=dict)

    def write(self, outputs: Sequence[Expr]) -> list[str]:
        order = in_order(outputs)
        uses: dict[Expr, int] = dict.fromkeys(order, 0)
        for expr in order:
            for a in expr.args:
                uses[a] += 1
        for expr in outputs:
            uses[expr] += 1
        texts, names = self.texts, self.names
        for expr in order:
            operator = expr.operator
            args = [texts[a] for a in expr.args]
            is_named = bool(args) and (uses[expr] > 1 or expr in names) and expr.type.base in ("float", "bool")
            if isinstance(operator, Primitive):
                if operator.helper:
                    self.helpers[operator.name] = operator.helper
                text = _spelling(expr, operator)[is_named].format(*args)
            else:
                text = _STRUCTURAL[operator](self, expr, args)
            if is_named:
                words = names.get(expr, "")
                name = self.local(words)
                self.lines.append(f"{expr.type.glsl} {name} = {text};" + (f"  // {words}" if words else ""))
                text = name
            texts[expr] = text
        return [texts[o] for o in outputs]

    def local(self, words: str) -> str:
        """A name of its own; the prefix keeps it clear of GLSL's own words and of our functions."""
        stem = f"v_{_stem(words)}_" if words else "t"
        number = self.counts[stem] = self.counts.get(stem, 0) + 1
        return f"{stem}{number}"

    def function(self, function: Function) -> str:
        self.functions[function] = None
        return f"fn_{function.name}"

    def bundle(self, function: Function, args: Sequence[str]) -> str:
        """Call a function of several results; its ``out`` locals share a stem that is returned."""
        stem = self.local(function.words)
        for index, result in enumerate(function.results):
            self.lines.append(f"{result.type.glsl} {stem}_{index};")
        outs = [f"{stem}_{i}" for i in range(len(function.results))]
        self.lines.append(f"{self.function(function)}({', '.join([*args, *outs])});  // {function.words}")
        return stem

    def sampler(self, expr: Expr) -> str:
        slot = self.places.sampler(expr)
        self.samplers[slot] = None
        return slot.name

    def uniform(self, expr: Expr) -> str:
        slot = self.places.layout.place(expr.attributes[0], expr.type.width)
        start = slot.offset % 4
        return f"values[{slot.offset // 4}].{'xyzw'[start : start + slot.width]}"

    def input(self, name: str) -> str:
        self.inputs[name] = None
        text = self.spelled(SURFACE_INPUTS[name])
        return text if text.isidentifier() else f"at_{name}"


@lru_cache(maxsize=4096)
def _stem(words: str) -> str:
    return "".join(c if c.isalnum() else "_" for c in words.lower())


class _Places:
    """Where values and textures lie: the same for both shaders of a draw."""

    def __init__(self) -> None:
        self.layout = _Layout()
        self.samplers: dict[tuple[Any, ...], SamplerSlot] = {}

    def sampler(self, expr: Expr) -> SamplerSlot:
        """The stage's own textures are called by their key, so that functions reading them can be kept."""
        key, wrap_u, wrap_v = expr.attributes[:3]
        name = f"texture_{key}" if isinstance(key, str) else f"texture_{len(self.samplers)}"
        return self.samplers.setdefault(expr.attributes, SamplerSlot(key, name, (wrap_u, wrap_v)))


Spelling = Callable[[SurfaceInput], str]


def in_pixels(declared: SurfaceInput) -> str:
    return declared.pixel


def in_vertices(declared: SurfaceInput) -> str:
    return declared.vertex


@dataclass(frozen=True)
class _Written:
    """A function's text and what it relies on."""

    text: str
    body: _Body


def _write_function(function: Function, places: _Places, spelled: Spelling) -> _Written:
    # The prefix keeps arguments clear of the words GLSL reserves.
    names = [f"a_{name}" for name in function.argument_names]
    body = _Body(places, spelled, {}, names)
    results = body.write(function.results)
    parameters = [f"{a.type.glsl} {name}" for a, name in zip(function.arguments, names, strict=True)]
    if len(results) == 1:
        head = f"{function.results[0].type.glsl} fn_{function.name}({', '.join(parameters)})"
        body.lines.append(f"return {_unwrapped(results[0])};")
    else:
        outs = [f"out {r.type.glsl} r{i}" for i, r in enumerate(function.results)]
        head = f"void fn_{function.name}({', '.join([*parameters, *outs])})"
        body.lines.extend(f"r{i} = {_unwrapped(text)};" for i, text in enumerate(results))
    text = f"// {function.words}\n{head} {{\n" + "".join(f"  {line}\n" for line in body.lines) + "}"
    return _Written(text, body)


@lru_cache(maxsize=4096)
def _kept_function(function: Function, spelled: Spelling) -> _Written:
    return _write_function(function, _Places(), spelled)


def _written(function: Function, places: _Places, spelled: Spelling) -> _Written:
    """A function's text, kept from before unless it reads a texture of this very graph (inside a motif)."""
    kept = _kept_function(function, spelled)
    return (
        kept if all(isinstance(s.key, str) for s in kept.body.samplers) else _write_function(function, places, spelled)
    )


class _Module:
    """One whole shader: main and every function it calls, each before its callers."""

    def __init__(self, places: _Places, spelled: Spelling, names: Mapping[Expr, str]) -> None:
        self.places, self.spelled = places, spelled
        self.main = _Body(places, spelled, names)

    def gather(self) -> None:
        """Collects the functions and what they rely on, once main is written."""
        written: dict[Function, _Written] = {}
        todo = [(f, False) for f in reversed(self.main.functions)]
        while todo:
            function, is_ready = todo.pop()
            if is_ready:
                written[function] = written.pop(function)
            elif function not in written:
                written[function] = _written(function, self.places, self.spelled)
                todo.append((function, True))
                todo.extend((f, False) for f in reversed(written[function].body.functions) if f not in written)
        bodies = [self.main, *(w.body for w in written.values())]
        self.texts = [w.text for w in written.values()]
        self.helpers = {name: text for b in bodies for name, text in b.helpers.items()}
        self.inputs = list(dict.fromkeys(name for b in bodies for name in b.inputs))
        self.samplers = list(dict.fromkeys(s for b in bodies for s in b.samplers))
        for slot in self.samplers:
            if isinstance(slot.key, str):
                self.places.samplers.setdefault((slot.key,), slot)

    def computed(self) -> list[tuple[str, Type, str]]:
        """Inputs that need a global of their own: name, type, text."""
        found = ((n, SURFACE_INPUTS[n].type, self.spelled(SURFACE_INPUTS[n])) for n in sorted(self.inputs))
        return [(f"at_{n}", type_, text) for n, type_, text in found if not text.isidentifier()]

    def globals(self, floats: int, fixed: str) -> list[str]:
        """Uniforms the shader reads (``fixed`` is text that stands in it besides), globals, helpers, functions."""
        needed = set(_WORD.findall(" ".join([fixed, *(self.spelled(SURFACE_INPUTS[n]) for n in self.inputs)])))
        lines = [f"uniform {kind} {name};" for kind, name in _DRAW_UNIFORMS if name in needed]
        lines += [f"uniform vec4 values[{floats // 4}];"] if floats else []
        lines += [f"uniform sampler2D {s.name};" for s in self.samplers]
        lines += [f"{type_.glsl} {name};" for name, type_, _ in self.computed()]
        return [*lines, *self.helpers.values(), *self.texts]


_WORD = re.compile(r"\w+")


def _constant(_: _Body, expr: Expr, __: Sequence[str]) -> str:
    if expr.type is BOOL:
        return "true" if expr.attributes[0] else "false"
    return constant_text(expr.attributes)


@lru_cache(maxsize=4096)
def constant_text(components: tuple[float, ...]) -> str:
    parts = [number_text(c) for c in components]
    return parts[0] if len(parts) == 1 else f"vec{len(parts)}({', '.join(parts)})"


def _call(body: _Body, expr: Expr, args: Sequence[str]) -> str:
    function: Function = expr.attributes[0]
    if len(function.results) > 1:
        return body.bundle(function, args)
    return f"{body.function(function)}({', '.join(args)})"


_STRUCTURAL: Mapping[Structural, Callable[[_Body, Expr, Sequence[str]], str]] = {
    Structural.CONSTANT: _constant,
    Structural.UNIFORM: lambda body, expr, args: body.uniform(expr),
    Structural.INPUT: lambda body, expr, args: body.input(expr.attributes[0]),
    Structural.SAMPLER: lambda body, expr, args: body.sampler(expr),
    Structural.ARGUMENT: lambda body, expr, args: body.arguments[expr.attributes[0]],
    Structural.CALL: _call,
    Structural.RESULT: lambda body, expr, args: f"{args[0]}_{expr.attributes[0]}",
}


_WIDEN: Mapping[Type, str] = {
    NUMBER: "vec4(vec3({0}), 1.0)",
    VEC2: "vec4({0}, 0.0, 1.0)",
    VEC3: "vec4({0}, 1.0)",
    VEC4: "{0}",
    BOOL: "vec4(vec3({0} ? 1.0 : 0.0), 1.0)",
}

VARYINGS = (
    ("vec3", "v_position", "rest_position"),
    ("vec3", "v_moved", "moved"),
    ("vec3", "v_object_position", "position"),
    ("vec3", "v_normal", "mat3(modelMatrix) * normal"),
    ("vec3", "v_object_normal", "normal"),
    ("vec4", "v_tangent", "vec4(mat3(modelMatrix) * tangent.xyz, tangent.w)"),
    ("vec2", "v_uv", "uv"),
    ("vec2", "v_second_uv", "second_uv"),
    ("vec4", "v_colour", "colour"),
)
ATTRIBUTES = (
    ("vec3", "position"),
    ("vec3", "normal"),
    ("vec4", "tangent"),
    ("vec2", "uv"),
    ("vec2", "second_uv"),
    ("vec4", "colour"),
)
_DRAW_UNIFORMS = (
    ("mat4", "modelMatrix"),
    ("mat4", "viewMatrix"),
    ("mat4", "projectionMatrix"),
    ("vec3", "camera_position"),
    ("vec2", "screen_size"),
    ("vec3", "form_low"),
    ("vec3", "form_high"),
    ("vec4", "instance_data"),
    ("float", "time"),
    ("vec3", "sun_direction"),
    ("vec3", "sun_colour"),
    ("float", "rig_turn"),
    ("float", "exposure"),
)
_HEAD = ["#version 300 es", "precision highp float;", "precision highp int;", "precision highp sampler2D;", ""]


def _vertex_text(module: _Module, offset: str, floats: int) -> str:
    fixed = "modelMatrix viewMatrix projectionMatrix"
    lines = [*_HEAD, *(f"in {kind} {name};" for kind, name in ATTRIBUTES)]
    lines += [f"out {kind} {name};" for kind, name, _ in VARYINGS]
    lines += ["vec3 rest_position;", *module.globals(floats, fixed), "", "void main() {"]
    lines += ["  rest_position = (modelMatrix * vec4(position, 1.0)).xyz;"]
    lines += [f"  {name} = {text};" for name, _, text in module.computed()]
    lines += [f"  {line}" for line in module.main.lines]
    lines += [f"  vec3 moved = rest_position{f' + {offset}' if offset else ''};"]
    lines += [f"  {name} = {text};" for _, name, text in VARYINGS]
    lines += ["  gl_Position = projectionMatrix * viewMatrix * vec4(moved, 1.0);", "}", ""]
    return "\n".join(lines)


def _fragment_text(module: _Module, picture: str, opacity: str, floats: int) -> str:
    needed = set(_WORD.findall(" ".join(SURFACE_INPUTS[n].pixel for n in module.inputs)))
    lines = [*_HEAD, *(f"in {kind} {name};" for kind, name, _ in VARYINGS if name in needed)]
    lines += [*module.globals(floats, ""), "out vec4 picture;", "", "void main() {"]
    lines += [f"  {name} = {text};" for name, _, text in module.computed()]
    lines += [f"  {line}" for line in module.main.lines]
    lines += [f"  if ({opacity} < {number_text(CUT_AT)}) discard;"] if opacity else []
    lines += [f"  picture = {picture};", "}", ""]
    return "\n".join(lines)


# A cut-out surface is not there where its opacity lies below this.
CUT_AT = 0.5


@lru_cache(maxsize=64)
def _emitted(output: Expr, names: tuple[tuple[Expr, str], ...], offset: Expr | None, opacity: Expr | None) -> Shader:
    places, called = _Places(), dict(names)
    vertices, pixels = _Module(places, in_vertices, called), _Module(places, in_pixels, called)
    moved = vertices.main.write([offset])[0] if offset is not None else ""
    painted = pixels.main.write([e for e in (output, opacity) if e is not None])
    vertices.gather()
    pixels.gather()
    picture = _WIDEN[output.type].format(_unwrapped(painted[0]))
    shader = Shader("", "", tuple(places.layout.slots.values()), tuple(places.samplers.values()))
    vertex = _vertex_text(vertices, moved, shader.floats if offset is not None else 0)
    fragment = _fragment_text(pixels, picture, painted[1] if opacity is not None else "", shader.floats)
    return Shader(vertex, fragment, shader.slots, shader.samplers)


def emit(
    output: Expr,
    names: Mapping[Expr, str] | None = None,
    offset: Expr | None = None,
    opacity: Expr | None = None,
) -> Shader:
    """The shaders that paint ``output`` (one to four components, or yes/no as white/black).

    ``names`` gives the catalogue's name of the node behind an expression, for locals and comments.
    ``offset`` (metres in the world, nothing that exists per pixel only) moves the form; where
    ``opacity`` is below one half nothing is painted.
    """
    return _emitted(output, tuple((names or {}).items()), offset, opacity)


def forget() -> None:
    """Drops what was emitted before, for measuring."""
    _emitted.cache_clear()
    _kept_function.cache_clear()
    _spelled.clear()
