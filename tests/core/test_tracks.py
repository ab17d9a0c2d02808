"""Keys over time: each way against its closed form, what is outside of the keys, colours, stops, texts, and keys in graphs."""

import colorsys
import json
import math
import unittest
from dataclasses import replace
from typing import Any

import numpy as np

from tests.support.graphs import enamel
from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.base.ways import WAYS
from velvet_moth.core.document.graph import Graph, Node, Parameter, Source, Variant
from velvet_moth.core.document.tracks.pieces import Pieces, hue_of, light_of, pieces_of
from velvet_moth.core.document.tracks.track import Key, Track
from velvet_moth.core.editing.copying import Duplicate
from velvet_moth.core.editing.keying import (
    CopiedKeys,
    EaseKeys,
    KeysOf,
    LineUpKeys,
    MoveKeys,
    PasteKeys,
    ReverseKeys,
    ScaleKeys,
)
from velvet_moth.core.lighting.decals import Decal
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.operations import (
    AddNode,
    AddParameter,
    AddVariant,
    ChangeKeys,
    Operation,
    RemoveNodes,
    RemoveParameter,
    SetTrack,
    Wire,
    set_field,
)
from velvet_moth.core.render.binding_list import binding_list
from velvet_moth.core.render.shading import drawing
from velvet_moth.core.render.tracing.scene import Scene
from velvet_moth.demo.ageing import boathouse_wall, signal_lantern

MANY = np.linspace(-7.3, 21.7, 10_000)
START, END, VALUES = 1.25, 4.5, ((0.3, -2.0), (7.5, 0.25))

# How much of the way is done after the share x of the time, as each way is described.
SHARES = {
    "hold": lambda x: 0.0,
    "straight": lambda x: x,
    "smooth": lambda x: x * x * (3 - 2 * x),
    "gather": lambda x: x**3,
    "settle": lambda x: 1 - (1 - x) ** 3,
}


def numbers(pieces: Pieces, times: np.ndarray) -> np.ndarray:
    return np.array([pieces.at(float(time)) for time in times])


def track(*keys: Key, **rest: str) -> Track:
    return Track(keys, **rest)  # type: ignore[arg-type] # literals of the test


