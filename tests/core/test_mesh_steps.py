"""The steps of meshes: what every one keeps to, and each against geometry or the function that it must equal."""

import unittest
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from tests.core.test_baking import ball, sheet
from velvet_moth.core.baking.directions import along_surface
from velvet_moth.core.baking.mends import mended
from velvet_moth.core.baking.stack import EMPTY, MeshStack, baked, evaluate, mesh_stack_from_json, mesh_stack_to_json
from velvet_moth.core.baking.step import MESHES, BakingContext, OnMesh
from velvet_moth.core.base.errors import FileRefused, OperationRefused
from velvet_moth.core.catalogue.registry import CATALOGUE
from velvet_moth.core.forms.mesh import Mesh, grid, joined, square
from velvet_moth.core.language.expr import Expr, constant, uniform
from velvet_moth.core.language.inputs import SURFACE_INPUTS, Bindings
from velvet_moth.core.language.interpreters.evaluate import evaluate as evaluate_graph
from velvet_moth.core.language.types import NUMBER
from velvet_moth.core.making.layer import number_layer
from velvet_moth.core.meshes.facts import facts_of
from velvet_moth.core.stacks.stack import problems
from velvet_moth.core.stacks.step import Step
from velvet_moth.core.stacks.stroke import Stroke, text_of


def two_parts() -> Mesh:
    """A ball above a sheet, each a part."""
    under, over = sheet(2.0, 9), ball(0.5, (0.0, 1.0, 0.0), 16, 32)
    parts = np.repeat((0, 1), (len(under.triangles), len(over.triangles))).astype(np.int32)
    mesh = joined([under, over])
    colours = np.stack([ramp(mesh) ** power for power in (1, 2, 3, 4)], axis=1)
    return replace(mesh, part_of=parts, part_names=("quay", "buoy"), colours=colours)


def ramp(mesh: Mesh) -> NDArray[np.float32]:
    return np.clip(mesh.positions[:, 0] * 0.5 + 0.5, 0, 1).astype(np.float32)


def crossing(mesh: Mesh) -> NDArray[np.float32]:
    """Directions along x on the surface, slower than they could be and still on one side."""
    along = np.stack((ramp(mesh) * 0.8, *np.zeros((2, len(mesh.positions)))), axis=1)
    return along_surface(mesh, along)


# A dab in the middle of the sheet, and a stroke across it.
DAB = Stroke(text_of(np.array([[0, 0, 0, 0, 1, 0, 0.6, 1, 1]], dtype=np.float32)), ("red",))
_ENDS = np.array([[x, 0, 0.1, 0, 1, 0, 0.5, 1, 1] for x in (-0.4, 0.4)], dtype=np.float32)
SWEEP = Stroke(text_of(_ENDS), ("red",), "comb")


def run(step: str | Step, mesh: Mesh, /, **given: Any) -> Any:
    """What one step gives on a mesh, with numbers along x for what it takes from others; the first layer or the mesh."""
    found = step if isinstance(step, Step) else MESHES.steps[step]
    chosen: dict[str, Any] = {}
    for key, setting in found.settings.items():
        values = {
            "values": ramp(mesh),
            "texture": number_layer(np.eye(8)),
            "part": mesh.part_names and mesh.part_names[0],
            "directions": crossing(mesh) * (-1 if key == "other" else 1),
            "strokes": (SWEEP if "comb" in setting.choices else DAB,),
        }
        chosen[key] = values.get(setting.kind, setting.default)
    if "root" in chosen:
        chosen["root"] = None
    if found.key == "relaxed_directions":
        chosen["known"] = None
    result = found.run(OnMesh(mesh, object(), BakingContext(most_rays=16)), **{**chosen, **given})
    return result[0] if isinstance(result, tuple) else result


def another(setting: Any) -> Any:
    low, high = setting.low, setting.high
    return {
        "number": lambda: low + (high - low) * (0.7 if setting.default < (low + high) / 2 else 0.3),
        "whole": lambda: int(low + 1 if setting.default != low + 1 else low),
        "choice": lambda: next(c for c in reversed(setting.choices) if c != setting.default),
        "part": lambda: "buoy",
        "strokes": lambda: (replace(SWEEP if "comb" in setting.choices else DAB, value=0.3),),
    }[setting.kind]()


