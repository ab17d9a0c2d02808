"""NumPy and WebGL2 agree: every primitive, every node, the whole surface model. Seeds are in the names."""

from collections.abc import Callable
from typing import Annotated, Any

import numpy as np

from tests.support.cases import Case, node_cases, primitive_cases, random_arrays
from tests.support.gpu import SIZE, GpuCase, whole
from velvet_moth.core.base.plain_names import identifier
from velvet_moth.core.catalogue.ports import FLEXIBLE_OUT, flexible, number
from velvet_moth.core.catalogue.registry import CATALOGUE, borrowed_node, node
from velvet_moth.core.language.expr import (
    Expr,
    Structural,
    constant,
    sampler,
    topological_order,
    uniform,
)
from velvet_moth.core.language.inputs import SURFACE_INPUTS, surface
from velvet_moth.core.language.interpreters.glsl import emit
from velvet_moth.core.language.primitives import combine, sample, sine
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.language.trace import substituted
from velvet_moth.core.language.types import NUMBER, VEC4
from velvet_moth.core.lighting.channels import CHANNELS, Surface
from velvet_moth.core.lighting.shown import lit_picture
from velvet_moth.core.render.tracing.scene import stage_textures

SEED = 20

# Absolute and relative, after the measured facts: exact arithmetic, native elementary functions, texture reads.
EXACT, ELEMENTARY, NATIVE_TRIGONOMETRY, READ = (0.0, 0.0), (2e-6, 3e-5), (5e-4, 5e-4), (4e-4, 4e-4)
PRIMITIVE_TOLERANCE = {
    **{n: EXACT for n in ("add", "subtract", "minimum", "maximum", "negate", "absolute", "sign", "floor", "ceiling")},
    **{n: EXACT for n in ("less", "select", "cell_random", "combine", "swizzle", "fract", "multiply", "assume")},
    **{n: NATIVE_TRIGONOMETRY for n in ("sine", "cosine", "arccosine", "arctangent")},
    "sample": READ,
}
# A graph that steps (floor, choose) may flip single pixels where an input is a rounding away.
NODE_SHARE, NODE_TOLERANCE = 0.99, (2e-3, 2e-3)


class Drawing(GpuCase):
    """Draws expressions on WebGL2 and holds them against NumPy."""

    def on_gpu(self, output: Expr, arrays: dict, textures: dict) -> np.ndarray:
        """What WebGL2 paints: the random uniforms arrive as textures read pixel for pixel."""
        leaves = [e for e in topological_order([output]) if e.operator is Structural.UNIFORM]
        here = surface("uv")
        table, given = {}, {}
        for leaf in leaves:
            key = ("given", leaf.attributes[0])
            texel = sample(sampler(key, ("clamp", "clamp")), here, constant(0.0))
            table[leaf] = texel if leaf.type is VEC4 else getattr(texel, "xyzw"[: leaf.type.width])
            given[key] = Texture((padded(arrays[leaf.attributes[0]]),))
        return self.drawn(emit(substituted([output], table)[0]), {**textures, **given}, [])

    def compare(self, case: Case, outputs: list[Expr], tolerance: tuple[float, float], share: float) -> None:
        """Draws outputs of up to four numbers in all at once; each must agree by itself."""
        arrays = random_arrays(case, np.random.default_rng(SEED), SIZE)
        drawn = self.on_gpu(combine(*outputs) if len(outputs) > 1 else outputs[0], arrays, case.textures)
        first = 0
        for at, output in enumerate(outputs):
            expected = self.in_numpy(output, arrays, case.textures)
            found = drawn[first : first + expected.shape[0]]
            first += expected.shape[0]
            self.assertTrue(np.isfinite(found).all())
            agrees = np.abs(found - expected) <= tolerance[0] + tolerance[1] * np.abs(expected)
            worst = float(np.abs(found - expected).max())
            told = f"seed {SEED}, output {at} of those: off by up to {worst:.2e}"
            self.assertGreaterEqual(float(agrees.mean()), share, told)


