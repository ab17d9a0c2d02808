"""Primitives: every rule is there, ranges enclose values, edges of domains give what is stated."""

import dataclasses
import random
import unittest

import numpy as np

import velvet_moth.core.nodes  # noqa: F401 - fills the catalogue
from tests.support.cases import node_cases, primitive_cases, random_arrays
from velvet_moth.core.base.errors import ExpressionError
from velvet_moth.core.catalogue.registry import CATALOGUE
from velvet_moth.core.language import primitives as p
from velvet_moth.core.language.expr import (
    PRIMITIVES,
    Expr,
    Primitive,
    apply,
    constant,
    declare,
    topological_order,
    uniform,
)
from velvet_moth.core.language.inputs import Bindings
from velvet_moth.core.language.interpreters.bound import Bounds
from velvet_moth.core.language.interpreters.evaluate import evaluate
from velvet_moth.core.language.interval import Interval
from velvet_moth.core.language.types import NUMBER, VEC2, VEC3
from velvet_moth.core.nodes.surface_point import bounds_position
from velvet_moth.core.render.swatches import dome, draw_inputs

NASTY = (0.0, -0.0, 1.0, -1.0, 0.5, 1e-38, -1e-30, 1e30, -1e30, 3.0e38)


class Rules(unittest.TestCase):
    def test_no_rule_can_be_left_out(self) -> None:
        required = [f.name for f in dataclasses.fields(Primitive) if f.default is dataclasses.MISSING]
        self.assertEqual(required, ["name", "result", "spell", "numpy", "bound", "operations", "domains"])
        for primitive in PRIMITIVES.values():
            self.assertTrue(all(callable(getattr(primitive, r)) for r in ("result", "spell", "numpy", "bound")))

    def test_every_primitive_has_a_case_here(self) -> None:
        used = {
            e.operator.name
            for c in primitive_cases()
            for e in topological_order([c.output])
            if isinstance(e.operator, Primitive)
        }
        self.assertEqual(set(PRIMITIVES) - used, set())

    def test_a_name_is_declared_once(self) -> None:
        with self.assertRaises(ExpressionError):
            declare(PRIMITIVES["add"])


class Sharing(unittest.TestCase):
    def test_equal_expressions_are_one_object(self) -> None:
        a, b = uniform("a", VEC3), uniform("b", VEC3)
        self.assertIs(a + b * 2.0, a + b * 2.0)
        self.assertIsNot(a + b, b + a)

    def test_constants_fold(self) -> None:
        self.assertIs(constant(2.0) * 3.0 + 1.0, constant(7.0))
        self.assertIs(p.normalise(constant(0.0, 3.0, 4.0)), constant(0.0, 0.6, 0.8))

    def test_types_that_do_not_meet_are_refused(self) -> None:
        with self.assertRaises(ExpressionError):
            uniform("a", VEC2) + uniform("b", VEC3)
        with self.assertRaises(ExpressionError):
            apply("swizzle", uniform("a", VEC2), attributes=(2,))


class Edges(unittest.TestCase):
    def value(self, expr: Expr) -> float:
        self.assertEqual(expr.rate, 0, "folded")
        return float(expr.attributes[0])

    def test_stated_values(self) -> None:
        zero, minus = constant(0.0), constant(-2.0)
        self.assertEqual(self.value(constant(5.0) / zero), 0.0)
        self.assertEqual(self.value(p.power(minus, 1.3)), 0.0)
        self.assertEqual(self.value(p.power(zero, 0.0)), 1.0)
        self.assertEqual(self.value(p.square_root(minus)), 0.0)
        self.assertEqual(self.value(p.modulo(minus, 3.0)), 1.0)
        self.assertEqual(self.value(p.arctangent(zero, zero)), 0.0)
        self.assertEqual(p.normalise(constant(0.0, 0.0, 0.0)).attributes, (0.0, 0.0, 0.0))
        self.assertAlmostEqual(self.value(p.arccosine(minus)), np.pi, places=6)

    def test_guarded_primitives_bear_no_nan(self) -> None:
        a, b = np.meshgrid(np.array(NASTY, dtype=np.float32), np.array(NASTY, dtype=np.float32))
        for name in ("divide", "modulo", "power", "square_root", "logarithm", "exponential", "arccosine", "arctangent"):
            with self.subTest(name), np.errstate(all="ignore"):
                result = PRIMITIVES[name].numpy([a, b], ())
                self.assertFalse(np.isnan(result).any())


