"""What expressions mean in each interpretation: rates, functions, cost, intervals, derivatives, levels of detail."""

import math
import unittest

import numpy as np

from velvet_moth.core.language import primitives as p
from velvet_moth.core.language.expr import (
    Expr,
    Rate,
    Structural,
    call,
    constant,
    sampler,
    topological_order,
    truth,
    uniform,
)
from velvet_moth.core.language.inputs import SURFACE_INPUTS, Bindings, surface
from velvet_moth.core.language.interpreters.bound import Bounds
from velvet_moth.core.language.interpreters.cost import Cost, cost, of_class
from velvet_moth.core.language.interpreters.evaluate import evaluate, plan
from velvet_moth.core.language.interpreters.glsl import emit
from velvet_moth.core.language.interval import EVERYTHING, Interval, inverse, product
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.language.trace import emitted_function, trace
from velvet_moth.core.language.types import (
    NUMBER,
    P_BOOL,
    P_COLOUR,
    P_FLEXIBLE,
    P_NUMBER,
    P_SURFACE,
    P_VEC2,
    P_VEC3,
    VEC2,
    VEC3,
    can_carry,
    widest,
)
from velvet_moth.core.nodes.textures import level_of_detail

A, B = uniform("a", NUMBER), uniform("b", NUMBER)


class Meaning(unittest.TestCase):
    def test_rates_rise_with_what_is_asked(self) -> None:
        self.assertEqual(constant(1.0).rate, Rate.CONSTANT)
        self.assertEqual((A + surface("time")).rate, Rate.DRAW)
        self.assertEqual((A * surface("uv")).rate, Rate.VERTEX)
        self.assertEqual((A * surface("screen_position")).rate, Rate.PIXEL)
        self.assertEqual(p.along_x(A).rate, Rate.PIXEL)

    def test_what_changes_nothing_is_left_out(self) -> None:
        self.assertIs(A + 0.0, A)
        self.assertIs(1.0 * A, A)
        v = uniform("v", VEC3)
        self.assertIs(v * 1.0, v)
        self.assertIsNot(A + constant(0.0, 0.0), A, "a number that widens is not the same value")
        self.assertIs(p.select(truth(True), A, B), A)
        self.assertIs(p.select(truth(False), v, A).type, VEC3)
        self.assertIs(p.select(p.less(A, B), A, A), A)

    def test_a_function_of_two_results_means_the_same_everywhere(self) -> None:
        both = trace("twofold", "Both", ("x", "y"), lambda x, y: (x + y, x * y), (NUMBER, NUMBER))
        total, times = call(both, [A, B])
        result = total - times
        arrays = {"a": np.full((2, 2), 3.0, np.float32), "b": np.full((2, 2), 5.0, np.float32)}
        self.assertEqual(float(evaluate([result], Bindings({}, arrays))[0][0, 0]), -7.0)
        ranges = {"a": Interval(0, 1), "b": Interval(2, 3)}
        self.assertEqual(Bounds(ranges.__getitem__).of([total, times]), [Interval(2, 4), Interval(0, 3)])
        text = emit(result).fragment
        self.assertRegex(text, r"void fn_twofold\w*\(float a_x, float a_y, out float r0, out float r1\)")
        self.assertEqual(text.count("fn_twofold("), 2, "declared once, called once for both results")

    def test_one_function_for_each_signature(self) -> None:
        @emitted_function("Twice")
        def twice(x):  # type: ignore[no-untyped-def]
            return x + x

        v = uniform("v", VEC2)
        text = emit(p.combine(twice(A), twice(B), twice(v))).fragment
        self.assertEqual(text.count("float fn_twice(float a_x)"), 1)
        self.assertEqual(text.count("vec2 fn_twice_2(vec2 a_x)"), 1)

    def test_cost_counts_pixels_not_draws_and_shares(self) -> None:
        uv = surface("uv")
        self.assertEqual(cost([A + B]), Cost())
        self.assertEqual(cost([uv + A]), of_class("arithmetic", 2))
        self.assertEqual(cost([uv + A, (uv + A) * 2.0]), of_class("arithmetic", 4))
        self.assertEqual(of_class("read", 1, 2) + of_class("read", 3, 4), of_class("read", 4, 6))

    def test_a_plan_frees_what_is_used_up(self) -> None:
        chain = surface("uv").x
        for step in range(20):
            chain = p.sine(chain + float(step + 1))
        made = plan([chain])
        self.assertGreaterEqual(sum(len(s.freed) for s in made.steps), 40)
        self.assertEqual(len(topological_order([chain])), len(made.steps))

    def test_known_values_are_not_computed_again(self) -> None:
        inner = surface("uv") * 3.0
        given = {inner: np.full((2, 1, 1), 7.0, np.float32)}
        self.assertEqual(float(evaluate([inner.x + 1.0], Bindings({}), given)[0][0, 0]), 8.0)

    def test_a_missing_binding_is_named(self) -> None:
        with self.assertRaisesRegex(KeyError, "the value 'a'"):
            evaluate([A], Bindings({}))

    def test_deep_chains_do_not_recurse(self) -> None:
        deep = surface("uv").x
        for _ in range(5000):
            deep = deep * A + B
        self.assertEqual(evaluate([deep], zeros())[0].shape, (4, 4))
        self.assertEqual(deep.operator.name, "add")
        self.assertGreater(len(emit(deep).fragment), 5000)


