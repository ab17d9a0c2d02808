"""Crafts: what a movement of the hand does to a graph, and that it is one step back."""

import json
import unittest

import numpy as np

from tests.support.graphs import TEXTURES, built, enamel
from velvet_moth.core.base.errors import MothError, OperationRefused
from velvet_moth.core.document.graph import Graph, Node, Source
from velvet_moth.core.document.marks import Bookmark, Frame, Note
from velvet_moth.core.editing.crafts import (
    Craft,
    Duplicate,
    InsertNode,
    Join,
    JoinAll,
    Paste,
    PullOut,
    RenameEverywhere,
    ShareParameter,
    SwapInputs,
)
from velvet_moth.core.editing.joining import takers
from velvet_moth.core.files.cards_text import FORMAT
from velvet_moth.core.files.graph_json import VERSION, graph_from_json, graph_to_json
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.operations import AddNode, MuteNodes, PutMarks, RemoveNodes, Wire
from velvet_moth.core.workbench.session import picture


class CraftCase(unittest.TestCase):
    def crafted(self, graph: Graph, craft: Craft) -> Graph:
        """The graph after a craft; that one step takes it back to the letter is checked on the way."""
        batch = craft.batch(graph)
        after, undo = batch.apply(graph)
        self.assertEqual(undo.apply(after)[0], graph)
        self.assertEqual(graph_from_json(graph_to_json(after)), after, "it is kept as it is")
        self.assertTrue(batch.summary)
        return after

    def refused(self, graph: Graph, craft: Craft, words: str) -> None:
        with self.assertRaisesRegex(MothError, words) as caught:
            craft.batch(graph).apply(graph)
        self.assertTrue(caught.exception.where and caught.exception.mend)


class Joining(CraftCase):
    def test_what_takes_a_wire_closes_no_loop_and_says_how_well_it_fits(self) -> None:
        graph = built(
            AddNode(Node("uv", "uv")),
            AddNode(Node("tile", "tile", wires={"uv": Source("uv", "uv")})),
            AddNode(Node("noise", "gradient_noise", wires={"uv": Source("tile", "uv")})),
        )
        found = {(t.node, t.input): t.fit for t in takers(lower(graph), ["tile"])}
        self.assertEqual({node for node, _ in found}, {"noise", "dock"}, "neither itself nor what it gets a value from")
        self.assertEqual(found["noise", "uv"], 3, "as it is")
        self.assertEqual(found["noise", "seed"], 1, "one of two numbers")
        self.assertEqual(found["dock", "surface"], 0)
        both = takers(lower(graph), ["uv", "noise"])
        self.assertEqual({t.node for t in both}, {"dock"})
        self.assertEqual([t for t in takers(lower(graph), ["dock"])], [], "the dock gives nothing")
        with self.assertRaises(OperationRefused):
            takers(lower(graph), ["gone"])

    def test_a_wire_takes_what_fits(self) -> None:
        graph = built(
            AddNode(Node("tint", "colour")),
            AddNode(Node("at", "pair")),
            AddNode(Node("four", "quad")),
            AddNode(Node("map", "texture")),
            AddNode(Node("rim", "view_falloff")),
        )
        for to, giver, expected in (
            (("dock", "roughness"), ("tint", "colour"), Source("tint", "colour", "luminance")),
            (("dock", "roughness"), ("at", "vector"), Source("at", "vector", "x")),
            (("dock", "roughness"), ("rim", "value"), Source("rim", "value")),
            (("dock", "roughness"), ("map", "colour"), Source("map", "luminance")),
            (("dock", "base_colour"), ("map", "red"), Source("map", "red")),
            (("map", "uv"), ("tint", "colour"), Source("tint", "colour", "xy")),
            (("map", "uv"), ("four", "vector"), Source("four", "vector", "xy")),
            (("dock", "normal"), ("at", "vector"), Source("at", "vector")),
        ):
            with self.subTest(to=to, giver=giver):
                after = self.crafted(graph, Join(*to, *giver))
                self.assertEqual(after.nodes[to[0]].wires[to[1]], expected)
                self.assertEqual(bool(lower(after).mismatches), to[1] == "normal")

    def test_a_part_is_what_the_picture_shows(self) -> None:
        graph = enamel()
        by_part = self.crafted(graph, Join("base_coat", "roughness", "two_tints", "result"))
        self.assertEqual(by_part.nodes["base_coat"].wires["roughness"].part, "luminance")
        by_node = built_on(
            graph,
            AddNode(Node("grey", "luminance", wires={"colour": Source("two_tints", "result")})),
            Wire("base_coat", "roughness", "grey", "value"),
        )
        np.testing.assert_array_equal(seen(by_part), seen(by_node))
        wrong = built_on(graph, Wire("base_coat", "roughness", "rim", "value", "w"))
        self.assertEqual([m.source.part for m in lower(wrong).mismatches], ["w"])

    def test_a_moved_end_leaves_its_old_place(self) -> None:
        after = self.crafted(
            enamel(), Join("gloss", "base_colour", "three_colours", "result", ("base_coat", "base_colour"))
        )
        self.assertNotIn("base_colour", after.nodes["base_coat"].wires)
        self.assertEqual(after.nodes["gloss"].wires["base_colour"], Source("three_colours", "result"))

    def test_several_cards_go_to_the_next_inputs_that_take_them(self) -> None:
        graph = built(
            AddNode(Node("a", "colour")),
            AddNode(Node("b", "colour")),
            AddNode(Node("m", "number")),
            AddNode(Node("mix_1", "mix")),
        )
        after = self.crafted(graph, JoinAll(("a", "b", "m"), "mix_1"))
        self.assertEqual(
            {k: s.node for k, s in after.nodes["mix_1"].wires.items()}, {"a": "a", "b": "b", "amount": "m"}
        )
        self.refused(graph, JoinAll(("a", "b", "m"), "mix_1", "b"), "no further input")


