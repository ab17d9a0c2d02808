"""Strokes are kept in space: the same place gets the same on any mesh, drawn bit by bit or laid at once."""

import unittest
from dataclasses import replace
from typing import Any
from unittest import mock

import numpy as np

from tests.core.test_baking import ball, sheet
from velvet_moth.core.baking.nearest import nearest_on
from velvet_moth.core.baking.painting import laying
from velvet_moth.core.baking.painting.drawing import Drawing
from velvet_moth.core.baking.painting.laying import Painted, laid
from velvet_moth.core.baking.painting.surface import AtVertices, Surface
from velvet_moth.core.baking.simplifying import simplified
from velvet_moth.core.baking.skin import Skin
from velvet_moth.core.baking.stack import EMPTY, MeshStack, baked, mesh_stack_from_json, mesh_stack_to_json
from velvet_moth.core.baking.step import BakingContext
from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.forms.mesh import Mesh, joined
from velvet_moth.core.stacks.operations import AddOutput, AddStep, AddStroke, SetStepSetting
from velvet_moth.core.stacks.stroke import WIDTH, Stroke, text_of

POINTWISE = ("set", "add", "take away", "erase", "invert")


def line(start: tuple[float, float, float], end: tuple[float, float, float], count: int = 12, **brush: Any) -> Stroke:
    """A straight stroke on a surface that looks up, which narrows and grows weaker as a pen is lifted."""
    rows = np.zeros((count, WIDTH), dtype=np.float32)
    rows[:, :3] = np.linspace(start, end, count)
    rows[:, 4] = 1
    rows[:, 6] = np.linspace(0.2, 0.1, count)
    rows[:, 7], rows[:, 8] = 0.9, np.linspace(1, 0.4, count)
    return Stroke(text_of(rows), **{"touches": ("red", "blue"), **brush})


SCENE = tuple(
    line((-0.7 + 0.2 * at, 0, -0.6), (0.5, 0, 0.1 * at), mode=mode, value=0.8, softness=0.3 + 0.1 * at)
    for at, mode in enumerate(("set", *POINTWISE, "add"))
)


def surface_of(mesh: Mesh) -> Surface:
    return AtVertices(mesh, Skin.of(mesh))


def nothing(mesh: Mesh, value: float = 0.0) -> Painted:
    return np.full((len(mesh.positions), 4), value, dtype=np.float32)


