"""Numbers at vertices against closed forms: what is hidden, how it bends, how thick it is, how far and how blurred."""

import unittest
from dataclasses import replace

import numpy as np
from scipy.special import erf

from velvet_moth.core.baking.curvature import curvature
from velvet_moth.core.baking.rays import occlusion, thickness
from velvet_moth.core.baking.skin import Skin
from velvet_moth.core.forms.mesh import Mesh, grid, joined, square

RAYS = 256


def sheet(side: float, steps: int, height: float = 0.0, is_down: bool = False) -> Mesh:
    """A square in the plane, about the origin, looking up or down."""
    u, v = square(steps, steps)
    x, z = (u - 0.5) * side, (0.5 - v) * side
    flat = np.stack((x, np.full_like(x, height), z if not is_down else -z), axis=-1)
    return grid(flat, np.stack((u, v), axis=-1))


def ball(radius: float, centre: tuple[float, float, float], rows: int = 48, columns: int = 96) -> Mesh:
    u, v = square(rows + 1, columns + 1)
    turn, tilt = 2 * np.pi * u, (v - 0.5) * np.pi
    way = np.stack((np.cos(tilt) * np.sin(turn), np.sin(tilt), np.cos(tilt) * np.cos(turn)), axis=-1)
    return grid(way * radius + np.array(centre), np.stack((u, v), axis=-1), closed=True)


def at_middle(mesh: Mesh) -> int:
    return int(np.argmin(np.linalg.norm(mesh.positions, axis=1)))


class Occlusion(unittest.TestCase):
    def test_a_ball_above_a_plane(self) -> None:
        """Below its middle a ball hides the square of its radius over the distance of its centre."""
        ground = sheet(6.0, 3)
        for radius, height in ((1.0, 2.0), (0.5, 1.5), (1.0, 1.2)):
            found = occlusion(joined([ground, ball(radius, (0.0, height, 0.0))]), RAYS)
            self.assertAlmostEqual(float(found[at_middle(ground)]), 1 - (radius / height) ** 2, delta=0.02)

    def test_a_disc_above_a_plane(self) -> None:
        """Its share of the cosine-weighted sky is r² / (r² + h²); from behind it hides nothing unless both sides do."""
        ground, radius, height = sheet(6.0, 3), 1.0, 0.8
        lid = replace(ball(1.0, (0.0, 0.0, 0.0)))
        flat = lid.positions * np.array((radius, 0.0, radius), dtype=np.float32) + np.array(
            (0, height, 0), dtype=np.float32
        )
        lower = lid.triangles[(lid.positions[lid.triangles][:, :, 1] < 1e-6).all(axis=1)]
        under = replace(lid, positions=flat, triangles=lower)
        expected = 1 - radius**2 / (radius**2 + height**2)
        found = occlusion(joined([ground, under]), RAYS)
        self.assertAlmostEqual(float(found[at_middle(ground)]), expected, delta=0.02)
        turned = joined([ground, replace(under, triangles=lower[:, ::-1])])
        self.assertEqual(float(occlusion(turned, RAYS)[at_middle(ground)]), 1.0)
        self.assertAlmostEqual(
            float(occlusion(turned, RAYS, is_two_sided=True)[at_middle(ground)]), expected, delta=0.02
        )
        near = occlusion(joined([ground, under]), RAYS, reach=0.5)
        self.assertEqual(float(near[at_middle(ground)]), 1.0, "too far to hide anything")

    def test_the_inner_corner_of_a_box(self) -> None:
        """At the foot of a long high wall half of the sky is open; between two walls at a right angle a quarter."""
        ground = sheet(400.0, 3)
        wall = sheet(400.0, 3)
        upright = replace(
            wall,
            positions=np.ascontiguousarray(wall.positions[:, (0, 2, 1)]) + np.array((0, 0, -0.002), dtype=np.float32),
            normals=np.ascontiguousarray(wall.normals[:, (0, 2, 1)]),
            triangles=np.ascontiguousarray(wall.triangles[:, ::-1]),
        )
        side = replace(
            upright,
            positions=np.ascontiguousarray(upright.positions[:, (2, 1, 0)]),
            normals=np.ascontiguousarray(upright.normals[:, (2, 1, 0)]),
            triangles=np.ascontiguousarray(upright.triangles[:, ::-1]),
        )
        middle = at_middle(ground)
        self.assertAlmostEqual(
            float(occlusion(joined([ground, upright]), RAYS, is_two_sided=True)[middle]), 0.5, delta=0.02
        )
        self.assertAlmostEqual(
            float(occlusion(joined([ground, upright, side]), RAYS, is_two_sided=True)[middle]), 0.25, delta=0.02
        )

    def test_the_order_of_vertices_changes_nothing(self) -> None:
        mesh = joined([sheet(2.0, 12), ball(0.4, (0.0, 0.7, 0.0), 16, 32)])
        order = np.random.default_rng(3).permutation(len(mesh.positions))
        place = np.argsort(order).astype(np.uint32)
        other = replace(mesh.taken(order), triangles=np.roll(place[mesh.triangles], 1, axis=1)[::-1].copy())
        np.testing.assert_array_equal(occlusion(other, 32), occlusion(mesh, 32)[order])


