"""One case for every primitive and every node, with random inputs: used on NumPy alone and against the GPU."""

from collections.abc import Hashable
from dataclasses import dataclass, field
from functools import cache

import numpy as np

import velvet_moth.core.nodes  # noqa: F401 - fills the catalogue
from velvet_moth.core.catalogue.registry import CATALOGUE, NodeType
from velvet_moth.core.document.graph import Node
from velvet_moth.core.language import primitives as p
from velvet_moth.core.language.expr import Array, Expr, apply, constant, sampler, uniform
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.language.types import (
    NUMBER,
    P_BOOL,
    P_FLEXIBLE,
    P_SURFACE,
    P_TEXTURE,
    P_VEC3,
    VEC2,
    VEC3,
    VEC4,
    Type,
    float_of_width,
)
from velvet_moth.core.lighting.backdrop import BACKDROP, synthetic_backdrop
from velvet_moth.core.lighting.decals import REACH_DIRECTIONS, Decal
from velvet_moth.core.lighting.shadow import SUN_DEPTH
from velvet_moth.core.lowering.lower import unwired
from velvet_moth.core.pictures.formats import Picture
from velvet_moth.core.pictures.levels import read_texture
from velvet_moth.core.pictures.reading import Reading
from velvet_moth.core.render.swatches import SIZE
from velvet_moth.core.workbench.examples import sample_textures


@dataclass
class Case:
    """Outputs over uniforms that tests fill with a random array each, within ``ranges``."""

    name: str
    outputs: list[Expr]
    ranges: dict[Hashable, tuple[Type, float, float]] = field(default_factory=dict)
    textures: dict[Hashable, Texture] = field(default_factory=dict)

    @property
    def output(self) -> Expr:
        return self.outputs[0]


def random_arrays(case: Case, source: np.random.Generator, size: int = SIZE) -> dict[Hashable, Array]:
    """A random array for every uniform of a case, (rows, columns) or (components, rows, columns)."""
    found = {}
    for key, (type_, low, high) in case.ranges.items():
        shape = (size, size) if type_ is NUMBER else (type_.width, size, size)
        found[key] = source.uniform(low, high, shape).astype(np.float32)
    return found


@cache
def random_texture() -> Texture:
    pixels = np.random.default_rng(5).integers(0, 256, (16, 32, 4), dtype=np.uint8)
    return read_texture(Picture(pixels), Reading("colour"))


@cache
def smooth_texture() -> Texture:
    """A grain as artists use them: the GPU's coarse weights between pixels do not show in it."""
    sample = sample_textures()["sample_colour"]
    return read_texture(sample.picture, sample.reading)


def primitive_cases() -> list[Case]:
    """Every primitive on numbers and, where it takes them, vectors."""
    cases: list[Case] = []
    for type_ in (NUMBER, VEC2, VEC3, VEC4):
        a, b, c = (uniform(k, type_) for k in "abc")
        s = uniform("s", NUMBER)
        ranges = {"a": (type_, -3.0, 3.0), "b": (type_, -2.0, 2.0), "c": (type_, 0.0, 1.0), "s": (NUMBER, -2.0, 2.0)}
        whole = {
            "add": a + b,
            "subtract": a - s,
            "multiply": a * s,
            "divide": a / b,
            "negate": -a,
            "modulo": p.modulo(a, b),
            "power": p.power(a, b),
            "square_root": p.square_root(a),
            "logarithm": p.logarithm(a),
            "exponential": p.exponential(a),
            "arccosine": p.arccosine(a),
            "arctangent": p.arctangent(a, b),
            "minimum": p.minimum(a, s),
            "maximum": p.maximum(s, a),
            "mix": p.mix(a, b, c),
            "absolute": p.absolute(a),
            "sign": p.sign(a),
            "floor": p.floor(a),
            "ceiling": p.ceiling(a),
            "fract": p.fract(a),
            "sine": p.sine(a),
            "cosine": p.cosine(a),
            "assume": p.assume(c, 0.0, 1.0),
            "continuous": p.continuous(a),
            "clamped": p.clamp(a, -0.5, 1.25),
            "where_less": p.where_less(a, s, b, c),
        }
        if type_ is not NUMBER:
            whole |= {
                "normalise": p.normalise(a),
                "dot": p.dot(a, b),
                "swizzle": p.combine(a.yx, s),
                "length": p.length(a),
            }
        cases += [Case(f"{name} {type_}", [e], ranges) for name, e in whole.items()]
    s, t = uniform("s", NUMBER), uniform("t", NUMBER)
    a, b, uv = uniform("a", VEC3), uniform("b", VEC3), uniform("uv", VEC2)
    ranges = {
        **{k: (NUMBER, -2.0, 2.0) for k in "st"},
        **{k: (VEC3, -300.0, 300.0) for k in "ab"},
        "uv": (VEC2, -2.0, 2.0),
    }
    yes = p.less(s, t)
    extra = {
        "combine": p.combine(s, a),
        "cross": p.cross(a * 0.01, b * 0.01),
        "less": p.select(yes, 1.0, 0.0),
        "select": p.select(yes, a, b),
        "logical_and": p.select(p.logical_and(yes, p.less(s, 0.0)), 1.0, 0.0),
        "logical_or": p.select(p.logical_or(yes, p.less(s, 0.0)), 1.0, 0.0),
        "logical_not": p.select(p.logical_not(yes), 1.0, 0.0),
        "cell_random": p.cell_random(p.floor(a)),
        "along_x": p.along_x(s),
        "along_y": p.along_y(a),
        # Which of two rows comes first is the language's own matter.
        "between_rows": p.absolute(apply("between_rows", a)),
        "sample": p.sample(sampler("t"), uv, constant(0.7)),
        "sample mirrored": p.sample(sampler("t", ("mirror", "clamp")), uv, constant(0.7)),
        "sample by pixels": p.sample(sampler("t", ("repeat", "mirror"), filter="pixels"), uv, constant(0.7)),
        "texture_size": p.texture_size(sampler("t")) + s,
    }
    return cases + [Case(name, [e], ranges, {"t": random_texture()}) for name, e in extra.items()]


