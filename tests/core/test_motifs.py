"""Motifs: made of chosen nodes, used many times, edited once, nested without cycles, taken apart again."""

import unittest
from dataclasses import replace

import numpy as np

from tests.support.graphs import TEXTURES, enamel
from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.document.graph import Graph, Motif, Node, Source
from velvet_moth.core.editing.extraction import extract, unpacked
from velvet_moth.core.files.graph_json import (
    GraphFile,
    graph_from_json,
    graph_to_json,
    read_graph_file,
    write_graph_file,
)
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.lowering.motifs import outline_of, refreshed, resolved, uses
from velvet_moth.core.operations import AddNode, SetValue, Wire
from velvet_moth.core.render.shading import drawing
from velvet_moth.core.workbench.session import picture

TYPE = "motif_a"
CHOSEN = ("gloss_fall", "gloss_scale", "gloss_range")


def with_motif(graph: Graph, chosen: tuple[str, ...] = CHOSEN, type_: str = TYPE) -> Graph:
    """The graph after some of its nodes were made a motif."""
    made = extract(graph, chosen, "Gloss by rim", type_)
    known = {**{t: m.graph for t, m in graph.motifs.items()}, type_: made.motif}
    after, _ = made.operation.apply(replace(graph, motifs=resolved(known)))
    return after


def seen(graph: Graph) -> np.ndarray:
    return picture(graph, (48, 48), TEXTURES.get)


