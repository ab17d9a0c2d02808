"""Whole shaders: the vertex shader moves the form by the offset, the fragment shader paints a picture."""

import re
from collections.abc import Collection, Hashable, Mapping, Sequence
from dataclasses import dataclass, replace

from velvet_moth.core.base.cache import BoundedCache
from velvet_moth.core.language.expr import Expr, Function
from velvet_moth.core.language.inputs import SURFACE_INPUTS, WORLD_NORMAL, Given, Instancing, SurfaceInput
from velvet_moth.core.language.interpreters.glsl import outside
from velvet_moth.core.language.interpreters.text import body, spelling
from velvet_moth.core.language.interpreters.text.body import Body, InputText, Written, written
from velvet_moth.core.language.interpreters.text.layout import Places, SamplerSlot, Slot
from velvet_moth.core.language.interpreters.text.spelling import number_text, unwrapped
from velvet_moth.core.language.texture import ALPHA_CUTOFF
from velvet_moth.core.language.types import BOOL, NUMBER, VEC2, VEC3, VEC4, Type


@dataclass(frozen=True)
class Needs:
    """What one of the shaders of a draw takes of a device: vec4s for values from outside, and textures at once."""

    vectors: int
    samplers: tuple[SamplerSlot, ...]
    uniforms: tuple[outside.Given, ...] = ()


@dataclass(frozen=True)
class Shader:
    """Both shaders of a draw, complete, the places of everything set from outside, and how many ``pictures`` are painted."""

    vertex: str
    fragment: str
    slots: tuple[Slot, ...]
    samplers: tuple[SamplerSlot, ...]
    in_vertices: Needs = Needs(0, ())
    in_pixels: Needs = Needs(0, ())
    pictures: int = 1

    @property
    def floats(self) -> int:
        """The length of the ``values`` array in floats."""
        used = max((s.offset + s.width for s in self.slots), default=0)
        return (used + 3) // 4 * 4


def in_pixels(declared: SurfaceInput) -> str:
    """How the fragment shader spells a surface input."""
    return declared.pixel


def in_vertices(declared: SurfaceInput) -> str:
    """How the vertex shader spells a surface input."""
    return declared.vertex


_FORM_TANGENT = "vec4(normalize(mat3(modelMatrix) * tangent.xyz), tangent.w)"
# Of a form that is drawn many times: by itself, and where an instance has put it.
_BY_ITSELF = {"position": "rest_position", "normal": "form_normal", "tangent": "form_tangent"}
_PLACED = {
    "position": "rest_position",
    "normal": "placed_normal",
    "moved_normal": "placed_normal",
    "tangent": "placed_tangent",
}


def in_form_vertices(declared: SurfaceInput) -> str:
    """How the vertex shader of an instanced form spells an input of the form by itself."""
    return _BY_ITSELF.get(declared.name, declared.vertex)


def in_instance_vertices(declared: SurfaceInput) -> str:
    """How the vertex shader of an instanced form spells an input once an instance has placed it."""
    return _PLACED.get(declared.name, declared.vertex)


