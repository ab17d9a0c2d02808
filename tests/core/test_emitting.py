"""Emitters: where instances are against motion worked out otherwise, whatever order moments are asked in; strips, sources, checks."""

import math
import unittest
from dataclasses import replace
from itertools import product

import numpy as np
from scipy.integrate import solve_ivp

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.document.graph import Source, empty_graph
from velvet_moth.core.emitting.emitter import (
    FACINGS,
    MOST_INSTANCES,
    NO_EMITTER,
    PATHS,
    Emitter,
    EmitterSource,
    InstanceNumber,
    checked_emitter,
    emitter_textures,
    reach_of,
)
from velvet_moth.core.emitting.instances import instancing_of
from velvet_moth.core.emitting.per_instance import ACROSS, INSTANCE_TEXTURES, per_instance_of
from velvet_moth.core.emitting.spurting import sources_of
from velvet_moth.core.forms import form
from velvet_moth.core.forms.mesh import Mesh, grid, square
from velvet_moth.core.language.inputs import Bindings
from velvet_moth.core.language.interpreters.evaluate import evaluate
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.lighting.decals import Decal
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.operations import set_field
from velvet_moth.core.render.tracing.instancing import instanced
from velvet_moth.core.render.tracing.pin import pinned
from velvet_moth.core.render.tracing.scene import Scene, shown_mesh
from velvet_moth.core.workbench.session import picture
from velvet_moth.demo.sketch import Sketch

EYE = np.array((2.0, 1.5, 4.0))
# A form whose first vertex is in its middle, so that an instance's place is read off.
U, V = square(3, 3)
DOT = grid(np.stack((U - 0.5, V - 0.5, 0 * U), axis=-1), np.stack((U, V), axis=-1)).taken(np.array([4, 0, 2, 6, 8]))
DOT = replace(DOT, triangles=np.array([[0, 1, 2], [0, 3, 4]], dtype=np.uint32))
STREAM = Emitter(rate=12.0, burst=5.0, life=(0.6, 1.1), speed=(1.0, 2.5), cone=35.0, gravity=6.0, drag=0.9, seed=4.0)
UP = EmitterSource((0.1, 0.2, -0.3), (0.0, 1.0, 0.0), 0.0, 4.0)


def at(
    emitter: Emitter, time: float, source: EmitterSource = UP, mesh: Mesh = DOT
) -> dict[float, dict[str, np.ndarray]]:
    """What there is of each instance at a time, by the random number that tells it from the others."""
    found = instanced(mesh, emitter, [source], time, EYE)
    if found is None:
        return {}
    count = len(mesh.positions)
    assert found.instance is not None
    parts = {"position": found.positions, "normal": found.normals, "tangent": found.tangents, **found.instance}
    split = {name: values.reshape(-1, count, values.shape[1]) for name, values in parts.items()}
    return {
        float(split["instance_life"][i, 0, 1]): {n: v[i] for n, v in split.items()}
        for i in range(len(split["position"]))
    }


