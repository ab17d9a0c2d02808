"""The rule of placing against cases worked out by hand, and what its splashes cover against rays of another make."""

import math
import unittest
from collections.abc import Callable
from dataclasses import replace
from functools import partial

import numpy as np

from velvet_moth.core.base.errors import FileRefused, OperationRefused
from velvet_moth.core.forms.mesh import Mesh, grid, joined, square
from velvet_moth.core.forms.solids import turned
from velvet_moth.core.lighting.decals import REACH_DIRECTIONS, Decal
from velvet_moth.core.scenery.backdrops import backdrop
from velvet_moth.core.scenery.quay import BACK, BOLLARD, DRAIN, DRAIN_HALF, EDGE, SIDE, TOP, quay_corner
from velvet_moth.core.scenery.shapes import moved
from velvet_moth.core.throwing.curve import RuleCurve
from velvet_moth.core.throwing.placing import Aim, Splash, Throw, aimed, randoms, thrown
from velvet_moth.core.throwing.rule import FIRST_RULE, PARTS, PlacingRule, rule_from_json, rule_to_json
from velvet_moth.core.throwing.sowing import sown
from velvet_moth.core.throwing.surroundings import Surroundings, surroundings_of
from velvet_moth.demo.thrown import QUAY_RULE

# The scene: a floor y = 0 from x = -2 to 1 and z = -2 to 2, a wall x = 1 up to 3, and for some a wall z = -2, a post at
# the origin, 0.1 m thick each way and 0.6 m high.
FLOOR, POST_RADIUS, POST_HEIGHT = (-2.0, 1.0, -2.0, 2.0), 0.1, 0.6
SEED = 5
CHANCE, ROLLED, NUMBERED = randoms(SEED)


def quad(corner: tuple[float, float, float], u: tuple[float, float, float], v: tuple[float, float, float]) -> Mesh:
    a, b = square(2, 2)
    places = np.array(corner) + a[..., None] * np.array(u) + b[..., None] * np.array(v)
    return grid(places, np.stack((a, b), axis=-1))


def scene(second_wall: bool = False, post: bool = False) -> Surroundings:
    parts = [quad((-2, 0, 2), (3, 0, 0), (0, 0, -4)), quad((1, 0, 2), (0, 0, -4), (0, 3, 0))]
    if second_wall:
        parts.append(quad((-2, 0, -2), (3, 0, 0), (0, 3, 0)))
    if post:
        line = [[(POST_RADIUS, 0.0), (POST_RADIUS, POST_HEIGHT)], [(POST_RADIUS, POST_HEIGHT), (0.0, POST_HEIGHT)]]
        parts.append(moved(turned(line, columns=129, around=1.0), 0.0, 0.0, 0.0))
    return Surroundings(joined(parts))


def straight_down(x: float, z: float = 0.0, high: float = 2.0, **more: float) -> Throw:
    return Throw((x, high, z), (0.0, -1.0, 0.0), strength=0.5, seed=SEED, **more)


# By the first rule: 0.41 m at half strength, times 1 for two metres, varied by up to 0.2.
SIZE = 0.41 * (1 + 0.2 * (2 * CHANCE - 1))
REACH = 0.35


def one(splash: Splash) -> Decal:
    (decal,) = splash.decals
    return decal