# A decal that reaches another way in every direction.
UNEVEN = Decal((0.0, 0.0, 0.0), reach=tuple(0.2 + 0.13 * (k % 7) for k in range(REACH_DIRECTIONS)))


def uneven_depth() -> Texture:
    """What a sun might see: hills about the places of the cases, so that they lie now before and now behind them."""
    at = np.linspace(0, 6 * np.pi, 64, dtype=np.float32)
    hills = np.sin(at)[:, None] + np.cos(at)[None]
    return Texture((np.stack([hills] * 4).astype(np.float32),))


def _node_case(kind: NodeType, flexible: Type, settings: dict, name: str, is_idle: bool = False) -> Case:
    ranges: dict[Hashable, tuple[Type, float, float]] = {}
    values = {}
    textures: dict[Hashable, Texture] = {BACKDROP: synthetic_backdrop(), SUN_DEPTH: uneven_depth(), **UNEVEN.textures}
    for key, port in kind.inputs.items():
        if port.type is P_TEXTURE:
            values[key] = sampler(key)
            textures[key] = random_texture()
        elif port.type is P_BOOL:
            values[key] = p.less(constant(0.0), uniform(key, NUMBER))
            ranges[key] = (NUMBER, -1.0, 1.0)
        elif port.type.stop:
            type_ = float_of_width(port.type.stop)
            values[key] = tuple(uniform(f"{key}{i}", type_) for i in range(3))
            ranges |= {f"{key}{i}": (type_, 0.0, 1.0) for i in range(3)}
        elif port.source and port.type.name != "vec2":
            values[key] = unwired(Node("n", kind.key), port, port.type)
        elif port.idle_at_default and is_idle:
            values[key] = constant(*port.default)
        else:
            type_ = flexible if port.type is P_FLEXIBLE else port.type.value
            low, high = (-1.5, 1.5) if port.type is P_VEC3 else (port.low, min(port.high, 40.0))
            values[key] = uniform(key, type_)
            ranges[key] = (type_, low, high)
    chosen = tuple((k, settings.get(k, s.default)) for k, s in kind.settings.items())
    outputs = [e for e in kind.build(values, chosen).values() if e.type.base != "texture"]
    return Case(name, [p.select(e, 1.0, 0.0) if e.type.name == "bool" else e for e in outputs], ranges, textures)


def node_cases() -> list[Case]:
    """Every node without whole surfaces: flexible ones on numbers and on three components, every option of
    its settings, and with the inputs that can idle doing so."""
    cases = []
    for kind in CATALOGUE.values():
        if any(port.type is P_SURFACE for port in [*kind.inputs.values(), *kind.outputs.values()]):
            continue
        if any(i.idle_at_default for i in kind.inputs.values()):
            cases.append(_node_case(kind, NUMBER, {}, f"{kind.key} idle", is_idle=True))
        types = (NUMBER, VEC3) if any(i.type is P_FLEXIBLE for i in kind.inputs.values()) else (NUMBER,)
        choices: list[dict] = [{}]
        for key, setting in kind.settings.items():
            choices += [{key: option} for option in setting.choices[1:]] or [{key: setting.low}, {key: setting.high}]
        cases += [_node_case(kind, t, c, f"{kind.key} {t} {c or ''}".strip()) for t in types for c in choices]
    return cases
