"""The surface model: no light is lost or made, and every lobe is what its integral says."""

import unittest
from dataclasses import replace
from typing import Any

import numpy as np

import velvet_moth.core.nodes  # noqa: F401 - fills the catalogue
from tests.support.graphs import checked
from velvet_moth.core.language.expr import Expr, constant
from velvet_moth.core.language.inputs import Bindings, surface
from velvet_moth.core.language.interpreters.evaluate import evaluate
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.lighting.backdrop import BACKDROP, synthetic_backdrop
from velvet_moth.core.lighting.channels import CHANNELS, Surface, widened
from velvet_moth.core.lighting.environment import (
    ENVIRONMENT,
    HEIGHT,
    RESPONSE_STRIP,
    diffuse_harmonics,
    environment_map,
    imported_map,
)
from velvet_moth.core.lighting.harmonics import diffuse_around, harmonics_inputs
from velvet_moth.core.lighting.layers import facing_normal, strands, world_normal
from velvet_moth.core.lighting.lobes import highlight, sheen_lobe, strand_highlight
from velvet_moth.core.lighting.model import radiance, seen_through
from velvet_moth.core.lighting.response import response_table
from velvet_moth.core.lighting.shadow import SUN_DEPTH, nothing_casts
from velvet_moth.core.lighting.shown import appearance
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.render.tracing.exposure import KEY, MOST, automatic_exposure
from velvet_moth.core.render.tracing.reference import points_of
from velvet_moth.core.render.tracing.scene import Scene
from velvet_moth.demo.sketch import Sketch

ROUGHNESSES = (0.05, 0.2, 0.5, 0.8, 1.0)
COSINES = np.array([0.08, 0.2, 0.4, 0.7, 0.95, 1.0])
WHITE = (1.0, 1.0, 1.0)


def white_room() -> Texture:
    """Bindings that are white in every direction; the table of responses as it is."""
    level = environment_map().levels[0].copy()
    level[:, : RESPONSE_STRIP * HEIGHT] = 1
    return Texture((level,))


def half_sphere(count: int) -> np.ndarray:
    """Unit directions spread evenly over the half sphere about z, (3, count), and so each of 2 pi / count."""
    z = (np.arange(count) + 0.5) / count
    turn = np.arange(count) * (np.pi * (3 - np.sqrt(5)))
    ring = np.sqrt(1 - z * z)
    return np.stack((ring * np.cos(turn), ring * np.sin(turn), z))


def point(view: np.ndarray, light: np.ndarray, sun: float, around: Texture | None = None) -> dict[str, np.ndarray]:
    """A surface facing z, seen along ``view`` and lit along ``light``, (3, rows, columns) each, in dark surroundings
    or those of a map."""

    def vector(*parts: float) -> np.ndarray:
        return np.array(parts, dtype=np.float32).reshape(-1, 1, 1)

    return {
        "view_direction": view.astype(np.float32),
        "sun_direction": light.astype(np.float32),
        "sun_colour": vector(sun, sun, sun),
        "normal": vector(0, 0, 1),
        "moved_normal": vector(0, 0, 1),
        "tangent": vector(1, 0, 0, 1),
        "rig_turn": np.float32(0),
        **harmonics_inputs(np.zeros((9, 3), np.float32) if around is None else diffuse_harmonics(around)),
        "sun_right": vector(1, 0, 0),
        "sun_up": vector(0, 1, 0),
        "sun_half": np.float32(1),
        "moved_position": vector(0, 0, 0),
        "camera_distance": np.float32(4),
        "screen_position": vector(0.5, 0.5),
        "camera_right": vector(1, 0, 0),
        "camera_up": vector(0, 1, 0),
        "lens": vector(0.3, 0.3),
        "is_front": np.float32(1),
    }


def made(**channels: Any) -> Surface:
    given = {key: channels.get(key, declared.default) for key, declared in CHANNELS.items()}
    return Surface({key: widened(key, constant(*np.atleast_1d(value).tolist())) for key, value in given.items()})


