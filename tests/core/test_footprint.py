"""The footprint of a pixel: the rules of differentiation hold, and coordinates that jump ask for no coarser level."""

import math
import unittest

import numpy as np

from tests.support.cases import primitive_cases
from tests.support.graphs import built
from velvet_moth.core.document.graph import Graph, Node, Source
from velvet_moth.core.language import primitives as p
from velvet_moth.core.language.expr import PRIMITIVES, Array, Expr, Primitive, constant, topological_order, uniform
from velvet_moth.core.language.footprint import footprint
from velvet_moth.core.language.inputs import Bindings, surface
from velvet_moth.core.language.interpreters.evaluate import evaluate
from velvet_moth.core.language.primitives.rules import no_change
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.language.trace import substituted
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.operations import AddNode, Operation, Wire

SIZE, PIXELS = 64, 256
# Each level holds its own number, so that a reading says which level it came from.
LEVELS = Texture(tuple(np.full((4, PIXELS >> k, PIXELS >> k), k, np.float32) for k in range(9)))


def plane() -> Array:
    """UV over a square of SIZE pixels, (2, rows, columns)."""
    at = (np.arange(SIZE, dtype=np.float32) + 0.5) / SIZE
    return np.stack(np.meshgrid(at, at))


class Rules(unittest.TestCase):
    def test_each_rule_gives_what_a_comparison_of_pixels_gives(self) -> None:
        """Every primitive with a rule, over values that change a little. Seed 3."""
        source = np.random.default_rng(3)
        around = Bindings({"uv": plane()})
        u, v = surface("uv").x, surface("uv").y
        proved = set()
        for case in primitive_cases():
            order = topological_order([case.output])
            rules = {e.operator for e in order if isinstance(e.operator, Primitive) and e.operator.change}
            if not rules or any(name in case.name for name in ("along", "sample", "size")):
                continue
            table: dict[Expr, Expr] = {}
            for key, (type_, low, high) in case.ranges.items():
                start = constant(*source.uniform(low, high, type_.width))
                along, up = (constant(*source.uniform(-0.05, 0.05, type_.width)) for _ in "uv")
                # Nothing is added: what is said to jump is worked out by the rules.
                table[uniform(key, type_)] = start + along * u + up * v + p.floor(u)
            output = substituted([case.output], table)[0]
            found = evaluate([*footprint(output), p.along_x(output), p.along_y(output)], around)
            with self.subTest(case.name):
                for by_rules, compared in zip(found[:2], found[2:], strict=True):
                    near = np.isclose(by_rules, compared, rtol=0.03, atol=2e-6)
                    self.assertGreater(near.mean(), 0.9, "all but where it jumps")
            proved |= rules
        known = {q for q in PRIMITIVES.values() if q.change not in (None, no_change)}
        self.assertEqual(known - proved, set())


class Seams(unittest.TestCase):
    """Which level a texture is read at, over all pixels of a square."""

    def levels(self, *coordinates: Operation, source: Source, reader: str = "texture", uv: str = "uv") -> Array:
        graph: Graph = built(*coordinates, AddNode(Node("map", reader)), Wire.of("map", uv, source))
        lowered = lower(graph)
        uniforms = {
            (n.id, key): np.array(n.value(key), np.float32).reshape(-1, 1, 1)
            if len(n.value(key)) > 1
            else np.float32(n.value(key)[0])
            for n in graph.nodes.values()
            for key, declared in n.kind.inputs.items()
            if not declared.source and not isinstance(n.value(key), str) and n.value(key)
        }
        around = Bindings({"uv": plane()}, uniforms, {("map", "texture"): LEVELS})
        return evaluate([lowered.outputs[Source("map", "red")]], around)[0]

    def test_coordinates_that_begin_again_in_each_cell_read_one_level(self) -> None:
        tiling = AddNode(Node("cell", "cell_number", values={"tiling": (5.0, 5.0)}))
        bricks = AddNode(Node("cell", "brick", values={"tiling": (5.0, 5.0), "shift": (0.3,)}))
        for made in (tiling, bricks):
            found = self.levels(made, source=Source("cell", "uv"))
            np.testing.assert_allclose(found, math.log2(5 * PIXELS / SIZE), atol=1e-3)

    def test_tiles_turned_each_its_own_way_read_one_level(self) -> None:
        """A turn by a random angle keeps lengths, of which the longest along u or v is within a level's half."""
        found = self.levels(
            AddNode(Node("cell", "cell_number", values={"tiling": (5.0, 5.0)})),
            AddNode(Node("random", "random_per_cell")),
            Wire.of("random", "cell", Source("cell", "cell")),
            AddNode(Node("turned", "turn")),
            Wire.of("turned", "uv", Source("cell", "uv")),
            Wire.of("turned", "angle", Source("random", "value")),
            source=Source("turned", "uv"),
        )
        np.testing.assert_allclose(found, math.log2(5 * PIXELS / SIZE), atol=1e-3)

    def test_an_angle_that_begins_again_leaves_no_seam(self) -> None:
        """Against the closed form of the change of angle and distance."""
        found = self.levels(AddNode(Node("polar", "polar_uv")), source=Source("polar", "uv"))
        x, y = plane().astype(np.float64) - 0.5
        squared = x * x + y * y
        step, far = 1 / SIZE, np.sqrt(squared)
        lengths = [
            np.hypot(-y / squared / (2 * math.pi), 2 * x / far) * step * PIXELS,
            np.hypot(x / squared / (2 * math.pi), 2 * y / far) * step * PIXELS,
        ]
        expected = np.maximum(np.log2(np.maximum(*lengths)), 0)
        np.testing.assert_allclose(found[far > 0.15], expected[far > 0.15], atol=0.15)

    def test_where_the_expression_does_not_show_it_other_coordinates_set_the_level(self) -> None:
        """Coordinates out of a texture whose neighbouring pixels differ at random."""
        noise = Texture((np.random.default_rng(1).random((4, SIZE, SIZE), np.float32),))
        lowered = lower(
            built(
                AddNode(Node("jumps", "texture")),
                AddNode(Node("map", "texture_by_footprint")),
                Wire.of("map", "uv", Source("jumps", "colour", "xy")),
            )
        )
        textures = {("map", "texture"): LEVELS, ("jumps", "texture"): noise}
        found = evaluate([lowered.outputs[Source("map", "red")]], Bindings({"uv": plane()}, {}, textures))[0]
        np.testing.assert_allclose(found, math.log2(PIXELS / SIZE), atol=1e-3)

    def test_noise_is_compared_and_not_worked_out(self) -> None:
        """It never jumps, so its own change costs one comparison."""
        noisy = lower(built(AddNode(Node("noise", "gradient_noise")), AddNode(Node("cells", "cell_noise")))).outputs
        for source in (Source("noise", "value"), Source("cells", "distance"), Source("cells", "edge")):
            self.assertFalse(noisy[source].jumps, source)
        self.assertTrue(noisy[Source("cells", "random")].jumps)