class ByHand(unittest.TestCase):
    def near(self, found: object, expected: object, within: float = 2e-4) -> None:
        np.testing.assert_allclose(np.array(found), np.array(expected), atol=within)

    def test_in_the_open_it_lies_flat_and_whole(self) -> None:
        decal = one(thrown(scene(), FIRST_RULE, straight_down(-0.5)))
        self.near(decal.place, (-0.5, 0.0, 0.0))
        self.near(decal.axes[2], (0.0, 1.0, 0.0))
        self.near(decal.size[:2], (SIZE, SIZE))
        angles = np.arange(REACH_DIRECTIONS) * 2 * np.pi / REACH_DIRECTIONS
        self.near(decal.reach, SIZE / 2 / np.maximum(np.abs(np.cos(angles)), np.abs(np.sin(angles))))
        self.assertEqual((decal.seed, decal.strength, decal.thrown), (SEED, 0.5, (0.0, -1.0, 0.0)))
        self.assertEqual(decal.index, math.floor(1 + 3.999 * NUMBERED))
        self.assertEqual(thrown(scene(), FIRST_RULE, straight_down(-0.5)).decals, (decal,), "the same again")

    def test_a_wall_at_three_distances_tilts_it(self) -> None:
        # From 90 degrees at 0.04 m to 0 at half a metre.
        for distance, tilt in ((0.03, 90.0), (0.27, 45.0), (0.4, 90.0 * 0.1 / 0.46)):
            decal = one(thrown(scene(), FIRST_RULE, straight_down(1.0 - distance)))
            sine, cosine = math.sin(math.radians(tilt)), math.cos(math.radians(tilt))
            self.near(decal.axes[2], (-sine, cosine, 0.0))
            self.near(decal.place, (1.0 - distance + sine * distance, sine * SIZE / 2, 0.0))

    def test_steps_tilt_it_in_steps(self) -> None:
        rule = FIRST_RULE.with_curve("tilt", RuleCurve(((0.1, 90.0), (0.3, 30.0), (0.45, 0.0)), "steps"))
        for distance, tilt in ((0.05, 90.0), (0.29, 90.0), (0.3, 30.0), (0.44, 30.0)):
            _, up, _ = one(thrown(scene(), rule, straight_down(1.0 - distance))).axes[2]
            self.assertAlmostEqual(math.degrees(math.acos(up)), tilt, places=2)

    def test_in_a_corner_each_surface_gets_a_piece(self) -> None:
        splash = thrown(scene(second_wall=True), FIRST_RULE, straight_down(0.8, -1.86))
        floor, near, far = splash.decals
        self.near(floor.axes[2], (0, 1, 0))
        for decal, distance, out, foot in ((near, 0.14, (0, 0, 1), (0.8, -2.0)), (far, 0.2, (-1, 0, 0), (1.0, -1.86))):
            side = SIZE * (0.8 - 0.5 * distance / REACH)
            self.near(decal.size[:2], (side, side))
            self.near(decal.axes[2], out)
            self.near(decal.place, (foot[0], side / 2, foot[1]))
        self.assertEqual([bool(one.thrown) for one in splash.decals], [True, False, False])
        self.assertIn("2 walls are in reach", splash.words[0])

    def test_a_post_between_breaks_it_and_shades_what_is_behind(self) -> None:
        splash = thrown(scene(post=True), FIRST_RULE, straight_down(0.3))
        floor, post = splash.decals
        right, up, _ = floor.axes
        # The post hides what is within the two tangents from the hit, a little above the floor.
        edge = math.asin(POST_RADIUS / 0.3)
        for k, far in enumerate(floor.reach):
            angle = 2 * np.pi * k / REACH_DIRECTIONS
            way = math.cos(angle) * right + math.sin(angle) * up
            off = math.acos(float(np.clip(way @ (-1, 0, 0), -1, 1)))
            if off < edge - 0.02:
                to_post = 0.3 * math.cos(off) - math.sqrt(POST_RADIUS**2 - (0.3 * math.sin(off)) ** 2)
                self.assertLess(abs(far - min(to_post, far)), 4e-3)
                self.assertLessEqual(far, to_post + 2e-3)
            elif off > edge + 2 * np.pi / REACH_DIRECTIONS + 0.02:
                self.assertGreaterEqual(far, SIZE / 2 - 2e-4)
        side = SIZE * (0.8 - 0.5 * 0.2 / REACH)
        self.near(post.place, (POST_RADIUS, side / 2, 0.0), 2e-3)
        self.near(post.axes[2], (1, 0, 0), 0.03)

    def test_at_the_edge_of_the_quay_it_ends_with_the_ground(self) -> None:
        decal = one(thrown(scene(), FIRST_RULE, straight_down(-1.9)))
        right, up, _ = decal.axes
        for k, far in enumerate(decal.reach):
            angle = 2 * np.pi * k / REACH_DIRECTIONS
            towards = -float((math.cos(angle) * right + math.sin(angle) * up)[0])
            box = SIZE / 2 / max(abs(math.cos(angle)), abs(math.sin(angle)))
            self.assertLess(abs(far - min(0.1 / towards, box) if towards > 0.05 else 0.0), 3e-3)

    def test_a_slanted_throw_stretches_it_along_its_way(self) -> None:
        way = np.array((0.3, -0.5, -0.4))
        way /= np.linalg.norm(way)
        hit = np.array((-0.6, 0.0, 0.2))
        throw = Throw(tuple(hit - 2 * way), tuple(way), strength=0.5, seed=SEED)
        rule = FIRST_RULE.with_curve("roll", RuleCurve(((0.0, 0.0),)))
        decal = one(thrown(scene(), rule, throw))
        slant = math.degrees(math.acos(-way[1]))
        stretch = 1 + 1.6 * (slant - 20) / 60
        self.near(decal.size[1] / decal.size[0], stretch, 2e-3)
        self.near(decal.axes[1], (0.6, 0.0, -0.8), 1e-3)

    def test_a_hand_throws_from_the_side_that_is_seen(self) -> None:
        """However it drags, even upwards over the floor."""
        for aside, slant in (((0.0, 1.0, 0.0), 70.0), ((1.0, 0.0, 0.0), 70.0), ((0.0, 0.0, 0.0), 0.0)):
            aim = Aim((-1.0, 1.2, 1.0), (0.5, -0.8, -0.33), aside, slant, seed=SEED)
            throw = aimed(scene(), aim)
            self.assertLess(throw.way[1], -0.1)
            self.assertGreater(throw.start[1], 0.0)
            towards = np.array((0.5, -0.8, -0.33)) / np.linalg.norm((0.5, -0.8, -0.33))
            self.near(thrown(scene(), FIRST_RULE, throw).decals[0].place, aim.eye - towards * 1.2 / towards[1], 2e-3)

    def test_what_hits_nothing_says_so(self) -> None:
        splash = thrown(scene(), FIRST_RULE, Throw((0.0, 1.0, 0.0), (0.0, 1.0, 0.0)))
        self.assertEqual((splash.decals, splash.words), ((), ("It hits nothing.",)))