def zeros() -> Bindings:
    inputs = {k: np.zeros((v.type.width, 4, 4), np.float32) for k, v in SURFACE_INPUTS.items()}
    return Bindings(inputs, {"a": np.float32(0.5), "b": np.float32(0.1)})


class Intervals(unittest.TestCase):
    def test_ends_that_are_infinite_or_cross_zero(self) -> None:
        self.assertEqual(inverse(Interval(-1, 1)), EVERYTHING)
        self.assertEqual(inverse(Interval(0, 2)), Interval(0, math.inf))
        self.assertEqual(inverse(Interval(2, 4)), Interval(0.25, 0.5))
        self.assertEqual(product(Interval(0, math.inf), Interval(0, 0)), Interval(0, 0))
        self.assertEqual(Interval(-3, 9).meet(0, 1), Interval(0, 1))

    def test_a_breach_inside_a_function_points_at_the_callers_value(self) -> None:
        rooted = trace("rooted", "Rooted", ("x",), lambda x: p.square_root(x) + 1.0, (NUMBER,))
        (result,) = call(rooted, [A])
        (breach,) = Bounds({"a": Interval(-1, 4)}.__getitem__).breaches([result])
        self.assertIs(breach.argument, A)
        self.assertEqual(breach.interval, Interval(-1, 4))
        self.assertEqual(Bounds({"a": Interval(0, 4)}.__getitem__).breaches([result]), [])

    def test_every_surface_input_is_bounded(self) -> None:
        for declared in SURFACE_INPUTS.values():
            interval = Bounds(lambda key: EVERYTHING).of([declared.expr])[0]
            self.assertLess(interval.high, math.inf, declared.name)
            self.assertIs(declared.expr.operator, Structural.INPUT)


class Reading(unittest.TestCase):
    def test_differences_are_those_of_the_quad(self) -> None:
        x = np.arange(6, dtype=np.float32) ** 2
        grid = np.tile(x, (4, 1))
        value = surface("time")
        found = evaluate([p.along_x(value), p.along_y(value)], Bindings({"time": grid}))
        np.testing.assert_array_equal(found[0][0], [1, 1, 5, 5, 9, 9])
        np.testing.assert_array_equal(found[1], np.zeros((4, 6)))

    def test_the_level_follows_how_fast_coordinates_run(self) -> None:
        at = (np.arange(8, dtype=np.float32) + 0.5) / 8
        u, v = np.meshgrid(at, at)
        picture = Texture(tuple(np.full((4, 64 >> k, 64 >> k), k, np.float32) for k in range(7)))
        level = level_of_detail(p_sampler(), surface("uv"))
        for scale, expected in ((1.0, 3.0), (0.125, 0.0), (2.0, 4.0)):
            uv = np.stack((u, v)) * np.float32(scale)
            found = evaluate([level], Bindings({"uv": uv}, {}, {"t": picture}))[0]
            np.testing.assert_allclose(found, expected, atol=1e-4)
        half = picture.sample(np.stack((u, v)), np.float32(2.5))
        np.testing.assert_allclose(half, 2.5, atol=1e-6)

    def test_wraps_and_filters(self) -> None:
        """Pixels 0, 1, 2, 3 along u, read past the edge, between two of them, and before the first."""
        ramp = np.zeros((4, 1, 4), np.float32)
        ramp[0, 0] = (0, 1, 2, 3)
        for (wrap, filter_), expected in {
            ("repeat", "smooth"): (0.0, 1.5, 2.5),
            ("clamp", "smooth"): (3.0, 1.5, 0.0),
            ("mirror", "smooth"): (3.0, 1.5, 0.5),
            ("repeat", "pixels"): (0.0, 2.0, 3.0),
            ("mirror", "pixels"): (3.0, 2.0, 1.0),
        }.items():
            texture = Texture((ramp,)).read_by((wrap, wrap), filter_)
            uv = np.array([[[1.125, 0.5, -0.25]], [[0.5] * 3]], np.float32)
            np.testing.assert_allclose(texture.sample(uv, np.float32(0))[0, 0], expected, err_msg=f"{wrap} {filter_}")


def p_sampler() -> Expr:

    return sampler("t")


class Carrying(unittest.TestCase):
    def test_what_flows_into_what(self) -> None:
        yes = [(P_NUMBER, P_VEC3), (P_NUMBER, P_COLOUR), (P_COLOUR, P_VEC3), (P_VEC3, P_COLOUR), (P_VEC2, P_FLEXIBLE)]
        no = [(P_COLOUR, P_NUMBER), (P_VEC2, P_VEC3), (P_BOOL, P_NUMBER), (P_SURFACE, P_COLOUR), (P_NUMBER, P_BOOL)]
        self.assertTrue(all(can_carry(a, b) for a, b in yes))
        self.assertFalse(any(can_carry(a, b) for a, b in no))

    def test_the_widest_of_several(self) -> None:
        self.assertIs(widest([]), P_NUMBER)
        self.assertIs(widest([P_NUMBER, P_COLOUR, P_NUMBER]), P_COLOUR)
        self.assertIs(widest([P_VEC3, P_COLOUR]), P_COLOUR)
        self.assertIs(widest([P_COLOUR, P_VEC3]), P_COLOUR)
        self.assertIsNone(widest([P_VEC2, P_COLOUR]))