class Flying(unittest.TestCase):
    def test_a_moment_is_the_same_alone_and_after_others(self) -> None:
        moments = np.random.default_rng(3).permutation(np.linspace(0.0, 4.0, 17))
        first = {float(t): at(STREAM, float(t)) for t in moments}
        for time in sorted(first):
            again = at(STREAM, time)
            self.assertEqual(first[time].keys(), again.keys())
            for key, one in again.items():
                np.testing.assert_array_equal(one["position"], first[time][key]["position"])

    def test_each_flies_as_integrated_step_by_step(self) -> None:
        """v' = g - d v from where and how fast each is just after its birth, by a solver of differential equations."""
        for drag in (0.0, 0.9, 6.0):
            emitter = replace(
                STREAM, drag=drag, rate=0.0, burst=20.0, size=(1.0, 1.0), size_curve=((0.0, 1.0), (1.0, 1.0))
            )
            step = 1e-3
            early, later, now = (at(emitter, t) for t in (0.0, step, 0.5))
            self.assertEqual(len(now), 20)
            for key, one in now.items():
                start = early[key]["position"][0].astype(np.float64)
                speed = (later[key]["position"][0] - start) / step
                speed[1] += 6.0 * step / 2
                speed *= 1.0 + drag * step / 2

                def force(_: float, state: np.ndarray, drag: float = drag) -> np.ndarray:
                    return np.concatenate((state[3:], np.array((0, -6.0, 0)) - drag * state[3:]))

                way = solve_ivp(force, (0.0, 0.5), np.concatenate((start, speed)), rtol=1e-8).y[:3, -1]
                np.testing.assert_allclose(one["position"][0], way, atol=2e-3)

    def test_births_lives_and_numbers_follow_what_is_set(self) -> None:
        emitter = replace(
            STREAM,
            burst=0.0,
            life=(0.5, 0.5),
            duration=2.0,
            numbers=(
                InstanceNumber("Rises", ((0.0, 0.0), (0.5, 2.0), (1.0, -1.0))),
                InstanceNumber("Chance", ((0.0, 4.0), (1.0, 4.0)), 0.5),
                *(InstanceNumber(f"More {n}", ((0.0, float(n)), (1.0, float(n)))) for n in range(3, 9)),
            ),
        )
        # Twelve a second that live half a second: those born at k / 12 with 0 <= t - k / 12 < 1 / 2, until the second second.
        for time in (0.03, 0.26, 0.74, 1.9, 2.2, 2.46, 2.6):
            births = np.arange(0, 25) / 12
            expected = np.sort(time - births[(births <= time) & (time - births < 0.5)])
            found = at(emitter, time)
            np.testing.assert_allclose(
                np.sort([one["instance_age"][0, 0] for one in found.values()]), expected, atol=2e-6
            )
            for one in found.values():
                share = float(one["instance_life"][0, 0])
                self.assertAlmostEqual(share, float(one["instance_age"][0, 0]) / 0.5, places=5)
                rises, chance, *rest = (*one["instance_data"][0], *one["second_instance_data"][0])
                self.assertAlmostEqual(rises, np.interp(share, (0, 0.5, 1), (0, 2, -1)), delta=0.025)
                self.assertTrue(2.0 <= chance <= 4.0)
                np.testing.assert_allclose(rest, np.arange(3, 9), atol=1e-5)
        chances = {float(one["instance_data"][0, 1]) for one in at(emitter, 0.74).values()}
        self.assertGreater(len(chances), 4)

    def test_they_leave_within_the_cone_and_disc_at_their_speeds(self) -> None:
        emitter = replace(STREAM, rate=0.0, burst=400.0, gravity=0.0, drag=0.0, radius=0.2, life=(1.0, 1.0))
        early, later = at(emitter, 0.0), at(emitter, 0.4)
        ways = np.array([later[key]["position"][0] - early[key]["position"][0] for key in early]) / 0.4
        speeds = np.linalg.norm(ways, axis=1)
        self.assertTrue(1.0 - 1e-3 <= speeds.min() < 1.1 and 2.4 < speeds.max() <= 2.5 + 1e-3)
        slants = np.degrees(np.arccos(ways[:, 1] / speeds))
        self.assertTrue(slants.max() <= 35.1 and slants.max() > 30.0)
        # Evenly over the cap: half of the cosines below the middle one.
        self.assertAlmostEqual(
            np.mean(np.cos(np.radians(slants)) < (1 + math.cos(math.radians(35))) / 2), 0.5, delta=0.08
        )
        starts = np.array([one["position"][0] for one in early.values()]) - UP.place
        out = np.hypot(starts[:, 0], starts[:, 2])
        self.assertTrue(out.max() <= 0.2 + 1e-5 and abs(np.mean(out < 0.2 / math.sqrt(2)) - 0.5) < 0.08)

    def test_they_face_as_is_set(self) -> None:
        wide = replace(STREAM, rate=0.0, burst=30.0, spin=(90.0, 90.0))
        for one in at(replace(wide, facing="eye"), 0.3).values():
            towards = EYE - one["position"][0]
            np.testing.assert_allclose(one["normal"][0], towards / np.linalg.norm(towards), atol=1e-4)
        before, now, after = (at(replace(wide, facing="along", size=(1.0, 1.0)), t) for t in (0.299, 0.3, 0.301))
        for key, one in now.items():
            heads = after[key]["position"][0] - before[key]["position"][0]
            up = np.cross(one["normal"][0], one["tangent"][0, :3])
            np.testing.assert_allclose(up, heads / np.linalg.norm(heads), atol=0.02)
        turned = [
            np.degrees(np.arccos(np.clip(a["tangent"][0, :3] @ b["tangent"][0, :3], -1, 1)))
            for a, b in zip(
                at(replace(wide, facing="tumble"), 0.1).values(),
                at(replace(wide, facing="tumble"), 0.3).values(),
                strict=True,
            )
        ]
        np.testing.assert_allclose(turned, 18.0, atol=0.1)

    def test_seeds_and_sources_are_independent(self) -> None:
        one, other = (at(STREAM, 1.0, replace(UP, seed=seed)) for seed in (4.0, 5.0))
        self.assertFalse(one.keys() & other.keys())
        late = at(STREAM, 3.0, replace(UP, born=2.0))
        self.assertEqual(late.keys(), one.keys())
        self.assertEqual(at(STREAM, 1.9, replace(UP, born=2.0)), {})
        both = instanced(DOT, STREAM, [UP, replace(UP, seed=5.0)], 1.0, EYE)
        assert both is not None
        self.assertEqual(len(both.positions), len(DOT.positions) * (len(one) + len(other)))

    def test_nothing_is_farther_than_its_reach(self) -> None:
        for path, name in (("free", "drop"), ("spiral", "strip"), ("fountain", "strip"), ("behind", "strip")):
            emitter, mesh = replace(STREAM, path=path, size=(0.2, 0.6)), form(name)
            own = float(np.linalg.norm(mesh.positions, axis=1).max())
            for time in (0.2, 1.0, 2.7):
                found = instanced(mesh, emitter, [UP], time, EYE)
                assert found is not None
                self.assertLessEqual(np.linalg.norm(found.positions, axis=1).max(), reach_of(emitter, UP, own))


