"""Whole pictures: tiles, torn pixels, surfaces cut away, forms that are moved."""

import unittest
from dataclasses import replace

import numpy as np

from tests.support.graphs import built
from velvet_moth.core.document.graph import Node
from velvet_moth.core.forms import form
from velvet_moth.core.forms.view import Camera
from velvet_moth.core.language.expr import constant, uniform
from velvet_moth.core.language.inputs import Bindings, surface
from velvet_moth.core.language.interpreters.evaluate import evaluate, evaluate_in_tiles
from velvet_moth.core.language.primitives import along_x, along_y, combine, step
from velvet_moth.core.language.types import VEC2
from velvet_moth.core.lighting.channels import Surface, default_surface
from velvet_moth.core.lighting.moved import moved_normal
from velvet_moth.core.lighting.shown import appearance
from velvet_moth.core.making import Canvas
from velvet_moth.core.making.noise import fractal_noise
from velvet_moth.core.nodes.noises import gradient_noise_at
from velvet_moth.core.nodes.normals import face_normal
from velvet_moth.core.operations import AddNode, Wire, set_field
from velvet_moth.core.pictures.formats.base import Picture
from velvet_moth.core.pictures.levels import levels_of, read_texture
from velvet_moth.core.pictures.reading import Reading
from velvet_moth.core.render.tracing.rays import cast, resting_scene, unit, view_of
from velvet_moth.core.render.tracing.reference import points_of, render
from velvet_moth.core.render.tracing.scene import Scene
from velvet_moth.core.workbench.session import picture

PLAIN = appearance(default_surface())