VIEWS = np.stack((np.sqrt(1 - COSINES**2), np.zeros_like(COSINES), COSINES))[:, None, :]
# What keeps all light, by the lobes it has; each is white through and through.
FURNACE: dict[str, dict[str, Any]] = {
    "metal": {"base_colour": WHITE, "metallic": 1.0},
    "paint": {"base_colour": WHITE},
    "half metal": {"base_colour": WHITE, "metallic": 0.5},
    "dull paint": {"base_colour": WHITE, "specular": 0.0},
    "dense glass": {"base_colour": WHITE, "ior": 2.4},
    "strands": {"base_colour": WHITE, "metallic": 1.0, "anisotropy": 0.7},
    "coated": {"base_colour": WHITE, "clear_coat": 1.0, "coat_roughness": 0.3},
    "velvet": {"base_colour": WHITE, "sheen": WHITE, "sheen_roughness": 0.5},
    "leaf": {"base_colour": WHITE, "diffuse_transmission": 0.6},
    "glass": {"base_colour": WHITE, "transmission": 1.0},
}


class Furnace(unittest.TestCase):
    def test_a_white_room_stays_white(self) -> None:
        around = {ENVIRONMENT: white_room(), BACKDROP: Texture((np.ones((4, 1, 1), np.float32),))}
        for name, channels in FURNACE.items():
            for rough in ROUGHNESSES:
                with self.subTest(name, roughness=rough):
                    inputs = point(VIEWS, np.array([0, 0, 1.0]).reshape(3, 1, 1), 0.0, around[ENVIRONMENT])
                    found = self.light(made(roughness=rough, **channels), inputs, around)
                    np.testing.assert_allclose(found, 1, atol=0.02)

    def light(
        self, shown: Surface, inputs: dict[str, np.ndarray], around: dict[Any, Texture], lamps: int = 0
    ) -> np.ndarray:
        textures = {**around, SUN_DEPTH: nothing_casts()}
        return evaluate([radiance(shown, surface("normal"), lamps)], Bindings(inputs, {}, textures))[0]

    def test_a_lamp_far_away_is_a_sun(self) -> None:
        """Every lobe, lit by a lamp a kilometre off as bright here as a sun from there."""
        dark = environment_map().levels[0].copy()
        dark[:, : RESPONSE_STRIP * HEIGHT] = 0
        around = {ENVIRONMENT: Texture((dark,)), BACKDROP: Texture((np.zeros((4, 1, 1), np.float32),))}
        for light in (np.array([0.3, 0.4, 0.866]), np.array([0.5, -0.2, -0.84])):
            way = (light / np.linalg.norm(light)).reshape(3, 1, 1).astype(np.float32)
            for name, channels in FURNACE.items():
                shown = made(roughness=0.4, **channels)
                by_sun = self.light(shown, point(VIEWS, way, 2.0), around)
                lamp = {"lamp_place_1": way * 1e3, "lamp_colour_1": np.full((3, 1, 1), 2e6, np.float32)}
                by_lamp = self.light(shown, {**point(VIEWS, way, 0.0), **lamp}, around, 1)
                with self.subTest(name, light=light):
                    np.testing.assert_allclose(by_lamp, by_sun, rtol=2e-3, atol=1e-5)

    def test_a_sun_from_everywhere_gives_no_more_and_loses_nothing(self) -> None:
        """The same by the direct light of every direction, one after the other."""
        dark = environment_map().levels[0].copy()
        dark[:, : RESPONSE_STRIP * HEIGHT] = 0
        around = {ENVIRONMENT: Texture((dark,))}
        lights = half_sphere(20_000)[:, None, :]
        for name in ("metal", "paint", "half metal", "dense glass"):
            for rough in (0.3, 0.6, 1.0):
                for cosine in (0.3, 0.8):
                    with self.subTest(name, roughness=rough, cosine=cosine):
                        view = np.array([np.sqrt(1 - cosine**2), 0, cosine]).reshape(3, 1, 1)
                        lit = self.light(made(roughness=rough, **FURNACE[name]), point(view, lights, 1.0), around)
                        self.assertAlmostEqual(float(lit[0].mean() * 2 * np.pi), 1.0, delta=0.02)

    def test_a_sun_from_everywhere_on_strands(self) -> None:
        """A stretched highlight, seen along the strands, across them and between: within what the fit says."""
        dark = environment_map().levels[0].copy()
        dark[:, : RESPONSE_STRIP * HEIGHT] = 0
        lights = half_sphere(20_000)[:, None, :]
        for rough, strength in ((0.3, 0.5), (0.3, 1.0), (0.6, 0.8), (0.8, 1.0)):
            shown = made(roughness=rough, base_colour=WHITE, metallic=1.0, anisotropy=strength)
            for cosine in (0.15, 0.5, 0.9):
                for turn in (0.0, 0.785, 1.571):
                    sine = np.sqrt(1 - cosine**2)
                    view = np.array([sine * np.cos(turn), sine * np.sin(turn), cosine]).reshape(3, 1, 1)
                    lit = self.light(shown, point(view, lights, 1.0), {ENVIRONMENT: Texture((dark,))})
                    with self.subTest(roughness=rough, strength=strength, cosine=cosine, turn=turn):
                        self.assertAlmostEqual(float(lit[0].mean() * 2 * np.pi), 1.0, delta=0.11)

    def test_rough_metal_under_a_sky_is_what_its_highlight_gathers(self) -> None:
        """The surroundings read once, against the sun from each direction as bright as these are there."""
        around = np.ones((4, 64, 128), np.float32)
        up = np.cos((np.arange(64) + 0.5)[::-1] / 64 * np.pi)[:, None]
        around[:3] = 0.1 + 1.0 / (1.0 + np.exp(-6 * up))
        sky = imported_map(Texture((around,)))
        dark = sky.levels[0].copy()
        dark[:, : RESPONSE_STRIP * HEIGHT] = 0
        lights = half_sphere(20_000)[:, None, :]
        worth = 0.1 + 1.0 / (1.0 + np.exp(-6 * lights[1]))
        off = []
        for rough in (0.4, 0.6, 0.8, 1.0):
            shown = made(roughness=rough, base_colour=WHITE, metallic=1.0)
            for cosine in (0.1, 0.3, 0.7):
                for turn in (0.0, 1.571, -1.571):
                    sine = np.sqrt(1 - cosine**2)
                    view = np.array([sine * np.cos(turn), sine * np.sin(turn), cosine]).reshape(3, 1, 1)
                    read = self.light(shown, point(view, view, 0.0, sky), {ENVIRONMENT: sky})[0].item()
                    summed = self.light(shown, point(view, lights, 1.0), {ENVIRONMENT: Texture((dark,))})[0]
                    gathered = float((summed * worth).mean() * 2 * np.pi)
                    off.append(read / gathered - 1)
        self.assertLess(np.abs(off).max(), 0.4)
        self.assertLess(np.sqrt(np.mean(np.square(off))), 0.12)

    def test_what_is_hidden_from_the_surroundings_is_so_under_a_coat(self) -> None:
        sky = white_room()
        black = {"base_colour": (0.0, 0.0, 0.0), "specular": 0.0, "clear_coat": 1.0}
        up = np.array([0, 0, 1.0]).reshape(3, 1, 1)
        lit = [
            self.light(made(**black, occlusion=open_), point(up, up, 0.0, sky), {ENVIRONMENT: sky})[0].item()
            for open_ in (1.0, 0.5, 0.0)
        ]
        self.assertGreater(lit[0], 0.03)
        self.assertAlmostEqual(lit[1], lit[0] / 2, places=5)
        self.assertAlmostEqual(lit[2], 0.0, places=6)


