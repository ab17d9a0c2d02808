"""Problems: the sentence, where it is, and mends that really mend."""

import unittest

import numpy as np

from tests.support.graphs import TEXTURES, built, demo_graph_of, demo_graphs
from velvet_moth.core.document.graph import Graph, Node, Parameter, Source, Variant
from velvet_moth.core.editing.joining import Join
from velvet_moth.core.operations import AddNode, AddParameter, AddVariant, Operation, SetValue, Unwire, Wire
from velvet_moth.core.pictures.formats import Picture
from velvet_moth.core.pictures.inspection import inspect
from velvet_moth.core.pictures.reading import Reading
from velvet_moth.core.workbench.problems import Problem
from velvet_moth.core.workbench.session import Session
from velvet_moth.demo.shipped_pictures import demo_mesh


def problems(graph: Graph) -> list[Problem]:
    return Session().show(graph, "", None, TEXTURES.get, graphs=demo_graph_of, meshes=demo_mesh).problems


MISMATCHED = (AddNode(Node("tint", "colour")), Wire("dock", "roughness", "tint", "colour"))


class Mismatches(unittest.TestCase):
    def test_a_colour_on_a_number_offers_both_mends(self) -> None:
        (problem,) = problems(built(*MISMATCHED))
        self.assertEqual((problem.severity, problem.node, problem.input), ("error", "dock", "roughness"))
        self.assertEqual(
            problem.what,
            "This input takes one number; the wire carries a colour: use luminance or pick a channel.",
        )
        self.assertEqual([m.words for m in problem.mends], ["Use luminance", "Pick a channel", "Remove the wire"])

    def test_every_mend_solves_its_problem(self) -> None:
        pairs = (
            ("colour", "colour", "dock", "roughness"),
            ("uv", "uv", "dock", "roughness"),
            ("uv", "uv", "dock", "normal"),
            ("position", "position", "dock", "roughness"),
            ("position", "position", "tile", "uv"),
            ("compare", "answer", "dock", "roughness"),
            ("number", "value", "choose", "condition"),
            ("surface", "surface", "dock", "base_colour"),
        )
        for kind, output, target, key in pairs:
            graph = built(AddNode(Node("a", kind)))
            if target != "dock":
                graph, _ = AddNode(Node("b", target)).apply(graph)
            graph, _ = Wire("dock" if target == "dock" else "b", key, "a", output).apply(graph)
            found = [p for p in problems(graph) if p.severity == "error"]
            self.assertEqual(len(found), 1, (kind, target))
            for mend in found[0].mends:
                with self.subTest(kind=kind, target=target, mend=mend.words):
                    mended, _ = mend.operation.apply(graph)
                    self.assertEqual([p for p in problems(mended) if p.severity == "error"], [])

    def test_the_rest_of_the_graph_still_works(self) -> None:
        shown = Session().show(built(*MISMATCHED), "", None, TEXTURES.get)
        self.assertIn("picture =", shown.drawing.shader.fragment)