# Gives for rays, by their starts and unit ways, how far the first surface is and its normal there.
Meeting = Callable[[np.ndarray, np.ndarray], tuple[np.ndarray, np.ndarray]]


def first_hits(starts: np.ndarray, ways: np.ndarray, post: bool) -> tuple[np.ndarray, np.ndarray]:
    """By formulas of planes and a cylinder, in the scene above."""
    x0, x1, _, z1 = FLOOR
    with np.errstate(divide="ignore", invalid="ignore"):
        found = []
        t = -starts[:, 1] / ways[:, 1]
        p = starts + t[:, None] * ways
        found.append(np.where((t > 1e-9) & (p[:, 0] >= x0) & (p[:, 0] <= x1) & (abs(p[:, 2]) <= z1), t, np.inf))
        t = (1.0 - starts[:, 0]) / ways[:, 0]
        p = starts + t[:, None] * ways
        found.append(np.where((t > 1e-9) & (p[:, 1] >= 0) & (p[:, 1] <= 3) & (abs(p[:, 2]) <= z1), t, np.inf))
        if post:
            a = ways[:, 0] ** 2 + ways[:, 2] ** 2
            b = starts[:, 0] * ways[:, 0] + starts[:, 2] * ways[:, 2]
            c = starts[:, 0] ** 2 + starts[:, 2] ** 2 - POST_RADIUS**2
            root = np.sqrt(b * b - a * c)
            for t in ((-b - root) / a, (-b + root) / a):
                high = starts[:, 1] + t * ways[:, 1]
                found.append(np.where((t > 1e-9) & (high >= 0) & (high <= POST_HEIGHT), t, np.inf))
            t = (POST_HEIGHT - starts[:, 1]) / ways[:, 1]
            p = starts + t[:, None] * ways
            found.append(np.where((t > 1e-9) & (np.hypot(p[:, 0], p[:, 2]) <= POST_RADIUS), t, np.inf))
    far = np.min(found, axis=0)
    return far, normals(starts + np.where(np.isfinite(far), far, 0.0)[:, None] * ways, np.argmin(found, axis=0))


