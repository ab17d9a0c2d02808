"""Channels of a mesh as textures: each pixel against the plane it lies on, islands and the padding around them."""

import unittest
from dataclasses import replace
from typing import Any

import numpy as np

from tests.core.test_baking import sheet
from velvet_moth.core.baking.over_uvs import stack_over_uvs
from velvet_moth.core.baking.stack import EMPTY
from velvet_moth.core.baking.step import BakingContext
from velvet_moth.core.baking.to_texture import channels_over_uvs
from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.forms.mesh import Mesh
from velvet_moth.core.stacks.operations import AddOutput, AddStep, AddStroke
from velvet_moth.core.stacks.stroke import WIDTH, Stroke, text_of


def island() -> Mesh:
    """A sheet whose UVs fill the middle of the square, with u in red and a hard one in the second alpha."""
    flat = sheet(1.0, 9)
    uvs = flat.uvs * 0.5 + 0.25
    colours = np.concatenate((uvs[:, :1], flat.colours[:, 1:]), axis=1)
    return replace(flat, uvs=uvs.astype(np.float32), colours=colours, second_colours=np.zeros_like(flat.colours))


class Baked(unittest.TestCase):
    def test_each_pixel_has_what_the_surface_has_there(self) -> None:
        found = channels_over_uvs(island(), ("red", "second alpha"), 64, 0)
        self.assertEqual((found.values.shape, found.role), ((2, 64, 64), "data"))
        at = (np.arange(64) + 0.5) / 64
        inside = (at > 0.25) & (at < 0.75)
        expected = np.where(inside[None, :] & inside[:, None], at[None, :], 0.0)
        np.testing.assert_allclose(found.values[0], expected, atol=1e-5)
        np.testing.assert_array_equal(found.values[1], 0.0)

    def test_around_an_island_the_nearest_values_go_on(self) -> None:
        found = channels_over_uvs(island(), ("red",), 64, 4).values[0]
        np.testing.assert_array_equal(found[32, 12:16], found[32, 16])
        self.assertEqual((found[32, 11], found[11, 32]), (0.0, 0.0))
        self.assertAlmostEqual(float(found[14, 40]), float(found[16, 40]), places=6)

    def test_strokes_are_as_fine_as_the_pixels_and_not_as_the_mesh(self) -> None:
        coarse = replace(sheet(1.0, 4), colours=np.ones((16, 4), dtype=np.float32))
        rows = np.zeros((1, WIDTH), dtype=np.float32)
        rows[:, [0, 2]], rows[:, 4], rows[:, 6], rows[:, 7:] = (0.1, -0.05), 1, 0.1, 1
        stack: Any = EMPTY
        for operation in (
            AddStep("height", id="high", values={"axis": "x"}),
            AddStep("paint", id="wet", values={"green": {"step": "high"}, "opacity": 0.5}),
            AddStroke("wet", Stroke(text_of(rows), ("red", "green"), softness=0.5)),
            AddOutput("wet", "red", "red", "Wet"),
            AddOutput("wet", "green", "alpha", "Over the rule"),
            AddOutput("high", "values", "blue", "Rule"),
        ):
            stack, _ = operation.apply(stack)
        found = stack_over_uvs(stack, coarse, object(), BakingContext(), ("red", "alpha", "blue"), 128, 0).values
        u, v = np.meshgrid((np.arange(128) + 0.5) / 128, (np.arange(128) + 0.5) / 128)
        t = np.clip((np.hypot(u - 0.5 - 0.1, 0.5 - v + 0.05) / 0.1 - 0.5) / 0.5, 0, 1)
        dab = 1 - t * t * (3 - 2 * t)
        np.testing.assert_allclose(found[0], dab / 2, atol=1e-4)
        np.testing.assert_allclose(found[2], u, atol=1e-5)
        np.testing.assert_allclose(found[1], u + (1 - u) * dab / 2, atol=1e-4)

    def test_what_cannot_be_baked_says_why(self) -> None:
        for mesh, words in (
            (replace(island(), uvs=np.zeros_like(island().uvs)), "no UVs"),
            (replace(island(), uvs=island().uvs * 3), "beyond 0 to 1"),
        ):
            with self.assertRaisesRegex(OperationRefused, words):
                channels_over_uvs(mesh, ("red",), 16, 0)
        with self.assertRaisesRegex(OperationRefused, "one to four"):
            channels_over_uvs(island(), ("smell",), 16, 0)
