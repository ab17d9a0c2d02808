"""Operations: each undoes itself, refusals leave the graph alone, files and words are right."""

import random
import unittest
from dataclasses import replace

from tests.support.edits import random_operation
from tests.support.graphs import enamel
from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.document.graph import Graph, Node, Parameter, Source, Variant, empty_graph
from velvet_moth.core.editing.comparison import operations_between
from velvet_moth.core.files.graph_json import graph_from_json, graph_to_json
from velvet_moth.core.operations import (
    AddNode,
    AddParameter,
    AddVariant,
    Batch,
    DescribeVariant,
    LabelNode,
    MoveNodes,
    Operation,
    RemoveNodes,
    RemoveVariant,
    SetOverride,
    SetSetting,
    SetValue,
    Wire,
    set_field,
)


class Based(unittest.TestCase):
    """Variants that take their values from another."""

    def setUp(self) -> None:
        self.graph = enamel()
        for operation in (
            AddVariant(Variant("calm", "Calm", {"face_tint": (0.1, 0.2, 0.3), "gloss_roughness": (0.3,)})),
            AddVariant(Variant("dusk", "Dusk", {"gloss_roughness": (0.6,)}, "calm")),
        ):
            self.graph, _ = operation.apply(self.graph)

    def test_what_it_does_not_set_comes_from_its_base(self) -> None:
        self.assertEqual(self.graph.set_by("dusk"), {"face_tint": (0.1, 0.2, 0.3), "gloss_roughness": (0.6,)})
        face = self.graph.parameter("face_tint")
        assert face is not None
        self.assertEqual(self.graph.uniform_values("dusk")[face.node, face.input], (0.1, 0.2, 0.3))
        self.assertEqual(graph_from_json(graph_to_json(self.graph)), self.graph)

    def test_circles_and_gaps_are_refused_and_all_is_taken_back(self) -> None:
        for operation, words in (
            (DescribeVariant("calm", "dusk", ""), "based on Calm itself"),
            (DescribeVariant("calm", "calm", ""), "based on Calm itself"),
            (DescribeVariant("dusk", "noon", ""), "is gone"),
            (DescribeVariant("dusk", "", "n" * 1001), "at most 1000 letters"),
            (RemoveVariant("calm"), "Dusk is based on it"),
        ):
            with self.subTest(words), self.assertRaises(OperationRefused) as refused:
                operation.apply(self.graph)
            self.assertIn(words, str(refused.exception))
        noted, back = DescribeVariant("dusk", "", " For the trailer. ").apply(self.graph)
        self.assertEqual(noted.variant("dusk").note, "For the trailer.")  # type: ignore[union-attr] # just described
        self.assertEqual(back.apply(noted)[0], self.graph)

    def test_going_back_to_a_version_brings_bases_in_any_order(self) -> None:
        bare = replace(self.graph, variants=())
        turned = operations_between(bare, self.graph, "restored").apply(bare)[0]
        self.assertEqual(turned, self.graph)
        self.assertEqual(operations_between(self.graph, bare, "restored").apply(self.graph)[0], bare)


class Undoing(unittest.TestCase):
    def test_random_edits_undo_and_redo_to_the_letter(self) -> None:
        taken: set[str] = set()
        for seed in range(12):
            draw = random.Random(seed)
            graph = enamel()
            states, done = [graph], []
            for _ in range(120):
                operation = random_operation(graph, draw)
                try:
                    graph, inverse = operation.apply(graph)
                except OperationRefused:
                    continue
                taken.add(operation.op)
                states.append(graph)
                done.append((operation, inverse))
            with self.subTest(seed=seed):
                for (operation, inverse), before, after in zip(
                    reversed(done), reversed(states[:-1]), reversed(states[1:]), strict=True
                ):
                    undone, again = inverse.apply(after)
                    self.assertEqual(undone, before, operation)
                    self.assertEqual(again.apply(undone)[0], after, operation)
        self.assertGreaterEqual(len(taken), 15)

    def test_a_removed_node_comes_back_with_wires_parameters_and_overrides(self) -> None:
        graph = enamel()
        after, inverse = RemoveNodes(("face_tint", "two_tints")).apply(graph)
        self.assertNotIn("face_tint", [p.id for p in after.parameters])
        self.assertNotIn("face_tint", after.variants[0].values)
        self.assertNotIn("a", after.nodes["three_colours"].wires)
        self.assertEqual(inverse.apply(after)[0], graph)


