"""Decals against geometry: where a box falls on a plane, their order, what tells them apart, and the file."""

import unittest
from collections.abc import Hashable, Sequence
from dataclasses import replace
from functools import partial

import numpy as np

from tests.core.test_backdrop import tilted
from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.document.graph import empty_graph
from velvet_moth.core.forms.view import Camera
from velvet_moth.core.language.expr import constant
from velvet_moth.core.language.inputs import Bindings, surface
from velvet_moth.core.language.interpreters.evaluate import evaluate, evaluate_in_tiles
from velvet_moth.core.language.primitives import combine
from velvet_moth.core.lighting.backdrop import BACKDROP, FAR
from velvet_moth.core.lighting.channels import Surface, default_surface
from velvet_moth.core.lighting.decal_buffers import EMPTY_BUFFERS, buffers_of
from velvet_moth.core.lighting.decals import NO_DECAL_INPUTS, ON_DECAL, Decal, decal_share
from velvet_moth.core.lighting.shown import appearance, light_of, shown_light
from velvet_moth.core.lighting.spread import AT_ONCE, Spread, spread_and_dryness
from velvet_moth.core.operations import set_field
from velvet_moth.core.render.tracing.behind import full_screen
from velvet_moth.core.render.tracing.projecting import falls_on, in_window, painted, points_on
from velvet_moth.core.render.tracing.reference import placed, render
from velvet_moth.core.render.tracing.scene import Scene, stage_textures
from velvet_moth.core.render.tracing.window import Window
from velvet_moth.core.scenery.backdrops import BACKDROPS, Backdrop

SIZE = (192, 144)
# The plane behind of tests/core/test_backdrop.py, y = -1.5 + 0.3 x - 0.2 z.
NORMAL = np.array((-0.3, 1.0, 0.2)) / np.linalg.norm((-0.3, 1.0, 0.2))
CAMERA = Camera(30.0, 50.0, 6.0)


def even_surface(given: dict[str, tuple[float, ...]]) -> Surface:
    return Surface({**default_surface().channels, **{key: constant(*value) for key, value in given.items()}})