def seen(graph: Graph) -> np.ndarray:
    return picture(graph, (40, 40), TEXTURES.get)


def built_on(graph: Graph, *operations: object) -> Graph:
    for operation in operations:
        graph, _ = operation.apply(graph)  # type: ignore[attr-defined] # any operation
    return graph


class Rewiring(CraftCase):
    def test_a_node_is_put_into_a_wire_and_pulled_out_again(self) -> None:
        graph = enamel()
        after = self.crafted(graph, InsertNode("base_coat", "base_colour", Node("deeper", "contrast")))
        self.assertEqual(after.nodes["base_coat"].wires["base_colour"].node, "deeper")
        self.assertEqual(after.nodes["deeper"].wires, {"colour": Source("three_colours", "result")})
        out = self.crafted(after, PullOut(("deeper",)))
        self.assertEqual(out.nodes["base_coat"].wires, graph.nodes["base_coat"].wires)
        self.assertEqual(out.nodes["deeper"].wires, {})
        self.assertEqual(self.crafted(after, PullOut(("deeper",), True)), graph)
        existing = self.crafted(out, InsertNode("gloss", "base_colour", existing="deeper"))
        self.assertEqual(existing.nodes["gloss"].wires["base_colour"].node, "deeper")
        source = graph.nodes["base_coat"].wires["base_colour"].node
        framed, _ = PutMarks((Frame("f", "Coat", (source, "base_coat")), Frame("g", "Rim", ("rim",)))).apply(graph)
        after = self.crafted(framed, InsertNode("base_coat", "base_colour", Node("deeper", "contrast")))
        self.assertEqual(after.marks["f"].nodes, (source, "base_coat", "deeper"), "between two cards of one frame")
        self.assertEqual(after.marks["g"].nodes, ("rim",))
        self.refused(graph, InsertNode("base_coat", "base_colour", Node("w", "time")), "takes nothing")
        self.refused(graph, InsertNode("base_coat", "metallic", Node("w", "mix")), "no wire here")
        self.refused(out, PullOut(("deeper",)), "Nothing is wired")

    def test_swapping_carries_wires_values_and_parameters(self) -> None:
        graph = enamel()
        after = self.crafted(graph, SwapInputs("two_tints", "a", "b"))
        self.assertEqual(after.nodes["two_tints"].wires["a"].node, "side_tint")
        self.assertEqual(after.nodes["two_tints"].wires["b"].node, "face_tint")
        half = self.crafted(graph, SwapInputs("gloss_scale", "a", "b"))
        self.assertEqual(half.nodes["gloss_scale"].wires, {"b": Source("gloss_fall", "value")})
        self.assertEqual(half.nodes["gloss_scale"].value("a"), (0.35,))
        self.assertEqual(half.parameter("gloss_roughness").input, "a")
        self.assertEqual(half.variants, graph.variants)
        self.refused(graph, SwapInputs("two_tints", "a", "a"), "Two inputs")

    def test_a_muted_node_passes_what_is_wired(self) -> None:
        graph = enamel()
        muted, undo = MuteNodes(("two_tints", "gloss_range"), True).apply(graph)
        self.assertEqual(undo.apply(muted)[0], graph)
        self.assertEqual(graph_from_json(graph_to_json(muted)), muted)
        straight = built_on(
            graph,
            Wire("three_colours", "a", "face_tint", "colour"),
            Wire("gloss", "base_colour", "face_tint", "colour"),
            Wire("gloss", "roughness", "gloss_scale", "result"),
        )
        np.testing.assert_array_equal(seen(muted), seen(straight))