class Bending(unittest.TestCase):
    def test_balls_and_pipes(self) -> None:
        """1 / r on a ball, 1 / 2r on a pipe, the other way round from inside."""
        for radius in (0.2, 1.0, 7.0):
            mesh = ball(radius, (3.0, 0.0, 0.0))
            found = curvature(Skin.of(mesh))
            used = np.unique(Skin.of(mesh).triangles)
            self.assertLess(np.abs(found * radius - 1)[used].max(), 0.02)
            inside = replace(mesh, triangles=np.ascontiguousarray(mesh.triangles[:, ::-1]))
            np.testing.assert_allclose(curvature(Skin.of(inside)), -found, rtol=1e-6)
        u, v = square(40, 97)
        pipe = grid(
            np.stack((0.5 * np.sin(2 * np.pi * u), v * 2, 0.5 * np.cos(2 * np.pi * u)), axis=-1),
            np.stack((u, v), -1),
            closed=True,
        )
        skin = Skin.of(pipe)
        inner = (skin.positions[:, 1] > 0.1) & (skin.positions[:, 1] < 1.9)
        self.assertLess(np.abs(curvature(skin)[inner] - 1.0).max(), 0.02)


class Depth(unittest.TestCase):
    def test_a_slab_and_a_shell(self) -> None:
        slab = joined([sheet(2.0, 9, 0.13), sheet(2.0, 9, 0.0, is_down=True)])
        # From the rim a slanted ray may leave beside the other side.
        inner = np.abs(slab.positions[:, (0, 2)]).max(axis=1) < 0.9
        for rays, widest in ((1, 0.0), (64, 20.0)):
            np.testing.assert_allclose(thickness(slab, rays, widest)[inner], 0.13, rtol=0.01)
        outside, inside = ball(1.0, (0, 0, 0)), ball(0.9, (0, 0, 0))
        shell = joined([outside, replace(inside, normals=-inside.normals, triangles=inside.triangles[:, ::-1].copy())])
        np.testing.assert_allclose(thickness(shell), 0.1, rtol=0.01)


class Surface(unittest.TestCase):
    def test_distance_over_a_ball_and_a_plane(self) -> None:
        mesh = ball(1.0, (0.0, 0.0, 0.0))
        skin = Skin.of(mesh)
        pole = int(np.argmin(skin.positions[:, 1]))
        expected = np.arccos(np.clip(-skin.positions[:, 1], -1, 1))
        used = np.unique(skin.triangles)
        off = np.abs(skin.distances(np.array([pole])) - expected)[used]
        self.assertLess(off.max(), 0.03 * np.pi)
        flat = Skin.of(sheet(2.0, 41))
        middle = at_middle(sheet(2.0, 41))
        true = np.linalg.norm(flat.positions - flat.positions[flat.place_of[middle]], axis=1)
        found = flat.distances(flat.place_of[[middle]])
        self.assertTrue((found >= true - 1e-6).all())
        self.assertLess((found[true > 0.2] / true[true > 0.2]).max(), 1.09)
        apart = Skin.of(joined([sheet(1.0, 3), sheet(1.0, 3, 1.0)]))
        self.assertTrue(np.isinf(apart.distances(np.array([0]))).any())

    def test_blurring_spreads_by_distance_whatever_the_triangles(self) -> None:
        """A step edge becomes the error function, on even triangles and on ones that are ten times finer on one side."""
        radius = 0.12
        for even in (True, False):
            u, v = square(61, 121)
            x = (u - 0.5) * 2 if even else np.where(u < 0.7, (u / 0.7 - 1) * 1.0, (u - 0.7) / 0.3)
            mesh = grid(np.stack((x, 0 * x, -(v - 0.5) * 2), axis=-1), np.stack((u, v), axis=-1))
            skin = Skin.of(mesh)
            before = (skin.positions[:, 0] > 0).astype(float) + 0.5 * (skin.positions[:, 0] == 0)
            after = skin.blurred(before, radius)
            inner = np.abs(skin.positions[:, 0]) < 0.5
            expected = 0.5 + 0.5 * erf(skin.positions[:, 0] / radius / np.sqrt(2))
            self.assertLess(np.abs(after - expected)[inner].max(), 0.03)
            self.assertAlmostEqual(
                float(np.average(after, weights=skin.areas)), float(np.average(before, weights=skin.areas)), places=4
            )

    def test_seams_do_not_show(self) -> None:
        mesh = ball(1.0, (0.0, 0.0, 0.0), 20, 40)
        skin = Skin.of(mesh)
        self.assertLess(skin.count, len(mesh.positions))
        values = skin.at_vertices(skin.blurred(skin.positions[:, 0], 0.1))
        for place in np.unique(skin.place_of)[:200]:
            self.assertEqual(len(set(values[skin.place_of == place].tolist())), 1)


if __name__ == "__main__":
    unittest.main()