class Refusing(unittest.TestCase):
    def refused(self, operation: Operation, words: str, graph: Graph | None = None) -> None:
        with self.assertRaisesRegex(OperationRefused, words) as caught:
            operation.apply(graph or enamel())
        self.assertTrue(caught.exception.where)
        self.assertTrue(caught.exception.mend)

    def test_each_refusal_says_what_and_how(self) -> None:
        self.refused(Wire("two_tints", "amount", "three_colours", "result"), "close a loop")
        self.refused(Wire("two_tints", "amount", "two_tints", "result"), "close a loop")
        self.refused(Wire("face_tint", "value", "rim", "value"), "set by hand")
        self.refused(Wire("two_tints", "nothing", "rim", "value"), "no input 'nothing'")
        self.refused(Wire("two_tints", "a", "rim", "nothing"), "no output 'nothing'")
        self.refused(RemoveNodes(("dock",)), "The dock stays")
        self.refused(RemoveNodes(("ghost",)), "no longer in the graph")
        self.refused(AddNode(Node("x", "unheard_of")), "no node type")
        self.refused(AddNode(Node("x", "dock")), "always there")
        self.refused(AddNode(Node("rim", "mix")), "taken")
        self.refused(AddNode(Node("Not an id", "mix")), "small letter")
        self.refused(SetValue("rim", "power", (1.0, 2.0)), "takes one number")
        self.refused(SetValue("rim", "power", (float("nan"),)), "takes one number")
        self.refused(SetValue("rim", "power", (1e9,)), "takes one number")
        self.refused(SetSetting("rim", "direction", "sideways"), "Direction is one of rim, centre.")
        self.refused(AddParameter(Parameter("p", "P", "rim", "power", 2.0, 1.0)), "low end lies below")
        self.refused(AddParameter(Parameter("p", "Face tint", "gloss", "metallic")), "Another parameter")
        self.refused(AddParameter(Parameter("p", "P", "rim", "power")), "already")
        self.refused(AddVariant(Variant("v", "Night ferry")), "Another variant")
        self.refused(AddVariant(Variant("v", "V", {"ghost": (1.0,)})), "parameter is gone")
        self.refused(set_field("title", " "), "name of 1 to 80")
        self.refused(set_field("title", "bell \a"), "name of 1 to 80")
        self.refused(MoveNodes({"rim": (float("inf"), 0.0)}), "that far out")

    def test_a_batch_is_all_or_nothing(self) -> None:
        graph = enamel()
        with self.assertRaises(OperationRefused):
            Batch((set_field("title", "Half"), RemoveNodes(("dock",)))).apply(graph)
        self.assertEqual(graph, enamel())

    def test_a_wire_of_the_wrong_type_is_kept_for_the_artist_to_mend(self) -> None:
        graph, _ = Wire("gloss", "metallic", "face_tint", "colour").apply(enamel())
        self.assertEqual(graph.nodes["gloss"].wires["metallic"], Source("face_tint", "colour"))


class Words(unittest.TestCase):
    def test_history_reads_like_speech(self) -> None:
        graph = enamel()
        for operation, words in (
            (Wire("dock", "normal", "flake_map", "normal"), "wired Flake map to Normal"),
            (Wire("gloss", "metallic", "rim", "value"), "wired Rim to Metallic of Clear gloss"),
            (SetValue("gloss_scale", "b", (0.5,)), "set Gloss roughness to 0.5"),
            (SetOverride("night_ferry", "rim_width", (2.0,)), "set Rim width of Night ferry to 2"),
            (SetOverride("night_ferry", "face_tint", None), "reset Face tint of Night ferry"),
            (AddNode(Node("x", "mix", label="Silt")), "added Silt"),
            (RemoveNodes(("rim", "gloss")), "removed 2 nodes"),
            (Batch((LabelNode("rim", "Edge"), set_field("title", "Red"))), "named View falloff Edge and 1 more"),
        ):
            self.assertEqual(operation.words(graph), words)

    def test_a_variant_changes_values_only_where_it_says_so(self) -> None:
        graph = enamel()
        plain, night = graph.uniform_values(), graph.uniform_values("night_ferry")
        different = {key for key in plain if plain[key] != night[key]}
        self.assertEqual(different, {("face_tint", "value"), ("side_tint", "value"), ("rim_shade", "value")})

    def test_an_empty_graph_has_only_the_dock(self) -> None:
        self.assertEqual(list(empty_graph("New").nodes), ["dock"])
        self.assertEqual(replace(empty_graph("New"), title="Other").title, "Other")
