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
from velvet_moth.core.render.swatches import dome, draw_inputs

NASTY = (0.0, -0.0, 1.0, -1.0, 0.5, 1e-38, -1e-30, 1e30, -1e30, 3.0e38)


class Rules(unittest.TestCase):
    def test_no_rule_can_be_left_out(self) -> None:
        required = [f.name for f in dataclasses.fields(Primitive) if f.default is dataclasses.MISSING]
        self.assertEqual(required, ["name", "result", "glsl", "numpy", "bound", "operations", "domains"])
        for primitive in PRIMITIVES.values():
            self.assertTrue(all(callable(getattr(primitive, r)) for r in ("result", "glsl", "numpy", "bound")))

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

    def check(self, cases: list, seed: int) -> None:
        for case in cases:
            with self.subTest(case.name, seed=seed):
                random.seed(seed)
                arrays = random_arrays(case, np.random.default_rng(seed))
                bindings = Bindings({**dome(), **draw_inputs()}, arrays, case.textures)
                ranges = {k: Interval(float(a.min()), float(a.max())) for k, a in arrays.items()}
                values = evaluate(case.outputs, bindings)
                intervals = Bounds(lambda key, r=ranges: r[key]).of(case.outputs)
                for value, interval in zip(values, intervals, strict=True):
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

    def test_a_mix_stays_between_its_ends(self) -> None:
        mixed = p.mix(uniform("a", NUMBER), uniform("b", NUMBER), uniform("t", NUMBER))
        table = {"a": Interval(2, 3), "b": Interval(5, 6), "t": Interval(0, 1)}
        self.assertEqual(Bounds(table.__getitem__).of([mixed]), [Interval(2, 6)])
