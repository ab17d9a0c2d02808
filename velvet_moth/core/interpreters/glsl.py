"""GLSL ES 3.00: readable text with one named local per shared value and one function per traced node.

No name in the text comes from the artist: names and comments are the catalogue's own.
"""

from collections import Counter
from collections.abc import Callable, Hashable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any

import numpy as np

from velvet_moth.core.expr import Expr, Function, Primitive, Structural, in_order
from velvet_moth.core.surroundings import SURFACE_INPUTS
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
    """A complete fragment shader and the places of everything set from outside."""

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


class _Module:
    """What all bodies of one shader share: functions, helpers, uniforms, inputs."""

    def __init__(self) -> None:
        self.helpers: dict[str, str] = {}
        self.functions: dict[Function, tuple[str, str]] = {}
        self.names: Counter[str] = Counter()
        self.layout = _Layout()
        self.samplers: dict[tuple[Any, ...], SamplerSlot] = {}
        self.inputs: set[str] = set()

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
        key, wrap_u, wrap_v = expr.attributes
        slot = self.samplers.setdefault(
            expr.attributes, SamplerSlot(key, f"texture_{len(self.samplers)}", (wrap_u, wrap_v))
        )
        return slot.name

    def uniform(self, expr: Expr) -> str:
        slot = self.layout.place(expr.attributes[0], expr.type.width)
        start = slot.offset % 4
        return f"values[{slot.offset // 4}].{'xyzw'[start : start + slot.width]}"

    def input(self, name: str) -> str:
        self.inputs.add(name)
        declared = SURFACE_INPUTS[name]
        return declared.glsl if declared.glsl.isidentifier() else f"at_{name}"


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
    ("vec3", "v_position"),
    ("vec3", "v_object_position"),
    ("vec3", "v_normal"),
    ("vec4", "v_tangent"),
    ("vec2", "v_uv"),
)
_DRAW_UNIFORMS = (
    ("vec3", "camera_position"),
    ("float", "time"),
    ("vec3", "sun_direction"),
    ("vec3", "sun_colour"),
    ("float", "rig_turn"),
    ("float", "exposure"),
)


@lru_cache(maxsize=64)
def _emitted(output: Expr, names: tuple[tuple[Expr, str], ...]) -> Shader:
    module = _Module()
    body = _Body(module, dict(names))
    result = body.write([output])[0]
    computed = {n: SURFACE_INPUTS[n] for n in sorted(module.inputs) if not SURFACE_INPUTS[n].glsl.isidentifier()}
    needed = " ".join(SURFACE_INPUTS[n].glsl for n in module.inputs)
    shader = Shader("", tuple(module.layout.slots.values()), tuple(module.samplers.values()))
    lines = ["#version 300 es", "precision highp float;", "precision highp int;", "precision highp sampler2D;", ""]
    lines += [f"in {kind} {name};" for kind, name in VARYINGS if name in needed]
    lines += [f"uniform {kind} {name};" for kind, name in _DRAW_UNIFORMS if name in needed]
    if shader.floats:
        lines.append(f"uniform vec4 values[{shader.floats // 4}];")
    lines += [f"uniform sampler2D {s.name};" for s in shader.samplers]
    lines += ["out vec4 picture;", ""]
    lines += [f"{declared.type.glsl} at_{name};" for name, declared in computed.items()]
    lines += module.helpers.values()
    lines += [text for _, text in module.functions.values()]
    lines += ["", "void main() {"]
    lines += [f"  at_{name} = {declared.glsl};" for name, declared in computed.items()]
    lines += [f"  {line}" for line in body.lines]
    lines += [f"  picture = {_WIDEN[output.type].format(_unwrapped(result))};", "}", ""]
    return Shader("\n".join(lines), shader.slots, shader.samplers)


def emit(output: Expr, names: Mapping[Expr, str] | None = None) -> Shader:
    """The fragment shader that paints ``output`` (one to four components, or yes/no as white/black).

    ``names`` gives the catalogue's name of the node behind an expression, for locals and comments.
    """
    return _emitted(output, tuple((names or {}).items()))


VERTEX = """#version 300 es
precision highp float;

in vec3 position;
in vec3 normal;
in vec4 tangent;
in vec2 uv;

uniform mat4 modelMatrix;
uniform mat4 viewMatrix;
uniform mat4 projectionMatrix;

out vec3 v_position;
out vec3 v_object_position;
out vec3 v_normal;
out vec4 v_tangent;
out vec2 v_uv;

void main() {
  vec4 world = modelMatrix * vec4(position, 1.0);
  v_position = world.xyz;
  v_object_position = position;
  v_normal = mat3(modelMatrix) * normal;
  v_tangent = vec4(mat3(modelMatrix) * tangent.xyz, tangent.w);
  v_uv = uv;
  gl_Position = projectionMatrix * viewMatrix * world;
}
"""