class Strips(unittest.TestCase):
    def middle(self, emitter: Emitter, time: float) -> list[np.ndarray]:
        """The middle lines of the ribbons, (65, 3) each from its beginning."""
        mesh = form("strip")
        row = np.flatnonzero(np.abs(mesh.uvs[:, 0] - 0.5) < 1e-6)
        row = row[np.argsort(mesh.uvs[row, 1])]
        return [one["position"][row].astype(np.float64) for one in at(emitter, time, mesh=mesh).values()]

    def test_paths_are_lines_spirals_fountains_and_trails(self) -> None:
        calm = replace(STREAM, rate=0.0, burst=6.0, cone=0.0, radius=0.0, life=(1.0, 1.0), drag=0.0, length=0.8)
        share = np.linspace(0, 1, 65)
        for line in self.middle(replace(calm, path="straight"), 0.3):
            np.testing.assert_allclose(line, np.array(UP.place) + share[:, None] * (0, 0.8, 0), atol=1e-5)
        for line in self.middle(replace(calm, path="spiral", path_radius=0.25, turns=2.0), 0.3):
            off = line - UP.place
            np.testing.assert_allclose(off[:, 1], share * 0.8, atol=1e-5)
            t = np.clip(share / 0.3, 0, 1)
            np.testing.assert_allclose(np.hypot(off[:, 0], off[:, 2]), 0.25 * t * t * (3 - 2 * t), atol=1e-5)
            angle = np.unwrap(np.arctan2(off[27:, 2], off[27:, 0]))
            np.testing.assert_allclose(np.abs(np.diff(angle)), 4 * np.pi / 64, atol=1e-3)
        for line in self.middle(replace(calm, path="fountain", speed=(2.0, 2.0)), 0.3):
            np.testing.assert_allclose(line[:, 1] - 0.2, 2.0 * share - 3.0 * share**2, atol=1e-5)
        for line in self.middle(replace(calm, path="behind", speed=(2.0, 2.0), length=0.2), 0.5):
            age = np.maximum(0.5 - share * 0.2, 0)
            np.testing.assert_allclose(line[:, 1] - 0.2, 2.0 * age - 3.0 * age**2, atol=1e-5)

    def test_a_strip_is_as_wide_as_it_is_made_and_square_to_its_way(self) -> None:
        mesh = form("strip")
        emitter = replace(
            STREAM, path="spiral", rate=0.0, burst=3.0, size=(0.5, 0.5), size_curve=((0.0, 1.0), (1.0, 1.0))
        )
        for facing in ("eye", "tumble"):
            for one in at(replace(emitter, facing=facing), 0.4, mesh=mesh).values():
                places = one["position"].reshape(65, 3, 3).astype(np.float64)
                wide = places[:, -1] - places[:, 0]
                np.testing.assert_allclose(np.linalg.norm(wide, axis=1), 0.25, atol=1e-4)
                along = np.gradient(places[:, 1], axis=0)
                cosine = np.sum(along * wide, axis=1) / np.linalg.norm(along, axis=1) / 0.25
                self.assertLess(np.abs(cosine[2:-2]).max(), 0.02)