class Lobes(unittest.TestCase):
    """Each lobe times the cosine, summed over a half sphere of lights, against the table made another way."""

    LIGHTS = half_sphere(200_000)[:, None, :]

    def summed(self, lobe: Expr, cosine: float) -> float:
        view = np.array([np.sqrt(1 - cosine**2), 0, cosine]).reshape(3, 1, 1)
        found = evaluate([lobe], Bindings(point(view, self.LIGHTS, 1.0)))[0]
        return float((found * self.LIGHTS[2]).mean() * 2 * np.pi)

    def test_highlights_and_sheen_match_the_table(self) -> None:
        table = response_table(256, 128)
        n, v, light = surface("normal"), surface("view_direction"), surface("sun_direction")
        for row in (24, 64, 127):
            rough = row / 127
            for column in (60, 130, 255):
                cosine = column / 255
                with self.subTest(roughness=rough, cosine=cosine):
                    whole = self.summed(highlight(n, v, light, constant(rough)), cosine)
                    self.assertAlmostEqual(whole, float(table[0, row, column] + table[1, row, column]), delta=0.012)
                    woolly = self.summed(sheen_lobe(n, v, light, constant(rough)), cosine)
                    self.assertAlmostEqual(min(woolly, 1.0), float(table[2, row, column]), delta=0.012)

    def test_strands_without_strength_are_round_and_stretch_along_their_direction(self) -> None:
        n, v, light = surface("normal"), surface("view_direction"), surface("sun_direction")
        along, side = constant(1.0, 0.0, 0.0), constant(0.0, 1.0, 0.0)

        def strand(strength: float) -> Expr:
            return strand_highlight(
                n, along, side=side, view=v, light=light, roughness=constant(0.5), strength=constant(strength)
            )

        for cosine in (0.4, 0.9):
            plain = self.summed(highlight(n, v, light, constant(0.5)), cosine)
            self.assertAlmostEqual(self.summed(strand(0.0), cosine), plain, places=4)
            self.assertLess(self.summed(strand(0.8), cosine), 1.01)
        up = np.array([0, 0, 1.0]).reshape(3, 1, 1)
        tilted = np.array([[0.5, 0, 0.866], [0, 0.5, 0.866]]).T[:, None, :]
        found = evaluate([strand(0.8)], Bindings(point(up, tilted, 1.0)))[0][0]
        self.assertGreater(found[0], 2 * found[1])


