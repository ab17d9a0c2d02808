"""Swatches, lighting and the reference picture."""

import base64
import unittest
from dataclasses import replace

import cv2
import numpy as np

from tests.support.graphs import TEXTURES, enamel
from velvet_moth.core.document.graph import Source
from velvet_moth.core.forms import FORMS, form
from velvet_moth.core.forms.view import Camera, Rig
from velvet_moth.core.language.expr import constant
from velvet_moth.core.language.inputs import Bindings
from velvet_moth.core.language.interpreters.evaluate import evaluate
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.lighting.channels import CHANNELS, Surface, default_surface, mixed
from velvet_moth.core.lighting.environment import ENVIRONMENT, HEIGHT, RESPONSE_STRIP, environment_map
from velvet_moth.core.lighting.layers import facing_normal
from velvet_moth.core.lighting.model import radiance
from velvet_moth.core.lighting.shadow import SUN_DEPTH, nothing_casts
from velvet_moth.core.lighting.shown import appearance
from velvet_moth.core.operations import SetValue
from velvet_moth.core.render.tracing.reference import points_of, render
from velvet_moth.core.render.tracing.scene import Scene, form_inputs, rig_inputs
from velvet_moth.core.workbench.session import Session, picture


def surface(**channels: tuple[float, ...]) -> Surface:
    changed = {key: constant(*value) for key, value in channels.items()}
    return Surface({**default_surface().channels, **changed})


PLAIN = appearance(default_surface())


class Swatches(unittest.TestCase):
    def test_an_edit_computes_only_what_lies_downstream(self) -> None:
        session, graph = Session(), enamel()
        first = session.show(graph, "", None, TEXTURES.get)
        self.assertEqual(set(first.changed), set(first.swatches))
        changed_graph, _ = SetValue("gloss_scale", "b", (0.6,)).apply(graph)
        second = session.show(changed_graph, "", None, TEXTURES.get)
        nodes = {s.node for s in second.changed}
        self.assertEqual(nodes, {"gloss_scale", "gloss_range", "gloss", "layers", "dock"})
        fresh = Session().show(changed_graph, "", None, TEXTURES.get)
        self.assertEqual(fresh.swatches, second.swatches)

    def test_a_variant_shows_in_the_swatches(self) -> None:
        session = Session()
        session.show(enamel(), "", None, TEXTURES.get)
        night = session.show(enamel(), "night_ferry", None, TEXTURES.get)
        mean = night.swatches[Source("face_tint", "colour")].mean
        self.assertGreater(mean[2], mean[0])
        self.assertNotIn(Source("flake_map", "normal"), night.changed)

    def test_a_form_as_ground_shows_its_outline_and_judges_nothing(self) -> None:
        session, graph = Session(), enamel()
        dome = session.show(graph, "", None, TEXTURES.get)
        for key in ("plane", "sphere", "mooring", "reeds"):
            with self.subTest(key):
                shown = session.show(graph, "", None, TEXTURES.get, key)
                self.assertEqual(set(shown.changed), set(shown.swatches), "all are drawn anew")
                png = base64.b64decode(shown.swatches[Source("dock", "surface")].png.partition(",")[2])
                alpha = cv2.imdecode(np.frombuffer(png, np.uint8), cv2.IMREAD_UNCHANGED)[..., 3]
                self.assertEqual(set(np.unique(alpha)), {0, 255})
                self.assertGreater((alpha == 255).mean(), 0.2)
                self.assertEqual(shown.problems, dome.problems, "what is wrong does not hang on the ground")
        # The plane is seen from one side: a mask of the view runs over less of it than over the dome.
        plane = session.show(graph, "", None, TEXTURES.get, "plane").swatches[Source("turning", "value")]
        whole = dome.swatches[Source("turning", "value")]
        self.assertLess(plane.high - plane.low, whole.high - whole.low)
        self.assertEqual(session.show(graph, "", None, TEXTURES.get).swatches, dome.swatches)