class Copying(CraftCase):
    BRANCH = ("flake_tile", "flake_map")

    def test_a_branch_has_a_twin_with_names_of_its_own_and_shares_what_it_shared(self) -> None:
        graph = built_on(enamel(), PutMarks((Frame("flakes", "Flake maps", self.BRANCH, "ochre"),)))
        after = self.crafted(graph, Duplicate((*self.BRANCH, "sparkle"), "Flake", "Grit"))
        self.assertEqual(set(after.nodes) - set(graph.nodes), {"flake_tile_2", "flake_map_2", "sparkle_2"})
        self.assertEqual(after.nodes["flake_map_2"].wires, {"uv": Source("flake_tile_2", "uv")})
        self.assertEqual(after.nodes["sparkle_2"].wires, {"value": Source("flake_height", "red")}, "shared")
        names = [p.name for p in after.parameters if p.node.endswith("_2")]
        self.assertEqual(names, ["Grit tiling", "Grit strength"])
        self.assertEqual(after.nodes["flake_map_2"].label, "Grit map")
        twin = next(p.id for p in after.parameters if p.name == "Grit tiling")
        self.assertEqual(after.variant("coarse_flake").values[twin], (2.0, 2.0))
        self.assertEqual(
            after.marks["flakes_2"], Frame("flakes_2", "Grit maps", ("flake_tile_2", "flake_map_2"), "ochre")
        )
        np.testing.assert_array_equal(seen(after), seen(graph))
        ending = self.crafted(graph, Duplicate(self.BRANCH, "", "far", keep_wires=False))
        self.assertEqual([p.name for p in ending.parameters][-2:], ["Flake tiling far", "Flake strength far"])
        self.refused(graph, Duplicate(("dock",)), "no card")

    def test_cards_go_as_text_between_graphs(self) -> None:
        graph = enamel()
        text = cards_text(graph, self.BRANCH)
        other = self.crafted(built(AddNode(Node("flake_tile", "number"))), Paste(text))
        self.assertEqual(other.nodes["flake_map_2"].wires, {"uv": Source("flake_tile_2", "uv")})
        self.assertEqual([p.name for p in other.parameters], ["Flake tiling", "Flake strength"])
        kept = self.crafted(graph, Paste(cards_text(graph, ("sparkle",)), keep_wires=True))
        self.assertEqual(kept.nodes["sparkle_2"].wires, {"value": Source("flake_height", "red")})
        for broken, words in (
            ("no", "no cards"),
            ("[]", "no cards"),
            ('{"format":"x"}', "no cards"),
            (f'{{"format":"{FORMAT}","version":99,"nodes":[]}}', "version 99"),
            (f'{{"format":"{FORMAT}","version":3,"nodes":[]}}', "no card"),
            (f'{{"format":"{FORMAT}","version":3,"nodes":[{{"id":"a"}}]}}', "'type' is missing"),
        ):
            with self.subTest(broken):
                self.refused(graph, Paste(broken), words)


def cards_text(graph: Graph, keys: tuple[str, ...]) -> str:
    whole = graph_to_json(graph)
    return json.dumps(
        {
            "format": FORMAT,
            "version": VERSION,
            "nodes": [n for n in whole["nodes"] if n["id"] in keys],
            "parameters": [p for p in whole["parameters"] if p["node"] in keys],
            "marks": whole["marks"],
        }
    )