class Ways(unittest.TestCase):
    def expected(self, share: object, time: float) -> np.ndarray:
        x = min(max((time - START) / (END - START), 0.0), 1.0)
        first, last = np.array(VALUES[0]), np.array(VALUES[1])
        return last if x == 1.0 else first + (last - first) * share(x)  # type: ignore[operator] # a function of the table

    def test_every_way_is_its_closed_form(self) -> None:
        self.assertEqual(WAYS.keys() - SHARES.keys(), {"overshoot", "hand"}, "tested apart")
        for way, share in SHARES.items():
            made = pieces_of(track(Key(START, VALUES[0], way), Key(END, VALUES[1])), "plain")
            wanted = np.array([self.expected(share, time) for time in MANY])
            np.testing.assert_allclose(numbers(made, MANY), wanted, atol=1e-6, err_msg=way)

    def test_overshoot_goes_a_tenth_past_and_arrives(self) -> None:
        made = pieces_of(track(Key(0.0, (2.0,), "overshoot"), Key(1.0, (12.0,))), "plain")
        found = numbers(made, np.linspace(0, 1, 10_001))[:, 0]
        self.assertAlmostEqual(found.max(), 13.0, places=6)
        self.assertAlmostEqual(found[0], 2.0)
        self.assertAlmostEqual(float(made.at(1.0 - 1e-12)[0]), 12.0, places=6)
        # It starts without going back, and passes its end once.
        self.assertTrue((np.diff(found[: found.argmax()]) > 0).all())

    def test_by_hand_is_the_hermite_curve(self) -> None:
        one, other = Key(START, (0.3, 1.0), "hand", (), (4.0, -1.0)), Key(END, (7.5, 2.0), "straight", (-2.0, 0.5))
        made, span = pieces_of(track(one, other), "plain"), END - START
        u = np.clip((MANY - START) / span, 0, 1)[:, None]
        basis = 2 * u**3 - 3 * u**2 + 1, u**3 - 2 * u**2 + u, 3 * u**2 - 2 * u**3, u**3 - u**2
        ends = (0.3, 1.0), (4.0 * span, -1.0 * span), (7.5, 2.0), (-2.0 * span, 0.5 * span)
        wanted = sum(part * np.array(end) for part, end in zip(basis, ends, strict=True))
        np.testing.assert_allclose(numbers(made, MANY), wanted, atol=1e-6)

    def test_before_and_after(self) -> None:
        keys = Key(START, (1.0,), "straight"), Key(3.0, (5.0,), "smooth"), Key(END, (2.0,))
        plain, span = pieces_of(track(*keys), "plain"), END - START
        inside = lambda time: plain.at(time)[0]  # noqa: E731 - a name for what is looked up
        again = pieces_of(track(*keys, before="again", after="again"), "plain")
        back = pieces_of(track(*keys, before="there_and_back", after="there_and_back"), "plain")
        for time in MANY:
            turns = (time - START) / span
            self.assertAlmostEqual(again.at(time)[0], inside(START + span * (turns - math.floor(turns))), places=6)
            there = math.acos(math.cos(math.pi * turns)) / math.pi
            self.assertAlmostEqual(back.at(time)[0], inside(START + span * there), places=6)
        mixed = pieces_of(track(*keys, before="there_and_back", after="hold"), "plain")
        self.assertEqual(mixed.at(50.0), (2.0,))
        self.assertAlmostEqual(mixed.at(START - 0.5)[0], inside(START + 0.5))

    def test_one_key_is_a_constant_whatever_is_outside(self) -> None:
        for outside in ("hold", "again", "there_and_back"):
            made = pieces_of(track(Key(2.0, (0.5,)), before=outside, after=outside), "plain")
            self.assertEqual({made.at(time) for time in (-3.0, 2.0, 2.5, 100.0)}, {(0.5,)})


class AnEngine(unittest.TestCase):
    def test_what_files_hold_is_played_as_their_description_says(self) -> None:
        """By docs/tracks.md alone: a player of a few lines that knows nothing of the program."""

        def play(track: dict[str, Any], t: float) -> list[float]:
            first, last = track["times"][0], track["times"][-1]
            side = "before" if t < first else "after" if t > last or (t == last and track["after"] == "again") else ""
            if side and track[side] == "hold":
                t = min(max(t, first), last)
            elif side and track[side] == "again":
                t = first + (t - first) - (last - first) * math.floor((t - first) / (last - first))
            elif side:
                p = (t - first) - 2 * (last - first) * math.floor((t - first) / (2 * (last - first)))
                t = first + min(p, 2 * (last - first) - p)
            piece = max(i for i, begins in enumerate(track["times"]) if begins <= t or i == 0)
            x = t - track["times"][piece]
            return [a + x * (b + x * (c + x * d)) for a, b, c, d in track["cubics"][piece]]

        wall, lantern = boathouse_wall({}), signal_lantern({})
        for graph in (wall, lantern):
            shader = drawing(lower(graph, folded=True)).shader
            listed = json.loads(json.dumps(binding_list(graph, shader, graph.uniform_values(), {})))
            self.assertEqual(listed["time"], {"seconds": graph.timing.length, "frames_per_second": graph.timing.rate})
            tracks = {p["name"]: p["track"] for p in listed["parameters"] if "track" in p} | listed["scene"]
            names = {p.id: p.name for p in graph.parameters}
            self.assertEqual({names.get(target, target) for target in graph.tracks}, set(tracks))
            for parameter in listed["parameters"]:
                if "track" in parameter:
                    self.assertTrue(parameter["offsets"], "an engine knows where its numbers go")
            for target in graph.tracks:
                for time in np.linspace(-3, 50, 200):
                    said = graph.keyed_values("", float(time))[target]
                    np.testing.assert_allclose(play(tracks[names.get(target, target)], float(time)), said, atol=1e-9)