class Normals(unittest.TestCase):
    """The normal that is lit, held against the geometry of the form."""

    def lit_normal(self, s: Sketch) -> np.ndarray:
        """In the middle of what is seen of a plane, of the Normal channel."""
        graph = checked(s.graph())
        lowered = lower(graph)
        scene = replace(Scene.of("plane"), backdrop="")
        stage = points_of(scene, appearance(lowered.surface), graph.uniform_values(), {}, (48, 48))
        (found,) = stage.evaluate([world_normal(lowered.surface["normal"], facing_normal())])
        return found[:, stage.hit].reshape(3, -1).mean(axis=1)

    def test_what_is_wired_in_the_world_stays_there_on_a_moved_form(self) -> None:
        """A plane that rises by half: its normal is (-1, 2, 0) over the root of 5, whichever way it comes to the dock."""
        slope = np.array([-1.0, 2.0, 0.0]) / np.sqrt(5.0)
        for wired in ("", "@face.normal", "@back.vector", "@moved.normal"):
            s = Sketch("Slope")
            s.add("place", "position")
            s.add("parts", "split_three", vector="@place.position")
            s.add("rise", "multiply", a="@parts.x", b=0.5)
            s.add("shift", "combine_three", y="@rise.result")
            s.add("face", "face_normal")
            s.add("back", "change_space", direction="@face.world", settings={"way": "world to tangent"})
            s.add("moved", "offset_normal", offset="@shift.vector")
            s.dock(offset="@shift.vector", **({"normal": wired} if wired else {}))
            np.testing.assert_allclose(self.lit_normal(s), slope, atol=2e-3, err_msg=wired)

    def test_the_back_of_a_sheet_has_its_normal_reversed_whole(self) -> None:
        view = np.array([0.0, 0.0, -1.0]).reshape(3, 1, 1)
        for is_front, side in ((1, 1.0), (0, -1.0)):
            bindings = Bindings({**point(view, view, 1.0), "is_front": np.float32(is_front)})
            for mapped in ((0.5, 0.0, 0.866), (0.0, 0.5, 0.866), (0.3, -0.4, 0.866)):
                (found,) = evaluate([world_normal(constant(*mapped), facing_normal())], bindings)
                np.testing.assert_allclose(found.reshape(3), side * np.array(mapped), atol=1e-3)
            (along,) = evaluate([strands(constant(0.6, 0.8), facing_normal())], bindings)
            np.testing.assert_allclose(along.reshape(3), (0.6, 0.8, 0.0), atol=1e-5, err_msg="the same from both sides")