def normals(places: np.ndarray, kinds: np.ndarray) -> np.ndarray:
    """Of the surfaces in the order of ``first_hits``."""
    round_ = places * (1, 0, 1) / np.maximum(np.hypot(places[:, 0], places[:, 2]), 1e-9)[:, None]
    straight = np.array(((0, 1, 0), (-1, 0, 0), (0, 0, 0), (0, 0, 0), (0, 1, 0)), dtype=float)[kinds]
    return np.where(((kinds == 2) | (kinds == 3))[:, None], round_, straight)


# The quay as boxes, by their lowest and highest corners, and its water.
(DX, DZ), DH = DRAIN, DRAIN_HALF
QUAY_BOXES = (
    ((SIDE, TOP - 0.4, BACK), (1.7, TOP, DZ - DH)),
    ((SIDE, TOP - 0.4, DZ + DH), (1.7, TOP, EDGE)),
    ((SIDE, TOP - 0.4, DZ - DH), (DX - DH, TOP, DZ + DH)),
    ((DX + DH, TOP - 0.4, DZ - DH), (1.7, TOP, DZ + DH)),
    ((SIDE - 0.2, TOP - 0.4, BACK - 0.2), (1.7, 0.55, BACK)),
    ((SIDE - 0.2, TOP - 0.4, BACK), (SIDE, 0.55, EDGE)),
    ((DX - DH, TOP - 0.4, DZ - DH), (DX + DH, TOP - 0.25, DZ + DH)),
    *(
        ((DX - DH + k * 0.08 + 0.01, TOP - 0.042, DZ - DH), (DX - DH + k * 0.08 + 0.05, TOP - 0.012, DZ + DH))
        for k in range(5)
    ),
)
_IRON = quay_corner()["bollard"]
BOLLARD_CORNERS = _IRON.positions[_IRON.triangles].astype(np.float64)


