"""What nodes give, against values worked out by hand: parity alone would let both sides be wrong together."""

import math
import unittest
from typing import Any

import numpy as np

import velvet_moth.core.nodes  # noqa: F401 - fills the catalogue
from velvet_moth.core.catalogue import CATALOGUE
from velvet_moth.core.expr import Expr, constant
from velvet_moth.core.interpreters.evaluate import evaluate
from velvet_moth.core.surroundings import Surroundings, surface
from velvet_moth.core.swatches import SIZE, dome


def value(key: str, settings: dict[str, Any] | None = None, output: int = 0, **inputs: Any) -> list[float]:
    """A node's output for constant inputs; inputs that are left out carry their defaults."""
    kind = CATALOGUE[key]
    given: dict[str, Expr] = {}
    for name, port in kind.inputs.items():
        chosen = inputs.get(name, port.default)
        given[name] = surface(port.source) if name not in inputs and port.source else constant(*np.atleast_1d(chosen))
    chosen_settings = tuple((k, (settings or {}).get(k, s.default)) for k, s in kind.settings.items())
    built = list(kind.build(given, chosen_settings).values())[output]
    made = evaluate([built], Surroundings({**dome(), "time": np.float32(2.0)}))[0]
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
        found, other = evaluate([rim, centre], Surroundings(dome()))
        middle = SIZE // 2
        self.assertLess(float(found[middle, middle]), 0.01)
        self.assertGreater(float(found[0, 0]), 0.9)
        np.testing.assert_allclose(found + other, 1.0, atol=1e-6)
        self.assertAlmostEqual(math.acos(1 - float(found[middle, -1])) / (math.pi / 2), 1 / 1.3, delta=0.03)