class Colours(unittest.TestCase):
    def test_hue_and_light_are_those_of_the_standard_library(self) -> None:
        draw = np.random.default_rng(3)
        for light in [*draw.random((500, 3)), (0.0, 0.0, 0.0), (0.4, 0.4, 0.4), (1.0, 0.0, 0.0), (0.0, 0.2, 0.2)]:
            found = hue_of(tuple(map(float, light)))
            np.testing.assert_allclose(found, colorsys.rgb_to_hsv(*light), atol=1e-12)
            np.testing.assert_allclose(light_of(*found), light, atol=1e-12)
        np.testing.assert_allclose(light_of(*hue_of((8.0, 2.0, 1.0))), (8.0, 2.0, 1.0))

    def test_around_goes_the_shorter_way_and_never_through_grey(self) -> None:
        red, blue, grey = (1.0, 0.0, 0.0), (0.0, 0.0, 1.0), (0.2, 0.2, 0.2)
        made = pieces_of(track(Key(0.0, red, "straight"), Key(1.0, blue)), "hue")
        np.testing.assert_allclose(made.at(0.5), (1.0, 0.0, 1.0), atol=1e-9)
        for time in np.linspace(0, 1, 101):
            hue, saturation, value = hue_of(made.at(float(time)))  # type: ignore[arg-type] # numbers
            self.assertAlmostEqual((1.0 - hue) % 1.0, time / 3, places=9)
            self.assertAlmostEqual(saturation * value, 1.0)
        # A grey has no hue of its own: between it and blue all is blue.
        faded = pieces_of(track(Key(0.0, grey, "straight"), Key(1.0, blue)), "hue").at(0.5)
        self.assertEqual((faded[0], faded[0] < faded[2]), (faded[1], True))

    def test_light_is_never_negative_and_stops_stay_in_order(self) -> None:
        dark = pieces_of(track(Key(0.0, (1.0, 0.5, 0.0), "overshoot"), Key(1.0, (0.0, 0.0, 0.0))), "light")
        self.assertTrue((numbers(dark, np.linspace(0, 1, 200)) >= 0).all())
        one, other = (0.0, 1.0, 0.2, 2.0, 1.0, 3.0), (0.0, 5.0, 0.9, 6.0, 1.0, 7.0)
        made = pieces_of(track(Key(0.0, one, "overshoot"), Key(1.0, other)), "stops", 2)
        found = numbers(made, np.linspace(0, 1, 500))
        self.assertTrue((np.diff(found[:, ::2]) >= 0).all())
        self.assertTrue(((found[:, ::2] >= 0) & (found[:, ::2] <= 1)).all())
        np.testing.assert_allclose(made.at(0.0), one)

    def test_texts_go_in_steps(self) -> None:
        made = pieces_of(track(Key(1.0, "rust", "hold"), Key(2.0, "moss", "hold"), after="again"), "plain")
        self.assertEqual([made.at(t) for t in (0.0, 1.0, 1.999, 2.0, 2.5)], ["rust", "rust", "rust", "rust", "rust"])
        there = pieces_of(track(Key(1.0, "rust", "hold"), Key(2.0, "moss", "hold")), "plain")
        self.assertEqual([there.at(t) for t in (1.999, 2.0, 9.0)], ["rust", "moss", "moss"])


def done(graph: Graph, *operations: Operation) -> Graph:
    """The graph after some operations, each of which has been taken back and made again."""
    for operation in operations:
        after, inverse = operation.apply(graph)
        assert inverse.apply(after)[0] == graph, operation
        graph = after
    return graph


