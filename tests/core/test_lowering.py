"""From graph to shader: what rebuilds it and what does not, types, readable and safe text, validity."""

import random
import re
import shutil
import subprocess
import tempfile
import unittest
from pathlib import Path
from typing import Annotated

from tests.support.edits import random_operation
from tests.support.graphs import TEXTURES, demo_graphs, enamel, long_graph
from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.catalogue.ports import NUMBER_OUT, flexible, number
from velvet_moth.core.catalogue.registry import CATALOGUE, borrowed_node, node
from velvet_moth.core.catalogue.search import search
from velvet_moth.core.document.graph import Graph, Node, Source, empty_graph
from velvet_moth.core.language import primitives as p
from velvet_moth.core.language.expr import Expr
from velvet_moth.core.language.interpreters.cost import cost
from velvet_moth.core.language.interpreters.glsl import emit, number_text
from velvet_moth.core.language.types import P_COLOUR, P_NUMBER
from velvet_moth.core.lighting.channels import Surface
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.lowering.lowered import LoweredGraph
from velvet_moth.core.operations import AddNode, LabelNode, Operation, SetSetting, SetValue, Wire
from velvet_moth.core.render.shading import drawing, values_array
from velvet_moth.core.workbench.session import Session


def text(graph: Graph, shown: Source | None = None) -> str:
    return drawing(lower(graph), shown).shader.fragment


def edited(graph: Graph, *operations: Operation) -> Graph:
    for operation in operations:
        graph, _ = operation.apply(graph)
    return graph


class Rebuilding(unittest.TestCase):
    def test_no_value_an_artist_edits_changes_the_text(self) -> None:
        graph = enamel()
        before = text(graph)
        for (owner, key), value in graph.uniform_values().items():
            if isinstance(value, tuple) and not graph.nodes[owner].kind.inputs[key].idle_at_default:
                changed = edited(graph, SetValue(owner, key, tuple(c + 0.125 for c in value)))
                self.assertEqual(text(changed), before, f"{owner}.{key}")
        self.assertEqual(text(edited(graph, LabelNode("rim", "Edge of it"))), before)
        self.assertEqual(text(edited(graph, SetValue("flake_map", "texture", "another"))), before)

    def test_topology_and_settings_do_change_it(self) -> None:
        graph = enamel()
        turned = edited(graph, SetSetting("rim", "direction", "centre"))
        self.assertNotEqual(text(turned), text(graph))

    def test_a_switched_off_branch_costs_nothing(self) -> None:
        graph = edited(
            empty_graph("t"),
            AddNode(Node("costly", "fractal_noise")),
            AddNode(Node("switch", "choose", {"condition": (0.0,)}, wires={"yes": Source("costly", "value")})),
            Wire("dock", "roughness", "switch", "result"),
        )
        self.assertNotIn("fractal_noise", text(graph))
        switched = edited(graph, SetValue("switch", "condition", (1.0,)))
        self.assertIn("fractal_noise", text(switched))

    def test_what_reaches_no_channel_is_left_out(self) -> None:
        graph = edited(enamel(), AddNode(Node("loose", "cell_noise")))
        self.assertEqual(text(graph), text(enamel()))


class Types(unittest.TestCase):
    def test_flexible_ports_take_the_widest(self) -> None:
        graph = edited(
            empty_graph("t"),
            AddNode(Node("c", "colour")),
            AddNode(Node("m", "mix")),
            AddNode(Node("s", "multiply")),
        )
        self.assertIs(lower(graph).types[Source("m", "result")], P_NUMBER)
        graph = edited(graph, Wire("m", "a", "c", "colour"), Wire("s", "a", "m", "result"))
        lowered = lower(graph)
        self.assertIs(lowered.types[Source("m", "result")], P_COLOUR)
        self.assertIs(lowered.types[Source("s", "result")], P_COLOUR)

    def test_two_widths_that_cannot_meet_are_a_mismatch_on_the_second(self) -> None:
        graph = edited(
            empty_graph("t"),
            AddNode(Node("u", "uv")),
            AddNode(Node("c", "colour")),
            AddNode(Node("a", "add", wires={"a": Source("u", "uv"), "b": Source("c", "colour")})),
        )
        self.assertEqual([m.input for m in lower(graph).mismatches], ["b"])


class Remembering(unittest.TestCase):
    def test_an_edit_lowers_to_the_same_as_a_fresh_start(self) -> None:
        """Whatever the edits, what is remembered of the graph before never shows."""
        for seed in (1, 2, 3):
            draw, graph, done, session = random.Random(seed), enamel(), 0, Session()
            before: LoweredGraph | None = None
            while done < 40:
                operation = random_operation(graph, draw)
                try:
                    graph, _ = operation.apply(graph)
                except OperationRefused:
                    continue
                done += 1
                with self.subTest(seed=seed, done=done, operation=operation.op):
                    before = self.compare(graph, before)
                    shown, fresh = (s.show(graph, "", None, TEXTURES.get) for s in (session, Session()))
                    self.assertEqual(shown.problems, fresh.problems)
                    self.assertEqual(shown.swatches, fresh.swatches)

    def compare(self, graph: Graph, before: LoweredGraph | None) -> LoweredGraph:
        found = lower(graph, before=before)
        text_found = drawing(found).shader.fragment
        fresh = lower(graph)
        self.assertEqual(found.outputs.keys(), fresh.outputs.keys())
        for source, made in fresh.outputs.items():
            pairs = [(x.channels if isinstance(x, Surface) else {"": x}) for x in (made, found.outputs[source])]
            self.assertTrue(all(pairs[0][key] is pairs[1][key] for key in pairs[0]), source)
        self.assertEqual((found.types, found.input_types), (fresh.types, fresh.input_types))
        self.assertEqual(found.inputs.keys(), fresh.inputs.keys())
        for of in ("mismatches", "per_pixel"):
            self.assertEqual(*({(m.node, m.input) for m in getattr(g, of)} for g in (found, fresh)))
        self.assertEqual(text_found.count("\n"), drawing(fresh).shader.fragment.count("\n"))
        return found