class Motifs(unittest.TestCase):
    def test_making_one_and_unpacking_it_changes_no_pixel(self) -> None:
        before = enamel()
        after = with_motif(before)
        (use,) = uses(after, TYPE)
        self.assertFalse(set(CHOSEN) & set(after.nodes))
        self.assertEqual([p.name for p in after.nodes[use].outline.outputs], ["Keep in 0..1"])
        np.testing.assert_array_equal(seen(after), seen(before))
        back, undo = unpacked(after, use).apply(after)
        np.testing.assert_array_equal(seen(back), seen(before))
        again, _ = undo.apply(back)
        self.assertEqual(uses(again, TYPE), [use])

    def test_what_crosses_the_edge_becomes_ports_and_surfaces_cross_too(self) -> None:
        after = with_motif(enamel(), ("three_colours", "base_coat"))
        (use,) = uses(after, TYPE)
        outline = after.nodes[use].outline
        self.assertEqual(sorted(p.type for p in outline.inputs), ["colour", "colour", "number", "number", "vec3"])
        self.assertEqual([p.type for p in outline.outputs], ["surface"])
        np.testing.assert_array_equal(seen(after), seen(enamel()))

    def test_edited_once_it_changes_wherever_it_is_used(self) -> None:
        graph = with_motif(enamel())
        (use,) = uses(graph, TYPE)
        graph, _ = AddNode(Node("second", TYPE)).apply(graph)
        graph, _ = Wire("base_coat", "roughness", "second", "out_1").apply(graph)
        self.assertEqual(len(uses(graph, TYPE)), 2)
        before = seen(graph)
        inside, _ = SetValue("gloss_fall", "power", (6.0,)).apply(graph.motifs[TYPE].graph)
        changed = refreshed(graph, resolved({TYPE: inside}))
        self.assertFalse(np.array_equal(seen(changed), before))
        self.assertEqual(changed.nodes[use].wires, graph.nodes[use].wires)

    def test_large_ones_are_emitted_once_and_called(self) -> None:
        after = with_motif(enamel(), ("flake_height", "sparkle", "seen_face_on", "flakes_face_on"))
        after, _ = AddNode(Node("again", TYPE)).apply(after)
        after, _ = Wire("gloss", "roughness", "again", "out_1").apply(after)
        shader = drawing(lower(after)).shader
        self.assertEqual(len([line for line in shader.fragment.splitlines() if line.startswith("// Motif")]), 1)
        self.assertNotIn("Gloss by rim", shader.fragment, "no name of the artist's")

    def test_a_port_that_is_gone_stays_while_it_is_wired(self) -> None:
        graph = with_motif(enamel())
        inside = graph.motifs[TYPE].graph
        other = replace(inside, nodes={k: n for k, n in inside.nodes.items() if k != "out_1"})
        changed = refreshed(graph, resolved({TYPE: other}))
        self.assertEqual([p.key for p in changed.nodes[uses(graph, TYPE)[0]].outline.outputs], ["out_1"])
        self.assertTrue(seen(changed).any())

    def test_parameters_and_what_variants_set_stay(self) -> None:
        before = enamel()
        after = with_motif(before, (*CHOSEN, "face_tint"))
        self.assertEqual([p.name for p in after.parameters], [p.name for p in before.parameters])
        self.assertEqual(after.variants, before.variants)
        opened = after.parameter("gloss_roughness")
        assert opened is not None
        self.assertEqual(opened.node, "motif_use_1")
        self.assertIn("face_tint", after.nodes, "a colour set by hand stays outside, where it is tuned")
        for variant in ("", "salt_dulled", "night_ferry"):
            a, b = (picture(g, (48, 48), TEXTURES.get, variant).astype(int) for g in (before, after))
            self.assertLessEqual(int(np.abs(a - b).max()), 1, variant)
        back, _ = unpacked(after, "motif_use_1").apply(after)
        self.assertEqual([p.name for p in back.parameters], [p.name for p in before.parameters])
        self.assertEqual(back.variants, before.variants)

    def test_nesting_works_and_cycles_are_refused(self) -> None:
        outer = with_motif(with_motif(enamel()), ("two_tints", "motif_use_1", "gloss"), "motif_b")
        self.assertEqual(sorted(outer.used_motifs()), [TYPE, "motif_b"])
        np.testing.assert_array_equal(seen(outer), seen(enamel()))
        inner = outer.motifs[TYPE].graph
        with self.assertRaisesRegex(OperationRefused, "cannot stand inside itself"):
            AddNode(Node("x", "motif_b")).apply(replace(inner, motifs=outer.motifs))
        with self.assertRaisesRegex(OperationRefused, "cannot stand inside itself"):
            AddNode(Node("x", TYPE)).apply(replace(inner, motifs=outer.motifs))

    def test_refusals_say_what_to_select(self) -> None:
        graph = enamel()
        with self.assertRaisesRegex(OperationRefused, "No node is selected"):
            extract(graph, (), "M", TYPE)
        alone, _ = AddNode(Node("alone", "number")).apply(graph)
        with self.assertRaisesRegex(OperationRefused, "Nothing outside reads"):
            extract(alone, ("alone",), "M", TYPE)
        loop = ("two_tints", "base_coat")  # three_colours lies between them
        with self.assertRaisesRegex(OperationRefused, "comes back"):
            extract(graph, loop, "M", TYPE)

    def test_a_file_brings_its_motifs_along(self) -> None:
        graph = with_motif(enamel())
        motifs = {k: m.graph for k, m in graph.used_motifs().items()}
        found = read_graph_file(write_graph_file(GraphFile(graph, {}, motifs)).encode())
        self.assertEqual(list(found.motifs), [TYPE])
        np.testing.assert_array_equal(seen(found.graph), seen(graph))

    def test_without_its_motif_a_use_keeps_its_wiring(self) -> None:
        graph = with_motif(enamel())
        alone = graph_from_json(graph_to_json(graph))
        (use,) = uses(alone, TYPE)
        self.assertEqual(alone.nodes[use].wires, graph.nodes[use].wires)
        self.assertEqual(graph_to_json(alone), graph_to_json(graph))
        lowered = lower(alone)
        self.assertIn(Source(use, "out_1"), lowered.outputs)
        self.assertEqual(outline_of(Motif(TYPE, graph.motifs[TYPE].graph)).outputs, alone.nodes[use].outline.outputs)