class InGraphs(unittest.TestCase):
    graph = enamel()
    keys = Key(0.0, (0.1,), "straight"), Key(2.0, (0.5,))

    def roughness(self, graph: Graph, variant: str, time: float) -> float:
        parameter = graph.parameter("gloss_roughness")
        assert parameter is not None
        return round(float(graph.uniform_values(variant, time)[parameter.node, parameter.input][0]), 9)

    def test_a_keyed_parameter_is_another_value_and_no_other_shader(self) -> None:
        keyed = done(self.graph, SetTrack("gloss_roughness", Track(self.keys)))
        self.assertEqual([self.roughness(keyed, "", t) for t in (0.0, 1.0, 5.0)], [0.1, 0.3, 0.5])
        self.assertEqual(drawing(lower(keyed)).shader.fragment, drawing(lower(self.graph)).shader.fragment)

    def test_a_variant_stands_still_or_has_keys_of_its_own(self) -> None:
        graph = done(
            self.graph,
            SetTrack("gloss_roughness", Track(self.keys)),
            AddVariant(Variant("still", "Still", {"gloss_roughness": (0.9,)})),
            AddVariant(Variant("moves", "Moves", base="still")),
            ChangeKeys("gloss_roughness", (Key(1.0, (0.7,)),), (2.0,), "moves"),
        )
        self.assertEqual([self.roughness(graph, "still", t) for t in (0.0, 1.0)], [0.9, 0.9])
        self.assertEqual([self.roughness(graph, "moves", t) for t in (0.0, 1.0, 9.0)], [0.7, 0.7, 0.7])
        # What nothing stands over begins as the graph's own keys.
        graph = done(graph, AddVariant(Variant("late", "Late")))
        graph = done(graph, ChangeKeys("gloss_roughness", (Key(4.0, (1.0,)),), (), "late"))
        self.assertEqual([self.roughness(graph, "late", t) for t in (0.0, 1.0, 4.0)], [0.1, 0.3, 1.0])
        self.assertEqual(self.roughness(graph, "", 9.0), 0.5)

    def test_keys_go_and_come_with_their_parameter_and_are_copied_with_cards(self) -> None:
        graph = done(self.graph, AddVariant(Variant("v", "V")), SetTrack("gloss_roughness", Track(self.keys)))
        graph = done(graph, SetTrack("gloss_roughness", Track((Key(0.0, (1.0,)),)), "v"))
        parameter = graph.parameter("gloss_roughness")
        assert parameter is not None
        self.assertEqual(done(graph, RemoveParameter("gloss_roughness")).tracks, {})
        self.assertEqual(done(graph, RemoveNodes((parameter.node,))).tracks, {})
        copied, _ = Duplicate((parameter.node,)).batch(graph).apply(graph)
        (other,) = copied.tracks.keys() - graph.tracks.keys()
        self.assertEqual(copied.tracks[other], graph.tracks["gloss_roughness"])
        self.assertEqual(copied.variants[-1].tracks.keys(), {"gloss_roughness", other})

    def test_a_keyed_toggle_is_a_value_of_the_shader(self) -> None:
        graph = done(
            self.graph,
            AddNode(Node("gate", "toggle")),
            AddNode(Node("choice", "choose")),
            Wire("choice", "condition", "gate", "answer"),
            AddParameter(Parameter("open", "Open", "gate", "value")),
        )
        settled = lower(graph)
        keyed = done(graph, SetTrack("open", Track((Key(0.0, (0.0,), "hold"), Key(1.0, (1.0,), "hold")))))
        made = lower(keyed, before=settled)
        whole = lower(keyed)
        gate = Source("gate", "answer")
        self.assertIs(made.outputs[gate], whole.outputs[gate])
        self.assertIsNot(settled.outputs[gate], made.outputs[gate])
        self.assertEqual([keyed.uniform_values("", t)["gate", "value"] for t in (0.9, 1.0)], [(0.0,), (1.0,)])
        self.assertIs(lower(graph, before=made).outputs[gate], settled.outputs[gate])

    def test_the_scene_is_keyed_too(self) -> None:
        decals = (Decal((0.0, 1.0, 0.0)), Decal((2.0, 0.0, 0.0)))
        graph = done(replace(self.graph, rig="lantern_dusk"), set_field("decals", decals))
        ids = [decal.id for decal in graph.decals]
        self.assertEqual(len({*ids, ""}), 3)
        turned = Key(0.0, (0.0, 10.0), "straight"), Key(1.0, (90.0, 30.0))
        lamp = Key(0.0, (1.0,), "hold"), Key(0.5, (0.0,), "hold")
        tinted = Key(0.0, (1.0, 1.0, 1.0), "straight"), Key(1.0, (0.0, 0.0, 0.5))
        eye = Key(0.0, (10.0, 20.0, 3.0, 40.0, 0.0, 1.0, 0.0)), Key(1.0, (20.0, 20.0, 5.0, 40.0, 0.0, 1.0, 0.0))
        graph = done(
            graph,
            *(
                SetTrack(target, Track(keys))
                for target, keys in {
                    "scene/light": turned,
                    "scene/lamp_1": lamp,
                    f"decal/{ids[1]}/tint": tinted,
                    "scene/eye": eye,
                }.items()
            ),
        )
        scene = Scene.of_graph(graph, time=0.5)
        self.assertEqual((scene.rig.turn, scene.rig.tilt), (45.0, 20.0))
        self.assertEqual(scene.rig.lamps[0].colour, (0.0, 0.0, 0.0))
        self.assertEqual(scene.camera.distance, 4.0)
        self.assertEqual([decal.tint for decal in scene.decals], [(1.0, 1.0, 1.0), (0.5, 0.5, 0.75)])
        looked = Scene.of(graph.form, graph.rig).judging(graph)
        self.assertEqual(looked.keyed(graph, looks_on=True).camera, looked.camera)

    def test_what_does_not_fit_is_refused_in_words(self) -> None:
        stops = Key(0.0, (0.0, 0.0, 1.0, 1.0)), Key(1.0, (0.0, 0.0, 0.5, 0.5, 1.0, 1.0))
        graph = done(
            self.graph, AddNode(Node("ramp", "curve")), AddParameter(Parameter("ramp", "Ramp", "ramp", "points"))
        )
        for target, wrong, words in (
            ("gloss_roughness", Track(()), "1 to 1000 keys"),
            ("gloss_roughness", Track((Key(-1.0, (0.5,)),)), "is at 0 to"),
            ("face_tint", Track((Key(0.0, (0.5, 0.5)),)), "takes a colour"),
            ("gloss_roughness", Track((Key(0.0, (0.5,)), Key(0.0, (0.6,)))), "thousandth"),
            ("gloss_roughness", Track((Key(1.0, (0.5,)), Key(0.0, (0.6,)))), "out of order"),
            ("gloss_roughness", Track((Key(0.0, (0.5,), "hand", (), (1.0, 2.0)),)), "A slope"),
            ("gloss_roughness", Track((Key(0.0, (0.5,)),), path="hue"), "Only a colour"),
            ("ramp", Track(stops), "as many stops"),
            ("nothing_there", Track((Key(0.0, (0.5,)),)), "parameter is gone"),
            ("scene/nothing", Track((Key(0.0, (0.5,)),)), "to be keyed"),
            ("scene/lamp_1", Track((Key(0.0, (-0.5,)),)), "Strength is 0"),
        ):
            with self.subTest(words), self.assertRaisesRegex(OperationRefused, words):
                SetTrack(target, wrong).apply(graph)