class _Module:
    """One whole shader: main and every function it calls, each before its callers."""

    def __init__(self, places: Places, spelled: InputText, names: Mapping[Expr, str]) -> None:
        self.places, self.spelled = places, spelled
        self.main = Body(places, spelled, names)
        # What the surroundings give in place of the form, computed before main begins.
        self.before = Body(places, in_pixels, {})
        self.given: list[str] = []
        # What is the same all over an instance, and passed on to pixels.
        self.per_instance: list[str] = []
        self.is_placed = False
        # Inputs that are no uniforms here.
        self.worked_out: set[str] = set()

    def gather(self) -> None:
        """Collects the functions and what they rely on, once main is written."""
        found: dict[Function, Written] = {}
        todo = [(f, False) for f in reversed([*self.before.functions, *self.main.functions])]
        while todo:
            function, is_ready = todo.pop()
            if is_ready:
                found[function] = found.pop(function)
            elif function not in found:
                found[function] = written(function, self.places, self.spelled)
                todo.append((function, True))
                todo.extend((f, False) for f in reversed(found[function].body.functions) if f not in found)
        bodies = [self.before, self.main, *(w.body for w in found.values())]
        self.texts = [w.text for w in found.values()]
        self.helpers = list(dict.fromkeys(text for b in bodies for text in b.helpers))
        self.inputs = list(dict.fromkeys(name for b in bodies for name in b.inputs))
        self.samplers = list(dict.fromkeys(s for b in bodies for s in b.samplers))
        for slot in self.samplers:
            if slot not in self.places.samplers.values():
                # Read inside a function only, whose text was kept from before.
                self.places.samplers[slot.key, *slot.wrap, slot.filter] = slot

    def give(self, given: Given) -> None:
        """Writes what is given and read, each into a global of its own; main must be written, and the functions told."""
        self.given = [name for name in given.inputs if name in self.inputs]
        texts = self.before.write([given.inputs[name] for name in self.given])
        self.before.lines += [f"given_{n} = {unwrapped(t)};" for n, t in zip(self.given, texts, strict=True)]
        self.gather()

    def place(self, instancing: Instancing, read: Collection[str]) -> None:
        """Writes where an instance puts a vertex, and what is ``read`` of what it knows; main must be written."""
        self.before = Body(self.places, in_form_vertices, {})
        names = [name for name in instancing.own if name in read]
        texts = self.before.write([*instancing.placed.values(), *(instancing.own[name] for name in names)])
        targets = [{"position": "placed_position"}.get(n, f"placed_{n}") for n in instancing.placed] + names
        self.before.lines += [f"{n} = {unwrapped(t)};" for n, t in zip(targets, texts, strict=True)]
        self.per_instance, self.is_placed = names, True
        self.worked_out = {*names, "instance_slot"}
        self.gather()

    def computed(self) -> list[tuple[str, Type, str]]:
        """Inputs that need a global of their own: name, type, text."""
        found = ((n, SURFACE_INPUTS[n].type, self.spelled(SURFACE_INPUTS[n])) for n in sorted(self.inputs))
        return [(f"at_{n}", type_, text) for n, type_, text in found if not text.isidentifier()]

    def draw_uniforms(self, fixed: str) -> list[outside.Given]:
        """What is the same for a draw and read, here or in the ``fixed`` text."""
        needed = set(_WORD.findall(" ".join([fixed, *(self.spelled(SURFACE_INPUTS[n]) for n in self.inputs)])))
        return [given for given in outside.UNIFORMS if given.name in needed and given.name not in self.worked_out]

    def needs(self, floats: int, fixed: str) -> Needs:
        """What the shader takes of a device, each uniform in vec4s of its own."""
        uniforms = tuple(self.draw_uniforms(fixed))
        return Needs(floats // 4 + sum(u.vectors for u in uniforms), tuple(self.samplers), uniforms)

    def globals(self, floats: int, fixed: str) -> list[str]:
        """Uniforms the shader reads (``fixed`` is text that stands in it besides), globals, helpers, functions."""
        lines = [f"uniform {given.type} {given.name};" for given in self.draw_uniforms(fixed)]
        lines += [f"uniform vec4 values[{floats // 4}];"] if floats else []
        lines += [f"uniform sampler2D {s.name};" for s in self.samplers]
        lines += [f"{type_.glsl} {name};" for name, type_, _ in self.computed()]
        lines += [f"{SURFACE_INPUTS[name].type.glsl} given_{name};" for name in self.given]
        return [*lines, *self.helpers, *self.texts]


_WORD = re.compile(r"\w+")


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
    ("vec3", "v_normal", WORLD_NORMAL),
    ("vec3", "v_object_normal", "normal"),
    ("vec4", "v_tangent", _FORM_TANGENT),
    ("vec2", "v_uv", "uv"),
    ("vec2", "v_second_uv", "second_uv"),
    ("vec4", "v_colour", "colour"),
    ("vec4", "v_second_colour", "second_colour"),
    ("vec4", "v_face", "vec4((modelMatrix * vec4(face.xyz, 1.0)).xyz, face.w)"),
)
# What is not mixed between the corners of a triangle, but is that of its last one.
_FLAT = {"v_face"}