class Ranges(unittest.TestCase):
    """The interval of every primitive and node encloses what random inputs give: also the proof of each assume."""

    def check(self, cases: list, seed: int, beyond: float = 0.0) -> None:
        """With values ``beyond`` the sliders by so many times their length."""
        for case in cases:
            with self.subTest(case.name, seed=seed, beyond=beyond), np.errstate(all="ignore"):
                random.seed(seed)
                far = {
                    k: (t, low - beyond * (high - low), high + beyond * (high - low))
                    for k, (t, low, high) in case.ranges.items()
                }
                case = dataclasses.replace(case, ranges=far)
                arrays = random_arrays(case, np.random.default_rng(seed))
                bindings = Bindings({**dome(), **draw_inputs()}, arrays, case.textures)
                ranges = {k: Interval(float(a.min()), float(a.max())) for k, a in arrays.items()}
                values = evaluate(case.outputs, bindings)
                intervals = Bounds(lambda key, r=ranges: r[key]).of(case.outputs)
                for value, interval in zip(values, intervals, strict=True):
                    value = value[~np.isnan(value)] if beyond else value
                    if not value.size:
                        continue
                    slack = 1e-4 * max(1.0, float(np.abs(value).max()))
                    self.assertGreaterEqual(float(value.min()), interval.low - slack)
                    self.assertLessEqual(float(value.max()), interval.high + slack)

    def test_primitives(self) -> None:
        self.check(primitive_cases(), 11)

    def test_nodes(self) -> None:
        cases = node_cases()
        flat = [n for n in CATALOGUE.values() if n.is_flat and not n.hidden]
        self.assertGreaterEqual(len(cases), len(flat))
        for seed in (1, 2, 3):
            self.check(cases, seed)

    def test_nodes_far_outside_their_sliders(self) -> None:
        """As parameters allow: a proof may not depend on what a slider offers."""
        for seed, beyond in ((5, 3.0), (6, 100.0)):
            self.check(node_cases(), seed, beyond)

    def enclosed(
        self, output: Expr, values: dict[str, list[float]], inputs: dict[str, np.ndarray] | None = None
    ) -> Interval:
        """The range of one number over some values, which holds all of them."""
        arrays = {key: np.array(found, dtype=np.float32)[None] for key, found in values.items()}
        with np.errstate(all="ignore"):
            (found,) = evaluate([output], Bindings(inputs or {}, arrays))
        table = {key: Interval(min(found), max(found)) for key, found in values.items()}
        (proved,) = Bounds(table.__getitem__).of([output])
        self.assertGreaterEqual(float(found.min()), proved.low)
        self.assertLessEqual(float(found.max()), proved.high)
        return proved

    def test_at_special_values(self) -> None:
        a, b = uniform("a", NUMBER), uniform("b", NUMBER)
        rest = self.enclosed(p.modulo(a, b), {"a": [328.0, 1e6, 1e6], "b": [0.0, 1.1, 0.3]})
        self.assertEqual(rest, Interval(0.0, 1.1), "by nothing it is nothing")
        self.assertEqual(self.enclosed(a * p.exponential(b), {"a": [64.0], "b": [87.0]}).high, float("inf"))
        below = {
            "object_position": np.full((3, 1, 1), 9.0),
            "form_low": np.zeros((3, 1, 1)),
            "form_high": np.ones((3, 1, 1)),
        }
        inside = bounds_position().x
        self.assertEqual(self.enclosed(inside, {}, below), Interval(0.0, 1.0), "a decal reaches beyond its box")

    def test_a_mix_stays_between_its_ends(self) -> None:
        mixed = p.mix(uniform("a", NUMBER), uniform("b", NUMBER), uniform("t", NUMBER))
        table = {"a": Interval(2, 3), "b": Interval(5, 6), "t": Interval(0, 1)}
        self.assertEqual(Bounds(table.__getitem__).of([mixed]), [Interval(2, 6)])