class Silences(unittest.TestCase):
    """What is wrong and looks right: a problem says so, and one press mends it."""

    def told(self, code: str, *operations: Operation) -> Problem:
        graph = built(*operations)
        (found,) = [p for p in problems(graph) if p.code == code]
        for mend in found.mends:
            if mend.operation is not None and mend.words != "Remove the wire":
                mended, _ = mend.operation.apply(graph)
                self.assertNotIn(code, {p.code for p in problems(mended)}, mend.words)
        return found

    def test_a_colour_where_a_direction_is_taken(self) -> None:
        """To three numbers as a normal, to two as a flow; one that was decoded by arithmetic is right."""
        tint, docked = AddNode(Node("tint", "colour")), Wire("dock", "normal", "tint", "colour")
        self.assertEqual(self.told("stored-direction", tint, docked).mends[0].words, "Decode it as a normal")
        strands = Wire("dock", "anisotropy_direction", "tint", "colour", "xy")
        self.assertEqual(self.told("stored-direction", tint, strands).mends[0].words, "Decode it as a flow")
        by_hand = built(
            tint,
            AddNode(Node("twice", "multiply", {"b": (2.0,)}, wires={"a": Source("tint", "colour")})),
            AddNode(Node("less", "subtract", {"b": (1.5,)}, wires={"a": Source("twice", "result")})),
            Wire("dock", "normal", "less", "result"),
        )
        self.assertNotIn("stored-direction", {p.code for p in problems(by_hand)})

    def test_a_colour_on_two_numbers_gives_its_first_two(self) -> None:
        graph = built(AddNode(Node("map", "texture")))
        joined, _ = Join("dock", "anisotropy_direction", "map", "colour").batch(graph).apply(graph)
        self.assertEqual(joined.nodes["dock"].wires["anisotropy_direction"], Source("map", "colour", "xy"))

    def test_channels_that_are_not_what_they_seem(self) -> None:
        """The alpha of a picture without one; a single channel of a colour, which arrives as light."""
        file = Picture(np.random.default_rng(2).integers(0, 256, (8, 8, 3), dtype=np.uint8))
        reading = Reading("colour")
        seen = inspect(file, reading)
        graph = built(
            AddNode(Node("map", "texture", {"texture": "rust"})),
            Wire("dock", "metallic", "map", "alpha"),
            Wire("dock", "roughness", "map", "red"),
        )
        found = Session().show(graph, "", None, lambda key: None, inspections=lambda key: ("Rust", reading, seen))
        told = {p.input: p for p in found.problems}
        self.assertIn("no alpha", told["metallic"].what)
        self.assertIn("Use luminance", [m.words for m in told["metallic"].mends])
        self.assertIn("0.50 in the file is 0.21", told["roughness"].what)
        self.assertEqual(told["roughness"].mends[0].reading, Reading("data"))

    def test_values_far_from_any_use(self) -> None:
        noise = AddNode(Node("n", "value_noise", {"scale": (999999.0,)}))
        docked = Wire("dock", "roughness", "n", "value")
        self.assertIn("Scale is 999,999; it is of use within 0.00 … 64.00", self.told("far-out", noise, docked).what)
        values = {"index": (40.0,), "columns": (5.0,), "rows": (5.0,)}
        atlas, picture = AddNode(Node("a", "atlas_cell", values)), Wire("dock", "base_colour", "a", "colour")
        self.assertIn("Index is 40.00", self.told("outside-channel", atlas, picture).what)
        plain = built(AddNode(Node("big", "multiply", {"b": (5000.0,)})), Wire("dock", "emissive", "big", "result"))
        self.assertNotIn("far-out", {p.code for p in problems(plain)}, "arithmetic may be anything")


class FalseAlarms(unittest.TestCase):
    def told(self, *operations: Operation) -> set[str]:
        return {p.code for p in problems(built(*operations)) if p.severity != "note"}

    def test_a_mask_that_comes_and_goes_with_time(self) -> None:
        """It is one value at the moment of the swatch and varies at others; one that never does is still told."""
        shared = (
            AddNode(Node("l", "loop", {"length": (6.0,)})),
            AddNode(Node("n", "value_noise")),
            AddNode(Node("d", "dissolve", wires={"pattern": Source("n", "value"), "gone": Source("l", "value")})),
            AddNode(Node("m", "mix", wires={"amount": Source("d", "edge")})),
            Wire("dock", "roughness", "m", "result"),
        )
        self.assertNotIn("constant-mask", self.told(*shared))
        never = (SetValue("d", "gone", (2.0,)), Unwire("d", "gone"))
        self.assertIn("constant-mask", self.told(*shared, *never[::-1]))

    def test_ranges_that_are_proved_narrow(self) -> None:
        """Readings from three sides, and a hue that is turned by nothing."""
        sides = AddNode(Node("t", "triplanar", {"texture": "flake_height"}))
        self.assertEqual(self.told(sides, Wire("dock", "roughness", "t", "red")), set())
        hue = AddNode(Node("h", "hue_turn"))
        self.assertEqual(self.told(hue, Wire("dock", "base_colour", "h", "colour")), set())


