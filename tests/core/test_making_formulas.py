"""What steps make, pixel by pixel: against what their words say, worked out another way."""

import unittest
from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.making import Canvas, Layer
from velvet_moth.core.making.adjust import (
    blur,
    colourise,
    invert,
    levels,
    make_tileable,
    place,
    resize,
    threshold,
    warp,
)
from velvet_moth.core.making.combine import MIXINGS, blend, split_channels
from velvet_moth.core.making.height import curvature_from_height, occlusion_from_height
from velvet_moth.core.making.layer import number_layer
from velvet_moth.core.making.noise import cells, cloud_heights, flakes, fractal_noise, grunge, plain, ramp, scratches
from velvet_moth.core.making.shapes import drop, hair_strands, layout, splash
from velvet_moth.core.pictures.inspection import seams

CANVAS = Canvas(64, 48)
WIDE = Canvas(128, 128)
DRAW = np.random.default_rng(21)
U, V = (part.astype(np.float64) for part in CANVAS.uv())
Floats = NDArray[np.float32]


def numbers(canvas: Canvas = CANVAS, channels: int = 1) -> Floats:
    return DRAW.random((channels, canvas.rows, canvas.columns), dtype=np.float32)


def colours() -> Layer:
    return Layer(numbers(channels=4), "colour")


