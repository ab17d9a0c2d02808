"""Reduced precision: what may be held with fewer bits, against closed forms and against values that were rounded the worst way."""

import unittest

import numpy as np

from tests.support.executing import bindings
from tests.support.graphs import demo_graphs
from velvet_moth.core.exporting.exported import STEP_OF_A_PICTURE, lowered_for_export
from velvet_moth.core.exporting.shapes import SHAPES
from velvet_moth.core.language.expr import Expr, topological_order, uniform
from velvet_moth.core.language.inputs import Bindings
from velvet_moth.core.language.interpreters.bound import Bounds
from velvet_moth.core.language.interpreters.evaluate import evaluate
from velvet_moth.core.language.interpreters.precision import RELATIVE, SMALLEST, Reduced, reduced, rounding
from velvet_moth.core.language.interval import Interval
from velvet_moth.core.language.primitives import floor, less, select, sine
from velvet_moth.core.language.trace import substituted
from velvet_moth.core.language.types import NUMBER
from velvet_moth.core.workbench.problems.ranges import uniform_bounds

X, Y = uniform("x", NUMBER), uniform("y", NUMBER)


def of(ranges: dict[str, tuple[float, float]], output: Expr, *named: Expr, tolerance: float = 0.5) -> Reduced:
    bounds = Bounds(lambda key: Interval(*ranges[str(key)]))
    return reduced({"out": output}, set(named), bounds, tolerance)


class ClosedForms(unittest.TestCase):
    def test_an_error_grows_by_what_it_is_multiplied_with(self) -> None:
        # x + y is at most 3, so off by 3/1024; times x, up to 2 (and a little more, for the rounded values), that is 6/1024.
        added = X + Y
        found = of({"x": (0.0, 2.0), "y": (0.0, 1.0)}, added * X, added)
        self.assertEqual(found.values, {added})
        exact = (3 * RELATIVE + SMALLEST) * 2
        self.assertGreaterEqual(found.errors["out"], exact)
        self.assertLess(found.errors["out"], exact * 1.02)

    def test_the_slope_of_a_curve_counts(self) -> None:
        # The derivative of sin(2 x + y) by x is at most 2; the product is worked out with fewer bits too, the sum is not.
        shifted = X + 1.0
        found = of({"x": (0.0, 1.0), "y": (0.0, 1.0)}, sine(shifted * 2.0 + Y), shifted)
        exact = 2 * (2 * RELATIVE + SMALLEST) + (4 * RELATIVE + SMALLEST)
        self.assertGreaterEqual(found.errors["out"], exact * 0.999)
        self.assertLess(found.errors["out"], exact * 1.1)

    def test_what_jumps_does_not_fit_or_matters_too_much_is_kept(self) -> None:
        whole = X + 1.0
        self.assertFalse(of({"x": (0.0, 9.0)}, floor(whole), whole).values)
        self.assertFalse(of({"x": (0.0, 9.0)}, select(less(whole, 5.0), 0.0, 1.0) + whole * 0.01, whole).values)
        self.assertTrue(of({"x": (0.0, 9.0)}, whole * 0.01, whole).values)
        self.assertFalse(of({"x": (0.0, 4e4)}, whole * 1e-9, whole).values)
        self.assertFalse(of({"x": (0.0, 1.0)}, whole * 300.0, whole).values)
        self.assertTrue(of({"x": (0.0, 1.0)}, whole * 100.0, whole).values)

    def test_a_constant_beside_values_of_fewer_bits_has_fewer_too(self) -> None:
        # A third is off by up to 1/2 of the last of 10 bits in half precision; times x, up to 1.
        third = float(np.float32(1 / 3))
        shifted = X * Y
        ranges = {"x": (0.0, 1.0), "y": (0.0, 1.0)}
        found, exact = (of(ranges, shifted * c, shifted).errors["out"] for c in (third, 0.25))
        own = third * (RELATIVE + SMALLEST) + (third * RELATIVE + SMALLEST)
        self.assertGreaterEqual(found - own, abs(third - float(np.float16(third))))
        self.assertAlmostEqual(exact, 0.25 * (RELATIVE + SMALLEST) + 0.25 * RELATIVE + SMALLEST, delta=1e-6)

    def test_as_many_as_fit(self) -> None:
        first, second = X + Y, X - Y
        ranges = {"x": (0.0, 1.0), "y": (0.0, 1.0)}
        # Each of them, half of the first, and the sum, which is 2 at most: five roundings of a number up to 1 in all.
        both = of(ranges, first * 0.5 + second, first, second, tolerance=5.3 * RELATIVE)
        self.assertEqual(both.values, {first, second})
        self.assertEqual(of(ranges, first * 0.5 + second, first, second, tolerance=4.0 * RELATIVE).values, {first})


class OfTheDemo(unittest.TestCase):
    def test_no_graph_is_further_off_than_is_said(self) -> None:
        """Each value rounded up or down by chance, as far as a device may, at the pixels of a square."""
        chance = np.random.default_rng(7)
        counted, largest = 0, 0.0
        for graph in demo_graphs():
            lowered = lowered_for_export(graph, "")
            members = SHAPES["surface"].functions(lowered)[0].members
            bounds = Bounds(uniform_bounds(graph, graph.uniform_values()))
            found = reduced(members, lowered.names, bounds, STEP_OF_A_PICTURE)
            if not found.values:
                continue
            counted += len(found.values)
            around = bindings(graph)
            exact = evaluate(list(members.values()), around)
            table: dict[Expr, Expr] = {}
            uniforms = dict(around.uniforms)
            for number, expr in enumerate(e for e in topological_order(members.values()) if e in found.values):
                (value,) = evaluate(substituted([expr], table), Bindings(around.inputs, uniforms, around.textures))
                off = chance.choice([-1.0, 1.0], np.shape(value)) * RELATIVE
                uniforms["rounded", number] = (value * (1 + off)).astype(np.float32)
                table[expr] = uniform(("rounded", number), expr.type)
            rounded = evaluate(
                substituted(list(members.values()), table), Bindings(around.inputs, uniforms, around.textures)
            )
            for key, one, other in zip(members, exact, rounded, strict=True):
                off = float(np.abs(np.asarray(one, np.float64) - other).max())
                largest = max(largest, off)
                with self.subTest(graph.title, result=key):
                    self.assertLessEqual(off, found.errors[key] + 1e-6)
        self.assertGreater(counted, 100)
        self.assertGreater(largest, 5e-4, "the rounding is seen at all")

    def test_what_does_not_fit_is_not_rounded(self) -> None:
        self.assertEqual(rounding(Interval(-3e4, 0.0)), np.inf)