class WholePictures(unittest.TestCase):
    def test_tiles_give_what_one_piece_gives(self) -> None:
        """Differences over 2x2 pixels too, at a size that no tile divides."""
        u, v = np.meshgrid(np.linspace(0, 3, 300, dtype=np.float32), np.linspace(0, 2, 262, dtype=np.float32))
        place = uniform("place", VEC2)
        height = gradient_noise_at(place * 6.0, constant(3.0), constant(0.0))
        outputs = [height, combine(along_x(height), along_y(height), place.x)]
        bindings = Bindings({}, {"place": np.stack((u, v))})
        tiled = evaluate_in_tiles(outputs, bindings, u.shape)
        for part, whole in zip(tiled, evaluate(outputs, bindings), strict=True):
            np.testing.assert_array_equal(part, whole)

    def test_constants_fill_the_picture(self) -> None:
        (grey,) = evaluate_in_tiles([constant(0.25, 0.5, 0.75)], Bindings({}), (5, 7))
        self.assertEqual(grey.shape, (3, 5, 7))
        self.assertEqual(float(grey[1].min()), 0.5)

    def test_at_silhouettes_differences_stay_on_one_surface(self) -> None:
        """The normal of a surface that is not moved is its own, also where a blade ends in front of another."""
        nothing = surface("position") * 0.0
        for key in ("reeds", "mooring", "box"):
            stage = points_of(Scene.of(key), PLAIN, {}, {}, (96, 96))
            self.assertGreater(len(stage.seen.torn), 50)
            turned, own = stage.evaluate(
                [moved_normal(surface("normal"), nothing, surface("position")), surface("normal")]
            )
            agreement = np.sum(turned * own, axis=0)[stage.hit]
            self.assertGreater(float(np.quantile(agreement, 0.01)), 0.999, key)

    def test_flat_faces_are_each_pixel_s_own_triangle(self) -> None:
        """Also where the four pixels of a quad see four of them, as they do on strands and small facets."""
        for key in ("rounded_box", "strand_cards"):
            scene = Scene.of(key)
            stage = points_of(scene, PLAIN, {}, {}, (96, 96))
            (flat,) = stage.evaluate([face_normal()[1]])
            mesh = form(key)
            rows, columns = np.nonzero(stage.hit)
            view = view_of(scene.camera, (96, 96))
            hits = cast(resting_scene(form(key)), view, np.stack((columns, rows), axis=1))
            a, b, c = (mesh.positions[mesh.triangles[hits.faces][:, corner]] for corner in range(3))
            own = unit(np.cross(b - a, c - a))
            agreement = np.abs(np.sum(flat[:, rows, columns].T * own, axis=1))
            self.assertGreater(float(np.quantile(agreement, 0.002)), 0.9999, key)

    def test_what_is_cut_away_shows_what_is_behind(self) -> None:
        half = Surface({**default_surface().channels, "opacity": step(constant(0.5), surface("uv").x)})
        whole, cut = (
            render(appearance(s, kind="cut_out"), {}, {}, (64, 64), Scene.of("plane"))[..., 3]
            for s in (default_surface(), half)
        )
        self.assertAlmostEqual(float((cut > 0).sum() / (whole > 0).sum()), 0.5, delta=0.12)
        for at in (0.0, 0.25, 0.5, 0.8):
            across = {"opacity": surface("uv").x, "alpha_cutoff": constant(at)}
            shown = appearance(Surface({**default_surface().channels, **across}), kind="cut_out")
            cut = render(shown, {}, {}, (64, 64), Scene.of("plane", "overcast"))[..., 3]
            seen = points_of(Scene.of("plane"), PLAIN, {}, {}, (64, 64))
            expected = seen.hit & (seen.seen.points["uv"][0] >= at)
            self.assertLess(np.count_nonzero((cut > 0) != expected), 6, at)

    def test_what_is_cut_out_covers_as_much_from_far_off(self) -> None:
        """Spots a few pixels wide: their outline is kept in every level of a colour, as it is not in data."""
        noise = fractal_noise(Canvas(256, 256), cells=48, layers=1).number
        spots = noise > np.quantile(noise, 0.8)
        picture_ = Picture(np.dstack((np.full((256, 256, 3), 128), spots * 255)).astype(np.uint8))
        graph = built(
            AddNode(Node("spots", "texture", {"texture": "spots"})),
            Wire("dock", "opacity", "spots", "alpha"),
            set_field("kind", "cut_out"),
            set_field("form", "plane"),
        )

        def covered(role: str, distance: float) -> float:
            scene = replace(Scene.of_graph(graph), camera=Camera(tilt=89.0, distance=distance))
            texture = read_texture(picture_, Reading(role))
            found, whole = (
                picture(g, (96, 96), {"spots": texture}.get, scene=scene)[..., 3] > 0 for g in (graph, empty_on_plane)
            )
            return float(found.sum() / whole.sum())

        empty_on_plane = built(set_field("form", "plane"))
        near = covered("colour", 1.0)
        self.assertAlmostEqual(near, float(spots.mean()), delta=0.03)
        for distance in (6.0, 24.0):
            self.assertGreater(covered("colour", distance), near / 2, "between its pixels a level covers less")
        self.assertEqual(covered("data", 24.0), 0.0)
        soft = Picture(np.dstack((picture_.samples[..., :3], np.tile(np.arange(256, dtype=np.uint8), (256, 1)))))
        means = [float(level[..., 3].mean()) for level in levels_of(soft, Reading("colour"))]
        np.testing.assert_allclose(means, means[0], atol=1.0, err_msg="a soft alpha is averaged")

    def test_past_what_is_cut_away_the_next_sheet_is_seen(self) -> None:
        """A box whose outward faces are cut away shows its inward ones, lit and pinned as such."""
        inside = Surface({**default_surface().channels, "opacity": 1.0 - surface("is_front")})
        shown, scene = appearance(inside, kind="cut_out"), Scene.of("box")
        whole, hollow = (render(s, {}, {}, (64, 64), scene) for s in (PLAIN, shown))
        self.assertGreater((hollow[..., 3] == whole[..., 3]).mean(), 0.98)
        self.assertGreater(np.abs(hollow.astype(int) - whole)[whole[..., 3] > 0].mean(), 5)

    def test_an_offset_moves_the_form_and_turns_its_light(self) -> None:
        lifted = Surface({**default_surface().channels, "offset": combine(0.0, 0.4, 0.0)})
        tilted = Surface({**default_surface().channels, "offset": combine(0.0, surface("position").x * 0.8, 0.0)})
        flat, up, slope = (
            render(appearance(s), {}, {}, (64, 64), Scene.of("plane")) for s in (default_surface(), lifted, tilted)
        )
        rows = [float(np.nonzero(p[..., 3])[0].mean()) for p in (flat, up)]
        self.assertGreater(rows[1], rows[0] + 4, "higher in the picture")
        means = [p[p[..., 3] > 0][:, :3].mean() for p in (flat, up, slope)]
        self.assertLess(abs(means[0] - means[1]), 6, "lifted as a whole it is lit as before")
        self.assertGreater(abs(means[0] - means[2]), 6, "tilted it is lit another way")