def quay_hits(starts: np.ndarray, ways: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Boxes by their slabs, the water as a plane, the bollard triangle by triangle where a ray comes near it."""
    far, normal = np.full(len(starts), np.inf), np.zeros(starts.shape)
    with np.errstate(divide="ignore", invalid="ignore"):
        for low, high in QUAY_BOXES:
            ends = np.stack(((np.array(low) - starts) / ways, (np.array(high) - starts) / ways))
            enter, leave = np.nanmin(ends, axis=0), np.nanmax(ends, axis=0).min(axis=1)
            axis = np.argmax(enter, axis=1)
            into = np.take_along_axis(enter, axis[:, None], axis=1)[:, 0]
            there = (into <= leave) & (into > 1e-9) & (into < far)
            far[there] = into[there]
            normal[there] = -np.eye(3)[axis[there]] * np.sign(np.take_along_axis(ways, axis[:, None], axis=1))[there]
        t = (TOP - 0.62 - starts[:, 1]) / ways[:, 1]
        place = starts + t[:, None] * ways
        there = (t > 1e-9) & (t < far) & (abs(place[:, 0]) <= 2.2) & (place[:, 2] >= 0.9) & (place[:, 2] <= 2.4)
        far[there], normal[there] = t[there], (0.0, 1.0, 0.0)
        flat = ways[:, (0, 2)]
        away = np.array(BOLLARD) - starts[:, (0, 2)]
        along = np.clip(np.sum(away * flat, axis=1) / np.maximum(np.sum(flat * flat, axis=1), 1e-12), 0, None)
        near = np.flatnonzero(np.linalg.norm(away - along[:, None] * flat, axis=1) < 0.18)
    a, b, c = (BOLLARD_CORNERS[:, k] for k in range(3))
    first, second = b - a, c - a
    for some in np.array_split(near, max(len(near) // 200, 1)):
        cross = np.cross(ways[some][:, None], second[None])
        area = np.sum(first * cross, axis=-1)
        area = np.where(np.abs(area) < 1e-14, np.inf, area)
        to = starts[some][:, None] - a
        u = np.sum(to * cross, axis=-1) / area
        other = np.cross(to, first[None])
        v = np.sum(ways[some][:, None] * other, axis=-1) / area
        t = np.sum(second * other, axis=-1) / area
        t = np.where((u >= 0) & (v >= 0) & (u + v <= 1) & (t > 1e-9), t, np.inf)
        which = np.argmin(t, axis=1)
        own = t[np.arange(len(some)), which]
        closer = own < far[some]
        far[some[closer]] = own[closer]
        face = np.cross(first, second)[which[closer]]
        face /= np.linalg.norm(face, axis=1, keepdims=True)
        facing = np.sum(face * ways[some[closer]], axis=1, keepdims=True) > 0
        normal[some[closer]] = np.where(facing, -face, face)
    return far, normal


def bad_shares(
    splash: Splash, post: bool = False, side: int = 50, meet: Meeting | None = None
) -> tuple[float, float, float]:
    """Shares of a splash, 6 mm thick, that hang over nothing and that are behind a surface; how much of it there is (m²)."""
    assert splash.hit is not None
    meet = meet or partial(first_hits, post=post)
    hangs = hidden = whole = 0.0
    for decal in splash.decals:
        right, up, out = decal.axes
        at = (np.arange(side) + 0.5) / side - 0.5
        x, y = (part.ravel() for part in np.meshgrid(at * decal.size[0], at * decal.size[1]))
        turns = np.arctan2(y, x) / (2 * np.pi) * REACH_DIRECTIONS % REACH_DIRECTIONS
        low = np.floor(turns).astype(int)
        reach = np.array(decal.reach)
        limit = reach[low % 64] * (1 - turns + low) + reach[(low + 1) % 64] * (turns - low)
        # The outline of a splash is no wider than its ellipse.
        inside = (np.hypot(x, y) <= limit) & (np.hypot(x / decal.size[0], y / decal.size[1]) <= 0.5)
        plane = np.array(decal.place) + x[:, None] * right + y[:, None] * up
        starts = (plane + out * decal.size[2] / 2)[inside]
        if not len(starts):
            continue
        far, facing = meet(starts, np.broadcast_to(-out, starts.shape))
        there = far <= decal.size[2]
        places = starts[there] - out * far[there][:, None]
        places += 0.006 * facing[there]
        ways = places - np.array(splash.hit)
        away = np.linalg.norm(ways, axis=1)
        blocked, _ = meet(np.broadcast_to(np.array(splash.hit), ways.shape), ways / away[:, None])
        area = decal.size[0] * decal.size[1] / side**2
        hangs += area * np.sum(~there)
        hidden += area * np.sum(blocked < away)
        whole += area * len(starts)
    return hangs / whole, hidden / whole, whole


class ManyThrows(unittest.TestCase):
    def test_nothing_hangs_and_nothing_goes_through(self) -> None:
        """Throws all over the scene, counted by other rays than the rule's."""
        draw = np.random.default_rng(21)
        around = scene(post=True)
        shares = []
        for seed in range(150):
            target = np.array((draw.uniform(-2.05, 1.0), 0.0, draw.uniform(-1.9, 1.9)))
            if seed % 3 == 0:
                target = np.array((draw.uniform(-0.5, 0.6), 0.0, draw.uniform(-0.5, 0.5)))
            start = np.array((draw.uniform(-2.5, 0.5), draw.uniform(0.8, 2.5), draw.uniform(-1.5, 1.5)))
            way = target - start
            way /= np.linalg.norm(way)
            splash = thrown(around, FIRST_RULE, Throw(tuple(start), tuple(way), strength=draw.uniform(), seed=seed))
            if splash.decals:
                shares.append(bad_shares(splash, post=True))
        hangs, hidden, whole = np.array(shares).T
        self.assertGreater(len(shares), 130)
        self.assertGreater(whole.min(), 0.001)
        self.assertLess(hangs.max(), 0.02)
        self.assertLess(hidden.max(), 0.01)

    def on_the_quay(self, first: int, count: int) -> None:
        around = surroundings_of("quay_corner")
        assert around is not None
        shares = []
        for aim in sown(backdrop("quay_corner").view, 4 * count, first):
            splash = thrown(around, QUAY_RULE, aimed(around, aim))
            if splash.decals:
                # One point of a coarse grid is some per cent of a small splash: what it finds is counted on a fine one.
                coarse = bad_shares(splash, side=14, meet=quay_hits)
                is_clean = max(coarse[:2]) == 0
                shares.append(coarse if is_clean else bad_shares(splash, side=60, meet=quay_hits))
            if len(shares) == count:
                break
        hangs, hidden, whole = np.array(shares).T
        self.assertEqual(len(shares), count)
        self.assertGreater(whole.min(), 1e-4)
        self.assertLess(hangs.max(), 0.02)
        self.assertLess(hidden.max(), 0.01)

    def test_five_hundred_at_the_quay_first_half(self) -> None:
        self.on_the_quay(1, 250)

    def test_five_hundred_at_the_quay_second_half(self) -> None:
        self.on_the_quay(10_001, 250)

    def test_without_its_reach_a_splash_would_do_both(self) -> None:
        """What the count finds: so the test above is no empty one."""
        around = scene(post=True)
        freed = [
            replace(splash, decals=tuple(replace(d, reach=(9.0,) * REACH_DIRECTIONS) for d in splash.decals))
            for splash in (thrown(around, FIRST_RULE, straight_down(x)) for x in (-1.95, 0.15))
        ]
        self.assertGreater(bad_shares(freed[0], post=True)[0], 0.2)
        self.assertGreater(bad_shares(freed[1], post=True)[1], 0.02)


class Rules(unittest.TestCase):
    def test_curves_go_as_they_say_and_hold_at_their_ends(self) -> None:
        points = ((1.0, 2.0), (3.0, 6.0))
        for between, middle in (("straight", 3.0), ("smooth", 2.0 + 4 * (3 / 16 - 2 / 64)), ("steps", 2.0)):
            curve = RuleCurve(points, between)
            self.assertEqual([curve.at(x) for x in (0.0, 1.0, 3.0, 9.0)], [2.0, 2.0, 6.0, 6.0])
            self.assertAlmostEqual(curve.at(1.5), middle)

    def test_a_rule_reads_back_and_refuses_with_a_sentence(self) -> None:
        rule = PlacingRule("Silt").with_curve("tilt", RuleCurve(((0.1, 80.0), (0.7, 0.0)), "smooth"))
        self.assertEqual(rule_from_json(rule_to_json(rule), "file"), rule)
        self.assertEqual(rule.with_curve("tilt", None), PlacingRule("Silt"))
        self.assertEqual(
            rule.with_curve("tilt", PARTS["tilt"].first), PlacingRule("Silt"), "what is as at first is not kept"
        )
        for part, curve, words in (
            ("tilt", RuleCurve(((0.1, 95.0),)), "Tilt is 0 to 90 °"),
            ("tilt", RuleCurve(((0.2, 5.0), (0.1, 4.0))), "out of order"),
            ("tilt", RuleCurve(()), "1 to 8 points"),
            ("fade", RuleCurve(((10.0, 0.5), (20.0, 0.0))), "have the heights 1, 0"),
            ("weather", RuleCurve(((0.0, 1.0),)), "no part 'weather'"),
        ):
            with self.assertRaisesRegex(OperationRefused, words):
                rule.with_curve(part, curve)
        for data in ({}, {"format": "velvet-moth-rule", "version": 9}, {**rule_to_json(rule), "name": ""}):
            with self.assertRaises(FileRefused):
                rule_from_json(data, "file")


if __name__ == "__main__":
    unittest.main()
