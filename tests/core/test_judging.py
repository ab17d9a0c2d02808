"""Judging many throws: what it finds where nothing is wrong, and where the rule is broken on purpose."""

import unittest
from typing import Any
from unittest.mock import patch

import numpy as np

from tests.core.test_throwing import bad_shares, scene
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.forms.view import Camera
from velvet_moth.core.lighting.decals import REACH_DIRECTIONS
from velvet_moth.core.throwing.placing import thrown
from velvet_moth.core.throwing.rule import FIRST_RULE
from velvet_moth.core.workbench.judging import COLUMNS, TILE, Judgement, judged
from velvet_moth.demo.sketch import Sketch

EYE = Camera(turn=-30.0, tilt=35.0, distance=4.0, field=50.0, target=(0.0, 0.0, 0.0))


def blots(raggedness: float = 0.8) -> Graph:
    s = Sketch("Blots", "plane", kind="decal")
    s.add("blot", "splash", "Blot", size=0.42, raggedness=raggedness, grain=9.0, softness=0.1)
    s.dock(opacity="@blot.mask")
    return s.graph()


class Judging(unittest.TestCase):
    def judge(self, graph: Graph, count: int = 40, **more: Any) -> Judgement:
        around = scene(post=True)
        return judged(graph, around, FIRST_RULE, EYE, count=count, seed=3, textures=lambda key: None, **more)

    def test_a_rule_that_keeps_its_reach_is_found_good(self) -> None:
        shares: list[float] = []
        found = self.judge(blots(), hears=shares.append)
        verdicts = {one.key: one for one in found.verdicts}
        self.assertEqual((len(found.throws), len(found.measured)), (40, 40))
        self.assertTrue(verdicts["hanging"].is_good and verdicts["through"].is_good and verdicts["alike"].is_good)
        self.assertLess(max(one.hanging + one.through for one in found.measured), 0.005)
        self.assertEqual(found.sheet.shape, (2 * TILE, COLUMNS * TILE, 3))
        self.assertEqual(shares, sorted(shares))
        again = self.judge(blots())
        self.assertEqual((again.throws, again.measured), (found.throws, found.measured))

    def test_round_ones_are_found_alike_with_a_mend(self) -> None:
        verdicts = {one.key: one for one in self.judge(blots(0.0)).verdicts}
        self.assertFalse(verdicts["alike"].is_good)
        self.assertIn("raggedness", verdicts["alike"].mend)

    def test_what_hangs_and_goes_through_is_found_as_by_other_rays(self) -> None:
        def endless(*given: Any) -> tuple[tuple[float, ...], float]:
            return (9.0,) * REACH_DIRECTIONS, 0.3

        with patch("velvet_moth.core.throwing.placing.reach_of", endless):
            found = self.judge(blots(0.0), 60)
            around = scene(post=True)
            splashes = [thrown(around, FIRST_RULE, one) for one in found.throws]
        verdicts = {one.key: one for one in found.verdicts}
        self.assertFalse(verdicts["hanging"].is_good)
        self.assertIn("throw", verdicts["hanging"].what)
        # A round outline of 0.42 of the width here, the ellipse there: the shares are near, and of the same splashes.
        found_here = np.array([one.hanging for one in found.measured])
        counted = np.array([bad_shares(splash, post=True)[0] for splash in splashes])
        self.assertGreater(np.corrcoef(found_here, counted)[0, 1], 0.95)
        self.assertLess(np.abs(found_here - counted).max(), 0.2)


if __name__ == "__main__":
    unittest.main()