def _passed(way: str, kind: str, name: str) -> str:
    return f"{'flat ' if name in _FLAT else ''}{way} {kind} {name};"


_HEAD = ["#version 300 es", "precision highp float;", "precision highp int;", "precision highp sampler2D;", ""]


# The uniforms that every vertex shader reads.
_VERTEX_FIXED = "modelMatrix viewMatrix projectionMatrix"


# What is passed on of a form that an instance has placed, where that is something else.
_PLACED_VARYINGS = {
    "v_normal": "placed_normal",
    "v_tangent": "placed_tangent",
    "v_face": "vec4(rest_position, face.w)",
}


def _instance_globals(module: _Module) -> list[str]:
    """What of an instance the vertex shader works out, by the types of the inputs it takes the place of."""
    flat = [f"flat out {SURFACE_INPUTS[name].type.glsl} {name};" for name in module.per_instance]
    placed = ["vec3 placed_position, placed_normal, form_normal;", "vec4 placed_tangent, form_tangent;"]
    return [*flat, "float instance_slot;", *placed]


def _placing(module: _Module) -> list[str]:
    """The statements that put a vertex where its instance has it."""
    return [
        "  instance_slot = float(gl_InstanceID);",
        f"  form_normal = {WORLD_NORMAL};",
        f"  form_tangent = {_FORM_TANGENT};",
        "  {",
        *(f"    {line}" for line in module.before.lines),
        "  }",
        "  rest_position = placed_position;",
    ]


def _vertex_text(module: _Module, offset: str, floats: int) -> str:
    is_instanced = module.is_placed
    varyings = [
        (kind, name, _PLACED_VARYINGS.get(name, text) if is_instanced else text) for kind, name, text in VARYINGS
    ]
    lines = [*_HEAD, *(f"in {given.type} {given.name};" for given in outside.ATTRIBUTES)]
    lines += [_passed("out", kind, name) for kind, name, _ in varyings]
    lines += ["vec3 rest_position;", *(_instance_globals(module) if is_instanced else [])]
    lines += [*module.globals(floats, _VERTEX_FIXED), "", "void main() {"]
    lines += ["  rest_position = (modelMatrix * vec4(position, 1.0)).xyz;", *(_placing(module) if is_instanced else [])]
    lines += [f"  {name} = {text};" for name, _, text in module.computed()]
    lines += [f"  {line}" for line in module.main.lines]
    lines += [f"  vec3 moved = rest_position{f' + {offset}' if offset else ''};"]
    lines += [f"  {name} = {text};" for _, name, text in varyings]
    lines += ["  gl_Position = projectionMatrix * viewMatrix * vec4(moved, 1.0);", "}", ""]
    return "\n".join(lines)


# How a difference to the pixel beside or above is spelled.
_DIFFERENCE = "dFd"
# What the sun's own picture keeps of a surface, in place of all that follows (see ``core/lighting/shadow.py``).
_SUN_PASS = "  if (sun_pass) { picture = vec4(dot(v_moved, sun_direction), 0.0, 0.0, 1.0); return; }"


