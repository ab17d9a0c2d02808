"""Rays and forms: every triangle tried for every ray, in double precision, must find what the tracer finds."""

import math
import unittest
from dataclasses import dataclass
from functools import cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.forms import FORMS, form
from velvet_moth.core.forms.mesh import Mesh
from velvet_moth.core.forms.view import Camera
from velvet_moth.core.render.tracing.rays import Hits, cast, inputs_at, points_seen, quads_of, traced_scene, view_of
from velvet_moth.core.render.tracing.sheets import in_quads, look_through
from velvet_moth.core.scenery.backdrops import BACKDROPS

SIZE = (16, 12)
CAMERAS = (
    Camera(),
    Camera(turn=200.0, tilt=-15.0, distance=3.1, field=45.0),
    Camera(80.0, 70.0, 4.0, 25.0, (0.1, 0.0, -0.2)),
)
Doubles = NDArray[np.float64]


def pixels() -> NDArray[np.int64]:
    column, row = np.meshgrid(np.arange(SIZE[0]), np.arange(SIZE[1]))
    return np.stack((column.ravel(), row.ravel()), axis=1)


@dataclass(frozen=True)
class Met:
    """All that rays meet of a mesh: (rays, triangles), metres along each ray, infinite where it passes by."""

    reach: Doubles

    @property
    def sheets(self) -> list[Doubles]:
        """For each ray the distances of all sheets, nearest first; what two triangles share counts once."""
        rows = [np.sort(row[np.isfinite(row)]) for row in self.reach]
        return [row[np.diff(row, prepend=-1.0) > 1e-4] for row in rows]


def tried(mesh: Mesh, origin: Doubles, ways: Doubles) -> Met:
    """By the volumes that a ray spans with the sides of a triangle: it passes inside where they have one sign."""
    corners = mesh.positions[mesh.triangles].astype(np.float64) - origin
    a, b, c = corners[:, 0], corners[:, 1], corners[:, 2]
    sides = [ways @ np.cross(p, q).T for p, q in ((b, c), (c, a), (a, b))]
    inside = np.logical_or(*(np.all([s * sign >= 0 for s in sides], axis=0) for sign in (1, -1)))
    whole = sum(sides)
    with np.errstate(divide="ignore", invalid="ignore"):
        reach = np.einsum("ij,ij->i", a, np.cross(b, c)) / whole
    return Met(np.where(inside & (np.abs(whole) > 1e-14) & (reach > 0), reach, np.inf))


@cache
def seen(key: str, at: int) -> tuple[Mesh, Hits, Met]:
    mesh, view = form(key), view_of(CAMERAS[at], SIZE)
    hits = cast(traced_scene(mesh, mesh.positions), view, pixels())
    return mesh, hits, tried(mesh, CAMERAS[at].position, hits.directions)