class Laying(unittest.TestCase):
    def test_a_coarse_and_a_fine_sheet_agree_at_shared_places(self) -> None:
        coarse, fine = sheet(2.0, 20), sheet(2.0, 19 * 21 + 1)
        made = [laid(SCENE, nothing(m, 0.25), nothing(m, 0.25), surface_of(m)) for m in (coarse, fine)]
        _, at = surface_of(fine).tree.query(coarse.positions)
        np.testing.assert_allclose(fine.positions[at], coarse.positions, atol=1e-6)
        self.assertLess(np.abs(made[0] - made[1][at]).max(), 1 / 255)
        self.assertGreater(np.ptp(made[0][:, 0]), 0.5)
        self.assertEqual(np.ptp(made[0][:, 1]), 0, "what is not touched stays")

    def test_a_brush_covers_as_its_softness_says(self) -> None:
        mesh = sheet(2.0, 81)
        one = line((0, 0, 0), (0, 0, 0), 1, softness=0.5)
        made = laid((one,), nothing(mesh), nothing(mesh), surface_of(mesh))[:, 0]
        distance = np.linalg.norm(mesh.positions, axis=1) / 0.2
        t = np.clip((distance - 0.5) / 0.5, 0, 1)
        np.testing.assert_allclose(made, 0.9 * (1 - t * t * (3 - 2 * t)) * (distance <= 1), atol=1e-6)

    def test_drawn_bit_by_bit_it_ends_as_laid_at_once(self) -> None:
        mesh = sheet(2.0, 60)
        surface, under = surface_of(mesh), nothing(mesh, 0.4)
        before = laid(SCENE[:3], under, under, surface)
        for mode in (*POINTWISE, "soften", "sharpen"):
            for more in ({}, {"mirror": "x", "held": "island"}, {"fill": "mesh"}):
                with self.subTest(mode, **more):
                    stroke = replace(SCENE[-1], mode=mode, **more)
                    drawing, seen = Drawing(surface, before, under), before.copy()
                    for rows in np.split(stroke.rows, (1, 2, 7)):
                        vertex, values = drawing.go_on(replace(stroke, points=text_of(rows)))
                        seen[vertex] = values
                    np.testing.assert_allclose(seen, laid((stroke,), before, under, surface), atol=1e-6)

    def test_softening_flattens_and_sharpening_steepens(self) -> None:
        mesh = sheet(2.0, 60)
        surface, under = surface_of(mesh), nothing(mesh)
        edge = nothing(mesh)
        edge[:, 0] = 0.5 + 0.5 * np.tanh(mesh.positions[:, 0] * 8)
        over = line((0, 0, -0.9), (0, 0, 0.9), touches=("red",))
        at = np.flatnonzero(np.all(np.abs(mesh.positions[:, [0, 2]]) < (0.06, 0.4), axis=1))
        spans = {
            mode: np.ptp(laid((replace(over, mode=mode),), edge, under, surface)[at, 0])
            for mode in ("soften", "sharpen")
        }
        self.assertLess(spans["soften"], np.ptp(edge[at, 0]))
        self.assertGreater(spans["sharpen"], np.ptp(edge[at, 0]))

    def test_a_wide_brush_softens_as_a_narrow_one_and_none_takes_without_end(self) -> None:
        mesh = sheet(2.0, 60)
        surface, under, edge = surface_of(mesh), nothing(mesh), nothing(mesh)
        edge[:, 0] = 0.5 + 0.5 * np.tanh(mesh.positions[:, 0] * 20)
        over = line((0, 0, -0.5), (0, 0, 0.5), touches=("red",), mode="soften")
        near = laid((over,), edge, under, surface)
        with mock.patch.object(laying, "_AT_ONCE", 64):
            # Too many neighbours to look at: it is diffused over the surface.
            wide = laid((over,), edge, under, surface)
        np.testing.assert_allclose(wide, near, atol=0.04)
        self.assertGreater(np.abs(near - edge).max(), 0.05)
        rows = np.repeat(over.rows[:1], 3000, axis=0)
        rows[:, 6] = 9.0
        with mock.patch.object(laying, "_AT_ONCE", 1 << 14), self.assertRaises(OperationRefused) as caught:
            laid((replace(over, points=text_of(rows)),), edge, under, surface)
        self.assertIn("too often", caught.exception.what)

    def test_it_keeps_to_its_side_its_island_and_its_mirror(self) -> None:
        under, over = sheet(2.0, 21), ball(0.3, (0.0, 0.35, 0.0), 16, 32)
        count = len(under.positions)
        mesh = replace(
            joined([under, over]),
            part_of=np.repeat((0, 1), (len(under.triangles), len(over.triangles))).astype(np.int32),
            part_names=("quay", "buoy"),
        )
        surface, flat = surface_of(mesh), nothing(mesh)
        stroke = line((0, 0.65, 0), (0.2, 0.65, 0), 4)
        wide = stroke.rows.copy()
        wide[:, 6] = 0.9
        stroke = replace(stroke, points=text_of(wide), softness=0.0)

        def painted(**brush: Any) -> np.ndarray:
            return laid((replace(stroke, **brush),), flat, flat, surface)[:, 0] > 0

        below = mesh.positions[:, 1] < 0.2
        self.assertFalse(painted()[count:][below[count:]].any(), "the underside of the ball faces away")
        self.assertTrue(painted(side="through")[count:].all())
        self.assertTrue(painted()[:count].any())
        self.assertFalse(painted(held="island")[:count].any())
        self.assertFalse(painted(held="part")[:count].any())
        used = np.unique(over.triangles) + count
        self.assertEqual(set(np.flatnonzero(painted(fill="part"))), set(used))
        self.assertTrue(painted(fill="mesh").all())
        small = line((0.5, 0, 0.5), (0.6, 0, 0.5), 4, mirror="x")
        made = laid((small,), flat, flat, surface)[:count, 0].reshape(21, 21)
        np.testing.assert_allclose(made, made[:, ::-1], atol=1e-6)
        self.assertTrue(made.any())
        self.assertEqual(surface.misses((small, line((0, 5, 0), (0, 6, 0)), replace(small, fill="mesh"))), [1])

    def test_laid_again_after_simplifying_it_is_as_fine_as_the_mesh_can_show(self) -> None:
        full = sheet(2.0, 120)
        wavy = full.positions + 0.004 * np.sin(full.positions[:, [1, 0, 1]] * 9) * (0, 1, 0)
        full = replace(full, positions=wavy.astype(np.float32))
        stroke = line((-0.8, 0, -0.5), (0.7, 0, 0.6), softness=0.6)
        painted = laid((stroke,), nothing(full), nothing(full), surface_of(full))
        simple, _ = simplified(replace(full, colours=painted), 0.1, 1.0, (0.0,) * 8)
        steps: Any = EMPTY
        for _ in range(3):
            steps, _ = AddStep("subdivide").apply(steps)
        # What is carried along stays as coarse as the mesh was, however fine it is made again.
        fine = baked(steps, simple, object(), BakingContext())
        again = laid((stroke,), nothing(fine), nothing(fine), surface_of(fine))[:, 0]
        truth = nearest_on(fine.positions, full.positions, full.triangles).mixed(full.triangles, painted[:, 0])
        lost = [float(np.sqrt(np.mean((values - truth) ** 2))) for values in (fine.colours[:, 0], again)]
        self.assertGreater(lost[0], 5 * lost[1], lost)