class Projected(unittest.TestCase):
    def setUp(self) -> None:
        BACKDROPS["tilted"] = Backdrop(
            "tilted",
            "Tilted",
            words="",
            parts=lambda: {"all": tilted()},
            surface=default_surface,
            view=CAMERA,
            standing=CAMERA,
        )
        self.addCleanup(BACKDROPS.pop, "tilted")
        self.scene = Scene("plane", CAMERA, backdrop="tilted")
        at_hand = placed(self.scene, appearance(default_surface(), kind="decal"), {}, {}, SIZE)
        right, up, _ = CAMERA.axes
        draw = {
            "camera_position": CAMERA.position,
            "camera_right": right,
            "camera_up": up,
            "lens": np.array(CAMERA.lens(*SIZE)),
            "exposure": np.array(1.0),
        }
        draw |= {**AT_ONCE.inputs, "time": np.array(0.0)}
        shaped = {n: np.array(v, np.float32).reshape(-1, 1, 1) if v.ndim else np.float32(v) for n, v in draw.items()}
        self.around = Bindings(shaped, {}, at_hand.textures)
        self.screen = in_window(Window.whole(SIZE), SIZE)
        self.decal = falls_on(tilted(), CAMERA, (96, 60), SIZE, 3.0)

    def shares(self, decal: Decal) -> tuple[dict[str, np.ndarray], np.ndarray]:
        points = points_on(decal, self.screen, self.around)
        (found,) = evaluate_in_tiles(
            [decal_share(constant(1.0))], Bindings({**self.around.inputs, **points}, {}, decal.textures), SIZE[::-1]
        )
        return points, found

    def test_it_lies_where_the_pixel_was_and_flat_on_the_face(self) -> None:
        assert self.decal is not None
        _, _, out = self.decal.axes
        self.assertGreater(out @ NORMAL, 0.9999)
        x, y, z = self.decal.place
        self.assertAlmostEqual(y, -1.5 + 0.3 * x - 0.2 * z, places=3)
        points, share = self.shares(self.decal)
        np.testing.assert_allclose(points["uv"][:, 60, 96], (0.5, 0.5), atol=0.01)
        self.assertEqual(share[60, 96], 1.0)
        self.assertIsNone(falls_on(tilted(), Camera(0.0, 0.0, 6.0), (0, 143), SIZE, 1.0))

    def test_its_picture_and_its_edges_follow_the_box(self) -> None:
        assert self.decal is not None
        points, share = self.shares(self.decal)
        columns, rows = np.meshgrid(np.arange(SIZE[0]), np.arange(SIZE[1]))
        ways = CAMERA.through(columns, rows, *SIZE)
        eye = CAMERA.position
        reach = ((np.array((0, -1.5, 0)) - eye) @ NORMAL) / (ways @ NORMAL)
        place = eye + ways * reach[..., None]
        right, up, _ = self.decal.axes
        within = place - np.array(self.decal.place)
        u, v = within @ right + 0.5, within @ up + 0.5
        there = self.around.textures[BACKDROP].levels[0][3] < FAR
        near = there & (np.abs(u - 0.5) < 2) & (np.abs(v - 0.5) < 2)
        np.testing.assert_allclose(points["uv"][0][near], u[near], atol=2e-3)
        np.testing.assert_allclose(points["uv"][1][near], v[near], atol=2e-3)
        inside = near & (np.abs(u - 0.5) < 0.49) & (np.abs(v - 0.5) < 0.49)
        outside = ~there | (np.abs(u - 0.5) > 0.51) | (np.abs(v - 0.5) > 0.51)
        self.assertGreater(inside.sum(), 200)
        self.assertTrue((share[inside] == 1).all())
        self.assertTrue((share[outside] == 0).all())
        turned = Decal(self.decal.place, self.decal.turn, self.decal.tilt - 85.0, size=(4.0, 4.0, 4.0))
        self.assertEqual(self.shares(turned)[1].max(), 0.0, "a face turned away takes nothing")

    def buffers(self, decals: Sequence[Decal], shown: Surface) -> dict[Hashable, np.ndarray]:
        bare = {key: full_screen(value, SIZE) for key, value in EMPTY_BUFFERS.items()}
        found = painted(decals, buffers_of(shown), bare, self.around, Window.whole(SIZE))
        return {key: texture.levels[0][:, 60, 96] for key, texture in found.items()}

    def test_later_ones_cover_earlier_ones_each_part_by_its_own_share(self) -> None:
        """Over operators of three layers, written out."""
        assert self.decal is not None
        a, b = (
            Decal(self.decal.place, self.decal.turn, self.decal.tilt, index=i, tint=t)
            for i, t in ((1.0, (1.0, 0.0, 0.0)), (2.0, (0.0, 0.0, 1.0)))
        )
        shown = Surface(
            {
                **default_surface().channels,
                "base_colour": surface("decal_tint"),
                "roughness": surface("decal_index") * 0.25,
                "emissive": constant(0.0, 0.5, 0.0),
                "opacity": constant(0.5),
                "roughness_amount": constant(0.4),
                "metallic_amount": constant(0.0),
                "wetness": constant(0.6),
            }
        )
        for first, second in ((a, b), (b, a)):
            found = self.buffers((first, second), shown)
            tints = [np.array(d.tint) for d in (first, second)]
            np.testing.assert_allclose(found["decal_colour"], (*(tints[0] * 0.25 + tints[1] * 0.5), 0.25), atol=1e-6)
            np.testing.assert_allclose(found["decal_normal"], (*NORMAL * 0.75, 0.25), atol=1e-4)
            rough = [d.index * 0.25 for d in (first, second)]
            finish = (rough[0] * 0.2 * 0.8 + rough[1] * 0.2, 0.8 * 0.8, 0.0, 1.0)
            np.testing.assert_allclose(found["decal_finish"], finish, atol=1e-6)
            # Of the first, half is covered; then three tenths of what is there become wet.
            np.testing.assert_allclose(found["decal_light"], (0.0, 0.25 * 0.5 + 0.25, 0.0, 0.15 * 0.7 + 0.3), atol=1e-6)

    def test_what_lies_behind_is_lit_with_what_decals_leave_of_it(self) -> None:
        """A rough metal plane: a decal that only wets it, or replaces one part, is that plane made so in the first place."""
        below = {"base_colour": (0.6, 0.3, 0.1), "metallic": (0.2,), "roughness": (0.8,)}
        only = {f"{part}_amount": 0.0 for part in ("colour", "normal", "roughness", "metallic")}
        dried = 1.0 - 0.5 * 0.8 * (1.0 - 0.2) * 0.6
        cases: list[tuple[dict[str, float], dict[str, tuple[float, ...]]]] = [
            (only, {}),
            ({**only, "roughness": 0.2, "roughness_amount": 1.0}, {"roughness": (0.2,)}),
            ({**only, "metallic": 1.0, "metallic_amount": 0.5}, {"metallic": (0.6,)}),
            (
                {**only, "wetness": 0.5},
                {"base_colour": (0.6 * dried, 0.3 * dried, 0.1 * dried), "roughness": (0.46,)},
            ),
            ({}, {"base_colour": (0.5,) * 3, "metallic": (0.0,), "roughness": (0.5,)}),
        ]
        for given, as_if in cases:
            with self.subTest(given):
                decal = Surface({**default_surface().channels, **{k: constant(v) for k, v in given.items()}})
                pictures = []
                for surface_behind, decals in ((below, (self.decal,)), ({**below, **as_if}, ())):
                    BACKDROPS["tilted"] = replace(BACKDROPS["tilted"], surface=partial(even_surface, surface_behind))
                    scene = Scene("plane", CAMERA, backdrop="tilted", decals=decals)
                    look = appearance(decal, kind="decal")
                    pictures.append(render(look, {}, {}, SIZE, scene)[60, 96].astype(int))
                self.assertLessEqual(np.abs(pictures[0] - pictures[1]).max(), 1)

    def test_a_decal_flattens_bumps_below_it(self) -> None:
        bumpy = {"normal": (0.5, 0.0, 0.866)}
        flat = Surface(
            {**default_surface().channels, **{f"{p}_amount": constant(0.0) for p in ("colour", "roughness")}}
        )
        pictures = []
        for below, decals in ((bumpy, (self.decal,)), ({}, ())):
            BACKDROPS["tilted"] = replace(BACKDROPS["tilted"], surface=partial(even_surface, below))
            scene = Scene("plane", CAMERA, backdrop="tilted", decals=decals)
            pictures.append(render(appearance(flat, kind="decal"), {}, {}, SIZE, scene).astype(int))
        self.assertLessEqual(np.abs(pictures[0][60, 96] - pictures[1][60, 96]).max(), 1)
        self.assertGreater(np.abs(pictures[0] - pictures[1]).max(), 5, "beside it the bumps stay")

    def test_a_shown_colour_comes_back_through_the_light(self) -> None:
        colours = np.random.default_rng(1).uniform(0, 0.98, (3, 8, 8)).astype(np.float32)
        given = Bindings({"position": colours, "exposure": np.float32(0.7)}, {}, {})
        (found,) = evaluate_in_tiles([shown_light(light_of(surface("position")))], given, (8, 8))
        np.testing.assert_allclose(found, colours, atol=2e-4)

    def test_what_stands_in_for_the_stage_is_the_same_every_time(self) -> None:
        """Pictures of the sun and swatches are found again by the textures they were made with."""
        first, second = stage_textures(), stage_textures()
        self.assertTrue(all(first[key] is second[key] for key in first))

    def test_every_surface_input_a_form_tells_is_given(self) -> None:
        uv = Surface({**default_surface().channels, "base_colour": combine(surface("uv").x, 0.0, 0.0)})
        self.assertEqual(appearance(uv, kind="decal").given, ON_DECAL)
        self.assertFalse(appearance(uv, kind="decal").casts)