class Parity(Drawing):
    def test_primitives(self) -> None:
        for case in primitive_cases():
            name = case.name.split()[0]
            with self.subTest(case.name):
                self.compare(case, [case.output], PRIMITIVE_TOLERANCE.get(name, ELEMENTARY), 1.0)

    def test_whole_surfaces_under_the_rig(self) -> None:
        """Surface, mix of surfaces and dock, lit and tone-mapped, over random channels."""
        for key in ("surface", "mix_surfaces", "dock"):
            kind = CATALOGUE[key]
            case = Case(key, [], {}, stage_textures())

            def filled(prefix: str, case: Case = case) -> Surface:
                found = {}
                for name, port in CHANNELS.items():
                    type_ = port.type.value
                    assert type_ is not None
                    if port.extra and case.name == "mix_surfaces":
                        # Two whole surfaces would be more random values than a GPU has textures.
                        found[name] = constant(*port.default)
                        continue
                    low, high = (-0.4, 0.4) if name == "normal" else (0.05, 1.0)
                    found[name] = uniform(prefix + name, type_)
                    case.ranges[prefix + name] = (type_, low, high)
                return Surface(found)

            first, second = filled("a."), filled("b.")
            values: dict[str, Any] = {
                "surface": {"surface": second, **first.channels},
                "mix_surfaces": {"a": first, "b": second, "amount": uniform("amount", NUMBER)},
                "dock": {"surface": first, "back": first, "roughness": second["roughness"]},
            }[key]
            case.ranges["amount"] = (NUMBER, 0.0, 1.0)
            made = kind.build(values, ())["surface"]
            with self.subTest(key):
                self.compare(case, [lit_picture(made)], (4e-3, 4e-3), 0.995)

    def test_surface_inputs(self) -> None:
        """What the stage computes of the point and what NumPy is given are the same."""
        case = Case("inputs", [declared.expr for declared in SURFACE_INPUTS.values()])
        for output in case.outputs:
            with self.subTest(repr(output)):
                self.compare(case, [output], ELEMENTARY, 1.0)

    def test_a_node_declared_in_a_test_is_proven_like_all_others(self) -> None:
        with borrowed_node("ember_glow"):

            @node("Ember glow", "Masks", ("coal",), ("make coals breathe",))
            def ember_glow(
                heat: Annotated[Expr, flexible(0.5)], speed: Annotated[Expr, number(1.0, 0.0, 3.0)]
            ) -> Annotated[Expr, FLEXIBLE_OUT]:
                """Heat that rises and falls.

                Formula: heat^2 (1 + 0.2 sin(t speed))
                Use: Emissive of coals.
                """
                return heat * heat * (1.0 + 0.2 * sine(surface("time") * speed))

            cases = [c for c in node_cases() if c.name.startswith("ember_glow")]
            self.assertEqual(len(cases), 2, "on numbers and on three components")
            for case in cases:
                self.compare(case, [case.output], NODE_TOLERANCE, 1.0)


def packed(outputs: list[Expr]) -> list[list[Expr]]:
    """The outputs in groups of up to four numbers in all: each group is one shader to build, which takes most of the time."""
    groups: list[list[Expr]] = []
    for output in sorted(outputs, key=lambda output: -output.type.width):
        room = (group for group in groups if sum(one.type.width for one in group) + output.type.width <= 4)
        found = next(room, None)
        if found is None:
            groups.append([output])
        else:
            found.append(output)
    return groups


class Nodes(Drawing):
    """Every node without whole surfaces, group by group."""

    def check(self, group: str) -> None:
        for case in node_cases():
            if CATALOGUE[case.name.split()[0]].group == group:
                for outputs in packed([output for output in case.outputs if output.type.base == "float"]):
                    with self.subTest(case.name, outputs=outputs):
                        self.compare(case, outputs, NODE_TOLERANCE, NODE_SHARE)


def _test_of(group: str) -> Callable[[Nodes], None]:
    return lambda case: case.check(group)


for _group in {CATALOGUE[case.name.split()[0]].group for case in node_cases()}:
    setattr(Nodes, f"test_{identifier(_group)}", _test_of(_group))


def padded(array: np.ndarray) -> np.ndarray:
    """An array of any width as four channels."""
    value = whole(array)
    return np.concatenate((value, np.zeros((4 - value.shape[0], SIZE, SIZE), dtype=np.float32)))
