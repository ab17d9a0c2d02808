"""What nodes give, against values worked out by hand: parity alone would let both sides be wrong together."""

import math
import unittest
from typing import Any

import numpy as np

import velvet_moth.core.nodes  # noqa: F401 - fills the catalogue
from velvet_moth.core.catalogue.registry import CATALOGUE
from velvet_moth.core.language.expr import constant, sampler
from velvet_moth.core.language.inputs import Bindings, surface
from velvet_moth.core.language.interpreters.evaluate import evaluate
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.render.swatches import SIZE, dome, draw_inputs


def value(
    key: str,
    settings: dict[str, Any] | None = None,
    output: int = 0,
    textures: dict[str, Texture] | None = None,
    **inputs: Any,
) -> list[float]:
    """A node's output for constant inputs; inputs that are left out carry their defaults."""
    kind = CATALOGUE[key]
    given: dict[str, Any] = {}
    for name, port in kind.inputs.items():
        chosen = inputs.get(name, port.default)
        if port.type.stop:
            width = port.type.stop
            given[name] = tuple(constant(*chosen[i : i + width]) for i in range(0, len(chosen), width))
        elif port.type.name == "texture":
            given[name] = sampler(name)
        else:
            is_own = name not in inputs and port.source
            given[name] = surface(port.source) if is_own else constant(*np.atleast_1d(chosen))
    chosen_settings = tuple((k, (settings or {}).get(k, s.default)) for k, s in kind.settings.items())
    built = list(kind.build(given, chosen_settings).values())[output]
    inputs = {**dome(), **draw_inputs(), "time": np.float32(2.0)}
    made = evaluate([built], Bindings(inputs, {}, textures or {}))[0]
    return [float(c) for c in np.atleast_1d(made)[..., 0, 0]] if made.ndim == 3 else [float(np.ravel(made)[0])]


