"""What lies behind: measured exactly, hidden and let through by the kind of surface in front of it."""

import unittest
from dataclasses import replace

import numpy as np

from tests.support.graphs import built
from velvet_moth.core.document.graph import Graph, Node
from velvet_moth.core.forms.mesh import Mesh, grid, square
from velvet_moth.core.forms.view import BACKGROUND, Camera, Rig
from velvet_moth.core.language.expr import constant
from velvet_moth.core.language.inputs import Bindings, surface
from velvet_moth.core.language.interpreters.evaluate import evaluate
from velvet_moth.core.language.texture import linear_to_srgb
from velvet_moth.core.lighting.backdrop import BACKDROP, depth_behind, grey_light
from velvet_moth.core.lighting.channels import Surface, default_surface
from velvet_moth.core.lighting.shown import appearance, tone_curve
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.operations import AddNode, SetValue, Wire, set_field
from velvet_moth.core.render.tracing.reference import points_of, render
from velvet_moth.core.render.tracing.scene import Scene
from velvet_moth.core.scenery.backdrops import BACKDROPS, Backdrop
from velvet_moth.core.workbench.problems import find_problems
from velvet_moth.core.workbench.session import picture

SIZE = (96, 72)
# y = -1.5 + 0.3 x - 0.2 z, below the plane.
TILT = np.array([0.3, -1.0, -0.2])


def tilted() -> Mesh:
    u, v = square(3, 3)
    x, z = u * 60 - 30, 30 - v * 60
    return grid(np.stack((x, -1.5 + 0.3 * x - 0.2 * z, z), axis=-1), np.stack((u, v), axis=-1))


PLAIN = appearance(default_surface())


class Told(unittest.TestCase):
    def test_an_opacity_that_does_nothing_is_told_and_mended(self) -> None:
        for channel, code in (
            ("opacity", "idle-opacity"),
            ("alpha_cutoff", "idle-alpha_cutoff"),
            ("wetness", "idle-wetness"),
        ):
            graph = built(AddNode(Node("data", "vertex_colour")), Wire("dock", channel, "data", "red"))
            (found,) = [p for p in find_problems(lower(graph), {}) if p.code.startswith("idle")]
            self.assertEqual(found.code, code)
            for mend in found.mends:
                assert mend.operation is not None
                mended, back = mend.operation.apply(graph)
                self.assertFalse([p for p in find_problems(lower(mended), {}) if p.code == code])
                self.assertEqual(back.apply(mended)[0], graph)

    def test_a_back_is_shown_by_a_two_sided_surface_alone(self) -> None:
        graph = built(
            AddNode(Node("below", "surface", {"base_colour": (0.0, 0.0, 0.8), "opacity": (0.0,)})),
            Wire("dock", "back", "below", "surface"),
            SetValue("dock", "base_colour", (0.8, 0.0, 0.0)),
            set_field("form", "plane"),
            set_field("rig", "overcast"),
        )

        def seen(graph: Graph, tilt: float) -> list[float]:
            scene = replace(Scene.of_graph(graph), camera=Camera(tilt=tilt))
            return list(picture(graph, (8, 8), {}.get, scene=scene)[4, 4].astype(float))

        (found,) = [p for p in find_problems(lower(graph), {}) if p.code == "idle-back"]
        assert found.mends[0].operation is not None
        mended, _ = found.mends[0].operation.apply(graph)
        self.assertFalse([p for p in find_problems(lower(mended), {}) if p.code == "idle-back"])
        self.assertEqual(seen(mended, 60.0), seen(graph, 60.0))
        red, _, blue, there = seen(mended, -60.0)
        self.assertGreater(blue, 2 * red)
        # Its outline is the front's: an opacity of its own does not cut it away.
        self.assertEqual(there, 255)
        red, _, blue, _ = seen(graph, -60.0)
        self.assertGreater(red, 2 * blue)

    def test_a_decal_on_nothing_or_with_an_offset_is_told_and_mended(self) -> None:
        bare = built(set_field("kind", "decal"))
        moved = built(
            set_field("kind", "decal"),
            set_field("backdrop", "wall_and_floor"),
            SetValue("dock", "offset", (0.1, 0.0, 0.0)),
        )
        for graph, code in ((bare, "decal-on-nothing"), (moved, "idle-offset")):
            (found,) = [p for p in find_problems(lower(graph), {}) if p.code == code]
            for mend in found.mends:
                assert mend.operation is not None
                mended = mend.operation.apply(graph)[0]
                self.assertFalse([p for p in find_problems(lower(mended), {}) if p.code == code])