def plain(*steps: tuple[str, dict[str, Any]], outputs: dict[str, str] | None = None) -> MeshStack:
    """A stack whose steps have the ids a, b, c; ``outputs`` are ids of steps by their place."""
    made = [{"id": chr(97 + at), "step": key, "values": values} for at, (key, values) in enumerate(steps)]
    kept = [
        {
            "id": place,
            "name": place,
            "step": use,
            "layer": MESHES.steps[dict(zip("abcdef", steps, strict=False))[use][0]].layers[0],
        }
        for place, use in (outputs or {}).items()
    ]
    return mesh_stack_from_json({"name": "test", "steps": made, "outputs": kept})


def same_mesh(one: Mesh, other: Mesh) -> bool:
    return all(np.array_equal(getattr(one, key), getattr(other, key)) for key in ("positions", "normals", "uvs"))


class EveryStep(unittest.TestCase):
    mesh = two_parts()

    def test_it_gives_a_finite_number_for_each_vertex_the_same_each_time_or_a_whole_mesh(self) -> None:
        for key, step in MESHES.steps.items():
            with self.subTest(key):
                first, again = run(step, self.mesh), run(step, self.mesh)
                if not step.reshapes:
                    width = {"values": (), "directions": (3,)}[step.gives[step.layers[0]]]
                    self.assertEqual((first.dtype, first.shape), (np.float32, (len(self.mesh.positions), *width)))
                    if width:
                        across = np.sum(first * self.mesh.normals, axis=1)
                        self.assertLess(np.abs(across).max(), 1e-4, "directions run along the surface")
                        self.assertLess(np.linalg.norm(first, axis=1).max(), 1 + 1e-4)
                    self.assertTrue(np.isfinite(first).all())
                    np.testing.assert_array_equal(first, again)
                    continue
                np.testing.assert_array_equal(first.positions, again.positions)
                facts = facts_of(first, True)
                self.assertGreater(len(first.triangles), 0)
                self.assertAlmostEqual(float(np.abs(np.linalg.norm(first.normals, axis=1) - 1).max()), 0, delta=1e-3)
                self.assertEqual(len(first.part_of), len(first.triangles), "every triangle stays in its part")
                self.assertIsNotNone(facts)

    def test_every_setting_does_something(self) -> None:
        # What shows on other meshes only.
        elsewhere = {("stripes", "softness"), ("weld", "within"), ("unwrap", "padding"), ("simplify", "error")}
        elsewhere |= {("occlusion", "hides"), ("turn_inside_out", "what"), ("spread", "cut")}
        # Along its own axis a point is the same one.
        elsewhere |= {("around_point", "y")}
        telling = {"reach": 0.6, "repeat": 3.0, "smooth_below": 4.0, "seed": 9}
        given = {"simplify": {"share": 0.2}, "occlusion": {"rays": 16}, "thickness": {"rays": 16}}
        for key, step in MESHES.steps.items():
            for name, setting in step.settings.items():
                # A text is for people.
                if (
                    setting.is_taken
                    or setting.kind == "text"
                    or (key, name) in elsewhere
                    or (key, name) == ("split_faces", "rays")
                ):
                    continue
                with self.subTest(key, setting=name):
                    value = telling[name] if name in telling else another(setting)
                    about = given.get(key, {})
                    before = run(step, self.mesh, **about)
                    after = run(step, self.mesh, **{**about, name: 8 if name == "rays" else value})
                    same = same_mesh(before, after) if step.reshapes else np.array_equal(before, after)
                    self.assertFalse(same)

    def test_the_order_of_vertices_and_triangles_changes_nothing(self) -> None:
        mesh, draw = self.mesh, np.random.default_rng(4)
        order = draw.permutation(len(mesh.positions))
        place = np.argsort(order).astype(np.uint32)
        shuffled = draw.permutation(len(mesh.triangles))
        other = replace(mesh.taken(order), triangles=place[mesh.triangles][shuffled], part_of=mesh.part_of[shuffled])
        for key, step in MESHES.steps.items():
            if step.reshapes or step.group in ("Given",):
                continue
            with self.subTest(key):
                np.testing.assert_allclose(run(step, other), run(step, mesh)[order], atol=2e-4)


