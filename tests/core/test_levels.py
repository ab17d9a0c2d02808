"""Levels of detail and what they lose, held against counting by every triangle."""

import unittest
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from tests.core.test_baking import ball, sheet
from velvet_moth.core.baking.levels import Level, LevelWanted, levels_of, loss_at_vertices, words_of, wrong_levels
from velvet_moth.core.baking.nearest import nearest_on, spread_over
from velvet_moth.core.baking.skin import Skin
from velvet_moth.core.forms.mesh import Mesh, grid, square


def hills(steps: int) -> Mesh:
    """A sheet of a metre with hills, with a ramp, a hard edge and fine stripes as vertex data."""
    u, v = square(steps, steps)
    high = 0.06 * np.sin(7 * u) * np.cos(5 * v)
    mesh = grid(np.stack((u, high, 1 - v), axis=-1), np.stack((u, v), axis=-1))
    stripes = 0.5 + 0.5 * np.sin(60 * u.ravel()) * np.sin(50 * v.ravel())
    data = np.stack((u.ravel(), u.ravel() + v.ravel() > 1.0, stripes, np.ones(u.size)), axis=1).astype(np.float32)
    return replace(mesh, colours=data, carried={"red": "Ramp", "green": "Edge", "blue": "Stripes"})


def nearest_by_all(place: NDArray[np.float64], mesh: Mesh) -> tuple[float, NDArray[np.float64]]:
    """The distance to a mesh and the data there, by dense samples of every triangle that comes near."""
    corners = mesh.positions[mesh.triangles].astype(np.float64)
    apart = np.linalg.norm(corners - place, axis=2)
    reach = np.linalg.norm(corners - np.roll(corners, -1, axis=1), axis=2).max(axis=1)
    near = apart.min(axis=1) - reach <= apart.min()
    steps = np.linspace(0, 1, 33)
    a, b = np.meshgrid(steps, steps)
    inside = a + b <= 1 + 1e-9
    weights = np.stack((1 - a[inside] - b[inside], a[inside], b[inside]), axis=1)
    places = np.einsum("wk,tkx->twx", weights, corners[near]).reshape(-1, 3)
    data = np.einsum("wk,tkx->twx", weights, mesh.colours[mesh.triangles[near]].astype(np.float64)).reshape(-1, 4)
    away = np.linalg.norm(places - place, axis=1)
    best = int(away.argmin())
    return float(away[best]), data[best]


class Nearest(unittest.TestCase):
    def test_the_nearest_place_is_found_whatever_the_size_of_triangles(self) -> None:
        level = levels_of(hills(41), (LevelWanted(0.03),))[0].mesh
        draw = np.random.default_rng(3)
        places = draw.uniform((-0.2, -0.2, -0.2), (1.2, 0.2, 1.2), (60, 3))
        near = nearest_on(places.astype(np.float32), level.positions, level.triangles)
        for place, found in zip(places, near.distance, strict=True):
            self.assertAlmostEqual(float(found), nearest_by_all(place, level)[0], delta=0.004)
        on = near.mixed(level.triangles, level.positions)
        np.testing.assert_allclose(np.linalg.norm(on - places, axis=1), near.distance, atol=1e-5)

    def test_above_a_triangle_beside_it_and_at_its_corner(self) -> None:
        corners = np.array(((0, 0, 0), (1, 0, 0), (0, 0, 1)), dtype=np.float32)
        places = np.array(((0.2, 0.5, 0.2), (0.5, 0, -0.3), (-3, 4, 0), (1, 1, 1)), dtype=np.float32)
        found = nearest_on(places, corners, np.array(((0, 1, 2),), dtype=np.uint32)).distance
        np.testing.assert_allclose(found, (0.5, 0.3, 5.0, np.sqrt(1.5)), rtol=1e-6)

    def test_places_are_spread_by_area(self) -> None:
        mesh = ball(1.0, (0, 0, 0))
        places = spread_over(mesh, 4000).mixed(mesh.triangles, mesh.positions)
        np.testing.assert_allclose(places.mean(axis=0), 0, atol=0.01)
        self.assertAlmostEqual(float(np.mean(places[:, 1] ** 2)), 1 / 3, delta=0.01)