class Ranges(unittest.TestCase):
    def below_zero(self) -> Graph:
        return built(
            AddNode(Node("fall", "view_falloff")),
            AddNode(Node("shift", "subtract", {"b": (0.5,)}, wires={"a": Source("fall", "value")})),
            AddNode(Node("bend", "power", wires={"base": Source("shift", "result")})),
            Wire("dock", "roughness", "bend", "result"),
        )

    def test_a_power_of_a_negative_is_seen_confirmed_and_mended(self) -> None:
        graph = self.below_zero()
        (problem,) = problems(graph)
        self.assertEqual((problem.severity, problem.node, problem.input), ("warning", "bend", "base"))
        self.assertIn("Base runs over −0.50 … 0.50", problem.what)
        self.assertIn("The swatch reaches −0.50", problem.what)
        mended, _ = problem.mends[0].operation.apply(graph)
        self.assertEqual(problems(mended), [])

    def test_what_can_happen_but_does_not_only_says_may(self) -> None:
        graph = built(
            AddNode(Node("n", "gradient_noise")),
            AddNode(Node("s", "subtract", {"b": (0.01,)}, wires={"a": Source("n", "value")})),
            AddNode(Node("r", "square_root", wires={"value": Source("s", "result")})),
            Wire("dock", "roughness", "r", "result"),
        )
        (problem,) = problems(graph)
        self.assertEqual(problem.severity, "may")
        self.assertIn("The swatch stays within", problem.what)

    def test_a_division_by_zero_set_by_hand(self) -> None:
        graph = built(AddNode(Node("d", "divide", {"b": (0.0,)})), Wire("dock", "roughness", "d", "result"))
        (problem,) = problems(graph)
        self.assertEqual((problem.severity, problem.input), ("warning", "b"))
        mended, _ = problem.mends[0].operation.apply(graph)
        self.assertEqual(problems(mended), [])

    def test_a_channel_outside_its_range_and_a_parameters_whole_range(self) -> None:
        (problem,) = problems(built(SetValue("dock", "roughness", (1.5,))))
        self.assertIn("Roughness is 1.50", problem.what)
        opened = built(AddParameter(Parameter("p", "Rough", "dock", "roughness", -1.0, 2.0)))
        self.assertEqual([p.severity for p in problems(opened)], ["may"])

    def test_a_parameter_is_mended_where_its_value_stands(self) -> None:
        graph = built(
            AddParameter(Parameter("p", "Rough", "dock", "roughness", -1.0, 2.0)),
            AddVariant(Variant("wild", "Wild", {"p": (-0.5,)})),
        )
        in_variant = Session().show(graph, "wild", None, TEXTURES.get).problems[0]
        self.assertEqual(in_variant.severity, "warning")
        for words, variant, mended_value in (("Set it within 0–1", "wild", 0.0), ("Narrow its slider to 0–1", "", 0.5)):
            (problem,) = Session().show(graph, variant, None, TEXTURES.get).problems
            self.assertEqual(problem.mends[0].words, words)
            graph, _ = problem.mends[0].operation.apply(graph)
            self.assertEqual(graph.uniform_values(variant)["dock", "roughness"], (mended_value,))
        self.assertEqual(problems(graph), [])

    def test_a_missing_texture_says_how_it_reads(self) -> None:
        (unset,) = problems(built(AddNode(Node("m", "normal_map"))))
        self.assertIn("it reads as a flat normal map", unset.what)
        self.assertEqual(unset.severity, "note")
        (gone,) = problems(built(AddNode(Node("m", "texture", {"texture": "t0ff"}))))
        self.assertEqual((gone.severity, "is gone" in gone.what), ("warning", True))

    def test_a_surface_that_is_not_wired_is_noted(self) -> None:
        graph = built(
            AddNode(Node("s", "surface")), AddNode(Node("m", "mix_surfaces", wires={"a": Source("s", "surface")}))
        )
        (missing,) = problems(graph)
        self.assertEqual((missing.code, missing.severity, missing.input), ("missing-surface", "note", "b"))

    def test_the_demo_is_without_problems(self) -> None:
        for graph in demo_graphs():
            serious = [p.what for p in problems(graph) if p.severity != "may"]
            self.assertEqual(serious, [], graph.title)


