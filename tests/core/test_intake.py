"""Bringing meshes in: normals and tangents against closed forms and the standard's own code, guesses, facts and verdicts."""

import unittest
from dataclasses import replace

import numpy as np

from tests.support.meshes import sample_mesh, standard_tangents
from velvet_moth.core.forms import form
from velvet_moth.core.forms.mesh import Mesh
from velvet_moth.core.meshes.facts import facts_of
from velvet_moth.core.meshes.formats import FORMATS, read_mesh
from velvet_moth.core.meshes.intake import MeshReading, as_source, taken_in
from velvet_moth.core.meshes.normals import with_normals
from velvet_moth.core.meshes.orient import guessed, turned
from velvet_moth.core.meshes.source import SourceMesh
from velvet_moth.core.meshes.tangents import with_tangents

CUBE = np.array([(x, y, z) for x in (0, 1) for y in (0, 1) for z in (0, 1)], dtype=np.float32)
SIDES = ((0, 1, 3, 2), (4, 6, 7, 5), (0, 4, 5, 1), (2, 3, 7, 6), (0, 2, 6, 4), (1, 5, 7, 3))
FACES = np.array([t for a, b, c, d in SIDES for t in ((a, b, c), (a, c, d))], dtype=np.uint32)


class Normals(unittest.TestCase):
    def test_a_cube_is_sharp_and_a_sphere_is_smooth(self) -> None:
        at, triangles, normals = with_normals(CUBE, FACES)
        self.assertEqual(len(at), 24)
        outward = CUBE[FACES].mean(axis=1) - 0.5
        expected = np.round(outward / np.abs(outward).max(axis=1, keepdims=True))
        np.testing.assert_allclose(normals[triangles], np.repeat(expected[:, None], 3, axis=1), atol=1e-6)
        at, triangles, normals = with_normals(CUBE, FACES, smooth_below=91.0)
        self.assertEqual(len(at), 8)
        np.testing.assert_allclose(normals, (CUBE[at] - 0.5) / np.sqrt(0.75), atol=1e-6)
        ball = form("sphere")
        at, triangles, normals = with_normals(ball.positions, ball.triangles)
        centre = ball.positions.mean(axis=0)
        away = ball.positions[at] - centre
        away /= np.linalg.norm(away, axis=1, keepdims=True)
        self.assertGreater(np.sum(away * normals, axis=1).min(), 0.9995)


class Tangents(unittest.TestCase):
    def test_they_are_those_of_the_standard(self) -> None:
        """Also where UVs are mirrored; where the standard has no direction (it gives (1, 0, 0) then), any will do."""
        for key, change in (
            ("mooring", "as it is"),
            ("sphere", "mirrored"),
            ("box", "as it is"),
            ("sphere", "stepped"),
        ):
            with self.subTest(f"{key} {change}"):
                mesh = form(key)
                uvs = mesh.uvs.copy()
                if change == "mirrored":
                    uvs[:, 0] = np.abs(uvs[:, 0] - 0.5)
                elif change == "stepped":
                    uvs[:, 0] = np.round(uvs[:, 0] * 20) / 20
                _, triangles, found = with_tangents(mesh.positions, mesh.normals, uvs, mesh.triangles)
                expected = standard_tangents(mesh.positions, mesh.normals, uvs, mesh.triangles)
                own = found[triangles.reshape(-1)]
                has_one = ~(expected[:, :3] == (1, 0, 0)).all(axis=1)
                self.assertGreater(has_one.mean(), 0.2)
                self.assertGreater(np.sum(own * expected, axis=1)[has_one].min(), 1.9999)