class PaintedSteps(unittest.TestCase):
    def test_a_painted_step_lies_over_what_is_below_and_reads_back(self) -> None:
        stack: Any = EMPTY
        for operation in (
            AddStep("height", id="high", values={"axis": "x"}),
            AddStep("paint", id="wet", values={"red": {"step": "high"}, "name": "Puddles", "opacity": 0.5}),
            AddStroke("wet", SCENE[0]),
            AddStroke("wet", line((0, 0, 0), (0.4, 0, 0.2), touches=("red",), mode="add", value=0.4)),
            AddOutput("wet", "red", "red", "Puddle"),
            AddOutput("wet", "blue", "second alpha", "Stain"),
        ):
            stack, _ = operation.apply(stack)
        assert isinstance(stack, MeshStack)
        self.assertEqual(mesh_stack_from_json(mesh_stack_to_json(stack)), stack)
        mesh, mark = sheet(2.0, 40), object()
        made = baked(stack, mesh, mark, BakingContext())
        off, _ = SetStepSetting("wet", "shown", "off").apply(stack)
        assert isinstance(off, MeshStack)
        below = baked(off, mesh, mark, BakingContext())
        whole, _ = SetStepSetting("wet", "opacity", 1.0).apply(stack)
        assert isinstance(whole, MeshStack)
        full = baked(whole, mesh, mark, BakingContext())
        np.testing.assert_allclose(made.data, (below.data + full.data) / 2, atol=1e-6)
        self.assertEqual(made.carried, {"red": "Puddle", "second alpha": "Stain"})
        # On a finer mesh the same strokes are laid again.
        finer, _ = AddStep("subdivide", 0).apply(stack)
        assert isinstance(finer, MeshStack)
        again = baked(finer, mesh, mark, BakingContext())
        _, at = surface_of(again).tree.query(mesh.positions)
        np.testing.assert_allclose(again.data[at, 7], made.data[:, 7], atol=1e-5)


if __name__ == "__main__":
    unittest.main()