class ByHandOnTheTimeline(unittest.TestCase):
    """What hands do to keys, seen in the values that come of it."""

    keys = (
        Key(1.0, (0.0,), "overshoot"),
        Key(2.0, (1.0,), "gather"),
        Key(4.0, (0.25,), "straight"),
        Key(5.0, (0.5,), "hold"),
    )
    graph = done(enamel(), SetTrack("gloss_roughness", Track(keys)))
    every = (KeysOf("gloss_roughness", (1.0, 2.0, 4.0, 5.0)),)

    def value(self, graph: Graph, time: float) -> float:
        return float(graph.keyed_values("", time)["gloss_roughness"][0])

    def assert_moved(
        self, craft: MoveKeys | ScaleKeys | ReverseKeys | EaseKeys, of: object, low: float, high: float
    ) -> Graph:
        after, inverse = craft.batch(self.graph).apply(self.graph)
        self.assertEqual(inverse.apply(after)[0], self.graph)
        for time in np.linspace(low, high, 400):
            self.assertAlmostEqual(self.value(after, time), self.value(self.graph, of(time)), places=9)  # type: ignore[operator] # a function
        return after

    def test_moved_scaled_and_reversed_the_curve_goes_with_its_keys(self) -> None:
        self.assert_moved(MoveKeys(self.every, 2.5), lambda time: time - 2.5, 0, 9)
        self.assert_moved(MoveKeys(self.every, -7.0), lambda time: time + 1.0, 0, 9)
        self.assert_moved(ScaleKeys(self.every, 1.0, 1.5), lambda time: 1 + (time - 1) / 1.5, 0, 12)
        # At the very keys a value that holds jumps the other way.
        self.assert_moved(ReverseKeys(self.every), lambda time: 6 - time, 1.0001, 4.9999)
        self.assert_moved(EaseKeys((KeysOf("gloss_roughness", (1.0, 2.0)),), "hand"), lambda time: time, 0, 9)

    def test_keys_go_to_frames_and_what_they_come_to_stand_on_gives_way(self) -> None:
        some = (KeysOf("gloss_roughness", (2.0,)),)
        moved, _ = MoveKeys(some, 1.99).batch(self.graph).apply(self.graph)
        self.assertEqual([key.time for key in moved.tracks["gloss_roughness"].keys], [1.0, 4.0, 5.0])
        self.assertEqual(self.value(moved, 4.0), 1.0)
        free, _ = MoveKeys(some, 0.01, snap=False).batch(self.graph).apply(self.graph)
        self.assertEqual(free.tracks["gloss_roughness"].keys[1].time, 2.01)
        # Between two frames it is the later one, as the page rounds.
        for frames in (10.5, 11.5):
            between, _ = MoveKeys(some, frames / 30).batch(self.graph).apply(self.graph)
            self.assertAlmostEqual(between.tracks["gloss_roughness"].keys[1].time, 2 + (frames + 0.5) / 30)

    def test_lined_up_and_pasted(self) -> None:
        graph = done(self.graph, SetTrack("scene/sun", Track((Key(3.0, (1.0,)), Key(3.5, (0.0,))))))
        chosen = (KeysOf("gloss_roughness", (2.0, 4.0)), KeysOf("scene/sun", (3.5,)))
        lined, _ = LineUpKeys(chosen, 7.0).batch(graph).apply(graph)
        self.assertEqual([key.time for key in lined.tracks["gloss_roughness"].keys], [1.0, 5.0, 7.0, 9.0])
        self.assertEqual([key.time for key in lined.tracks["scene/sun"].keys], [3.0, 7.0])
        pasted = PasteKeys((CopiedKeys("scene/sun", graph.tracks["scene/sun"].keys),), 4.0, "gloss_roughness")
        after, _ = pasted.batch(graph).apply(graph)
        self.assertEqual(
            [(key.time, key.value) for key in after.tracks["gloss_roughness"].keys],
            [(1.0, (0.0,)), (2.0, (1.0,)), (4.0, (1.0,)), (4.5, (0.0,)), (5.0, (0.5,))],
        )
        with self.assertRaisesRegex(OperationRefused, "changes nothing"):
            MoveKeys(chosen, 0.0).batch(graph)


if __name__ == "__main__":
    unittest.main()