class Lighting(unittest.TestCase):
    def radiance(self, shown: Surface, environment: float, sun: float = 0.0) -> np.ndarray:
        """Light leaving a sphere towards the eye under an even environment."""
        stage = points_of(Scene("sphere", Camera(0.0, 0.0, 6.0)), PLAIN, {}, {}, (64, 64))
        points, hit = stage.seen.points, stage.hit
        level = environment_map().levels[0].copy()
        level[:, : RESPONSE_STRIP * HEIGHT] = environment
        even = Texture((level,))
        rig = rig_inputs(Rig(strength=sun, turn=0.0, tilt=0.0), 0.0, even)
        bindings = Bindings(
            {**points, **form_inputs(form("sphere")), **rig}, {}, {ENVIRONMENT: even, SUN_DEPTH: nothing_casts()}
        )
        value = evaluate([radiance(shown, facing_normal())], bindings)[0]
        facing = np.sum(points["normal"] * points["view_direction"], axis=0)
        return np.asarray(value[:, hit & (facing > 0.3)])

    def test_the_sun_keeps_its_energy(self) -> None:
        """A dull white sphere facing a sun of pi reflects about 1 in the middle, less its specular share."""
        found = self.radiance(surface(base_colour=(1, 1, 1), roughness=(1,)), 0.0, float(np.pi))
        self.assertAlmostEqual(float(found[0].max()), 1.0, delta=0.06)

    def test_channels_outside_their_range_are_clamped(self) -> None:
        wild = surface(roughness=(-3.0,), metallic=(7.0,), occlusion=(-1.0,), clear_coat=(2.0,))
        tame = surface(roughness=(0.0,), metallic=(1.0,), occlusion=(0.0,), clear_coat=(1.0,))
        np.testing.assert_array_equal(self.radiance(wild, 0.7, 2.0), self.radiance(tame, 0.7, 2.0))

    def test_the_environment_blurs_with_roughness_and_keeps_its_light(self) -> None:
        level = environment_map().levels[0]
        strips = [level[:3, i * HEIGHT : (i + 1) * HEIGHT] for i in range(7)]
        ring = np.sin((np.arange(HEIGHT) + 0.5) / HEIGHT * np.pi)[None, :, None]
        means = [float((s * ring).mean() / ring.mean()) for s in strips]
        spreads = [float(s.std()) for s in strips]
        self.assertEqual(spreads, sorted(spreads, reverse=True))
        for mean in means[1:4]:
            self.assertAlmostEqual(mean / means[0], 1.0, delta=0.06)

    def test_whole_surfaces_mix_by_channel_with_unit_normals(self) -> None:
        a = surface(normal=(0.6, 0.0, 0.8), roughness=(0.2,))
        b = surface(normal=(-0.6, 0.0, 0.8), roughness=(0.8,))
        half = mixed(a, b, constant(0.5))
        self.assertEqual(half["normal"].attributes, (0.0, 0.0, 1.0))
        self.assertAlmostEqual(half["roughness"].attributes[0], 0.5)
        self.assertEqual(set(half.channels), set(CHANNELS))


CLOSED = {"drop", "sphere", "box", "rounded_box", "cylinder", "torus", "pipe", "voxel_block", "mooring"}


class Reference(unittest.TestCase):
    def test_forms_are_sound(self) -> None:
        self.assertEqual([len(form(f"plane:{cells}").triangles) for cells in (1, 5, 256)], [2, 50, 2 * 256**2])
        for key in (*FORMS, "plane:1", "plane:5"):
            mesh = form(key)
            with self.subTest(key):
                np.testing.assert_allclose(np.linalg.norm(mesh.normals, axis=1), 1, atol=1e-5)
                np.testing.assert_allclose(np.linalg.norm(mesh.tangents[:, :3], axis=1), 1, atol=1e-4)
                across = np.abs(np.sum(mesh.normals * mesh.tangents[:, :3], axis=1))
                self.assertLess(across.max(), 1e-3)
                corners = mesh.positions[mesh.triangles]
                facing = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
                agreeing = np.sum(facing * mesh.normals[mesh.triangles].mean(axis=1), axis=1)
                self.assertGreater((agreeing > 0).mean(), 0.999)
                self.assertEqual(mesh.is_closed, key in CLOSED)
                torn = replace(mesh, triangles=mesh.triangles[1:])
                self.assertFalse(torn.is_closed)
                if key in CLOSED:
                    inside = np.sum(corners[:, 0] * np.cross(corners[:, 1], corners[:, 2])) / 6
                    self.assertGreater(inside, 0.1, "a hundred litres, and outside is outside")

    def test_the_camera_sees_a_sphere_where_geometry_puts_it(self) -> None:
        camera = Camera(40.0, 25.0, 5.0)
        stage = points_of(Scene("sphere", camera), PLAIN, {}, {}, (128, 128))
        points, hit = stage.seen.points, stage.hit
        rows, columns = np.nonzero(hit)
        self.assertAlmostEqual(float(rows.mean()), 63.5, delta=0.6)
        self.assertAlmostEqual(float(columns.mean()), 63.5, delta=0.6)
        share = np.tan(np.arcsin(1 / 5)) / np.tan(np.radians(15))
        self.assertAlmostEqual(float(np.sqrt(hit.sum() / np.pi)) / 64, float(share), delta=0.01)
        np.testing.assert_allclose(np.linalg.norm(points["position"][:, hit], axis=0), 1, atol=2e-3)

    def test_variants_look_as_they_are_named(self) -> None:
        red, blue = (picture(enamel(), (48, 48), TEXTURES.get, v) for v in ("", "night_ferry"))
        seen = red[..., 3] > 0
        self.assertGreater(red[seen][:, 0].mean(), red[seen][:, 2].mean() + 30)
        self.assertGreater(blue[seen][:, 2].mean(), blue[seen][:, 0].mean() + 30)

    def test_nothing_hit_is_see_through(self) -> None:
        made = render(appearance(default_surface()), {}, {}, (32, 32), Scene("sphere"))
        self.assertEqual(tuple(made[0, 0]), (0x73, 0x70, 0x6D, 0))
        self.assertEqual(made[16, 16, 3], 255)
