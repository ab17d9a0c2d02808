"""The text of shaders: guards where they are needed and nowhere else, both stages, kept functions, places."""

import unittest

from tests.support.graphs import built
from velvet_moth.core.document.graph import Node, Source
from velvet_moth.core.language import primitives as p
from velvet_moth.core.language.expr import Expr, constant, sampler, uniform
from velvet_moth.core.language.inputs import surface
from velvet_moth.core.language.interpreters.glsl import emit
from velvet_moth.core.language.trace import emitted_function
from velvet_moth.core.language.types import NUMBER, VEC2, VEC3
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.operations import AddNode, Wire, set_field
from velvet_moth.core.render.shading import drawing

A, B = uniform("a", NUMBER), uniform("b", NUMBER)


def line(output: Expr) -> str:
    """The last statement of the fragment shader."""
    return emit(output).fragment.splitlines()[-2].strip()


class Guards(unittest.TestCase):
    def test_a_guard_stands_where_a_value_may_leave_the_domain(self) -> None:
        for output, guarded in (
            (A / B, "divided("),
            (p.square_root(A), "max("),
            (p.logarithm(A), "max("),
            (p.arccosine(A), "clamp("),
            (p.modulo(A, B), "modulo("),
        ):
            self.assertIn(guarded, line(output))

    def test_and_is_left_out_where_a_range_shows_that_it_never_acts(self) -> None:
        positive = p.maximum(B, 0.25)
        for output, plain, guarded in (
            (A / positive, " / ", "divided("),
            (A / (p.exponential(B) + 1.0), " / ", "divided("),
            (p.square_root(p.absolute(A)), "sqrt(abs(", "max("),
            (p.logarithm(positive), "log(max(", "1.1754944e-38"),
            (p.arccosine(p.clamp(A, -0.5, 0.5)), "acos(clamp(", "-1.0, 1.0"),
            (p.modulo(A, constant(2.0)), "wrapped(", "modulo("),
            (p.length(uniform("v", VEC3)), "sqrt(dot(", "max("),
        ):
            self.assertIn(plain, line(output))
            self.assertNotIn(guarded, line(output))

    def test_what_an_artist_can_set_is_never_trusted(self) -> None:
        self.assertIn("divided(", line(A / p.clamp(B, -1.0, 1.0)), "zero lies between")
        self.assertIn("divided(", line(A / (B * B + 1e-30 - 1e-30)))

    def test_clamps_choices_and_mixes_read_as_glsl_has_them(self) -> None:
        self.assertIn("clamp(values[0].x, 0.0, 1.0)", line(p.saturate(A)))
        self.assertIn("min(max(", line(p.clamp(A, 0.0, B)), "an end that can be set stays as it is")
        chosen = line(p.select(p.less(A, B), uniform("v", VEC3), 0.5))
        self.assertIn("mix(vec3(0.5), ", chosen)
        self.assertIn("bvec3(", chosen)
        self.assertNotIn("?", chosen, "a selection, not a branch")
        self.assertIn("mixed(vec3(1.0, 1.0, 1.0), ", line(p.mix(p.combine(1.0, 1.0, 1.0), uniform("v", VEC3), A)))