class Meeting(unittest.TestCase):
    def test_the_nearest_triangle_is_found(self) -> None:
        for number, key in enumerate(FORMS):
            with self.subTest(key):
                _, hits, met = seen(key, 0 if key == "card" else number % len(CAMERAS))
                nearest = met.reach.min(axis=1)
                there = np.isfinite(nearest)
                # Edges that a ray just grazes may count or not.
                self.assertLessEqual(int((there != hits.hit).sum()), 1)
                both = there & hits.hit
                self.assertGreater(int(both.sum()), 5)
                off = np.abs(nearest[both] - hits.reach[both])
                self.assertLess(float(np.quantile(off, 0.99)), 2e-4)

    def test_values_are_mixed_where_the_ray_meets_the_triangle(self) -> None:
        for key in ("hull_panel", "broad_leaf", "torus", "strand_cards"):
            mesh, hits, _ = seen(key, 0)
            found = inputs_at(mesh, mesh.positions, hits, SIZE)
            there = hits.hit
            with self.subTest(key):
                places = CAMERAS[0].position + hits.directions * hits.reach[:, None]
                np.testing.assert_allclose(found["position"][there], places[there], atol=3e-4)
                far = found["camera_distance"][there, 0]
                np.testing.assert_allclose(far, hits.reach[there], atol=3e-4)
                for name in ("normal", "view_direction"):
                    np.testing.assert_allclose(np.linalg.norm(found[name][there], axis=1), 1, atol=1e-5)
                corners = mesh.uvs[mesh.triangles[hits.faces]]
                low, high = corners.min(axis=1) - 1e-5, corners.max(axis=1) + 1e-5
                inside = (found["uv"] >= low) & (found["uv"] <= high)
                self.assertTrue(inside[there].all())
                sides = np.cross(
                    *(
                        mesh.positions[mesh.triangles[hits.faces]][:, i]
                        - mesh.positions[mesh.triangles[hits.faces]][:, 0]
                        for i in (1, 2)
                    )
                )
                fronts = np.einsum("ij,ij->i", sides, hits.directions) < 0
                np.testing.assert_array_equal(found["is_front"][there, 0] > 0.5, fronts[there])

    def test_what_is_seen_at_a_pixel_lies_there_on_the_screen(self) -> None:
        for at, camera in enumerate(CAMERAS):
            mesh = form("terrain")
            found = points_seen(mesh, traced_scene(mesh, mesh.positions), mesh.positions, camera, SIZE)
            right, up, forward = camera.axes
            across, reach = camera.lens(*SIZE)
            away = np.moveaxis(found.points["position"], 0, -1)[found.hit].astype(np.float64) - camera.position
            ahead = away @ forward
            screen = np.stack((away @ right / ahead / across, away @ up / ahead / reach), axis=1) / 2 + 0.5
            told = np.moveaxis(found.points["screen_position"], 0, -1)[found.hit]
            with self.subTest(camera=at):
                np.testing.assert_allclose(screen, told, atol=2e-4)

    def test_the_pixels_of_a_quad_lie_on_one_plane(self) -> None:
        mesh, hits, _ = seen("box", 0)
        rays = np.flatnonzero(hits.hit)[::3]
        view = view_of(CAMERAS[0], SIZE)
        quads = quads_of(mesh, mesh.positions, view, hits, rays)
        places = inputs_at(mesh, mesh.positions, quads, SIZE, {"position"})["position"].astype(np.float64)
        corners = mesh.positions[mesh.triangles[quads.faces]].astype(np.float64)
        normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        normals /= np.linalg.norm(normals, axis=1, keepdims=True)
        off = np.einsum("ij,ij->i", places - corners[:, 0], normals)
        # Where the triangle is far outside its own pixel, its plane may run along the ray.
        self.assertLess(float(np.quantile(np.abs(off), 0.98)), 1e-3)
        own = in_quads(places.T.reshape(3, 2, -1), hits.pixels[rays]).T
        np.testing.assert_allclose(own, inputs_at(mesh, mesh.positions, hits, SIZE)["position"][rays], atol=1e-3)


class Looking(unittest.TestCase):
    def test_every_sheet_is_met_in_its_order(self) -> None:
        for key in ("reeds", "torus", "leaf_spray"):
            mesh, hits, met = seen(key, 0)
            view = view_of(CAMERAS[0], SIZE)
            shown: list[list[float]] = [[] for _ in hits.hit]

            def shade(places: NDArray[np.int64], inputs: Any, into: Any = shown) -> NDArray[np.bool_]:
                far = in_quads(inputs["camera_distance"], pixels()[places])
                for place, distance in zip(places, far, strict=True):
                    into[place].append(float(distance))
                return np.zeros(len(places), dtype=bool)

            look_through(
                mesh,
                mesh.positions,
                traced=traced_scene(mesh, mesh.positions),
                view=view,
                pixels=pixels(),
                size=SIZE,
                shade=shade,
                outputs=(),
            )
            with self.subTest(key):
                agreeing = [
                    len(found) == len(told) and np.allclose(found, told, atol=2e-3)
                    for found, told in zip(shown, met.sheets, strict=True)
                ]
                self.assertGreater(float(np.mean(agreeing)), 0.97)
                self.assertGreater(max(len(found) for found in shown), 1)
                self.assertTrue(all(found == sorted(found) for found in shown))

    def test_nearer_things_are_passed(self) -> None:
        mesh, hits, met = seen("sphere", 0)
        view = view_of(CAMERAS[0], SIZE)
        there = np.flatnonzero(hits.hit)
        second = cast(traced_scene(mesh, mesh.positions), view, pixels()[there], hits.reach[there] + 1e-3)
        told = np.array([met.sheets[ray][1] if len(met.sheets[ray]) > 1 else math.inf for ray in there])
        both = second.hit & np.isfinite(told)
        self.assertGreater(float(both.mean()), 0.9)
        np.testing.assert_allclose(second.reach[both], told[both], atol=3e-4)