class Numbers(unittest.TestCase):
    def test_a_noise_is_the_very_function_of_its_node(self) -> None:
        mesh = ball(0.7, (0.1, 0.2, 0.3), 8, 15)
        # As a graph has it: every number a uniform, the vertices in rows and columns.
        at = {"object_position": mesh.positions.T.reshape(3, 9, 16), "uv": mesh.uvs.T.reshape(2, 9, 16)}
        for key, source in (("fractal_in_space", "object_position"), ("cell_noise", "uv")):
            kind = CATALOGUE[key]
            values = {"scale": 3.3, "seed": 7.0, "gain": 0.6, "repeat": 0.0}
            numbers = {k: v for k, v in values.items() if k in kind.inputs}
            given = {k: uniform(k, NUMBER) for k in numbers if k != "repeat"}
            first = next(iter(kind.inputs))
            built = kind.body(
                **{first: SURFACE_INPUTS[source].expr},
                **given,
                repeat=constant(0.0),
                **{k: s.default for k, s in kind.settings.items()},
            )
            expected = evaluate_graph(
                [built if isinstance(built, Expr) else built[0]],
                Bindings(at, {k: np.float32(numbers[k]) for k in given}, {}),
            )[0]
            np.testing.assert_array_equal(run(key, mesh, **numbers), expected.ravel())

    def test_root_to_tip_runs_along_every_island(self) -> None:
        u, v = square(41, 5)
        strip = np.stack((u * 0.1, v, np.zeros_like(u)), axis=-1)
        blades = joined([grid(strip + np.array((x, x, 0)), np.stack((u, v), axis=-1)) for x in (0.0, 1.0, 2.5)])
        expected = np.concatenate([v.ravel()] * 3)
        np.testing.assert_allclose(run("root_to_tip", blades), expected, atol=0.01)
        np.testing.assert_allclose(run("root_to_tip", blades, by="V"), expected, atol=1e-6)
        np.testing.assert_allclose(
            run("root_to_tip", blades, hold=0.25), np.clip((expected - 0.25) / 0.75, 0, 1), atol=0.02
        )
        marked = (1 - expected > 0.99).astype(np.float32)
        np.testing.assert_allclose(run("root_to_tip", blades, root=1 - marked), np.zeros(len(expected)), atol=1.0)
        upper = (expected > 0.99).astype(np.float32)
        np.testing.assert_allclose(run("root_to_tip", blades, root=upper), 1 - expected, atol=0.02)

    def test_a_part_is_as_far_as_it_is(self) -> None:
        mesh = two_parts()
        found = run("part_distance", mesh, to="buoy", one_is=10.0)[: len(sheet(2.0, 9).positions)] * 10
        at = mesh.positions[: len(found)]
        exact = np.linalg.norm(at - (0, 1, 0), axis=1) - 0.5
        np.testing.assert_allclose(found, exact, atol=0.006)
        with self.assertRaisesRegex(OperationRefused, "no part called 'mast'"):
            run("part_distance", mesh, to="mast")

    def test_edges_heights_and_ways(self) -> None:
        flat = sheet(2.0, 21)
        exact = 1 - np.maximum(np.abs(flat.positions[:, 0]), np.abs(flat.positions[:, 2]))
        np.testing.assert_allclose(run("edge_distance", flat, one_is=1.0), exact, atol=0.02)
        np.testing.assert_array_equal(run("edge_distance", ball(1.0, (0, 0, 0))), 1.0)
        round_ = ball(2.0, (0, 3, 0))
        np.testing.assert_allclose(run("height", round_), (round_.positions[:, 1] - 1) / 4, atol=1e-5)
        up = round_.normals[:, 1]
        np.testing.assert_allclose(run("direction", round_), np.clip(up, 0, 1), atol=1e-6)
        np.testing.assert_allclose(
            run("direction", round_, turn=90.0, rise=0.0, shows="all round"), round_.normals[:, 0] / 2 + 0.5, atol=1e-6
        )
        np.testing.assert_allclose(run("slope", round_), np.arccos(np.abs(up)) / (np.pi / 2), atol=1e-3)

    def test_a_texture_is_read_where_the_uvs_say(self) -> None:
        flat = sheet(1.0, 9)
        u, v = np.meshgrid((np.arange(256) + 0.5) / 256, (np.arange(256) + 0.5) / 256)
        read = run("texture_at_uvs", flat, picture=number_layer(u * 0.5 + v * 0.25))
        inside = (np.abs(flat.uvs - 0.5) < 0.49).all(axis=1)
        np.testing.assert_allclose(read[inside], flat.uvs[inside] @ (0.5, 0.25), atol=1e-4)