class Sharing(CraftCase):
    def test_one_parameter_feeds_a_second_input(self) -> None:
        graph = enamel()
        after = self.crafted(graph, ShareParameter("flake_strength", "gloss_scale", "a"))
        made = after.nodes["number_1"]
        self.assertEqual((made.label, made.value("value")), ("Flake strength", (0.55,)))
        self.assertEqual(after.nodes["flake_map"].wires["strength"], Source("number_1", "value"))
        self.assertEqual(after.nodes["gloss_scale"].wires["a"], Source("number_1", "value"))
        self.assertEqual(after.parameter("flake_strength").node, "number_1")
        self.assertEqual(after.variant("coarse_flake").values, graph.variant("coarse_flake").values)
        colour = self.crafted(graph, ShareParameter("face_tint", "base_coat", "emissive"))
        self.assertEqual(colour.nodes["base_coat"].wires["emissive"], Source("face_tint", "colour"))
        self.refused(graph, ShareParameter("face_tint", "flake_map", "texture"), "does not fit")

    def test_a_parameter_is_put_on_a_card_of_its_own_and_looks_the_same(self) -> None:
        graph = enamel()
        rough = next(p for p in graph.parameters if p.name == "Flake roughness")
        after = self.crafted(graph, ShareParameter(rough.id, place=(40.0, 60.0)))
        owner = after.nodes[after.parameter(rough.id).node]
        self.assertEqual((owner.label, owner.place), (rough.name, (40.0, 60.0)))
        self.assertEqual(after.nodes[rough.node].wires[rough.input], Source(owner.id, "value"))
        self.assertEqual(
            [v.values.get(rough.id) for v in after.variants], [v.values.get(rough.id) for v in graph.variants]
        )
        np.testing.assert_array_equal(seen(after), seen(graph))
        moved = self.crafted(after, ShareParameter(rough.id, place=(0.0, 0.0)))
        self.assertEqual(moved.nodes[owner.id].place, (0.0, 0.0), "a card it has already is moved")
        self.refused(after, ShareParameter(rough.id), "has its card already")


class Renaming(CraftCase):
    def test_names_change_everywhere_and_nothing_else(self) -> None:
        marks = PutMarks(
            (
                Frame("area", "Flake area", ("flake_tile",)),
                Note("why", "Flakes need two scales", (0.0, 0.0)),
                Bookmark("place", "Flakes", (0.0, 0.0)),
            )
        )
        graph = built_on(enamel(), marks)
        after = self.crafted(graph, RenameEverywhere("Flake", "Grit"))
        self.assertEqual(after.nodes["flake_tile"].label, "Grit tiling")
        self.assertEqual([p.name for p in after.parameters if "Flake" in p.name], [])
        self.assertIn("Grit strength", [p.name for p in after.parameters])
        self.assertEqual(after.marks["area"], Frame("area", "Grit area", ("flake_tile",)))
        self.assertEqual(after.marks["why"], Note("why", "Grits need two scales", (0.0, 0.0)))
        self.assertEqual(after.marks["place"], Bookmark("place", "Grits", (0.0, 0.0)))
        np.testing.assert_array_equal(seen(after), seen(graph))

    def test_what_cannot_be_renamed_is_told(self) -> None:
        graph = enamel()
        self.refused(graph, RenameEverywhere("Heron", "Crane"), "No name holds")
        self.refused(graph, RenameEverywhere(" ", "x"), "Nothing to look for")
        self.refused(graph, RenameEverywhere("Side tint", "Face tint"), "has this name")
        whole = self.crafted(graph, RenameEverywhere("Face tint", ""))
        self.assertIn("Face tint", [p.name for p in whole.parameters], "no name is left empty")


class Marks(CraftCase):
    def test_a_card_is_in_one_frame_and_frames_follow_their_cards(self) -> None:
        graph = enamel()
        first, _ = PutMarks((Frame("one", "Rim", ("rim", "turning")),)).apply(graph)
        both, undo = PutMarks((Frame("two", "Turning", ("turning", "three_colours")),)).apply(first)
        self.assertEqual(both.marks["one"].nodes, ("rim",))
        self.assertEqual(undo.apply(both)[0], first)
        gone, back = RemoveNodes(("rim", "turning")).apply(both)
        self.assertEqual(set(gone.marks), {"two"})
        self.assertEqual(back.apply(gone)[0], both)