class Stages(unittest.TestCase):
    def test_without_an_offset_the_form_stays_and_reads_nothing(self) -> None:
        vertex = emit(A).vertex
        self.assertIn("vec3 moved = rest_position;", vertex)
        for word in ("values", "time", "texture_"):
            self.assertNotIn(word, vertex.split("void main()")[0].replace("rest_position", ""))

    def test_both_stages_share_values_and_textures(self) -> None:
        height = p.sample(sampler("map"), surface("uv"), constant(0.0)).r
        shader = emit(height * A, offset=surface("normal") * height * B)
        self.assertEqual([s.key for s in shader.samplers], ["map"])
        self.assertEqual({s.key for s in shader.slots}, {"a", "b"})
        for text in (shader.vertex, shader.fragment):
            self.assertIn("uniform vec4 values[1];", text)
            self.assertIn("uniform sampler2D texture_map;", text)
        self.assertIn("normalize(transpose(inverse(mat3(modelMatrix))) * normal)", shader.vertex)
        self.assertNotIn("v_normal;", shader.fragment)

    def test_an_opacity_cuts_and_only_then(self) -> None:
        self.assertNotIn("discard", emit(A).fragment)
        self.assertIn("< 0.5) discard;", emit(A, opacity=B).fragment)

    def test_differences_are_taken_before_a_pixel_is_cut_away(self) -> None:
        shader = emit(p.along_x(surface("uv").x), opacity=B).fragment
        self.assertGreater(shader.rindex("discard"), shader.rindex("dFdx"))
        self.assertIn("if (sun_pass && is_cut) discard;", shader)

    def test_a_channel_that_idles_costs_nothing_until_it_is_used(self) -> None:
        plain = drawing(lower(built(AddNode(Node("n", "number"))))).shader
        for word in ("fn_coated", "discard", "fn_moved_normal"):
            self.assertNotIn(word, plain.fragment)
        for channel, word in (("clear_coat", "fn_coated"), ("opacity", "discard")):
            used = built(
                set_field("kind", "cut_out"), AddNode(Node("n", "number")), Wire("dock", channel, "n", "value")
            )
            self.assertIn(word, drawing(lower(used)).shader.fragment)
        moved = built(
            AddNode(Node("n", "along_normal")),
            AddNode(Node("v", "vertex_colour")),
            Wire("n", "height", "v", "red"),
            Wire("dock", "offset", "n", "offset"),
        )
        shader = drawing(lower(moved)).shader
        self.assertIn("fn_moved_normal", shader.fragment)
        self.assertIs(drawing(lower(moved)).shader, shader, "it is written once")
        self.assertIn("colour", shader.vertex.split("vec3 moved =")[0])


class Functions(unittest.TestCase):
    def test_one_called_from_both_stages_and_twice_stands_once_in_each(self) -> None:
        @emitted_function("Doubled")
        def doubled(x: Expr) -> Expr:
            return x * 2.0 + p.sine(x)

        twice = doubled(doubled(A))
        shader = emit(twice, offset=p.combine(twice, 0.0, 0.0))
        for text in (shader.vertex, shader.fragment):
            self.assertEqual(text.count("// Doubled\n"), 1)
            self.assertEqual(text.count("doubled("), 3)

    def test_a_function_stands_before_those_that_call_it(self) -> None:
        @emitted_function("Inner")
        def inner(x: Expr) -> Expr:
            return x * x + p.sine(x)

        @emitted_function("Outer")
        def outer(x: Expr) -> Expr:
            return inner(x) + inner(x + 1.0)

        text = emit(outer(A)).fragment
        self.assertLess(text.index("// Inner"), text.index("// Outer"))

    def test_no_two_functions_share_a_name(self) -> None:
        made = []
        for factor in (2.0, 3.0):

            @emitted_function("Scaled")
            def scaled(x: Expr, factor: float = factor) -> Expr:
                return x * factor

            made.append(scaled(A, 1.0))
        names = [e.attributes[0].name for e in made]
        self.assertEqual(len(set(names)), 2)

    def test_settings_and_what_is_settled_make_functions_of_their_own(self) -> None:
        graph = built(
            AddNode(Node("a", "gradient_noise")),
            AddNode(Node("b", "gradient_noise", {"repeat": (4.0,)})),
            AddNode(Node("m", "mix", wires={"a": Source("a", "value"), "b": Source("b", "value")})),
            Wire("dock", "base_colour", "m", "result"),
        )
        text = drawing(lower(graph)).shader.fragment
        self.assertIn("Gradient noise at a place\n", text)
        self.assertIn("Gradient noise at a place, repeating\n", text)
        plain = text[text.index("// Gradient noise at a place\n") :]
        self.assertNotIn("modulo", plain[: plain.index("}")], "what never repeats pays nothing for it")


class Shapes(unittest.TestCase):
    def test_every_width_is_painted_as_it_should(self) -> None:
        for output, written in (
            (A, "vec4(vec3("),
            (uniform("u", VEC2), ", 0.0, 1.0)"),
            (uniform("v", VEC3), ", 1.0)"),
            (p.less(A, B), "? 1.0 : 0.0"),
        ):
            self.assertIn(written, line(output))