def _fragment_text(module: _Module, pictures: Mapping[str, str], opacity: str, floats: int) -> str:
    needed = set(_WORD.findall(" ".join([_SUN_PASS, *(SURFACE_INPUTS[n].pixel for n in module.inputs)])))
    lines = [*_HEAD, *(_passed("in", kind, name) for kind, name, _ in VARYINGS if name in needed)]
    known = [name for name in module.per_instance if name in needed]
    lines += [f"flat in {SURFACE_INPUTS[name].type.glsl} {name};" for name in known]
    lines += [
        f"uniform {outside.SUN_PASS.type} {outside.SUN_PASS.name};",
        *module.globals(floats, _SUN_PASS),
        *(f"layout(location = {at}) out vec4 {name};" for at, name in enumerate(pictures)),
        "",
        "void main() {",
    ]
    lines += [f"  {name} = {text};" for name, _, text in module.computed()]
    lines += ["  {", *(f"    {line}" for line in module.before.lines), "  }"] if module.given else []
    first = module.main.first
    lines += [f"  {line}" for line in module.main.lines[:first]]
    cut = f"{unwrapped(opacity)} < {number_text(ALPHA_CUTOFF)}"
    # Differences over pixels have no value once one of the four is gone: then it goes at the end.
    is_late = _DIFFERENCE in "\n".join([*lines, *module.main.lines, *pictures.values()])
    if opacity:
        lines += (
            [f"  bool is_cut = {cut};", "  if (sun_pass && is_cut) discard;"] if is_late else [f"  if ({cut}) discard;"]
        )
    lines += [_SUN_PASS, *(f"  {line}" for line in module.main.lines[first:])]
    lines += [f"  {name} = {text};" for name, text in pictures.items()]
    lines += [*(["  if (is_cut) discard;"] if opacity and is_late else []), "}", ""]
    return "\n".join(lines)


def _outputs(count: int) -> list[str]:
    """Names of the pictures that a fragment shader paints."""
    return ["picture", *(f"picture_{number}" for number in range(2, count + 1))]


# By what is painted; another name for a part of it, in a comment, is no other shader.
_emitted: BoundedCache[Shader] = BoundedCache("shaders", 64)


def _write(
    called: Mapping[Expr, str],
    output: Expr,
    offset: Expr | None,
    opacity: Expr | None,
    given: Given | None,
    same: Mapping[Hashable, Hashable],
    further: Sequence[Expr],
    instancing: Instancing | None,
) -> Shader:
    places = Places(same)
    in_fragments = in_pixels if given is None else given.spelled
    spelled = in_vertices if instancing is None else in_instance_vertices
    vertices, pixels = _Module(places, spelled, called), _Module(places, in_fragments, called)
    moved = vertices.main.write([offset])[0] if offset is not None else ""
    wanted = [output, *further]
    painted = pixels.main.write([*wanted, *([] if opacity is None else [opacity])], opacity)
    cut = "" if opacity is None else painted.pop()
    vertices.gather()
    pixels.gather()
    if instancing is not None:
        vertices.place(instancing, {*vertices.inputs, *pixels.inputs})
        pixels.per_instance = vertices.per_instance
        pixels.worked_out = vertices.worked_out
    if given is not None:
        pixels.give(given)
    texts = [_WIDEN[e.type].format(unwrapped(text)) for e, text in zip(wanted, painted, strict=True)]
    shader = Shader("", "", tuple(places.layout.slots.values()), tuple(places.samplers.values()))
    floats = shader.floats if offset is not None else 0
    return replace(
        shader,
        vertex=_vertex_text(vertices, moved, floats),
        fragment=_fragment_text(pixels, dict(zip(_outputs(len(wanted)), texts, strict=True)), cut, shader.floats),
        in_vertices=vertices.needs(floats, _VERTEX_FIXED),
        in_pixels=pixels.needs(shader.floats, _SUN_PASS),
        pictures=len(wanted),
    )


