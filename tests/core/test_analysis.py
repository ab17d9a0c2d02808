"""What a graph costs, what its values run over, and the room a moved form takes."""

import unittest
from dataclasses import replace

import numpy as np

from tests.support.graphs import TEXTURES, built, demo_graph_of, demo_graphs
from velvet_moth.core.catalogue.registry import CATALOGUE
from velvet_moth.core.document.graph import Graph, Node, Parameter, Source, Variant
from velvet_moth.core.language.expr import Rate
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.operations import AddNode, AddParameter, AddVariant, Wire
from velvet_moth.core.render.shading import drawing
from velvet_moth.core.render.tracing.scene import Scene
from velvet_moth.core.workbench.analysis import (
    moved_bounds,
    own_cost,
    ranges,
    saved_when_muted,
    spent,
    toggle_savings,
)
from velvet_moth.core.workbench.examples import example, example_picture, facts
from velvet_moth.core.workbench.problems import find_problems
from velvet_moth.core.workbench.session import Session, picture, textures_of
from velvet_moth.demo.shipped_pictures import demo_mesh


def demo(title: str) -> Graph:
    return next(g for g in demo_graphs() if g.title == title)


def switched() -> Graph:
    """A dear branch behind a toggle, which one variant switches on."""
    return built(
        AddNode(Node("dear", "fractal_noise", settings={"layers": 6})),
        AddNode(Node("is_rich", "toggle", {"value": (0.0,)})),
        AddNode(
            Node("pick", "choose", wires={"condition": Source("is_rich", "answer"), "yes": Source("dear", "value")})
        ),
        Wire("dock", "roughness", "pick", "result"),
        AddParameter(Parameter("rich", "Rich", "is_rich", "value")),
        AddVariant(Variant("fine", "Fine", {"rich": (1.0,)})),
    )


class Toggles(unittest.TestCase):
    def test_the_branch_not_taken_costs_nothing_and_each_variant_has_its_shader(self) -> None:
        graph = switched()
        plain, rich = lower(graph), lower(graph, "fine")
        self.assertEqual(spent(plain).pixel.operations, 0)
        self.assertGreater(spent(rich).pixel.operations, 300)
        self.assertNotIn("noise", drawing(plain).shader.fragment)
        self.assertIn("fn_fractal_noise", drawing(rich).shader.fragment)
        self.assertIs(drawing(lower(graph, "fine")).shader, drawing(rich).shader, "kept, not built again")

    def test_what_turning_a_toggle_and_muting_a_node_would_save(self) -> None:
        graph = switched()
        rich = spent(lower(graph, "fine")).pixel
        self.assertEqual(toggle_savings(graph, "fine")["is_rich", "value"], rich)
        self.assertLess(toggle_savings(graph)["is_rich", "value"].operations, 0, "it would cost more")
        saved = saved_when_muted(graph, "dear", "fine")
        self.assertEqual(saved, own_cost(lower(graph, "fine"), graph.nodes["dear"]))
        self.assertEqual(saved, rich)

    def test_pictures_follow_the_variant(self) -> None:
        splash = demo("Silt splash")
        soft, hard = (picture(splash, (64, 64), TEXTURES.get, v) for v in ("", "hard_edge"))
        self.assertGreater(int((np.abs(soft.astype(int) - hard.astype(int)).max(axis=2) > 20).sum()), 100)


class Seen(unittest.TestCase):
    def test_ranges_on_the_stage_lie_within_what_is_proved(self) -> None:
        for graph in demo_graphs():
            lowered = lower(graph)
            bound, _ = textures_of(graph, graph.uniform_values(), TEXTURES.get)
            for node in graph.nodes.values():
                scene = Scene.of_graph(graph) if graph.kind == "decal" else Scene.of(graph.form)
                for key, found in ranges(lowered, node, "", bound, scene).items():
                    with self.subTest(graph.title, node=node.id, output=key):
                        assert found.seen is not None
                        slack = 1e-4 * max(1.0, abs(found.seen.low), abs(found.seen.high))
                        self.assertGreaterEqual(found.seen.low, found.proved.low - slack)
                        self.assertLessEqual(found.seen.high, found.proved.high + slack)

    def test_rates_and_vertex_cost(self) -> None:
        water = demo("Basin water")
        lowered = lower(water)
        bound, _ = textures_of(water, water.uniform_values(), TEXTURES.get)
        swell = ranges(lowered, water.nodes["swell"], "", bound, Scene.of("plane"))
        self.assertEqual({r.rate for r in swell.values()}, {Rate.VERTEX})
        self.assertEqual(ranges(lowered, water.nodes["depth"], "", bound, Scene.of("plane"))["depth"].rate, Rate.PIXEL)
        found = spent(lowered)
        self.assertGreater(found.vertex.operations, 50)
        self.assertEqual(found.vertex, found.channels["offset"])
        self.assertEqual(found.pixel.reads, 6)

    def test_a_moved_form_never_leaves_its_proved_box(self) -> None:
        for title in ("Basin water", "Lock-side reeds"):
            graph = demo(title)
            lowered = lower(graph)
            for time in (0.0, 1.3, 7.9, 59.0):
                found = moved_bounds(lowered, "", {}, replace(Scene.of(graph.form), time=time))
                assert found is not None
                for axis in range(3):
                    self.assertLessEqual(found.proved.low[axis], found.seen.low[axis] + 1e-5)
                    self.assertGreaterEqual(found.proved.high[axis], found.seen.high[axis] - 1e-5)
                self.assertLess(max(found.proved.high), 20, "a bound that says nothing is none")
        self.assertIsNone(moved_bounds(lower(demo("Ferry enamel")), "", {}, Scene.of("mooring")))


class Examples(unittest.TestCase):
    def test_every_node_has_an_example_that_opens_without_an_error(self) -> None:
        for key, kind in CATALOGUE.items():
            if kind.hidden:
                continue
            with self.subTest(key):
                graph = example(kind)
                errors = [p for p in find_problems(lower(graph), {}) if p.severity == "error"]
                self.assertEqual(errors, [])
                self.assertIn("this_node", {s.node for n in graph.nodes.values() for s in n.wires.values()})
                proved, cost = facts(key)
                self.assertEqual(set(proved), set(kind.outputs))
                self.assertGreaterEqual(cost.operations, 0)
        self.assertTrue(example_picture("brick").startswith(b"\x89PNG"))

    def test_the_starters_open_without_a_word_of_warning(self) -> None:
        for graph in demo_graphs():
            found = Session().show(graph, "", None, TEXTURES.get, graphs=demo_graph_of, meshes=demo_mesh).problems
            self.assertEqual([(p.severity, p.what) for p in found], [], graph.title)