class PerInstance(unittest.TestCase):
    def test_two_passes_place_instances_where_one_does(self) -> None:
        """What the first pass keeps in textures is read back by the second: for every path, facing and more than one row."""
        mesh = form("strip:8")
        vertices: dict[str, np.ndarray] = {
            "position": mesh.positions.T[:, None],
            "normal": mesh.normals.T[:, None],
            "tangent": mesh.tangents.T[:, None],
            "uv": mesh.uvs.T[:, None],
        }
        for path, facing in product(PATHS, FACINGS):
            emitter = replace(
                STREAM,
                rate=300.0,
                path=path,
                facing=facing,
                numbers=(InstanceNumber("Flow", ((0.0, 1.0), (1.0, 3.0)), 0.4),),
            )
            direct, passes = instancing_of(emitter), per_instance_of(emitter)
            assert direct is not None and passes is not None
            slots = np.arange(emitter.slots, dtype=np.float32)
            self.assertGreater(len(slots), ACROSS)
            known: dict[str, np.ndarray] = {
                **emitter.inputs,
                "time": np.array(1.3, dtype=np.float32),
                "camera_position": EYE.astype(np.float32).reshape(3, 1, 1),
            }
            textures = emitter_textures(emitter, (UP,))
            rows = -(-len(slots) // ACROSS)
            pixels = {"instance_slot": np.arange(rows * ACROSS, dtype=np.float32).reshape(rows, ACROSS)}
            kept = evaluate(list(passes.kept), Bindings({**known, **pixels}, {}, textures))
            for key, level in zip(INSTANCE_TEXTURES, kept, strict=False):
                whole = np.broadcast_to(level, (4, rows, ACROSS)).astype(np.float32)
                textures[key] = Texture((whole,), wrap=("clamp", "clamp"), filter="pixels")
            around = Bindings({**known, **vertices, "instance_slot": slots[:, None]}, {}, textures)
            for name in ("placed", "own"):
                wanted, found = (evaluate(list(getattr(of, name).values()), around) for of in (direct, passes.reading))
                for one, other in zip(wanted, found, strict=True):
                    np.testing.assert_allclose(other, one, atol=2e-6, err_msg=f"{path} {facing}")


class Spurting(unittest.TestCase):
    def test_a_throw_is_thrown_back_and_away_from_the_surface(self) -> None:
        way = np.array((0.6, -0.8, 0.0))
        lies = Decal((1.0, 0.0, 2.0), tilt=90.0, born=1.5, seed=9.0, strength=0.5, thrown=(0.6, -0.8, 0.0))
        (source,) = sources_of((lies, replace(lies, thrown=None)))
        expected = 0.7 * (way * (1, -1, 1)) + 0.5 * np.array((0, 1, 0))
        np.testing.assert_allclose(source.way, expected / np.linalg.norm(expected), atol=1e-6)
        self.assertEqual((source.born, source.seed, source.strength), (1.5, 10.0, 0.625))

    def test_a_scene_shows_its_emitter_at_its_time(self) -> None:
        graph, _ = set_field("emitter", STREAM).apply(replace(empty_graph("Drops"), form="card"))
        scene = Scene.of_graph(graph, time=1.0)
        mesh = shown_mesh(scene)
        assert mesh.instance is not None
        self.assertEqual(len(mesh.positions) % len(form("card").positions), 0)
        self.assertIs(mesh, shown_mesh(Scene.of_graph(graph, time=1.0)))
        self.assertLess(len(shown_mesh(replace(scene, sources=())).triangles), 2, "nothing is one triangle far away")


class Pinned(unittest.TestCase):
    def test_a_pin_has_the_numbers_of_the_instance_that_is_seen(self) -> None:
        s = Sketch("Cards", "card")
        s.add("each", "instance_data", "Each card")
        s.dock(base_colour=(0.5, 0.4, 0.3), roughness="@each.second")
        numbers = (InstanceNumber("Same", ((0.0, 0.7), (1.0, 0.7))), InstanceNumber("Ages", ((0.0, 0.0), (1.0, 1.0))))
        emitter = replace(STREAM, size=(0.3, 0.3), size_curve=((0.0, 1.0), (1.0, 1.0)), numbers=numbers)
        graph, _ = set_field("emitter", emitter).apply(s.graph())
        scene = Scene.of_graph(graph, time=1.0)
        rows, columns = np.nonzero(picture(graph, (64, 64), lambda key: None, "", scene)[..., 3])
        values = graph.uniform_values("")
        ages = {round(float(one["instance_life"][0, 0]), 4) for one in at(emitter, 1.0, emitter.own_source).values()}
        for row, column in list(zip(rows.tolist(), columns.tolist(), strict=True))[:: max(len(rows) // 5, 1)]:
            found = pinned(lower(graph), scene, (column, row), (64, 64), values, {})
            assert found is not None
            first, second, life = (found.values[Source("each", key)][0] for key in ("first", "second", "life"))
            self.assertAlmostEqual(first, 0.7, places=5)
            self.assertAlmostEqual(second, life, places=2)
            self.assertIn(round(life, 4), ages)
        self.assertIsNone(pinned(lower(graph), scene, (0, 0), (64, 64), values, {}))


class Refused(unittest.TestCase):
    def test_what_does_not_fit_says_so(self) -> None:
        self.assertEqual(checked_emitter(NO_EMITTER, "here"), NO_EMITTER)
        many = replace(STREAM, rate=2000.0, life=(60.0, 60.0))
        self.assertGreater(many.slots, MOST_INSTANCES)
        number = InstanceNumber("Flow")
        for wrong, words in (
            (many, "more than the 20,000"),
            (replace(STREAM, life=(2.0, 1.0)), "from the smaller number to the larger"),
            (replace(STREAM, cone=200.0), "Cone is 0 to 180 degrees"),
            (replace(STREAM, path="weather"), "no such path"),
            (replace(STREAM, numbers=(number,) * 9), "at most 8 numbers"),
            (replace(STREAM, numbers=(replace(number, points=((0.5, 1.0), (0.2, 1.0))),)), "same place"),
            (replace(STREAM, numbers=(replace(number, chance=2.0),)), "A chance is 0 to 1"),
            (replace(STREAM, size_curve=((0.0, -1.0), (1.0, 1.0))), "0 to 20"),
        ):
            with self.assertRaisesRegex(OperationRefused, words):
                checked_emitter(wrong, "here")


if __name__ == "__main__":
    unittest.main()
