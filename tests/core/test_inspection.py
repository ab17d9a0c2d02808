"""What is found out about pictures: their kind, their faults, and what it means where they are read."""

import unittest

import numpy as np

from tests.support.graphs import MADE, built
from velvet_moth.core.document.graph import Graph, Node, Source
from velvet_moth.core.making import Canvas
from velvet_moth.core.making.exchange import picture_of
from velvet_moth.core.making.height import normal_from_height
from velvet_moth.core.making.noise import fractal_noise
from velvet_moth.core.operations import AddNode, Wire
from velvet_moth.core.pictures.formats import Picture
from velvet_moth.core.pictures.inspection import guess, inspect, statistics
from velvet_moth.core.pictures.levels import read_texture
from velvet_moth.core.pictures.reading import Reading
from velvet_moth.core.workbench.problems import Problem
from velvet_moth.core.workbench.session import Session

CANVAS = Canvas(64, 64)
HILLS = fractal_noise(CANVAS, cells=4)
GREY = picture_of(HILLS, "16 bit")
NORMAL_DOWN = picture_of(normal_from_height(CANVAS, HILLS, strength=0.08, green="down"), "8 bit")
RANDOM = np.random.default_rng(7)


def coloured(alpha: int | None = 255) -> Picture:
    """A picture of many colours, which repeats."""
    hills = [fractal_noise(CANVAS, cells=4, seed=seed).number for seed in (1, 2, 3)]
    samples = np.rint(np.stack(hills, axis=-1) * 255).astype(np.uint8)
    return Picture(samples if alpha is None else np.dstack((samples, np.full(CANVAS.shape, alpha, np.uint8))))


def codes(picture: Picture, reading: Reading) -> set[str]:
    return {v.code for v in inspect(picture, reading).verdicts}


class Pictures(unittest.TestCase):
    def test_kinds_are_recognised_by_content(self) -> None:
        cases = {
            "colour": (coloured(), Reading("colour")),
            "grey": (GREY, Reading("data")),
            "grey in three channels": (Picture(GREY.samples.repeat(3, axis=2)), Reading("data")),
            "normal": (MADE["ripple_normal"].picture, Reading("normal", "up")),
            "other green": (NORMAL_DOWN, Reading("normal", "down")),
        }
        for name, (picture, reading) in cases.items():
            with self.subTest(name):
                found = guess(picture)
                self.assertEqual(found.reading, reading)
                self.assertGreaterEqual(found.confidence, 0.6)
                self.assertTrue(found.reason)
        self.assertEqual(guess(GREY, "slate_height.png").reading.role, "height")
        self.assertEqual(guess(coloured(), "gear_rough.png").reading.role, "data")

    def test_statistics_are_those_of_the_samples(self) -> None:
        samples = RANDOM.integers(0, 256, (40, 30, 2), dtype=np.uint8)
        samples[0, 0], samples[0, 1] = 0, 255
        grey, alpha = statistics(Picture(samples))
        self.assertEqual((grey.name, alpha.name, sum(grey.counts)), ("grey", "alpha", 1200))
        self.assertEqual((grey.low, grey.high), (0, 1))
        self.assertAlmostEqual(grey.mean, samples[..., 0].mean() / 255, places=5)
        self.assertAlmostEqual(grey.low_clip, (samples[..., 0] == 0).mean(), places=6)

    def test_each_fault_is_a_sentence(self) -> None:
        low = Picture((GREY.samples.astype(np.float32) * 0.4 + 65535 * 0.41).astype(np.uint16))
        cut = np.clip(GREY.samples.astype(np.int64) * 3 - 60000, 0, 65535).astype(np.uint16)
        ends = Picture(np.tile(np.linspace(40, 220, 64).astype(np.uint8)[None, :, None], (64, 1, 1)))
        cases = [
            (coloured(255), Reading("colour"), "flat-alpha", "Alpha is 1 everywhere: read R or luminance instead."),
            (low, Reading("data"), "never-black", "No pixel of grey is below 0.41: as a mask it never reaches black."),
            (low, Reading("data"), "never-white", "never reaches white"),
            (Picture(cut), Reading("height"), "clipped", "cut off at white"),
            (coloured(None), Reading("normal"), "not-a-normal", "not a tangent-space normal map."),
            (GREY, Reading("normal"), "not-a-normal", "A grey picture is no normal map"),
            (NORMAL_DOWN, Reading("normal", "up"), "other-green", "bumps look like dents"),
            (NORMAL_DOWN, Reading("colour"), "is-a-normal", "This looks like a normal map"),
            (GREY, Reading("colour"), "mask-as-colour", "0.5 is read as 0.21"),
            (ends, Reading("data"), "seams", "Seams at the left and right edge"),
        ]
        for picture, reading, code, words in cases:
            with self.subTest(code, reading=reading):
                (found,) = [v for v in inspect(picture, reading).verdicts if v.code == code]
                self.assertIn(words, found.what)
                if found.reading:
                    self.assertNotIn(code, codes(picture, found.reading), "the mend mends it")

    def test_a_good_picture_has_nothing_against_it(self) -> None:
        for key in ("ripple_normal", "ripple_height", "flake_normal", "gear_roughness"):
            made = MADE[key]
            warnings = [v.what for v in inspect(made.picture, made.reading).verdicts if v.severity == "warning"]
            self.assertEqual([w for w in warnings if "never reaches" not in w], [], key)