class Formulas(unittest.TestCase):
    def same(self, found: list[float], *expected: float) -> None:
        np.testing.assert_allclose(found, expected, atol=2e-6)

    def test_arithmetic_and_ranges(self) -> None:
        self.same(value("subtract", a=0.3, b=0.5), -0.2)
        self.same(value("invert", value=(0.2, 0.5, 1.0)), 0.8, 0.5, 0.0)
        self.same(value("sine", value=0.25), 1.0)
        self.same(value("modulo", value=-0.25, size=1.0), 0.75)
        self.same(value("mix", a=(1.0, 0.0, 0.0), b=(0.0, 0.0, 1.0), amount=0.25), 0.75, 0.0, 0.25)
        self.same(value("remap", value=0.5, from_low=0.25, from_high=0.75, to_low=-1.0, to_high=1.0), 0.0)
        self.same(value("remap", value=2.0, to_low=0.2, to_high=0.4), 0.4)
        self.same(value("remap", {"ends": "open"}, value=2.0, to_low=0.2, to_high=0.4), 0.6)
        self.same(value("smooth_step", value=0.25), 0.15625)
        self.same(value("smooth_step", value=0.25, low=1.0, high=0.0), 1 - 0.15625)
        self.same(value("step", value=0.5, edge=0.5), 1.0)
        self.same(value("bias", value=0.5, middle=0.8), 0.8)
        self.same(value("bias", value=1.0, middle=0.2), 1.0)

    def test_waves(self) -> None:
        for shape, expected in (("sine", 0.5), ("triangle", 0.5), ("saw", 0.25), ("pulse", 1.0)):
            with self.subTest(shape):
                self.same(value("wave", {"shape": shape}, value=1.125, frequency=2.0), expected)

    def test_colour(self) -> None:
        red = (0.9, 0.1, 0.2)
        self.same(value("hue_turn", colour=red, turn=1 / 3), 0.2, 0.9, 0.1)
        self.same(value("hue_turn", colour=red, turn=1.0), *red)
        grey = 0.2126 * 0.9 + 0.7152 * 0.1 + 0.0722 * 0.2
        self.same(value("saturation", colour=red, amount=0.0), grey, grey, grey)
        self.same(value("contrast", colour=red, amount=2.0, middle=0.5), 1.3, -0.3, -0.1)
        self.same(value("luminance", colour=(1.0, 1.0, 1.0)), 1.0)
        self.same(value("pick_channel", {"channel": "blue"}, colour=red), 0.2)

    def test_laying_over(self) -> None:
        for mode, expected in (
            ("multiply", (0.1, 0.4)),
            ("screen", (0.6, 0.9)),
            ("overlay", (0.2, 0.8)),
            ("darken", (0.2, 0.5)),
            ("lighten", (0.5, 0.8)),
            ("add", (0.7, 1.3)),
            ("difference", (0.3, 0.3)),
        ):
            with self.subTest(mode):
                found = value("lay_over", {"mode": mode}, base=(0.2, 0.8, 0.2), top=(0.5, 0.5, 0.5))
                self.same(found, expected[0], expected[1], expected[0])
        self.same(value("lay_over", base=(0.2, 0.2, 0.2), top=(0.0, 0.0, 0.0), amount=0.5), 0.1, 0.1, 0.1)

    def test_coordinates(self) -> None:
        self.same(value("tile", uv=(0.25, 0.5), tiling=(4.0, 2.0)), 1.0, 1.0)
        self.same(value("scroll", uv=(0.25, 0.5), speed=(0.1, -0.2)), 0.45, 0.1)
        self.same(value("turn", uv=(1.0, 0.5), angle=0.25), 0.5, 1.0)
        self.same(value("mirror_uv", uv=(0.25, 1.25)), 0.25, 0.75)
        self.same(value("mirror_uv", uv=(2.25, -0.25)), 0.25, 0.25)
        self.same(value("polar_uv", uv=(0.5, 1.0)), 0.75, 1.0)

    def test_vectors_and_normals(self) -> None:
        self.same(value("cross"), 0.0, 0.0, 1.0)
        self.same(value("length", vector=(2.0, 3.0, 6.0)), 7.0)
        leaning = (0.6, 0.0, 0.8)
        self.same(value("normal_strength", normal=leaning, strength=0.0), 0.0, 0.0, 1.0)
        self.same(value("normal_strength", normal=leaning, strength=1.0), *leaning)
        self.same(value("combine_normals", base=leaning), *leaning)
        self.same(value("combine_normals", detail=leaning), *leaning)

    def test_patterns(self) -> None:
        self.same(value("checker", uv=(0.1, 0.1), tiling=(1.0, 1.0)), 0.0)
        self.same(value("checker", uv=(0.6, 0.1), tiling=(1.0, 1.0)), 1.0)
        self.same(value("disc", uv=(0.5, 0.9), inner=0.2, outer=0.6), 0.5)
        brick = {"tiling": (2.0, 2.0), "gap": 0.2}
        self.same(value("brick", uv=(0.25, 0.25), **brick), 1.0)
        self.same(value("brick", uv=(0.25, 0.52), **brick), 0.0)
        self.same(value("brick", uv=(0.25, 0.75), **brick), 0.0)  # the second course is moved: a joint stands here
        tones = {value("brick", output=1, uv=(x, 0.25), **brick)[0] for x in (0.1, 0.2, 0.4)}
        self.assertEqual(len(tones), 1, "one brick, one tone")
        self.assertNotEqual(value("brick", output=1, uv=(0.1, 0.25), seed=2.0, **brick), list(tones))
        self.same(value("gradient_noise", uv=(3.0, 5.0), scale=1.0), 0.5)

    def test_the_falloff_runs_from_the_middle_to_the_rim(self) -> None:
        kind = CATALOGUE["view_falloff"]
        (rim,) = kind.build({"power": constant(1.0)}, (("direction", "rim"),)).values()
        (centre,) = kind.build({"power": constant(1.0)}, (("direction", "centre"),)).values()
        found, other = evaluate([rim, centre], Bindings(dome()))
        middle = SIZE // 2
        self.assertLess(float(found[middle, middle]), 0.01)
        self.assertGreater(float(found[0, 0]), 0.9)
        np.testing.assert_allclose(found + other, 1.0, atol=1e-6)
        self.assertAlmostEqual(math.acos(1 - float(found[middle, -1])) / (math.pi / 2), 1 / 1.3, delta=0.03)

    def test_heights_keep_their_balance(self) -> None:
        heights = {"first": 1.0, "second": 1.0, "third": 0.0, "first_strength": 0.5, "second_strength": 0.25}
        self.same(value("sum_of_heights", **heights, third_strength=0.25), 0.75)
        self.same(value("sum_of_heights", output=1, **heights, third_strength=0.25), 0.75)
        self.same(value("sum_of_heights", first=0.0, second=0.0, third=0.0), 0.0)
        everything = {f"{n}{s}": 1.0 for n in ("first", "second", "third") for s in ("", "_strength")}
        self.same(value("sum_of_heights", **everything), 3.0)

    def test_directions(self) -> None:
        self.same(value("mirror_direction", direction=(1.0, -1.0, 0.0), normal=(0.0, 2.0, 0.0)), 1.0, 1.0, 0.0)
        slanted = (math.sin(0.6), -math.cos(0.6), 0.0)
        bent = value("bend_direction", direction=slanted, normal=(0.0, 1.0, 0.0), ratio=0.75)
        self.same(bent[:1], 0.75 * math.sin(0.6))  # Snell
        self.same(value("bend_direction", direction=slanted, normal=(0.0, 1.0, 0.0), ratio=2.0), 0.0, 0.0, 0.0)
        self.same(value("turn_about_axis", vector=(1.0, 0.0, 0.0), axis=(0.0, 2.0, 0.0), angle=0.25), 0.0, 0.0, -1.0)
        self.same(value("rearrange", {"order": "z x y"}, vector=(1.0, 2.0, 3.0)), 3.0, 1.0, 2.0)

    def test_colours_go_there_and_back(self) -> None:
        for there, back in (("linear to sRGB", "sRGB to linear"), ("RGB to HSV", "HSV to RGB")):
            for tint in ((0.9, 0.2, 0.1), (0.1, 0.1, 0.1), (0.0, 0.4, 0.8), (0.3, 0.9, 0.2)):
                turned = value("colour_space", {"way": there}, colour=tint)
                np.testing.assert_allclose(value("colour_space", {"way": back}, colour=turned), tint, atol=1e-5)
        self.same(value("brightness", colour=(0.1, 0.2, 0.4), stops=1.0), 0.2, 0.4, 0.8)

    def test_gradients_and_curves_pass_their_stops(self) -> None:
        stops = (0.0, 1.0, 0.0, 0.0, 0.5, 0.0, 1.0, 0.0, 0.5, 0.0, 0.0, 1.0, 1.0, 1.0, 1.0, 1.0)
        self.same(value("gradient", at=-1.0, stops=stops), 1.0, 0.0, 0.0)
        self.same(value("gradient", at=0.25, stops=stops), 0.5, 0.5, 0.0)
        self.same(value("gradient", at=0.75, stops=stops), 0.5, 0.5, 1.0)
        self.same(value("gradient", at=2.0, stops=stops), 1.0, 1.0, 1.0)
        for x, y in ((0.0, 0.2), (0.3, 0.9), (1.0, 0.1)):
            self.same(value("curve", value=x, points=(0.0, 0.2, 0.3, 0.9, 1.0, 0.1)), y)

    def test_an_atlas_gives_exactly_its_cells(self) -> None:
        """Past the end it begins again, fractions stay in a cell; all grids are in test_atlas."""
        for columns, rows in ((1, 1), (3, 4), (7, 10), (16, 16)):
            count = columns * rows
            numbers = np.arange(1, count + 1, dtype=np.float32).reshape(rows, columns)[::-1]
            cells = np.repeat(np.repeat(numbers, 2, axis=0), 2, axis=1)
            picture = {"texture": Texture((np.repeat(cells[None], 4, axis=0),))}
            grid = {"uv": (0.5, 0.5), "columns": columns, "rows": rows}
            for index in {1, 2, columns, columns + 1, count - 1, count, count + 1, 2 * count + 2}:
                for part in (0.0, 0.4, 0.98):
                    found = value("atlas_cell", None, 1, picture, index=index + part, **grid)
                    self.assertEqual(round(found[0], 4), (index - 1) % count + 1, (columns, rows, index, part))

    def test_seeds_are_independent(self) -> None:
        cells = [(float(x), float(y)) for x in range(16) for y in range(16)]
        a, b = (np.array([value("random_per_cell", cell=c, seed=s)[0] for c in cells]) for s in (1.0, 2.0))
        self.assertLess(abs(float(np.corrcoef(a, b)[0, 1])), 0.15)
        self.same(value("random_per_cell", cell=(3.0, 4.0), low=2.0, high=2.0), 2.0)

    def test_noises_repeat_where_they_are_asked_to(self) -> None:
        for key in ("value_noise", "gradient_noise", "fractal_noise", "cell_noise"):
            here, there = (value(key, uv=(x, 0.37), scale=5.0, repeat=5.0)[0] for x in (0.12, 1.12))
            self.assertAlmostEqual(here, there, 5)
            self.assertNotAlmostEqual(value(key, uv=(1.12, 0.37), scale=5.0)[0], here, 3)
        for kind in ("gradient", "value", "cell"):
            a, b = (
                value("noise_in_space", {"kind": kind}, place=(x, 0.3, 0.8), scale=4.0, repeat=4.0)[0]
                for x in (0.1, 1.1)
            )
            self.assertAlmostEqual(a, b, 5)

    def test_masks(self) -> None:
        sharp = {"a": 0.0, "b": 1.0, "sharpness": 0.99, "amount": 0.5}
        self.same(value("height_mix", a_height=0.8, b_height=0.2, **sharp), 0.0)
        self.same(value("height_mix", a_height=0.2, b_height=0.8, **sharp), 1.0)
        for amount in (0.0, 1.0):
            self.same(value("height_mix", a=0.0, b=1.0, a_height=1 - amount, b_height=amount, amount=amount), amount)
        self.same(value("cavity", occlusion=0.5, intensity=2.0), 0.25)
        self.same(value("puddle", height=0.2, level=0.4), 1.0)
        self.same(value("puddle", height=0.6, level=0.4, fall_off=0.1), 0.0)
        for gone, opacity in ((0.0, 1.0), (1.0, 0.0)):
            self.same(value("dissolve", pattern=0.5, gone=gone), opacity)
        self.same(value("edge_wear", curvature=0.5, height=0.5), 0.0)
        self.same(value("edge_wear", curvature=1.0, height=0.5, amount=0.8), 1.0)

    def test_an_ordered_dither_lets_through_its_share(self) -> None:
        kind = CATALOGUE["dither"]
        for sixteenths in (0, 1, 5, 8, 15, 16):
            shown = kind.build({"amount": constant(sixteenths / 16)}, (("pattern", "ordered"),))["opacity"]
            pixels = evaluate([shown], Bindings(dome()))[0]
            self.assertAlmostEqual(float(np.mean(pixels)), sixteenths / 16, 6)

    def test_wind_holds_the_foot_and_waves_stay_in_their_height(self) -> None:
        self.same(value("sway", mask=0.0, place=(0.3, 0.0, 0.2)), 0.0, 0.0, 0.0)
        offsets = [value("sway", mask=1.0, place=(0.3, 0.0, 0.2), phase=p, flutter=0.0) for p in (0.0, 0.3, 0.6)]
        self.assertLess(max(np.hypot(o[0], o[2]) for o in offsets), 0.15)
        for x in (0.0, 0.4, 1.7):
            lifted = value("waves", place=(x, 0.0, -x), height=0.06)
            self.assertLessEqual(abs(lifted[1]), 0.06)

    def test_flow_never_shows_its_jump(self) -> None:
        """Where one reading begins again, the other stands alone."""
        for time, alone in ((0.0, 1.0), (0.5, 0.0), (1.0, 1.0)):
            self.same(value("flow", output=2, uv=(0.2, 0.3), speed=1.0, time=time), alone)

    def test_flat_normals_combine_to_flat_whatever_the_method(self) -> None:
        tilted = (0.3, -0.2, math.sqrt(1 - 0.13))
        for method in CATALOGUE["combine_normals"].settings["method"].choices:
            np.testing.assert_allclose(
                value("combine_normals", {"method": method}, base=tilted, detail=(0.0, 0.0, 1.0)), tilted, atol=1e-6
            )
        up, down = (value("decode_normal", {"green": g}, stored=(0.5, 0.75, 0.9)) for g in ("up", "down"))
        self.same(up, down[0], -down[1], down[2])

    def test_parallax_meets_the_height_it_walks_to(self) -> None:
        """Over a flat height both ways shift by the same; over full height nothing moves."""
        for depth_of, expected in ((1.0, 0.0), (0.25, 0.75)):
            flat = {"height": Texture((np.full((4, 4, 4), depth_of, dtype=np.float32),))}
            shifts = [
                value("parallax", {"way": way, "steps": 16}, 0, flat, uv=(0.5, 0.5), depth=0.1)
                for way in ("single step", "stepped")
            ]
            straight = value("parallax", {"way": "stepped"}, 0, flat, uv=(0.5, 0.5), depth=0.0)
            self.same(straight, 0.5, 0.5)
            np.testing.assert_allclose(shifts[0], shifts[1], atol=1e-4)
            moved = float(np.hypot(shifts[1][0] - 0.5, shifts[1][1] - 0.5))
            view = np.array(dome()["view_direction"][:, 0, 0])
            self.assertEqual(moved > 1e-4, expected > 0 and abs(view[2]) > 0)