class Levels(unittest.TestCase):
    mesh: Mesh
    levels: tuple[Level, ...]

    @classmethod
    def setUpClass(cls) -> None:
        cls.mesh = hills(101)
        cls.levels = levels_of(cls.mesh, (LevelWanted(0.25), LevelWanted(0.04, 0.1)))

    def test_each_has_its_share_and_a_size_on_screen(self) -> None:
        for level in self.levels:
            self.assertAlmostEqual(len(level.mesh.triangles) / len(self.mesh.triangles), level.share, delta=0.01)
        self.assertEqual(self.levels[1].screen, 0.1)
        near = self.levels[0]
        size = float(np.linalg.norm(np.ptp(self.mesh.positions, axis=0)))
        self.assertAlmostEqual(near.screen, min(1.0, size / (near.error * 1080)), places=4)
        self.assertTrue(set(map(bytes, near.mesh.positions)) <= set(map(bytes, self.mesh.positions)))

    def test_error_and_loss_are_those_of_an_independent_count(self) -> None:
        """At random places of the full mesh, the nearest of dense samples on every triangle of the level."""
        level, draw = self.levels[1], np.random.default_rng(8)
        faces = draw.integers(0, len(self.mesh.triangles), 400)
        weights = draw.dirichlet((1, 1, 1), 400)
        corners = self.mesh.triangles[faces]
        places = np.einsum("pk,pkx->px", weights, self.mesh.positions[corners].astype(np.float64))
        full = np.einsum("pk,pkx->px", weights, self.mesh.colours[corners].astype(np.float64))
        found = [nearest_by_all(place, level.mesh) for place in places]
        off = np.sqrt(np.mean((full - np.array([data for _, data in found])) ** 2, axis=0))
        for channel, counted in zip(("red", "green", "blue"), off, strict=False):
            loss = next(one for one in level.losses if one.channel == channel)
            self.assertAlmostEqual(loss.rms, counted, delta=0.015 + 0.1 * counted)
        self.assertLessEqual(max(apart for apart, _ in found), level.error + 0.004)

    def test_what_is_suggested_halves_the_loss_or_is_not_suggested(self) -> None:
        far = self.levels[1]
        loss = next(one for one in far.losses if one.channel == "blue")
        self.assertGreater(loss.rms, 0.1)
        self.assertGreater(loss.soften, 0)
        skin = Skin.of(self.mesh)
        soft = self.mesh.colours.copy()
        soft[:, 2] = skin.at_vertices(skin.blurred(skin.at_places(soft[:, 2]), loss.soften))
        again = levels_of(replace(self.mesh, colours=soft), (LevelWanted(0.04),))[0]
        self.assertLess(next(one for one in again.losses if one.channel == "blue").rms, 0.6 * loss.rms)
        self.assertIn("Stripes in blue loses", words_of(1, loss, "Stripes"))
        self.assertIn("soften it by", words_of(1, loss, "Stripes"))
        ramp = next(one for one in far.losses if one.channel == "red")
        self.assertEqual(words_of(1, ramp, "Ramp"), "")

    def test_a_channel_that_counts_more_loses_less(self) -> None:
        edge = [
            next(
                one
                for one in levels_of(self.mesh, (LevelWanted(0.04),), {"green": weight})[0].losses
                if one.channel == "green"
            ).rms
            for weight in (0.0, 20.0)
        ]
        self.assertLess(edge[1], 0.6 * edge[0])

    def test_the_loss_at_vertices_is_nought_where_the_level_keeps_them(self) -> None:
        off = loss_at_vertices(self.mesh, self.levels[0].mesh, "blue")
        kept = np.isin(
            [bytes(row) for row in self.mesh.positions], [bytes(row) for row in self.levels[0].mesh.positions]
        )
        self.assertLess(float(off[kept].max()), 1e-4)
        self.assertGreater(float(off[~kept].max()), 0.05)

    def test_levels_fall(self) -> None:
        self.assertEqual(wrong_levels((LevelWanted(0.5), LevelWanted(0.2))), "")
        self.assertIn("fewer triangles", wrong_levels((LevelWanted(0.2), LevelWanted(0.5))))
        flat = levels_of(sheet(1.0, 30), (LevelWanted(0.02),))[0]
        self.assertLess(flat.error, 1e-6)