class Forms(unittest.TestCase):
    def meshes(self) -> dict[str, Mesh]:
        parts = {f"{k} {p}": mesh for k, behind in BACKDROPS.items() for p, mesh in behind.parts().items()}
        return {**{key: form(key) for key in FORMS}, **parts}

    def test_tangents_run_along_u_and_tell_the_side_of_v(self) -> None:
        """As MikkTSpace and glTF 2.0 have them: the bitangent is w times normal x tangent, towards growing v."""
        for key, mesh in self.meshes().items():
            corners, uvs = (part[mesh.triangles].astype(np.float64) for part in (mesh.positions, mesh.uvs))
            edges, turns = corners[:, 1:] - corners[:, :1], uvs[:, 1:] - uvs[:, :1]
            area = turns[:, 0, 0] * turns[:, 1, 1] - turns[:, 0, 1] * turns[:, 1, 0]
            size = np.linalg.norm(np.cross(edges[:, 0], edges[:, 1]), axis=1)
            fit = (np.abs(area) > 1e-9) & (size > 1e-7)
            along_u = (edges[:, 0] * turns[:, 1, 1, None] - edges[:, 1] * turns[:, 0, 1, None])[fit] / area[fit, None]
            along_v = (edges[:, 1] * turns[:, 0, 0, None] - edges[:, 0] * turns[:, 1, 0, None])[fit] / area[fit, None]
            tangent = mesh.tangents[mesh.triangles].mean(axis=1)[fit]
            normal = mesh.normals[mesh.triangles].mean(axis=1)[fit]
            side = np.cross(normal, tangent[:, :3]) * np.sign(tangent[:, 3:])
            with self.subTest(key):
                self.assertGreater(float(fit.mean()), 0.9)
                for way, told in ((along_u, tangent[:, :3]), (along_v, side)):
                    agrees = (
                        np.einsum("ij,ij->i", way, told) / np.linalg.norm(way, axis=1) / np.linalg.norm(told, axis=1)
                    )
                    self.assertGreater(float(np.quantile(agrees, 0.03)), 0.5)
                    self.assertGreater(float(np.median(agrees)), 0.95)

    def test_texture_covers_a_form_evenly_enough(self) -> None:
        """No form stretches a texture more than eightfold from one place to another, but for its last few triangles."""
        for key, mesh in self.meshes().items():
            # Cards of hair run together at the crown, each with the whole width of its picture.
            if key == "strand_cards":
                continue
            corners, uvs = (part[mesh.triangles].astype(np.float64) for part in (mesh.positions, mesh.uvs))
            edges, turns = corners[:, 1:] - corners[:, :1], uvs[:, 1:] - uvs[:, :1]
            surface = np.linalg.norm(np.cross(edges[:, 0], edges[:, 1]), axis=1)
            texture = np.abs(turns[:, 0, 0] * turns[:, 1, 1] - turns[:, 0, 1] * turns[:, 1, 0])
            fit = surface > surface.mean() * 0.05
            share = np.sqrt(texture[fit] / surface[fit])
            low, high = np.quantile(share, (0.05, 0.95))
            with self.subTest(key):
                self.assertGreater(float(low), 0)
                self.assertLess(float(high / low), 8)


if __name__ == "__main__":
    unittest.main()