class Around(unittest.TestCase):
    def test_the_diffuse_light_is_that_of_the_harmonics(self) -> None:
        """Against the sum over all directions; what nine harmonics cannot show is a few parts in a hundred."""
        tilt = (np.arange(HEIGHT) + 0.5) / HEIGHT * np.pi
        turn = ((np.arange(256) + 0.5) / 256 - 0.5) * 2 * np.pi
        ring = np.sin(tilt)[:, None]
        ways = np.stack(
            (ring * np.sin(turn), np.broadcast_to(-np.cos(tilt)[:, None], (HEIGHT, 256)), ring * np.cos(turn))
        )
        solid = np.broadcast_to(ring, (HEIGHT, 256)) / (ring.sum() * 256) * 4 * np.pi
        normals = half_sphere(40) * np.array([[1.0], [1.0], [-1.0]])
        for key, mean, most in (("open_dock", 0.03, 0.1), ("overcast", 0.01, 0.03), ("night_lamps", 0.08, 0.25)):
            sky = environment_map(key)
            reaching = np.maximum(np.tensordot(normals.T, ways, axes=1), 0) * solid
            exact = np.tensordot(sky.levels[0][:3, :HEIGHT], reaching, axes=([1, 2], [1, 2])) / np.pi
            for by in (0.0, 0.3):
                angle = by * 2 * np.pi
                x, y, z = normals
                # Turned with the rig, a normal that is turned back sees what it saw.
                back = np.stack((x * np.cos(angle) - z * np.sin(angle), y, z * np.cos(angle) + x * np.sin(angle)))
                inputs = {**harmonics_inputs(diffuse_harmonics(sky)), "rig_turn": np.float32(by)}
                inputs["normal"] = back[:, None].astype(np.float32)
                (found,) = evaluate([diffuse_around(surface("normal"))], Bindings(inputs))
                off = np.abs(found[:, 0] - exact) / exact.mean()
                with self.subTest(key, turned=by):
                    self.assertLess(off.mean(), mean)
                    self.assertLess(off.max(), most)

    def test_a_picture_of_all_directions_lights_as_the_rig_it_shows(self) -> None:
        own = environment_map("overcast").levels[0]
        picture = Texture((np.ascontiguousarray(own[:, :HEIGHT]),))
        found = imported_map(picture).levels[0]
        np.testing.assert_allclose(found, own, atol=0.02)
        broken = picture.levels[0].copy()
        broken[0, 60, 100:110] = (np.nan, np.inf, -5, 1e9, 1, 1, 1, 1, 1, 1)
        self.assertTrue(np.isfinite(imported_map(Texture((broken,))).levels[0]).all())

    def test_one_light_in_a_picture_of_the_night_falls_off_as_three_bands_of_harmonics_do(self) -> None:
        """R. Ramamoorthi, P. Hanrahan, "An Efficient Representation for Irradiance Environment Maps", 2001: of a light
        from one side, 1/4 + cos/2 + 5/32 (3 cos^2 - 1) of what arrives, wherever it stands."""
        night = np.zeros((3, HEIGHT, 2 * HEIGHT), np.float32)
        for row, column in ((20, 40), (HEIGHT // 2, 128), (100, 200)):
            sky = night.copy()
            sky[:, row - 1 : row + 2, column - 1 : column + 2] = np.reshape((60.0, 30.0, 10.0), (3, 1, 1))
            lit = imported_map(Texture((sky,)))
            tilt, turn = ((row + 0.5) / HEIGHT - 0.5) * np.pi, ((column + 0.5) / (2 * HEIGHT) - 0.5) * 2 * np.pi
            way = np.array([np.cos(tilt) * np.sin(turn), np.sin(tilt), np.cos(tilt) * np.cos(turn)])
            arriving = np.array((60.0, 30.0, 10.0)) * 9 * np.cos(tilt) * (np.pi / HEIGHT) ** 2
            normals = half_sphere(60) * np.array([[1.0], [1.0], [-1.0]])
            cosine = way @ normals
            expected = arriving[:, None] / np.pi * (0.25 + cosine / 2 + 5 / 32 * (3 * cosine**2 - 1))
            inputs = {**harmonics_inputs(diffuse_harmonics(lit)), "rig_turn": np.float32(0)}
            inputs["normal"] = normals[:, None].astype(np.float32)
            (found,) = evaluate([diffuse_around(surface("normal"))], Bindings(inputs))
            with self.subTest(row=row):
                np.testing.assert_allclose(found[:, 0], np.maximum(expected, 0), atol=0.03 * arriving[0] / np.pi)

    def test_light_loses_its_other_colours_on_its_way_through(self) -> None:
        """Beer and Lambert: after the distance it is told for, the tint is what is left; after twice that, its square."""
        up = np.array([0, 0, 1.0]).reshape(3, 1, 1)
        ones = {BACKDROP: Texture((np.ones((4, 1, 1), np.float32),))}
        tint = np.array((0.9, 0.5, 0.1))
        for thickness, distance in ((0.0, 0.2), (0.2, 0.2), (0.4, 0.2), (0.1, 0.4)):
            channels = [constant(1.0, 1.0, 1.0), surface("normal"), constant(0.3), constant(1.3), constant(thickness)]
            through = seen_through(*channels, constant(*tint.tolist()), constant(distance))
            (found,) = evaluate([through], Bindings(point(up, up, 0.0), {}, ones))
            np.testing.assert_allclose(np.ravel(found), tint ** (thickness / distance), rtol=1e-4)

    def test_exposure_brings_the_middle_of_what_is_seen_to_the_key(self) -> None:
        light = np.full((3, 8, 8), 4.0, dtype=np.float32)
        light[:, :2] = 1e3
        seen = np.zeros((8, 8), dtype=bool)
        seen[2:] = True
        self.assertAlmostEqual(automatic_exposure(light, seen) * 4.0, KEY, places=3)
        self.assertEqual(automatic_exposure(light, ~seen & seen), 1.0)
        self.assertEqual(automatic_exposure(light * 0, seen), MOST)

    def test_rough_glass_spreads_what_lies_behind(self) -> None:
        x, y = np.meshgrid(np.linspace(-0.8, 0.8, 64), np.linspace(-0.8, 0.8, 64))
        places = np.stack((x, y, np.zeros_like(x))).astype(np.float32)
        up = np.array([0, 0, 1.0]).reshape(3, 1, 1)
        towards = up * 4 - places
        distance = np.linalg.norm(towards, axis=0)
        eye = {**point(towards / distance, up, 0.0), "moved_position": places}
        eye["camera_distance"] = distance.astype(np.float32)
        seen = []
        for rough in (0.0, 0.4, 1.0):
            channels = [constant(1.0, 1.0, 1.0), surface("normal"), constant(rough), constant(1.5), constant(0.0)]
            through = seen_through(*channels, constant(1.0, 1.0, 1.0), constant(1.0))
            (found,) = evaluate([through], Bindings(eye, {}, {BACKDROP: synthetic_backdrop()}))
            seen.append(found[:, 8:-8, 8:-8])
        sharp, soft, dull = (float(np.abs(np.diff(found, axis=1)).mean()) for found in seen)
        self.assertGreater(sharp, soft)
        self.assertGreater(soft, dull * 1.5)
        self.assertAlmostEqual(float(seen[0].mean()), float(seen[2].mean()), delta=0.02)