EASED = {
    "straight": lambda x: x,
    "smooth": lambda x: x * x * (3 - 2 * x),
    "gather": lambda x: x**3,
    "settle": lambda x: 1 - (1 - x) ** 3,
}


class Living(unittest.TestCase):
    """Growth, drawing in and drying against their closed forms, at moments asked for in any order."""

    def at(self, spread: Spread, decal: Decal, time: float) -> tuple[float, float]:
        known = {**decal.inputs, **spread.inputs, "time": np.array(time, np.float32)}
        share, dryness = evaluate(list(spread_and_dryness()), Bindings(known))
        return float(np.ravel(share)[0]), float(np.ravel(dryness)[0])

    def test_it_spreads_stays_and_goes(self) -> None:
        draw = np.random.default_rng(4)
        decal = Decal((0.0, 0.0, 0.0), size=(0.8, 1.2, 0.4), born=1.5)
        for easing, eased in EASED.items():
            for ending in ("stay", "draw_in", "dry"):
                spread = Spread(0.1, 0.5, easing, 2.0, ending, 1.6)
                # From 0.1 m to 1.2 m by half a metre a second.
                grown = 1.1 / 0.5
                for time in draw.permutation(np.linspace(0.0, 9.0, 40)):
                    age = time - 1.5
                    up = eased(np.clip(age / grown, 0, 1))
                    gone = eased(np.clip((age - grown - 2.0) / 1.6, 0, 1))
                    share = (0.1 + 1.1 * up) / 1.2 * (1 - gone if ending == "draw_in" else 1)
                    expected = (share if age >= 0 else 0.0, gone if ending == "dry" else 0.0)
                    np.testing.assert_allclose(self.at(spread, decal, time), expected, atol=2e-6)

    def test_without_a_speed_it_is_there_at_once_and_ends_all_the_same(self) -> None:
        decal = Decal((0.0, 0.0, 0.0))
        self.assertEqual(self.at(Spread(), decal, 0.0), (1.0, 0.0))
        self.assertEqual(self.at(Spread(smallest=5.0, speed=0.1), decal, 0.0)[0], 1.0, "it is as large at first")
        self.assertAlmostEqual(self.at(Spread(easing="straight", ending="draw_in"), decal, 2.25)[0], 0.75)

    def test_a_reach_ends_it_in_its_direction_alone(self) -> None:
        reach = [1000.0] * 64
        reach[16] = reach[15] = reach[17] = 0.2  # straight up
        decal = Decal((0.0, 0.0, 0.0), size=(2.0, 2.0, 0.4), reach=tuple(reach))
        at = np.linspace(0.01, 0.9, 90, dtype=np.float32)[None]
        for x, y, expected in ((0.0, 1.0, at < 0.2), (0.0, -1.0, at > 0.0), (1.0, 0.0, at > 0.0)):
            place = np.stack((at * x, at * y, at * 0))
            straight_on = np.broadcast_to(np.array((0, 0, 1.0), np.float32).reshape(3, 1, 1), place.shape)
            known = {**NO_DECAL_INPUTS, **decal.inputs, "object_position": place, "normal": straight_on}
            around = Bindings({**known, "time": np.array(0.0, np.float32)}, {}, decal.textures)
            (share,) = evaluate([decal_share(constant(1.0))], around)
            np.testing.assert_array_equal(np.broadcast_to(share, at.shape) > 0, expected)


class PutDown(unittest.TestCase):
    def test_they_are_set_taken_back_and_refused_with_their_number(self) -> None:
        graph = empty_graph("Marks")
        fine, huge = Decal((0.0, 0.0, 0.0)), Decal((0.0, 0.0, 0.0), size=(30.0, 1.0, 1.0))
        after, back = set_field("decals", (fine,)).apply(graph)
        self.assertEqual((after.decals, back.apply(after)[0]), ((replace(fine, id="decal_1"),), graph))
        with self.assertRaises(OperationRefused) as refused:
            set_field("decals", (fine, huge)).apply(graph)
        self.assertEqual(refused.exception.where, "decal 2")
        with self.assertRaises(OperationRefused):
            set_field("decals", (fine,) * 241).apply(graph)


if __name__ == "__main__":
    unittest.main()
