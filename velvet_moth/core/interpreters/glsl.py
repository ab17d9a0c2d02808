"""GLSL ES 3.00: readable text with one named local per shared value and one function per traced node.

The fragment shader paints a picture; the vertex shader moves the form by the offset, where there is one.

No name in the text comes from the artist: names and comments are the catalogue's own.
"""

import re
from collections import Counter
from collections.abc import Callable, Hashable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any

import numpy as np

from velvet_moth.core.expr import Expr, Function, Primitive, Structural, in_order
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


@dataclass
class _Body:
    """Statements of one function or of main."""

    module: "_Module"
    names: Mapping[Expr, str]
    arguments: Sequence[str] = ()
    lines: list[str] = field(default_factory=list)
    texts: dict[Expr, str] = field(default_factory=dict)
    counts: Counter[str] = field(default_factory=Counter)

    def write(self, outputs: Sequence[Expr]) -> list[str]:
        order = in_order(outputs)
        uses = Counter(a for e in order for a in e.args)
        uses.update(outputs)
        for expr in order:
            text = self._text(expr)
            named = expr in self.names and expr.args
            if expr.type.base in ("float", "bool") and expr.args and (named or uses[expr] > 1):
                words = self.names.get(expr, "")
                name = self._local(words)
                comment = f"  // {words}" if words else ""
                self.lines.append(f"{expr.type.glsl} {name} = {_unwrapped(text)};{comment}")
                text = name
            self.texts[expr] = text
        return [self.texts[o] for o in outputs]

    def _local(self, words: str) -> str:
        stem = "".join(c if c.isalnum() else "_" for c in words.lower()) or "t"
        self.counts[stem] += 1
        # The prefix keeps locals clear of GLSL's own words and of our functions.
        return f"v_{stem}_{self.counts[stem]}" if words else f"t{self.counts[stem]}"

    def _text(self, expr: Expr) -> str:
        args = [self.texts[a] for a in expr.args]
        if isinstance(expr.operator, Primitive):
            if expr.operator.helper:
                self.module.helpers.setdefault(expr.operator.name, expr.operator.helper)
            return expr.operator.glsl([a.type for a in expr.args], args, expr.attributes)
        return _STRUCTURAL[expr.operator](self, expr, args)

    def bundle(self, function: Function, args: Sequence[str]) -> str:
        """Call a function of several results; its ``out`` locals share a stem that is returned."""
        stem = self._local(function.words)
        for index, result in enumerate(function.results):
            self.lines.append(f"{result.type.glsl} {stem}_{index};")
        outs = [f"{stem}_{i}" for i in range(len(function.results))]
        self.lines.append(f"{self.module.function(function)}({', '.join([*args, *outs])});  // {function.words}")
        return stem


class _Places:
    """Where values and textures lie: the same for both shaders of a draw."""

    def __init__(self) -> None:
        self.layout = _Layout()
        self.samplers: dict[tuple[Any, ...], SamplerSlot] = {}


class _Module:
    """What all bodies of one shader share: functions, helpers, uniforms, inputs."""

    def __init__(self, places: _Places, spelled: Callable[[SurfaceInput], str]) -> None:
        self.places = places
        self.spelled = spelled
        self.helpers: dict[str, str] = {}
        self.functions: dict[Function, tuple[str, str]] = {}
        self.names: Counter[str] = Counter()
        self.inputs: set[str] = set()
        self.samplers: set[SamplerSlot] = set()

    def function(self, function: Function) -> str:
        """The GLSL name of a function, written out at its first use."""
        if function not in self.functions:
            self.names[function.name] += 1
            number = self.names[function.name]
            # The prefix keeps clear of GLSL's own functions: a node may be called texture or mix.
            name = f"fn_{function.name}" if number == 1 else f"fn_{function.name}_{number}"
            self.functions[function] = (name, _function_text(self, function, name))
        return self.functions[function][0]

    def sampler(self, expr: Expr) -> str:
        key, wrap_u, wrap_v = expr.attributes[:3]
        known = self.places.samplers
        slot = known.setdefault(expr.attributes, SamplerSlot(key, f"texture_{len(known)}", (wrap_u, wrap_v)))
        self.samplers.add(slot)
        return slot.name

    def uniform(self, expr: Expr) -> str:
        slot = self.places.layout.place(expr.attributes[0], expr.type.width)
        start = slot.offset % 4
        return f"values[{slot.offset // 4}].{'xyzw'[start : start + slot.width]}"

    def input(self, name: str) -> str:
        self.inputs.add(name)
        text = self.spelled(SURFACE_INPUTS[name])
        return text if text.isidentifier() else f"at_{name}"

    def computed(self) -> list[tuple[str, Type, str]]:
        """Inputs that need a global of their own: name, type, text."""
        found = ((n, SURFACE_INPUTS[n].type, self.spelled(SURFACE_INPUTS[n])) for n in sorted(self.inputs))
        return [(f"at_{n}", type_, text) for n, type_, text in found if not text.isidentifier()]

    def globals(self, floats: int, fixed: str) -> list[str]:
        """Uniforms the shader reads (``fixed`` is text that stands in it besides), globals, helpers, functions."""
        needed = " ".join([fixed, *(self.spelled(SURFACE_INPUTS[n]) for n in self.inputs)])
        lines = [f"uniform {kind} {name};" for kind, name in _DRAW_UNIFORMS if re.search(rf"\b{name}\b", needed)]
        lines += [f"uniform vec4 values[{floats // 4}];"] if floats else []
        lines += [f"uniform sampler2D {s.name};" for s in sorted(self.samplers, key=lambda s: s.name)]
        lines += [f"{type_.glsl} {name};" for name, type_, _ in self.computed()]
        lines += self.helpers.values()
        return lines + [text for _, text in self.functions.values()]