class Forms(unittest.TestCase):
    def test_subdividing_keeps_the_form_and_its_parts(self) -> None:
        mesh = two_parts()
        finer = run("subdivide", mesh, times=2)
        self.assertEqual(len(finer.triangles), 16 * len(mesh.triangles))
        self.assertAlmostEqual(facts_of(finer, True).area, facts_of(mesh, True).area, places=4)
        np.testing.assert_array_equal(np.bincount(finer.part_of), 16 * np.bincount(mesh.part_of))
        self.assertEqual(facts_of(finer, True).pieces, facts_of(mesh, True).pieces)

    def test_split_faces_have_one_normal_and_one_value_each(self) -> None:
        split = run("split_faces", ball(1.0, (0, 0, 0), 6, 12))
        self.assertEqual(len(split.positions), 3 * len(split.triangles))
        np.testing.assert_allclose(np.ptp(split.normals[split.triangles], axis=1), 0, atol=1e-6)
        value = run("random", split, each="face")[split.triangles]
        np.testing.assert_array_equal(np.ptp(value, axis=1), 0)
        self.assertGreater(len(np.unique(value)), len(value) * 0.9)

    def test_welding_closes_a_crack(self) -> None:
        half = sheet(1.0, 5)
        beside = replace(half, positions=half.positions + np.array((1.00005, 0, 0), dtype=np.float32))
        cracked = joined([half, beside])
        welded = run("weld", cracked, within=1e-3)
        self.assertEqual((facts_of(cracked, True).pieces, facts_of(welded, True).pieces), (2, 1))

    def test_what_is_inside_out_is_turned_and_nothing_else(self) -> None:
        right, wrong = ball(1.0, (0, 0, 0)), ball(0.5, (3, 0, 0))
        wrong = replace(wrong, triangles=wrong.triangles[:, ::-1].copy(), normals=-wrong.normals)
        found = run("turn_inside_out", joined([right, wrong]))
        outward = found.positions - np.where(found.positions[:, :1] > 2, (3, 0, 0), (0, 0, 0))
        self.assertTrue((np.sum(outward * found.normals, axis=1) > 0).all())

    def test_faces_against_their_neighbours_are_turned_over(self) -> None:
        whole = ball(0.5, (0.0, 1.0, 0.0), 16, 32)
        mixed = whole.triangles.copy()
        mixed[::7] = mixed[::7, ::-1]
        verdict = next(v for v in facts_of(replace(whole, triangles=mixed), True).verdicts if v.key == "mixed-winding")
        stack, _ = mended(EMPTY, verdict, 1.0).apply(EMPTY)
        assert isinstance(stack, MeshStack)
        made = baked(stack, replace(whole, triangles=mixed), object(), BakingContext())
        self.assertFalse({v.key for v in facts_of(made, True).verdicts} & {"mixed-winding", "reversed"})

    def test_scaling_and_turning(self) -> None:
        mesh = ball(1.0, (0, 2, 0))
        found = run("scale_and_turn", mesh, scale=0.5, turn_x=90.0)
        np.testing.assert_allclose(
            found.positions, (mesh.positions * 0.5) @ [[1, 0, 0], [0, 0, 1], [0, -1, 0]], atol=1e-6
        )
        ground = run("scale_and_turn", mesh, stands="on the ground")
        self.assertAlmostEqual(float(ground.box[0][1]), 0, places=6)

    def test_simplifying_leaves_the_share_and_the_form(self) -> None:
        mesh = ball(1.0, (0, 0, 0))
        found = run("simplify", mesh, share=0.25)
        self.assertLess(abs(len(found.triangles) / len(mesh.triangles) - 0.25), 0.03)
        self.assertLess(abs(facts_of(found, True).area / (4 * np.pi) - 1), 0.02)

    def test_uvs_lie_at_true_size_or_fill_the_square_once(self) -> None:
        mesh = two_parts()
        box = run("box_uvs", mesh, metres=0.5)
        flat = box.part_of == 0
        at, uv = box.positions[box.triangles[flat]], box.uvs[box.triangles[flat]]
        for a, b in ((0, 1), (1, 2)):
            np.testing.assert_allclose(
                np.linalg.norm(uv[:, a] - uv[:, b], axis=1),
                np.linalg.norm(at[:, a] - at[:, b], axis=1) / 0.5,
                atol=1e-5,
            )
        once = run("unwrap", mesh)
        self.assertTrue(((once.uvs >= 0) & (once.uvs <= 1)).all())
        laid = once.uvs[once.triangles].astype(np.float64)
        one, other = laid[:, 1] - laid[:, 0], laid[:, 2] - laid[:, 0]
        self.assertLessEqual(float(np.abs(one[:, 0] * other[:, 1] - one[:, 1] * other[:, 0]).sum() / 2), 1.0)
        around = run("cylinder_uvs", ball(1.0, (0, 0, 0)))
        self.assertLess(float(np.ptp(around.uvs[around.triangles][..., 0], axis=1).max()), 0.5)