class TakingIn(unittest.TestCase):
    def test_a_glb_from_here_is_taken_in_to_the_bit(self) -> None:
        ball = form("sphere")
        once = taken_in(as_source(ball), MeshReading()).mesh
        data = FORMATS["gltf"].encode(replace(as_source(once), depth="float"))
        back = taken_in(read_mesh({"a": data}, "a")[0], MeshReading()).mesh
        for key in ("positions", "normals", "tangents", "uvs", "colours", "triangles"):
            np.testing.assert_array_equal(getattr(back, key), getattr(once, key), key)
            if key != "triangles":
                own, other = getattr(once, key)[once.triangles], getattr(ball, key)[ball.triangles]
                np.testing.assert_allclose(own, other, atol=1e-6)

    def test_the_axis_and_the_unit_are_guessed_and_applied(self) -> None:
        box = SourceMesh(CUBE * np.float32(180) - np.float32(0.5), FACES)
        base = [(0, 0, 0), (0, 1, 0), (1, 1, 0), (1, 0, 0), (0.5, 0.5, 4)]
        sides = [(0, 1, 2), (0, 2, 3), (1, 0, 4), (2, 1, 4), (3, 2, 4), (0, 3, 4)]
        spike = SourceMesh(np.array(base, dtype=np.float32), np.array(sides, dtype=np.uint32))
        found = guessed(box, "", "", "OBJ")
        self.assertEqual((found.up, found.unit), ("y", "cm"))
        self.assertIn("180", found.why_unit)
        found = guessed(spike, "", "", "PLY")
        self.assertEqual((found.up, found.unit), ("z", "m"))
        self.assertIn("underside", found.why_up)
        self.assertEqual(guessed(spike, "y", "m", "glTF").up, "y")
        mesh = taken_in(spike, MeshReading("z", "cm")).mesh
        self.assertAlmostEqual(float(mesh.box[1][1]), 0.04, places=6)
        for up in ("x", "y", "z"):
            axes = turned(np.eye(3, dtype=np.float32), up)  # type: ignore[arg-type] # each is one of them
            np.testing.assert_array_equal(axes["xyz".index(up)], (0, 1, 0))
            self.assertAlmostEqual(float(np.linalg.det(axes)), 1.0)


class Judged(unittest.TestCase):
    def verdicts(self, mesh: Mesh, has_uvs: bool = True, depth: str = "") -> set[str]:
        return {verdict.key for verdict in facts_of(mesh, has_uvs, depth).verdicts}

    def test_what_is_wrong_with_a_mesh_is_said(self) -> None:
        sharp = taken_in(SourceMesh(CUBE, FACES), MeshReading()).mesh
        self.assertEqual(self.verdicts(sharp), set())
        self.assertEqual(self.verdicts(sharp, has_uvs=False), {"no-uvs"})
        inside_out = taken_in(SourceMesh(CUBE, FACES[:, ::-1]), MeshReading()).mesh
        self.assertEqual(self.verdicts(inside_out), {"reversed"})
        self.assertEqual(self.verdicts(replace(sharp, normals=-sharp.normals)), {"normals-against"})
        self.assertEqual(self.verdicts(replace(sharp, triangles=sharp.triangles[1:])), {"open-edges"})
        mixed = sharp.triangles.copy()
        mixed[0] = mixed[0, ::-1]
        self.assertIn("mixed-winding", self.verdicts(replace(sharp, triangles=mixed)))
        flat = np.concatenate((sharp.triangles, sharp.triangles[:1, (0, 0, 1)]))
        self.assertIn("no-area", self.verdicts(replace(sharp, triangles=flat)))
        doubled = taken_in(
            SourceMesh(np.concatenate((CUBE, CUBE)), np.concatenate((FACES[:6], FACES[6:] + 8))),
            MeshReading(smooth_below=180.0),
        ).mesh
        self.assertEqual(self.verdicts(doubled), {"doubled"})
        for factor, key in ((500.0, "large"), (0.001, "small")):
            self.assertEqual(self.verdicts(replace(sharp, positions=sharp.positions * np.float32(factor))), {key})
        self.assertEqual(self.verdicts(replace(sharp, uvs=sharp.uvs + np.float32(3.0))), {"uvs-outside"})
        data = sharp.colours.copy()
        data[:, 2] = 0.25
        self.assertEqual(self.verdicts(replace(sharp, colours=data)), {"even-channel"})
        ball = form("sphere")
        height = np.round((ball.positions[:, 1] - ball.positions[:, 1].min()) * 100) / 255
        smooth = replace(ball, colours=np.repeat(height[:, None], 4, axis=1).astype(np.float32))
        self.assertIn("coarse-channel", self.verdicts(smooth, depth="8 bit"))
        self.assertNotIn("coarse-channel", self.verdicts(smooth, depth="16 bit"))

    def test_counts(self) -> None:
        mesh = taken_in(sample_mesh(), MeshReading()).mesh
        facts = facts_of(mesh, True)
        self.assertEqual((facts.vertices, facts.places, facts.triangles, facts.pieces), (81, 81, 128, 1))
        self.assertEqual(facts.parts, (("Plank", 60), ("Iron strap", 68)))
        cube = facts_of(taken_in(SourceMesh(CUBE, FACES), MeshReading()).mesh, False)
        self.assertEqual((cube.places, cube.vertices, cube.pieces), (8, 24, 1))
        self.assertAlmostEqual(cube.area, 6.0, places=5)
        self.assertEqual((cube.low, cube.high), ((0.0, 0.0, 0.0), (1.0, 1.0, 1.0)))


if __name__ == "__main__":
    unittest.main()