class Seen(unittest.TestCase):
    """Problems that only samples can tell."""

    def test_a_mask_that_is_the_same_everywhere(self) -> None:
        graph = built(
            AddNode(Node("n", "gradient_noise")),
            AddNode(
                Node("edge", "smooth_step", {"low": (2.0,), "high": (3.0,)}, wires={"value": Source("n", "value")})
            ),
            AddNode(Node("m", "mix", wires={"amount": Source("edge", "result")})),
            Wire("dock", "base_colour", "m", "result"),
        )
        (problem,) = problems(graph)
        self.assertEqual((problem.code, problem.severity, problem.input), ("constant-mask", "warning", "amount"))
        mended, _ = problem.mends[0].operation.apply(graph)
        self.assertEqual(problems(mended), [])

    def test_two_patterns_with_one_seed_move_together(self) -> None:
        graph = built(
            AddNode(Node("tone", "value_noise", {"seed": (4.0,)})),
            AddNode(Node("dull", "value_noise", {"seed": (4.2,)})),
            Wire("dock", "base_colour", "tone", "value"),
            Wire("dock", "roughness", "dull", "value"),
        )
        (problem,) = problems(graph)
        self.assertEqual((problem.code, problem.severity), ("shared-seed", "warning"))
        mended, _ = problem.mends[0].operation.apply(graph)
        self.assertEqual(problems(mended), [])
        apart, _ = SetValue("dull", "scale", (3.0,)).apply(graph)
        self.assertEqual(problems(apart), [], "one seed at another scale is another pattern")

    def test_a_vector_without_length_is_told_only_where_it_happens(self) -> None:
        still = built(AddNode(Node("v", "triple", {"value": (0.0, 0.0, 0.0)})), AddNode(Node("n", "normalise")))
        still, _ = Wire("n", "vector", "v", "vector").apply(still)
        (problem,) = problems(still)
        self.assertEqual((problem.severity, "no direction" in problem.what), ("warning", True))
        mended, _ = problem.mends[0].operation.apply(still)
        self.assertEqual(problems(mended), [])
        fine, _ = SetValue("v", "value", (0.0, -1.0, 0.0)).apply(still)
        self.assertEqual(problems(fine), [])

    def test_a_mix_beyond_its_ends(self) -> None:
        (problem,) = problems(built(AddNode(Node("m", "mix", {"amount": (1.5,)}))))
        self.assertIn("goes past A or B", problem.what)


class Vertices(unittest.TestCase):
    def test_what_exists_per_pixel_only_is_refused_in_the_offset(self) -> None:
        for kind, output in (("depth_behind", "depth"), ("face_side", "front"), ("texture", "red")):
            graph = built(
                AddNode(Node("fine", kind)),
                AddNode(Node("push", "along_normal", wires={"height": Source("fine", output)})),
                Wire("dock", "offset", "push", "offset"),
            )
            found = [p for p in problems(graph) if p.severity == "error"]
            self.assertEqual([(p.code, p.input) for p in found], [("per-pixel", "offset")])
            self.assertNotIn("values", Session().show(graph, "", None, TEXTURES.get).drawing.shader.vertex)
            mended, _ = found[0].mends[-1].operation.apply(graph)
            self.assertEqual([p for p in problems(mended) if p.severity == "error"], [])

    def test_also_where_a_whole_surface_brings_it(self) -> None:
        graph = built(
            AddNode(Node("relief", "noise_relief")),
            AddNode(Node("stone", "surface", wires={"offset": Source("relief", "offset")})),
            AddNode(Node("plain", "surface")),
            AddNode(Node("map", "texture")),
            AddNode(
                Node(
                    "both",
                    "mix_surfaces",
                    wires={
                        "a": Source("stone", "surface"),
                        "b": Source("plain", "surface"),
                        "amount": Source("map", "red"),
                    },
                )
            ),
            Wire("dock", "surface", "both", "surface"),
        )
        self.assertEqual([p.code for p in problems(graph) if p.severity == "error"], ["per-pixel"])

    def test_a_texture_on_a_number_says_which_channel_carries_something(self) -> None:
        graph = built(
            AddNode(Node("map", "texture", {"texture": "flake_height"})), Wire("dock", "roughness", "map", "colour")
        )
        (problem,) = [p for p in problems(graph) if p.severity == "error"]
        words = [m.words for m in problem.mends]
        self.assertEqual([w.split(" (")[0] for w in words[:2]], ["Use luminance", "Use red"])
        self.assertIn("Use alpha (1.00 everywhere)", words)
        self.assertLess(words.index("Use red (0.00 … 1.00)"), words.index("Use alpha (1.00 everywhere)"))
        mended, _ = problem.mends[1].operation.apply(graph)
        self.assertEqual(mended.nodes["dock"].wires["roughness"], Source("map", "red"))