class Adjusting(unittest.TestCase):
    def test_levels_lift_the_middle_and_leave_alpha(self) -> None:
        before = colours()
        made = levels(CANVAS, before, low=0.2, high=0.7, middle=2.0, out_low=0.1, out_high=0.9).values
        expected = np.sqrt(np.clip((before.values[:3] - 0.2) / 0.5, 0, 1)) * 0.8 + 0.1
        np.testing.assert_allclose(made[:3], expected, atol=1e-6)
        np.testing.assert_array_equal(made[3], before.values[3])
        np.testing.assert_allclose(levels(CANVAS, before).values, before.values, atol=1e-7)

    def test_turning_round_twice_is_nothing(self) -> None:
        for before in (colours(), Layer(numbers(channels=3) * 2 - 1, "normal")):
            once = invert(CANVAS, before)
            np.testing.assert_allclose(invert(CANVAS, once).values, before.values, atol=1e-6)
            told = 1 - before.values[:3] if before.role == "colour" else -before.values
            np.testing.assert_allclose(once.values[:3], told, atol=1e-6)

    def test_a_threshold_runs_over_its_softness(self) -> None:
        steps = number_layer(np.broadcast_to(U.astype(np.float32), CANVAS.shape).copy())
        made = threshold(CANVAS, steps, at=0.5, softness=0.25).number
        self.assertTrue((made[:, U[0] < 0.375] == 0).all() and (made[:, U[0] > 0.625] == 1).all())
        between = (U[0] > 0.375) & (U[0] < 0.625)
        self.assertTrue((np.diff(made[:, between], axis=1) > 0).all())

    def test_a_blur_spreads_one_pixel_as_a_bell_and_keeps_the_sum(self) -> None:
        one = np.zeros((1, 48, 64), dtype=np.float32)
        one[0, 2, 61] = 1
        made = blur(CANVAS, number_layer(one[0]), radius=3 / 64).number
        self.assertAlmostEqual(float(made.sum()), 1.0, places=4)
        self.assertGreater(made[2, 1], 0, "it goes on over the edges")
        middle = np.roll(made, (22, -29), axis=(0, 1))
        rows, columns = np.mgrid[0:48, 0:64]
        for at, centre in ((rows, 24), (columns, 32)):
            spread = float(np.sqrt((middle * (at - centre) ** 2).sum()))
            self.assertAlmostEqual(spread, 3.0, delta=0.15)

    def test_a_warp_by_a_plain_picture_moves_nothing_and_by_a_slope_moves_along_it(self) -> None:
        before = number_layer(numbers()[0])
        still = warp(CANVAS, before, number_layer(np.full(CANVAS.shape, 0.4, np.float32)), amount=0.2)
        np.testing.assert_allclose(still.number, before.number, atol=1e-6)
        hills = number_layer((np.sin(2 * np.pi * U) * 0.5 + 0.5 + 0 * V).astype(np.float32))
        made = warp(CANVAS, number_layer((V + 0 * U).astype(np.float32)), hills, amount=0.1)
        np.testing.assert_allclose(made.number, np.broadcast_to(V, CANVAS.shape), atol=1e-5)
        lines = number_layer((np.sin(2 * np.pi * U) + 0 * V).astype(np.float32))
        moved = warp(CANVAS, lines, hills, amount=0.05).number
        self.assertLess(float(np.abs(moved).max()), 1 + 1e-5)
        self.assertGreater(float(np.abs(moved - lines.number).max()), 0.05)

    def test_a_picture_that_ends_repeats_afterwards(self) -> None:
        slanted = number_layer((U * 0.7 + V * 0.3).astype(np.float32) + numbers()[0] * 0.05)
        self.assertTrue(seams(slanted.values))
        made = make_tileable(CANVAS, slanted, border=0.2)
        self.assertFalse(seams(made.values))
        inside = (slice(18, 30), slice(20, 44))
        np.testing.assert_allclose(made.number[inside], slanted.number[inside], atol=1e-6)

    def test_placing(self) -> None:
        before = number_layer(numbers()[0])
        moved = place(CANVAS, before, right=0.25, up=-0.5).number
        np.testing.assert_array_equal(moved, np.roll(before.number, (-24, 16), axis=(0, 1)))
        square = number_layer(numbers(WIDE)[0])
        turned = square
        for quarter in (1, 2, 3, 4):
            turned = place(WIDE, turned, turn="90")
            once = place(WIDE, square, turn=str(quarter * 90 % 360))
            np.testing.assert_array_equal(turned.number, once.number)
        # Counter-clockwise with v up: what was right is now above.
        right = number_layer((WIDE.uv()[0] > 0.9).astype(np.float32) + 0 * WIDE.uv()[1])
        self.assertEqual(place(WIDE, right, turn="90").number[-5:].min(), 1)
        repeated = place(WIDE, square, repeat=4).number
        np.testing.assert_array_equal(repeated[:32, :32], repeated[32:64, 96:])
        np.testing.assert_allclose(repeated[:32, :32], square.number.reshape(32, 4, 32, 4).mean(axis=(1, 3)), atol=1e-6)

    def test_resizing_takes_means_or_pixels(self) -> None:
        before = number_layer(numbers()[0])
        half = resize(CANVAS, before, size="a half").number
        np.testing.assert_allclose(half, before.number.reshape(24, 2, 32, 2).mean(axis=(1, 3)), atol=1e-6)
        twice = resize(CANVAS, before, size="twice", pixels="keep").number
        np.testing.assert_array_equal(twice, before.number.repeat(2, axis=0).repeat(2, axis=1))

    def test_what_tiles_goes_on_tiling_when_it_is_enlarged(self) -> None:
        """A wave over the whole width: over its edge it changes no faster than inside."""
        u, v = CANVAS.uv()
        twice = resize(CANVAS, number_layer(np.sin(2 * np.pi * u) + np.cos(2 * np.pi * v)), size="twice").number
        for axis in (0, 1):
            inside = np.abs(np.diff(twice, axis=axis)).max()
            seam = np.abs(np.take(twice, 0, axis=axis) - np.take(twice, -1, axis=axis)).max()
            self.assertLess(seam, inside * 1.05)

    def test_a_gradient_colours_by_value(self) -> None:
        stops = (0.0, 0.1, 0.0, 0.0, 0.25, 0.0, 0.6, 0.0, 1.0, 0.0, 0.0, 0.9)
        before = number_layer(numbers()[0])
        made = colourise(CANVAS, before, gradient=stops).values
        table = np.array(stops).reshape(-1, 4)
        for channel in range(3):
            expected = np.interp(before.number, table[:, 0], table[:, channel + 1])
            np.testing.assert_allclose(made[channel], expected, atol=2e-3)