class Stacks(unittest.TestCase):
    def test_channels_go_where_they_are_sent_and_nothing_else_changes(self) -> None:
        mesh = two_parts()
        stack = plain(
            ("subdivide", {"times": 1}),
            ("height", {}),
            ("invert", {}),
            ("slope", {}),
            outputs={"green": "c", "second alpha": "d"},
        )
        self.assertEqual(mesh_stack_from_json(mesh_stack_to_json(stack)), stack)
        found = baked(stack, mesh, "m", BakingContext())
        finer = run("subdivide", mesh, times=1)
        np.testing.assert_allclose(found.colours[:, 1], 1 - run("height", finer), atol=1e-6)
        np.testing.assert_array_equal(found.colours[:, (0, 2, 3)], finer.colours[:, (0, 2, 3)])
        assert found.second_colours is not None
        np.testing.assert_array_equal(found.second_colours[:, 3], run("slope", finer))

    def test_only_what_follows_an_edit_is_computed(self) -> None:
        done: list[str] = []
        kept: dict[Any, Any] = {}

        def remember(key: Any, make: Any) -> Any:
            if key not in kept:
                done.append(key[0])
                kept[key] = make()
            return kept[key]

        context = BakingContext(remember=remember)
        first = plain(("subdivide", {}), ("occlusion", {"rays": 4}), ("invert", {}))
        evaluate(first, two_parts(), "m", context)
        done.clear()
        evaluate(plain(("subdivide", {}), ("occlusion", {"rays": 4}), ("power", {})), two_parts(), "m", context)
        self.assertEqual(done, ["power"])
        done.clear()
        evaluate(
            plain(("subdivide", {"times": 2}), ("occlusion", {"rays": 4}), ("power", {})), two_parts(), "m", context
        )
        self.assertEqual(done, ["subdivide", "occlusion", "power"])

    def test_what_does_not_fit_says_so(self) -> None:
        with self.assertRaisesRegex(FileRefused, "stands below steps that need"):
            plain(("height", {}), ("subdivide", {}))
        with self.assertRaisesRegex(FileRefused, "no place 'sixth'"):
            plain(("height", {}), outputs={"sixth": "a"})
        self.assertIn("needs given", problems(plain(("subdivide", {}), ("invert", {})))["b"])
        self.assertIn("Choose the part", problems(plain(("part_distance", {})))["a"])
        with self.assertRaisesRegex(FileRefused, "takes a step above it"):
            plain(("invert", {"given": {"texture": "t"}}))