class Behind(unittest.TestCase):
    def setUp(self) -> None:
        BACKDROPS["tilted"] = Backdrop(
            "tilted",
            "Tilted",
            words="",
            parts=lambda: {"all": tilted()},
            surface=default_surface,
            view=Camera(),
            standing=Camera(),
        )
        self.addCleanup(BACKDROPS.pop, "tilted")

    def test_depth_behind_is_within_a_millimetre_ten_metres_off(self) -> None:
        for turn, tilt in ((0, 35), (50, 20), (140, 60), (215, 45), (300, 28)):
            camera = Camera(turn, tilt, 10.0, 16.0)
            stage = points_of(Scene("plane", camera, Rig(), 0.0, "tilted"), PLAIN, {}, {}, SIZE)
            (found,) = stage.evaluate([depth_behind(surface("screen_position"))])
            eye = camera.position
            column, row = np.meshgrid(np.arange(SIZE[0]), np.arange(SIZE[1]))
            ways = camera.through(column, row, *SIZE)
            expected = (1.5 - eye @ TILT) / (ways @ TILT) - stage.seen.points["camera_distance"]
            with self.subTest(turn=turn, tilt=tilt):
                self.assertGreater(stage.hit.sum(), 500)
                self.assertLess(np.abs(found - np.maximum(expected, 0))[stage.hit].max(), 1e-3)

    def test_kinds_meet_what_is_behind_in_their_own_way(self) -> None:
        scene = Scene("plane", Camera(20, 40, 5.0), Rig(), 0.0, "tilted")
        channels = {**default_surface().channels, "base_colour": constant(0.8, 0.1, 0.1)}
        ramp = Surface({**channels, "opacity": surface("uv").x})

        def seen(kind: str, shown: Surface) -> np.ndarray:
            return render(appearance(shown, None, kind), {}, {}, SIZE, scene)[..., :3].astype(int)

        stage = points_of(scene, PLAIN, {}, {}, SIZE)
        x = stage.seen.points["uv"][0]
        solid, cut, through = (seen(kind, ramp) for kind in ("solid", "cut_out", "see_through"))
        clear = seen("see_through", Surface({**channels, "opacity": constant(0.0)}))
        gone, there = stage.hit & (x < 0.45), stage.hit & (x > 0.55)
        self.assertLess(np.abs(cut[there] - solid[there]).max(), 8)
        # What is left of the cut-out keeps the sun off some of what lies behind; what is see-through does not.
        self.assertGreater((cut == clear)[gone].all(axis=1).mean(), 0.3)
        self.assertLess((cut - clear)[gone].min(), -10)
        self.assertLessEqual((cut - clear)[gone].max(), 0)
        almost = stage.hit & (x > 0.985)
        self.assertLess(np.abs(through - solid)[almost].max(), 10)
        middle = stage.hit & (np.abs(x - 0.5) < 0.02)
        low, high = np.minimum(solid, clear)[middle], np.maximum(solid, clear)[middle]
        self.assertTrue(((through[middle] >= low - 1) & (through[middle] <= high + 1)).all())

    def test_what_stands_nearer_hides_the_form(self) -> None:
        scene = Scene.of("plane", "overcast", "lock_basin")
        stage = points_of(scene, PLAIN, {}, {}, (160, 120))
        behind = stage.textures[BACKDROP].levels[0][3]
        hidden = stage.hit & (behind < stage.seen.points["camera_distance"])
        self.assertGreater(hidden.sum(), 100, "the posts stand in the water")
        red = Surface({**default_surface().channels, "base_colour": constant(0.9, 0.0, 0.0)})
        blue = Surface({**default_surface().channels, "base_colour": constant(0.0, 0.0, 0.9)})
        a, b = (render(appearance(s), {}, {}, (160, 120), scene) for s in (red, blue))
        np.testing.assert_array_equal(a[hidden], b[hidden])
        self.assertTrue((a != b)[stage.hit & ~hidden].any(axis=-1).all())

    def test_the_grey_behind_is_shown_as_the_stage_s_grey(self) -> None:
        for exposure in (0.5, 0.68, 1.2):
            light = np.array(grey_light(exposure), dtype=np.float32).reshape(3, 1, 1)
            shown = evaluate([tone_curve(surface("sun_colour") * constant(exposure))], Bindings({"sun_colour": light}))[
                0
            ]
            np.testing.assert_allclose(linear_to_srgb(shown).ravel() * 255, BACKGROUND, atol=0.5)
        still = Scene("plane", Camera(), Rig(), 3.0, "tilted").still
        self.assertEqual(still, replace(still, time=0.0))
