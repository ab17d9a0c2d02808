"""Decals against geometry: where a box falls on a plane, their order, what tells them apart, and the file."""

import unittest

import numpy as np

from tests.core.test_backdrop import tilted
from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.document.graph import empty_graph
from velvet_moth.core.forms.view import Camera
from velvet_moth.core.language.expr import constant
from velvet_moth.core.language.inputs import Bindings, surface
from velvet_moth.core.language.interpreters.evaluate import evaluate_in_tiles
from velvet_moth.core.language.primitives import combine
from velvet_moth.core.lighting.backdrop import BACKDROP, FAR
from velvet_moth.core.lighting.channels import Surface, default_surface
from velvet_moth.core.lighting.decals import ON_DECAL, Decal, decal_share, on_decal
from velvet_moth.core.lighting.shown import appearance, light_of, shown_light
from velvet_moth.core.operations import set_field
from velvet_moth.core.render.tracing.projecting import falls_on, painted, points_on
from velvet_moth.core.render.tracing.reference import placed, whole_screen
from velvet_moth.core.render.tracing.scene import Scene
from velvet_moth.core.scenery.backdrops import BACKDROPS, Backdrop

SIZE = (192, 144)
# The plane behind of tests/core/test_backdrop.py, y = -1.5 + 0.3 x - 0.2 z.
NORMAL = np.array((-0.3, 1.0, 0.2)) / np.linalg.norm((-0.3, 1.0, 0.2))
CAMERA = Camera(30.0, 50.0, 6.0)


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
        shaped = {n: np.array(v, np.float32).reshape(-1, 1, 1) if v.ndim else np.float32(v) for n, v in draw.items()}
        self.around = Bindings(shaped, {}, at_hand.textures)
        self.screen = whole_screen(SIZE)
        self.decal = falls_on(tilted(), CAMERA, (96, 60), SIZE, 3.0)

    def shares(self, decal: Decal) -> tuple[dict[str, np.ndarray], np.ndarray]:
        points = points_on(decal, self.screen, self.around)
        (found,) = evaluate_in_tiles(
            [decal_share(constant(1.0))], Bindings({**self.around.inputs, **points}, {}, {}), SIZE[::-1]
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

    def test_later_ones_lie_over_earlier_ones_each_with_its_own_tint_and_index(self) -> None:
        assert self.decal is not None
        a, b = (
            Decal(self.decal.place, self.decal.turn, self.decal.tilt, index=i, tint=t)
            for i, t in ((1.0, (1.0, 0.0, 0.0)), (2.0, (0.0, 0.0, 1.0)))
        )
        light = surface("decal_tint") * surface("decal_index")
        picture = on_decal(light, constant(0.5))
        before = self.around.textures[BACKDROP].levels[0][:, 60, 96]
        for first, second in ((a, b), (b, a)):
            found = painted((first, second), picture, self.screen, self.around).levels[0][:, 60, 96]
            tints = [np.array(d.tint) * d.index for d in (first, second)]
            expected = (before[:3] * 0.5 + tints[0] * 0.5) * 0.5 + tints[1] * 0.5
            np.testing.assert_allclose(found[:3], expected, atol=1e-5)
            self.assertEqual(found[3], before[3], "the distance stays")

    def test_a_shown_colour_comes_back_through_the_light(self) -> None:
        colours = np.random.default_rng(1).uniform(0, 0.98, (3, 8, 8)).astype(np.float32)
        given = Bindings({"position": colours, "exposure": np.float32(0.7)}, {}, {})
        (found,) = evaluate_in_tiles([shown_light(light_of(surface("position")))], given, (8, 8))
        np.testing.assert_allclose(found, colours, atol=2e-4)

    def test_every_surface_input_a_form_tells_is_given(self) -> None:
        uv = Surface({**default_surface().channels, "base_colour": combine(surface("uv").x, 0.0, 0.0)})
        self.assertEqual(appearance(uv, kind="decal").given, ON_DECAL)
        self.assertFalse(appearance(uv, kind="decal").casts)


class PutDown(unittest.TestCase):
    def test_they_are_set_taken_back_and_refused_with_their_number(self) -> None:
        graph = empty_graph("Marks")
        fine, huge = Decal((0.0, 0.0, 0.0)), Decal((0.0, 0.0, 0.0), size=(30.0, 1.0, 1.0))
        after, back = set_field("decals", (fine,)).apply(graph)
        self.assertEqual((after.decals, back.apply(after)[0]), ((fine,), graph))
        with self.assertRaises(OperationRefused) as refused:
            set_field("decals", (fine, huge)).apply(graph)
        self.assertEqual(refused.exception.where, "decal 2")
        with self.assertRaises(OperationRefused):
            set_field("decals", (fine,) * 25).apply(graph)


if __name__ == "__main__":
    unittest.main()