def emit(
    output: Expr,
    names: Mapping[Expr, str] | None = None,
    offset: Expr | None = None,
    opacity: Expr | None = None,
    given: Given | None = None,
    same: Mapping[Hashable, Hashable] | None = None,
    further: Sequence[Expr] = (),
    instancing: Instancing | None = None,
) -> Shader:
    """The shaders that paint ``output`` (one to four components, or yes/no as white/black).

    ``names`` gives the catalogue's name of the node behind an expression, for locals and comments.
    ``offset`` (metres in the world, nothing that exists per pixel only) moves the form; where
    ``opacity`` is below one half nothing is painted. ``given`` says what takes the place of a form's own point.
    ``further`` pictures are painted at once, each into a target of its own. With ``instancing`` the form is drawn many times.
    ``same`` gives for keys of textures another one that holds the same texture: both share one sampler.
    """
    key = (output, offset, opacity, given, frozenset((same or {}).items()), tuple(further), instancing)
    return _emitted.get(
        key, lambda: _write(names or {}, output, offset, opacity, given, same or {}, further, instancing)
    )


_WHOLE_SCREEN = "\n".join(
    [*_HEAD, "in vec3 position;", "void main() { gl_Position = vec4(position.xy, 0.0, 1.0); }", ""]
)


def emit_pixels(outputs: Sequence[Expr], given: Given) -> Shader:
    """The shaders that paint numbers, a picture for each output, at every pixel of a target.

    What is ``given`` may be made of the place of the pixel. The vertices are a triangle over the target, -1..1.
    """
    places = Places()
    pixels = _Module(places, given.spelled, {})
    painted = pixels.main.write(list(outputs))
    pixels.gather()
    pixels.give(given)
    names = _outputs(len(outputs))
    lines = [*_HEAD, *pixels.globals(0, "")]
    lines += [f"layout(location = {at}) out vec4 {name};" for at, name in enumerate(names)]
    lines += ["", "void main() {", *(f"  {name} = {text};" for name, _, text in pixels.computed())]
    lines += [
        "  {",
        *(f"    {line}" for line in pixels.before.lines),
        "  }",
        *(f"  {line}" for line in pixels.main.lines),
    ]
    lines += [
        f"  {name} = {_WIDEN[e.type].format(unwrapped(text))};"
        for name, e, text in zip(names, outputs, painted, strict=True)
    ]
    text = "\n".join([*lines, "}", ""])
    needs = pixels.needs(0, "")
    return Shader(_WHOLE_SCREEN, text, (), tuple(places.samplers.values()), in_pixels=needs, pictures=len(outputs))


def emit_on_screen(output: Expr, forward: Expr, there: Expr) -> Shader:
    """The shaders that paint ``output`` on the screen, in the depth of what lies ``forward`` metres straight ahead.

    They do so where something is ``there`` (yes/no).
    None may read of a form or of a graph's values; the vertices are a triangle over the screen, -1..1.
    """
    places = Places()
    pixels = _Module(places, in_pixels, {})
    painted, ahead, is_there = pixels.main.write([output, forward, there], there)
    pixels.gather()
    lines = [*_HEAD, *pixels.globals(0, "projectionMatrix"), "out vec4 picture;", "", "void main() {"]
    lines += [f"  {name} = {text};" for name, _, text in pixels.computed()]
    first = pixels.main.first
    lines += [f"  {line}" for line in pixels.main.lines[:first]]
    lines += [f"  if (!({unwrapped(is_there)})) discard;"]
    lines += [f"  {line}" for line in pixels.main.lines[first:]]
    lines += [f"  vec4 place = projectionMatrix * vec4(0.0, 0.0, -{ahead}, 1.0);"]
    lines += ["  gl_FragDepth = clamp(place.z / place.w * 0.5 + 0.5, 0.0, 1.0);"]
    lines += [f"  picture = {_WIDEN[output.type].format(unwrapped(painted))};", "}", ""]
    return Shader(_WHOLE_SCREEN, "\n".join(lines), (), tuple(places.samplers.values()))


def clear_caches() -> None:
    """Drops what was emitted before, for measuring."""
    _emitted.clear()
    body.clear_cache()
    spelling.clear_cache()