class Combining(unittest.TestCase):
    def test_each_way_of_laying_over(self) -> None:
        told: dict[str, Callable[[Floats, Floats], Any]] = {
            "cover": lambda a, b: b,
            "multiply": lambda a, b: a * b,
            "add": lambda a, b: a + b,
            "subtract": lambda a, b: a - b,
            "lighter": lambda a, b: np.where(a > b, a, b),
            "darker": lambda a, b: np.where(a > b, b, a),
            "screen": lambda a, b: a + b - a * b,
            "contrast": lambda a, b: np.where(a < 0.5, 2 * a * b, 2 * a + 2 * b - 2 * a * b - 1),
        }
        self.assertEqual(set(told), set(MIXINGS))
        under, over, mask = (number_layer(numbers()[0]) for _ in range(3))
        for mode, formula in told.items():
            with self.subTest(mode):
                made = blend(CANVAS, under, over, mask, mode=mode, amount=0.7).number
                whole = formula(under.number, over.number)
                share = 0.7 * mask.number
                np.testing.assert_allclose(made, under.number * (1 - share) + whole * share, atol=1e-6)

    def test_normals_stay_of_unit_length_and_alpha_covers(self) -> None:
        flat = Layer(np.stack([np.zeros(CANVAS.shape)] * 2 + [np.ones(CANVAS.shape)]).astype(np.float32), "normal")
        tilted = Layer(np.stack([np.full(CANVAS.shape, c) for c in (0.6, 0.0, 0.8)]).astype(np.float32), "normal")
        made = blend(CANVAS, flat, tilted, amount=0.5)
        np.testing.assert_allclose(np.linalg.norm(made.values, axis=0), 1, atol=1e-6)
        below, card = Layer(numbers(channels=3), "colour"), colours()
        laid = blend(CANVAS, below, card).values
        alpha = card.values[3]
        np.testing.assert_allclose(laid[:3], below.values * (1 - alpha) + card.values[:3] * alpha, atol=1e-6)

    def test_a_picture_is_taken_apart(self) -> None:
        whole = colours()
        for part, channel in zip(split_channels(CANVAS, whole), whole.values, strict=True):
            np.testing.assert_array_equal(part.number, channel)


class Heights(unittest.TestCase):
    def heights(self, shape: NDArray[Any]) -> Layer:
        return number_layer(np.asarray(shape, dtype=np.float32), "height")

    def test_the_sky_over_a_plane_and_in_a_cleft(self) -> None:
        level = self.heights(np.full(WIDE.shape, 0.3))
        np.testing.assert_allclose(occlusion_from_height(WIDE, level).number, 1, atol=1e-6)
        cleft = self.heights(np.where(np.abs(WIDE.uv()[0] - 0.5) < 0.03, 0.0, 1.0) + 0 * WIDE.uv()[1])
        seen = occlusion_from_height(WIDE, cleft, depth=0.1).number
        self.assertLess(seen[64, 64], 0.5)
        self.assertGreater(seen[64, 10], 0.99)
        # A long wall of height h at a distance d hides the sines of its horizons, over half of all directions.
        wall = self.heights(np.where(WIDE.uv()[0] > 0.5, 1.0, 0.0) + 0 * WIDE.uv()[1])
        near = occlusion_from_height(WIDE, wall, depth=0.05, radius=0.2).number[64, 60]
        angles = 2 * np.pi * (np.arange(12) + 0.0) / 12
        towards = np.maximum(np.cos(angles), 0)
        horizon = 6.4 / 4 * towards
        self.assertAlmostEqual(near, float(1 - (horizon / np.hypot(1, horizon)).mean()), delta=0.06)

    def test_ridges_are_bright_and_grooves_dark_by_as_much(self) -> None:
        bump = np.exp(-(((WIDE.uv()[0] - 0.5) / 0.02) ** 2)) + 0 * WIDE.uv()[1]
        up, down = (curvature_from_height(WIDE, self.heights(s * bump * 0.2), radius=0.01).number for s in (1, -1))
        np.testing.assert_allclose(up + down, 1, atol=1e-5)
        self.assertGreater(up[64, 64], 0.55)
        np.testing.assert_allclose(up[:, :8], 0.5, atol=1e-4)