def _constant(_: _Body, expr: Expr, __: Sequence[str]) -> str:
    if expr.type is BOOL:
        return "true" if expr.attributes[0] else "false"
    parts = [number_text(c) for c in expr.attributes]
    return parts[0] if len(parts) == 1 else f"{expr.type.glsl}({', '.join(parts)})"


def _call(body: _Body, expr: Expr, args: Sequence[str]) -> str:
    function: Function = expr.attributes[0]
    if len(function.results) > 1:
        return body.bundle(function, args)
    return f"{body.module.function(function)}({', '.join(args)})"


_STRUCTURAL: Mapping[Structural, Callable[[_Body, Expr, Sequence[str]], str]] = {
    Structural.CONSTANT: _constant,
    Structural.UNIFORM: lambda body, expr, args: body.module.uniform(expr),
    Structural.INPUT: lambda body, expr, args: body.module.input(expr.attributes[0]),
    Structural.SAMPLER: lambda body, expr, args: body.module.sampler(expr),
    Structural.ARGUMENT: lambda body, expr, args: body.arguments[expr.attributes[0]],
    Structural.CALL: _call,
    Structural.RESULT: lambda body, expr, args: f"{args[0]}_{expr.attributes[0]}",
}


def _function_text(module: _Module, function: Function, name: str) -> str:
    # The prefix keeps them clear of the words GLSL reserves.
    names = [f"a_{name}" for name in function.argument_names]
    body = _Body(module, {}, names)
    results = body.write(function.results)
    parameters = [f"{a.type.glsl} {name}" for a, name in zip(function.arguments, names, strict=True)]
    if len(results) == 1:
        head = f"{function.results[0].type.glsl} {name}({', '.join(parameters)})"
        body.lines.append(f"return {_unwrapped(results[0])};")
    else:
        outs = [f"out {r.type.glsl} r{i}" for i, r in enumerate(function.results)]
        head = f"void {name}({', '.join([*parameters, *outs])})"
        body.lines.extend(f"r{i} = {_unwrapped(text)};" for i, text in enumerate(results))
    return f"// {function.words}\n{head} {{\n" + "".join(f"  {line}\n" for line in body.lines) + "}"


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


def _vertex_text(module: _Module, body: _Body, offset: str, floats: int) -> str:
    fixed = "modelMatrix viewMatrix projectionMatrix"
    lines = [*_HEAD, *(f"in {kind} {name};" for kind, name in ATTRIBUTES)]
    lines += [f"out {kind} {name};" for kind, name, _ in VARYINGS]
    lines += ["vec3 rest_position;", *module.globals(floats, fixed), "", "void main() {"]
    lines += ["  rest_position = (modelMatrix * vec4(position, 1.0)).xyz;"]
    lines += [f"  {name} = {text};" for name, _, text in module.computed()]
    lines += [f"  {line}" for line in body.lines]
    lines += [f"  vec3 moved = rest_position{f' + {offset}' if offset else ''};"]
    lines += [f"  {name} = {text};" for _, name, text in VARYINGS]
    lines += ["  gl_Position = projectionMatrix * viewMatrix * vec4(moved, 1.0);", "}", ""]
    return "\n".join(lines)


def _fragment_text(module: _Module, body: _Body, picture: str, opacity: str, floats: int) -> str:
    needed = " ".join(SURFACE_INPUTS[n].pixel for n in module.inputs)
    lines = [*_HEAD, *(f"in {kind} {name};" for kind, name, _ in VARYINGS if re.search(rf"\b{name}\b", needed))]
    lines += [*module.globals(floats, ""), "out vec4 picture;", "", "void main() {"]
    lines += [f"  {name} = {text};" for name, _, text in module.computed()]
    lines += [f"  {line}" for line in body.lines]
    lines += [f"  if ({opacity} < {number_text(CUT_AT)}) discard;"] if opacity else []
    lines += [f"  picture = {picture};", "}", ""]
    return "\n".join(lines)


# A cut-out surface is not there where its opacity lies below this.
CUT_AT = 0.5


@lru_cache(maxsize=64)
def _emitted(output: Expr, names: tuple[tuple[Expr, str], ...], offset: Expr | None, opacity: Expr | None) -> Shader:
    places = _Places()
    pixels, vertices = _Module(places, lambda i: i.pixel), _Module(places, lambda i: i.vertex)
    above, below = _Body(vertices, dict(names)), _Body(pixels, dict(names))
    moved = above.write([offset])[0] if offset is not None else ""
    painted = below.write([e for e in (output, opacity) if e is not None])
    picture = _WIDEN[output.type].format(_unwrapped(painted[0]))
    shader = Shader("", "", tuple(places.layout.slots.values()), tuple(places.samplers.values()))
    vertex = _vertex_text(vertices, above, moved, shader.floats if offset is not None else 0)
    fragment = _fragment_text(pixels, below, picture, painted[1] if opacity is not None else "", shader.floats)
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
