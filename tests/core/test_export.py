"""Shaders for engines: all that must be bound is said, plain values are folded, and limits of devices are named."""

import re
import unittest
from dataclasses import replace

import numpy as np

from tests.support.graphs import TEXTURES, built, demo_graphs
from velvet_moth.core.document.graph import Graph, Node, Parameter, Source
from velvet_moth.core.language.expr import constant
from velvet_moth.core.language.inputs import Bindings
from velvet_moth.core.language.interpreters.evaluate import evaluate
from velvet_moth.core.lighting.channels import Surface, default_surface
from velvet_moth.core.lighting.shown import appearance
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.operations import AddNode, SetValue, Wire, set_field
from velvet_moth.core.pictures.reading import Reading
from velvet_moth.core.render.binding_list import ReadTexture, binding_list, instance_files
from velvet_moth.core.render.shading import drawing, shown_look
from velvet_moth.core.render.swatches import dome, draw_inputs
from velvet_moth.core.render.tracing.reference import render
from velvet_moth.core.render.tracing.scene import Scene, stage_textures
from velvet_moth.core.render.tracing.staged import uniform_arrays
from velvet_moth.core.workbench.problems import beyond_devices, find_problems
from velvet_moth.core.workbench.session import textures_of

SIZE = (24, 24)


def texture_nodes(count: int, textures: int) -> Graph:
    """Nodes that each read one of so many textures, added up and docked."""
    operations = []
    last = Source("map_0", "colour")
    for number in range(count):
        values = {"texture": f"t{number % textures}"}
        operations.append(AddNode(Node(f"map_{number}", "texture", values=values)))
        if number:
            operations += [
                AddNode(Node(f"sum_{number}", "add")),
                Wire.of(f"sum_{number}", "a", last),
                Wire.of(f"sum_{number}", "b", Source(f"map_{number}", "colour")),
            ]
            last = Source(f"sum_{number}", "result")
    return built(*operations, Wire.of("dock", "base_colour", last))


class Folding(unittest.TestCase):
    def test_a_folded_graph_is_the_same_picture_and_keeps_only_its_parameters_outside(self) -> None:
        for graph in demo_graphs():
            with self.subTest(graph.title):
                plain, folded = lower(graph), lower(graph, folded=True)
                opened = {(p.node, p.input) for p in graph.parameters}
                kept = {(s.key[0], s.key[1].partition("#")[0]) for s in drawing(folded).shader.slots}
                self.assertLessEqual(kept, opened)
                values = graph.uniform_values()
                bound, _ = textures_of(graph, values, TEXTURES.get)
                around = Bindings({**dome(), **draw_inputs()}, uniform_arrays(values), {**stage_textures(), **bound})
                looks = [shown_look(one) for one in (plain, folded)]
                for each in zip(*([k.picture, *([k.offset] if k.offset else [])] for k in looks), strict=True):
                    made = [evaluate([expr], replace(around, given=looks[0].given))[0] for expr in each]
                    # Sums in another order may fall on the other side of a step.
                    self.assertGreater(np.isclose(*made, atol=2e-3).mean(), 0.995)

    def test_lobes_of_no_strength_are_left_out(self) -> None:
        """A black surface that reflects nothing reads no surroundings, whether it was folded or never was wired."""
        dark = built(
            SetValue("dock", "base_colour", (0.0, 0.0, 0.0)),
            SetValue("dock", "specular", (0.0,)),
            SetValue("dock", "emissive", (0.0, 0.4, 0.2)),
        )
        shaders = [drawing(lower(dark, folded=folded)).shader for folded in (False, True)]
        read = [{s.key for s in shader.samplers} for shader in shaders]
        self.assertIn("environment", read[0])
        self.assertEqual(read[1], set())

    def test_a_surface_that_only_emits_costs_no_light(self) -> None:
        """Though it stands among lit ones: neither the sun nor the surroundings are read."""
        graph = built(AddNode(Node("glow", "emission")), Wire("dock", "surface", "glow", "surface"))
        self.assertEqual(drawing(lower(graph)).shader.samplers, ())

    def test_an_unlit_surface_is_its_own_light_over_what_is_behind(self) -> None:
        """Against the closed form of the tone curve and the transfer function."""
        own = Surface(
            {**default_surface().channels, "base_colour": constant(0.1, 0.2, 0.3), "emissive": constant(0.0, 0.1, 0.0)}
        )
        scene = Scene("plane")
        found = render(appearance(own, None, "unlit"), {}, {}, SIZE, scene)
        light = np.array([0.1, 0.3, 0.3]) * scene.rig.exposure
        curve = np.clip(light * (2.51 * light + 0.03) / (light * (2.43 * light + 0.59) + 0.14), 0, 1)
        shown = np.where(curve < 0.0031308, curve * 12.92, 1.055 * curve ** (1 / 2.4) - 0.055)
        is_form = found[..., 3] == 255
        self.assertGreater(is_form.mean(), 0.2)
        np.testing.assert_allclose(found[is_form][:, :3], np.tile(shown * 255, (is_form.sum(), 1)), atol=1.0)
        shader = drawing(lower(built(set_field("kind", "unlit")))).shader
        self.assertEqual(shader.samplers, (), "neither surroundings nor shadow nor what is behind an opaque one")