class Text(unittest.TestCase):
    def test_composite_nodes_are_functions_emitted_once(self) -> None:
        shader = text(long_graph(120))
        # Numbered where this process has emitted others of the name before.
        for name in ("gradient_noise_at", "gradient_noise"):
            self.assertEqual(len(re.findall(rf"float fn_{name}(?:_\d+)?\(", shader)), 1)

    def test_names_from_the_artist_never_reach_the_text(self) -> None:
        evil = "*/ void main(){} //"
        graph = edited(enamel(), LabelNode("rim", evil), LabelNode("layers", "discard;"))
        self.assertNotIn("discard", text(graph))
        self.assertEqual(text(graph), text(enamel()))
        self.assertNotIn("flake_coat", text(graph))

    def test_shared_values_have_one_named_local(self) -> None:
        shader = text(enamel())
        self.assertRegex(shader, r"vec3 v_mix_\d+ = .*// Mix")
        self.assertEqual(len(re.findall(r"float v_view_falloff_\d+ = .*// View falloff", shader)), 4)

    def test_numbers_read_back_as_they_were(self) -> None:
        for value in (0.1, 1e-7, 16777216.0, 3.4e38, -2.5, 0.0, 1 / 3):
            spelled = number_text(value)
            self.assertTrue("." in spelled or "e" in spelled, spelled)
            self.assertAlmostEqual(float(spelled), value, delta=abs(value) * 1e-7)

    def test_values_are_packed_without_straddling(self) -> None:
        graph = enamel()
        shader = drawing(lower(graph)).shader
        for slot in shader.slots:
            self.assertLessEqual(slot.offset % 4 + slot.width, 4)
        packed = values_array(shader, graph.uniform_values("coarse_flake"))
        place = {s.key: s.offset for s in shader.slots}["flake_tile", "tiling"]
        self.assertEqual(packed[place : place + 2], [2.0, 2.0])
        used = sum(s.width for s in shader.slots)
        self.assertLess(shader.floats - used, 4)

    @unittest.skipUnless(shutil.which("glslangValidator"), "glslangValidator is installed by ./moth test")
    def test_every_demo_shader_and_every_shown_output_is_valid(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            files = []
            for number_of, graph in enumerate([*demo_graphs(), long_graph(200)]):
                lowered = lower(graph)
                sources = [None, *(s for s in lowered.outputs if number_of < 4)]
                for index, shown in enumerate(sources):
                    shader = drawing(lowered, shown).shader
                    for kind, text in (("vert", shader.vertex), ("frag", shader.fragment)):
                        files.append(Path(folder) / f"g{number_of}_{index}.{kind}")
                        files[-1].write_text(text)
            done = subprocess.run(["glslangValidator", *map(str, files)], capture_output=True, text=True)
            self.assertEqual(done.returncode, 0, done.stdout)


class Catalogue(unittest.TestCase):
    def test_the_slice_has_its_nodes_each_with_help(self) -> None:
        visible = [n for n in CATALOGUE.values() if not n.hidden]
        self.assertGreaterEqual(len(visible), 140)
        for kind in visible:
            self.assertTrue(kind.help.sentence.endswith("."), kind.key)
            for other in kind.help.see:
                self.assertTrue(other in CATALOGUE, f"{kind.key} names a neighbour {other}")

    def test_a_node_added_in_one_place_is_everywhere(self) -> None:
        with borrowed_node("lantern_flicker"):

            @node("Lantern flicker", "Masks", ("candle",), ("make a flame unsteady",))
            def lantern_flicker(
                seconds: Annotated[Expr, flexible(0.0)], speed: Annotated[Expr, number(3.0)]
            ) -> Annotated[Expr, NUMBER_OUT]:
                """An uneven brightness over time.

                Formula: 0.7 + 0.3 sin(t s) sin(1.7 t s)
                Use: Emissive of lanterns.
                """
                t = seconds * speed
                return p.assume(0.7 + 0.3 * p.sine(t) * p.sine(t * 1.7), 0.4, 1.0)

            self.assertEqual(search("flame")[0].node.name, "Lantern flicker")
            self.assertEqual(CATALOGUE["lantern_flicker"].inputs["speed"].default, (3.0,))
            graph = edited(
                empty_graph("t"),
                AddNode(Node("clock", "time")),
                AddNode(Node("f", "lantern_flicker", wires={"seconds": Source("clock", "seconds")})),
                Wire("dock", "roughness", "f", "value"),
            )
            self.assertIn("// Lantern flicker", text(graph))
            shown = Session().show(graph, "", None, TEXTURES.get)
            self.assertEqual(shown.problems, [])
            self.assertGreater(shown.swatches[Source("f", "value")].low, 0.39)
            self.assertGreater(cost([lower(graph).surface["roughness"]]).operations, -1)
        self.assertNotIn("lantern_flicker", CATALOGUE)

    def test_emitting_is_pure(self) -> None:
        lowered = lower(enamel())
        picture = lowered.surface["base_colour"]
        self.assertEqual(emit(picture).fragment, emit(picture).fragment)