class Beginning(unittest.TestCase):
    def test_every_pixel_belongs_to_the_nearest_point(self) -> None:
        """Where the points are in a grid, cells are its squares, and what is far from a border has no gap."""
        near, gaps, ids = cells(WIDE, count=8, jitter=0.0, edge=0.1)
        x, y = (np.broadcast_to(c * 8, WIDE.shape) for c in WIDE.uv())
        away = np.hypot(x % 1 - 0.5, y % 1 - 0.5)
        place_of = np.corrcoef(near.number.ravel(), away.ravel())[0, 1]
        self.assertGreater(float(place_of), 0.999)
        for column in range(8):
            for row in range(8):
                block = ids.number[row * 16 : row * 16 + 16, column * 16 : column * 16 + 16]
                self.assertEqual(np.unique(block[1:-1, 1:-1]).size, 1)
        self.assertEqual(float(gaps.number[8::16, 8::16].max()), 0)
        self.assertGreater(float(gaps.number[:, ::16].mean()), 0.3)

    def test_more_is_more(self) -> None:
        """What a setting promises to bring more of, it does, all the way."""
        for name, amounts, made in (
            ("cover of clouds", (0.2, 0.5, 0.9), lambda a: cloud_heights(WIDE, cover=a).number),
            ("scratches", (20, 160, 900), lambda a: scratches(WIDE, count=a)[0].number),
            ("dirt", (0.1, 0.5, 0.9), lambda a: grunge(WIDE, amount=a).number),
            ("drop", (0.2, 0.5, 0.9), lambda a: drop(WIDE, size=a)[0].number),
            ("splash", (0.2, 0.4, 0.8), lambda a: splash(WIDE, size=a)[0].number),
            ("hair", (10, 60, 300), lambda a: hair_strands(WIDE, count=a)[1].number),
            ("gaps", (0.02, 0.08, 0.2), lambda a: layout(WIDE, gap=a)[2].number),
        ):
            with self.subTest(name):
                means = [float(made(amount).mean()) for amount in amounts]
                self.assertTrue(means[0] < means[1] < means[2], means)

    def test_noise_is_as_fine_as_its_cells(self) -> None:
        """Most of what the first layer holds lies at its own frequency, counted in waves over the picture."""
        for count in (4, 16):
            found = np.abs(np.fft.rfft2(fractal_noise(WIDE, cells=count, layers=1).number - 0.5)) ** 2
            rows = np.minimum(np.arange(128), 128 - np.arange(128))[:, None]
            waves = np.hypot(rows, np.arange(65)[None])
            near = (waves > count * 0.25) & (waves < count * 1.5)
            self.assertGreater(float(found[near].sum() / found.sum()), 0.9)

    def test_flakes_are_flat(self) -> None:
        """Inside a flake the slope is everywhere the same: second differences vanish but for the borders."""
        height = flakes(WIDE, count=8).number
        bend = np.abs(height[:, 2:] - 2 * height[:, 1:-1] + height[:, :-2])
        self.assertGreater(float((bend < 1e-5).mean()), 0.7)

    def test_bricks_lie_in_their_bond(self) -> None:
        heights, ids, gaps, places = layout(WIDE, pattern="bricks", across=4, up=8, gap=0.1, shift=0.5)
        solid = gaps.number < 0.01
        self.assertEqual(np.unique(np.round(ids.number[solid], 5)).size, 32)
        self.assertGreater(float(heights.number[solid].mean()), float(heights.number[~solid].mean()) + 0.2)
        lower, upper = (gaps.number[row] > 0.5 for row in (8, 24))
        np.testing.assert_array_equal(np.roll(lower, 16), upper, "each course is moved by half a brick")
        self.assertTrue((places.values[:2] >= 0).all() and (places.values[:2] <= 1).all())

    def test_strands_run_along_their_flow(self) -> None:
        _, alpha, flow, depth, ids = hair_strands(WIDE, curl=0.0, count=30)
        there = alpha.number > 0.9
        np.testing.assert_allclose(np.linalg.norm(flow.values[:2, there], axis=0), 1, atol=0.02)
        self.assertGreater(float(np.abs(flow.values[1, there]).mean()), 0.9, "straight hair hangs down")
        self.assertTrue((depth.number >= 0).all() and (depth.number <= 1).all())
        self.assertGreater(np.unique(np.round(ids.number[there], 4)).size, 10)

    def test_plain_and_ramps(self) -> None:
        np.testing.assert_allclose(plain(CANVAS, tint=(0.1, 0.2, 0.3)).values[:, 5, 7], (0.1, 0.2, 0.3))
        for shape, told in (("up", V + 0 * U), ("right", U + 0 * V), ("there and back", 1 - np.abs(V * 2 - 1) + 0 * U)):
            with self.subTest(shape):
                np.testing.assert_allclose(ramp(CANVAS, shape=shape).number, told, atol=0.02)


if __name__ == "__main__":
    unittest.main()
