"""Forms scaled and turned: held against the geometry of an ellipsoid and of a wall three times as wide."""

import unittest

import numpy as np

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.document.graph import empty_graph
from velvet_moth.core.forms import Pose, form, posed
from velvet_moth.core.forms.view import Camera
from velvet_moth.core.operations.fields import set_field
from velvet_moth.core.render.tracing.scene import Scene, draw_inputs
from velvet_moth.core.render.tracing.staged import points_at_rest


class Poses(unittest.TestCase):
    def test_a_scaled_and_turned_sphere_is_an_ellipsoid(self) -> None:
        size, turn = np.array((3.0, 1.0, 0.5)), 30.0
        mesh = posed(form("sphere"), Pose((3.0, 1.0, 0.5), turn))
        angle = np.radians(turn)
        # Back along the turn: what was ahead (z) had gone to the right (x).
        back = np.array([[np.cos(angle), 0, -np.sin(angle)], [0, 1, 0], [np.sin(angle), 0, np.cos(angle)]])
        inside = mesh.positions @ back.T
        radius = np.linalg.norm(form("sphere").positions, axis=1).mean()
        np.testing.assert_allclose(((inside / size) ** 2).sum(axis=1), radius**2, rtol=1e-4)
        outward = inside / size**2
        outward /= np.linalg.norm(outward, axis=1, keepdims=True)
        np.testing.assert_allclose(mesh.normals @ back.T, outward, atol=2e-4)
        self.assertLess(np.abs((mesh.normals * mesh.tangents[:, :3]).sum(axis=1)).max(), 2e-4, "tangents stay square")

    def test_what_is_laid_by_world_holds_on_a_wall_three_times_as_wide(self) -> None:
        above = Camera(turn=0.0, tilt=89.9, distance=12.0)
        spans = {}
        for wide in (1.0, 3.0):
            scene = Scene("plane", above, pose=Pose((wide, 1.0, 1.0)))
            seen = points_at_rest(scene.mesh, above, 240, 120)
            x = {name: seen.points[name][0][seen.hit] for name in ("position", "object_position")}
            scale = draw_inputs(scene, scene.mesh, (240, 120))["form_scale"][0]
            spans[wide] = [np.ptp(x["position"]), np.ptp(x["object_position"]), np.ptp(x["object_position"] * scale)]
        one, three = spans[1.0], spans[3.0]
        np.testing.assert_allclose(three, [one[0] * 3, one[1], one[0] * 3], rtol=0.03)

    def test_a_pose_beyond_measure_is_refused_and_taken_back(self) -> None:
        graph = empty_graph("Wall")
        for pose in (Pose((0.0, 1.0, 1.0)), Pose((1.0, 40.0, 1.0)), Pose(turn=720.0)):
            with self.assertRaises(OperationRefused):
                set_field("pose", pose).apply(graph)
        wide, back = set_field("pose", Pose((3.0, 1.0, 1.0), 15.0)).apply(graph)
        self.assertEqual(wide.pose, Pose((3.0, 1.0, 1.0), 15.0))
        self.assertEqual(back.apply(wide)[0], graph)