class InGraphs(unittest.TestCase):
    def told(self, picture: Picture, reading: Reading, graph: Graph) -> list[Problem]:
        texture = read_texture(picture, reading)
        source = {"t1": texture}.get
        found = {"t1": ("Chalk", reading, inspect(picture, reading))}
        return Session().show(graph, "", None, source, inspections=found.get).problems

    def test_the_four_mistakes_are_told_where_they_are_made(self) -> None:
        reader = AddNode(Node("map", "texture", values={"texture": "t1"}))
        alpha = built(reader, Wire.of("dock", "metallic", Source("map", "alpha")))
        (flat,) = [p for p in self.told(coloured(255), Reading("colour"), alpha) if p.code == "flat-alpha"]
        self.assertEqual((flat.node, flat.input), ("dock", "metallic"))
        self.assertIn("Use luminance", [m.words.split(" (")[0] for m in flat.mends])
        mended, _ = flat.mends[0].operation.apply(alpha)  # type: ignore[union-attr] # an edit of the graph
        self.assertEqual([p for p in self.told(coloured(255), Reading("colour"), mended) if p.code == "flat-alpha"], [])

        mask = built(reader, Wire.of("dock", "roughness", Source("map", "red")))
        (decoded,) = [p for p in self.told(GREY, Reading("colour"), mask) if p.code == "mask-as-colour"]
        self.assertEqual((decoded.mends[0].texture, decoded.mends[0].reading), ("t1", Reading("data")))

        bumps = built(
            AddNode(Node("map", "normal_map", values={"texture": "t1"})),
            Wire.of("dock", "normal", Source("map", "normal")),
        )
        (green,) = [p for p in self.told(NORMAL_DOWN, Reading("normal", "up"), bumps) if p.code == "other-green"]
        self.assertEqual(green.mends[0].reading, Reading("normal", "down"))
        (role,) = [p for p in self.told(NORMAL_DOWN, Reading("colour"), bumps) if p.code == "read-as-other"]
        self.assertEqual(role.mends[0].reading, Reading("normal", "down"))
        self.assertEqual(self.told(NORMAL_DOWN, Reading("normal", "down"), bumps), [])

    def test_what_does_not_matter_there_is_not_told(self) -> None:
        reader = AddNode(Node("map", "texture", values={"texture": "t1"}))
        plain = built(reader, Wire.of("dock", "base_colour", Source("map", "colour")))
        self.assertEqual(self.told(coloured(255), Reading("colour"), plain), [])
        self.assertEqual([p.code for p in self.told(GREY, Reading("colour"), plain)], [])