class WhatIsBound(unittest.TestCase):
    def test_whatever_the_shaders_ask_for_is_listed(self) -> None:
        """Read from the text by itself: uniforms, attributes, samplers, and each number of the values."""
        for graph in demo_graphs():
            with self.subTest(graph.title):
                shader = drawing(lower(graph, folded=True)).shader
                files = {key: ReadTexture(f"{key}.png", Reading("data")) for key in TEXTURES}
                told = binding_list(graph, shader, graph.uniform_values(), files)
                asked = set(re.findall(r"^uniform (\w+) (\w+)", shader.vertex + shader.fragment, re.MULTILINE))
                listed = {(u["type"], u["name"]) for u in told["uniforms"]}
                listed |= {("sampler2D", s["name"]) for s in told["samplers"]}
                self.assertEqual({pair for pair in asked if pair[1] != "values"}, listed)
                attributes = set(re.findall(r"^in (\w+) (\w+)", shader.vertex, re.MULTILINE))
                self.assertEqual(attributes, {(a["type"], a["name"]) for a in told["attributes"]})
                held = [at for p in told["places"] for at in range(p["offset"], p["offset"] + p["floats"])]
                self.assertEqual(len(held), len(set(held)), "no two places overlap")
                for at in set(range(len(told["values"]))) - set(held):
                    self.assertEqual(told["values"][at], 0.0, "what no place holds is nothing")
                for one in told["samplers"]:
                    self.assertTrue(one["wrap"] and one["filter"] and one["role"] and one["levels"] and one["holds"])
                    if one["role"] not in ("stage", "stand-in"):
                        self.assertEqual(one["file"], f"{one['texture']}.png")

    def test_what_instances_are_painted_from_is_listed_pass_by_pass(self) -> None:
        emitting = [graph for graph in demo_graphs() if graph.emitter.is_on]
        self.assertGreaterEqual(len(emitting), 2)
        for graph in emitting:
            shader = drawing(lower(graph, folded=True)).shader
            listed = binding_list(graph, shader, graph.uniform_values(), {})["instances"]
            painted: list[str] = []
            for one, (name, made) in zip(listed["passes"], instance_files(graph.emitter).items(), strict=True):
                self.assertEqual(one["fragment"], name)
                asked = set(re.findall(r"^uniform (\w+) (\w+)", made.fragment, re.MULTILINE))
                named = {(u["type"], u["name"]) for u in one["uniforms"]}
                self.assertEqual(asked, named | {("sampler2D", s["name"]) for s in one["samplers"]})
                self.assertEqual(len(one["textures"]), made.fragment.count("layout(location"))
                painted += one["textures"]
            read = {s.key for s in shader.samplers if str(s.key).startswith("instances_")}
            self.assertTrue(read and read <= set(painted), "what vertices read is painted")

    def test_a_parameter_says_where_it_goes(self) -> None:
        """A number, a list of stops, and a texture; a place that is not opened is named by its card."""
        graph = built(
            AddNode(Node("map", "texture", values={"texture": "t1"}, label="Moss")),
            AddNode(Node("ramp", "gradient")),
            Wire.of("ramp", "at", Source("map", "red")),
            Wire.of("dock", "base_colour", Source("ramp", "colour")),
        )
        parameters = (
            Parameter("moss", "Moss map", node="map", input="texture", low=0.0, high=1.0),
            Parameter("stops", "Stops", node="ramp", input="stops", low=0.0, high=1.0),
        )
        graph = replace(graph, parameters=parameters)
        shader = drawing(lower(graph)).shader
        told = binding_list(graph, shader, graph.uniform_values(), {})
        moss, stops = told["parameters"]
        self.assertEqual((moss["value"], moss["sampler"], moss["offsets"]), ("t1", "texture_0", []))
        self.assertEqual(len(stops["offsets"]), len(stops["value"]))
        for at, stop in zip(stops["offsets"], stops["value"], strict=True):
            self.assertEqual(told["values"][at : at + len(stop)], stop)
        plain = next(p for p in told["places"] if (p["node"], p["input"]) == ("dock", "roughness"))
        self.assertEqual((plain["holds"], plain["parameter"]), ("Roughness of Dock", None))


class Devices(unittest.TestCase):
    def test_reads_of_one_texture_in_one_way_share_a_sampler(self) -> None:
        shader = drawing(lower(texture_nodes(20, 3))).shader
        self.assertEqual(len([s for s in shader.samplers if isinstance(s.key, tuple)]), 3)
        self.assertEqual(beyond_devices(texture_nodes(20, 3), shader), [])

    def test_a_texture_that_is_a_parameter_stays_by_itself(self) -> None:
        graph = texture_nodes(3, 1)
        own = Parameter("one", "One", node="map_1", input="texture", low=0.0, high=1.0)
        shader = drawing(lower(replace(graph, parameters=(own,)))).shader
        self.assertEqual({s.key[0] for s in shader.samplers if isinstance(s.key, tuple)}, {"map_0", "map_1"})

    def test_what_devices_do_not_promise_is_told_with_its_cards(self) -> None:
        (many,) = [p for p in find_problems(lower(texture_nodes(16, 16)), {}) if p.code == "device-limit"]
        self.assertIn("18 textures at once", many.what)
        self.assertIn("and 10 more", many.where)
        self.assertEqual(many.node, "map_15")
        colours = texture_nodes(230, 1)
        tinted = built(
            *[AddNode(Node(n.id, "colour")) for n in colours.nodes.values() if n.type == "texture"],
            *[AddNode(Node(n.id, n.type)) for n in colours.nodes.values() if n.type == "add"],
            *[
                Wire.of(n.id, key, source)
                for n in colours.nodes.values()
                for key, source in n.wires.items()
                if n.type != "texture"
            ],
        )
        (heavy,) = [p for p in find_problems(lower(tinted), {}) if p.code == "device-limit"]
        self.assertIn("vectors of values", heavy.what)
        self.assertEqual(beyond_devices(tinted, drawing(lower(tinted, folded=True)).shader), [])
