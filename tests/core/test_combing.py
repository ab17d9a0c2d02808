"""Directions on meshes against closed forms: combed, by rule, relaxed, as flow maps."""

import unittest
from dataclasses import replace
from typing import Any

import numpy as np

from tests.core.test_baking import ball, sheet
from tests.core.test_painting import line, nothing, surface_of
from velvet_moth.core.baking.directions import tangent_frames
from velvet_moth.core.baking.over_uvs import flow_over_uvs
from velvet_moth.core.baking.painting.drawing import Drawing
from velvet_moth.core.baking.painting.laying import laid
from velvet_moth.core.baking.painting.media import DIRECTIONS
from velvet_moth.core.baking.stack import EMPTY, MeshStack, baked, evaluate, mesh_stack_from_json, mesh_stack_to_json
from velvet_moth.core.baking.step import MESHES, BakingContext, OnMesh
from velvet_moth.core.baking.streamlines import streamlines
from velvet_moth.core.base.errors import FileRefused, OperationRefused
from velvet_moth.core.forms.mesh import Floats, Mesh, grid, joined
from velvet_moth.core.language.inputs import Bindings
from velvet_moth.core.language.interpreters.evaluate import evaluate as evaluate_graph
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.meshes.tangents import with_tangents
from velvet_moth.core.render.flowing import moved_texture
from velvet_moth.core.render.shading import drawing
from velvet_moth.core.stacks.operations import AddOutput, AddStep, AddStroke, SetStepSetting
from velvet_moth.core.stacks.stack import problems
from velvet_moth.core.stacks.stroke import WIDTH, Stroke, text_of


def run(key: str, mesh: Mesh, /, **given: Any) -> Any:
    step = MESHES.steps[key]
    chosen = {name: given.get(name, s.default) for name, s in step.settings.items()}
    return step.run(OnMesh(mesh, object(), BakingContext()), **chosen)


def arc(radius: float, width: float, count: int = 60, turns: float = 1.0) -> Stroke:
    """A stroke round the origin on a surface that looks up, from +z towards +x."""
    turn = np.linspace(0, 2 * np.pi * turns, count)
    rows = np.zeros((count, WIDTH), dtype=np.float32)
    rows[:, 0], rows[:, 2], rows[:, 4] = np.sin(turn) * radius, np.cos(turn) * radius, 1
    rows[:, 6], rows[:, 7:] = width, 1
    return Stroke(text_of(rows), ("red",), "comb", value=0.7, softness=0.2)


def degrees_between(one: np.ndarray, other: np.ndarray) -> np.ndarray:
    share = np.sum(one * other, axis=-1) / np.linalg.norm(one, axis=-1) / np.linalg.norm(other, axis=-1)
    return np.degrees(np.arccos(np.clip(share, -1, 1)))


def with_uvs(mesh: Mesh, uvs: np.ndarray) -> Mesh:
    """A mesh with other UVs and the tangents that go with them."""
    at, triangles, tangents = with_tangents(mesh.positions, mesh.normals, uvs.astype(np.float32), mesh.triangles)
    return replace(
        replace(mesh, uvs=uvs.astype(np.float32)).taken(at), triangles=triangles, tangents=tangents.astype(np.float32)
    )


def stack_of(*operations: Any) -> MeshStack:
    stack: Any = EMPTY
    for operation in operations:
        stack, _ = operation.apply(stack)
    assert isinstance(stack, MeshStack)
    return stack


class Combing(unittest.TestCase):
    def test_a_circle_is_combed_round_its_middle(self) -> None:
        mesh = sheet(2.0, 90)
        made = laid((arc(0.6, 0.15),), nothing(mesh), nothing(mesh), surface_of(mesh), DIRECTIONS)
        x, z = mesh.positions[:, 0], mesh.positions[:, 2]
        away = np.hypot(x, z)
        core = np.abs(away - 0.6) < 0.15 * 0.79
        # The ends of the stroke lie on one another.
        exact = np.stack((z, np.zeros_like(x), -x), axis=1)
        self.assertLess(degrees_between(made[core, :3], exact[core]).max(), 2.0)
        np.testing.assert_allclose(np.linalg.norm(made[core, :3], axis=1), 0.7, atol=1e-5)
        np.testing.assert_allclose(made[core, 3], 1, atol=1e-5)
        self.assertFalse(made[np.abs(away - 0.6) > 0.151].any())

    def test_coarse_and_fine_sheets_agree_however_close_the_points_are(self) -> None:
        coarse, fine = sheet(2.0, 20), sheet(2.0, 19 * 21 + 1)

        def made(mesh: Mesh, count: int) -> np.ndarray:
            drawn = (arc(0.6, 0.2, count, 0.6), line((-0.8, 0, -0.8), (0.8, 0, 0.1), count, mode="comb", value=0.5))
            return laid(drawn, nothing(mesh), nothing(mesh), surface_of(mesh), DIRECTIONS)

        _, at = surface_of(fine).tree.query(coarse.positions)
        coarsely = made(coarse, 160)
        self.assertLess(np.abs(coarsely - made(fine, 160)[at]).max(), 1 / 255)
        self.assertLess(np.abs(coarsely - made(coarse, 40)).max(), 0.03)
        self.assertGreater(np.abs(coarsely).max(), 0.6)

    def test_drawn_bit_by_bit_it_ends_as_laid_at_once(self) -> None:
        mesh = ball(0.5, (0.0, -0.5, 0.0), 40, 80)
        surface, under = surface_of(mesh), nothing(mesh)
        under[:, 0] = 0.3
        before = laid(
            (line((-0.2, 0, -0.2), (0.2, 0, 0.1), mode="comb", value=0.8),), under, under, surface, DIRECTIONS
        )
        for mode in DIRECTIONS.brushes:
            for more in ({}, {"mirror": "x", "held": "island"}, {"fill": "mesh"}):
                with self.subTest(mode, **more):
                    stroke = replace(arc(0.15, 0.2, 20, 0.4), mode=mode, **more)
                    drawing, seen = Drawing(surface, before, under, 1.0, DIRECTIONS), before.copy()
                    for rows in np.split(stroke.rows, (1, 2, 9)):
                        vertex, values = drawing.go_on(replace(stroke, points=text_of(rows)))
                        seen[vertex] = values
                    whole = laid((stroke,), before, under, surface, DIRECTIONS)
                    np.testing.assert_allclose(seen, whole, atol=1e-5)
                    self.assertGreater(np.abs(whole - before).max(), 0.05)

    def test_a_combed_step_lies_over_a_rule_and_reads_back(self) -> None:
        stack = stack_of(
            AddStep("along_uvs", id="rule", values={"speed": 0.4}),
            AddStep("comb", id="hand", values={"below": {"step": "rule"}, "opacity": 0.5}),
            AddStroke("hand", arc(0.5, 0.3)),
            AddStep("flow_numbers", id="numbers"),
            AddOutput("numbers", "along_u", "red", "Flow U"),
            AddOutput("hand", "combed", "blue", "Combed"),
        )
        self.assertEqual(mesh_stack_from_json(mesh_stack_to_json(stack)), stack)
        mesh, mark = sheet(2.0, 60), object()
        made = baked(stack, mesh, mark, BakingContext())
        off, whole = (
            baked(SetStepSetting("hand", *pair).apply(stack)[0], mesh, mark, BakingContext())  # type: ignore[arg-type] # of the same kind
            for pair in (("shown", "off"), ("opacity", 1.0))
        )
        np.testing.assert_allclose(made.data, (off.data + whole.data) / 2, atol=1e-6)
        np.testing.assert_allclose(off.data[:, 0], 0.7, atol=1e-6)

    def test_what_does_not_go_together_says_so(self) -> None:
        stack = stack_of(AddStep("height", id="high"), AddStep("comb", id="hand"), AddStep("blur", id="soft"))
        self.assertEqual(problems(stack), {}, "blur goes on with the nearest numbers above")
        with self.assertRaisesRegex(OperationRefused, "No channel is made of directions"):
            AddOutput("hand", "directions", "red").apply(stack)
        with self.assertRaisesRegex(OperationRefused, "not to sharpen"):
            AddStroke("hand", replace(arc(0.5, 0.1), mode="sharpen")).apply(stack)
        crossed, _ = SetStepSetting("soft", "given", {"step": "hand"}).apply(stack)
        self.assertIn("cannot be taken from Comb", problems(crossed)["soft"])
        plain = mesh_stack_to_json(stack)
        plain["outputs"] = [{"id": "red", "name": "", "step": "hand", "layer": "directions", "depth": ""}]
        with self.assertRaisesRegex(FileRefused, "No channel is made of directions"):
            mesh_stack_from_json(plain)


class Rules(unittest.TestCase):
    def test_along_the_uvs_of_a_turned_chart(self) -> None:
        turn = np.radians(30)
        flat = sheet(2.0, 9)
        u, v = flat.uvs.T - 0.5
        mesh = with_uvs(
            flat,
            np.stack((u * np.cos(turn) + v * np.sin(turn), v * np.cos(turn) - u * np.sin(turn)), axis=1) * 0.5 + 0.5,
        )
        # v grows towards -z on this sheet.
        np.testing.assert_allclose(
            run("along_uvs", mesh), np.tile((np.cos(turn), 0, -np.sin(turn)), (len(mesh.positions), 1)), atol=1e-5
        )
        np.testing.assert_allclose(run("along_uvs", mesh, axis="V"), run("along_uvs", mesh, turn=90.0), atol=1e-5)

    def test_around_a_point_and_a_part(self) -> None:
        mesh = sheet(2.0, 21)
        off = mesh.positions - np.array((0.33, 0, -0.21), dtype=np.float32)
        found = run("around_point", mesh, x=0.33, z=-0.21, way="away")
        np.testing.assert_allclose(found, off / np.linalg.norm(off, axis=1, keepdims=True), atol=1e-5)
        around = run("around_point", mesh, x=0.33, z=-0.21)
        np.testing.assert_allclose(around, np.cross((0, 1, 0), found), atol=1e-5)
        under = sheet(4.0, 41)
        both = joined([under, ball(0.5, (0.0, 0.0, 0.0), 64, 128)])
        parts = np.repeat((0, 1), (len(under.triangles), len(both.triangles) - len(under.triangles))).astype(np.int32)
        both = replace(both, part_of=parts, part_names=("water", "pier"))
        at = under.positions
        away = np.linalg.norm(at, axis=1)
        clear = away > 0.55
        pushed = run("around_part", both, part="pier", way="away", reach=1.0)[: len(at)]
        exact = at / np.maximum(away, 1e-9)[:, None] * np.clip(1 - (away - 0.5), 0, 1)[:, None]
        np.testing.assert_allclose(pushed[clear], exact[clear], atol=0.015)
        flow = np.tile(np.array((0.8, 0, 0), dtype=np.float32), (len(both.positions), 1))
        passing = run("pass_by", both, given=flow, part="pier", reach=1.0)[: len(at)]
        into = -np.sum(passing * at, axis=1) / np.maximum(away, 1e-9)
        beside = clear & (away < 0.6)
        self.assertLess(into[beside].max(), 0.12)
        np.testing.assert_allclose(passing[away > 1.51], flow[: len(at)][away > 1.51], atol=1e-5)

    def test_downhill_of_numbers_and_of_the_world(self) -> None:
        mesh = sheet(2.0, 21)
        high = (mesh.positions @ (0.6, 0, 0.8)).astype(np.float32) * 0.3
        np.testing.assert_allclose(run("downhill", mesh, height=high), np.tile((-0.6, 0, -0.8), (441, 1)), atol=1e-4)
        dome = ball(1.0, (0, 0, 0), 96, 192)
        found = run("downhill", dome, speeds="by steepness")
        up = dome.normals.astype(np.float64)
        exact = up * up[:, 1:2] - (0, 1, 0)
        np.testing.assert_allclose(found, exact, atol=1e-3)

    def test_swirls_have_no_sources(self) -> None:
        """What flows out of squares of the sheet is nothing beside what flows along their sides."""
        mesh = sheet(2.0, 201)
        flow = run("swirls", mesh, size=0.6, seed=3).astype(np.float64).reshape(201, 201, 3)[..., [0, 2]]
        out = (flow[50:151, 150, 0] - flow[50:151, 50, 0]).sum() + (flow[50, 50:151, 1] - flow[150, 50:151, 1]).sum()
        along = sum(np.abs(side).sum() for side in (flow[50:151, 150, 0], flow[50:151, 50, 0], flow[50, 50:151, 1]))
        self.assertLess(abs(out), 0.02 * along)


class Relaxed(unittest.TestCase):
    def test_a_uniform_flow_comes_of_its_rim(self) -> None:
        mesh = sheet(2.0, 40)
        rim = np.abs(mesh.positions[:, [0, 2]]).max(axis=1) > 0.999
        given = np.where(rim[:, None], (0.6, 0, 0.3), 0).astype(np.float32)
        found = run("relaxed_directions", mesh, given=given)
        np.testing.assert_allclose(found, np.tile((0.6, 0, 0.3), (len(found), 1)), atol=1e-4)

    def test_flow_around_a_disc(self) -> None:
        """U (1 - R² / w²) of complex places w: both of its numbers are harmonic (L. Milne-Thomson, "Theoretical Hydrodynamics")."""
        mesh, radius = sheet(2.0, 60), 0.3
        w = mesh.positions[:, 0] + 1j * mesh.positions[:, 2]
        off = np.abs(w)
        speed = 0.45 * (1 - radius**2 / np.where(off < 1e-6, 1, w) ** 2)
        exact = np.stack((speed.real, np.zeros(len(w)), -speed.imag), axis=1)
        known = (np.abs(mesh.positions[:, [0, 2]]).max(axis=1) > 0.999) | (off < radius + 0.03)
        given = np.where(known[:, None], exact, 0).astype(np.float32)
        found = run("relaxed_directions", mesh, given=given, known=known.astype(np.float32))
        self.assertLess(np.linalg.norm(found - exact, axis=1)[~known].max(), 0.03 * 0.45)

    def test_at_a_rim_it_runs_along(self) -> None:
        """A channel with parallel banks carries what is given at one place straight on, whatever was given."""
        mesh = sheet(2.0, 41)
        x, z = mesh.positions[:, 0], mesh.positions[:, 2]
        given = np.where((np.hypot(x, z) < 0.2)[:, None], (0.5, 0, 0.3), 0).astype(np.float32)
        found = run("relaxed_directions", mesh, given=given, rim="runs along it")
        banks = (np.abs(z) > 0.99) & (np.abs(x) < 0.9)
        np.testing.assert_allclose(found[banks][:, 2], 0, atol=1e-5)
        self.assertGreater(found[banks][:, 0].min(), 0.01)
        self.assertFalse(run("relaxed_directions", mesh, given=given * 0).any())

    def test_over_a_bend_directions_are_carried_along(self) -> None:
        """A stripe of a cylinder: what runs round it at one end runs round it everywhere."""
        turn, up = np.meshgrid(np.linspace(0, np.pi, 60), np.linspace(0, 1, 20))
        from_side = np.stack((np.cos(turn), up, np.sin(turn)), axis=-1)
        mesh = grid(from_side[:, ::-1], np.stack((1 - turn / np.pi, up), axis=-1)[:, ::-1])
        around = np.stack((-mesh.positions[:, 2], 0 * mesh.positions[:, 0], mesh.positions[:, 0]), axis=1)
        known = mesh.positions[:, 0] > 0.99
        given = np.where(known[:, None], around * 0.8, 0).astype(np.float32)
        found = run("relaxed_directions", mesh, given=given)
        self.assertLess(degrees_between(found, around).max(), 2.0)


class FlowMaps(unittest.TestCase):
    def read(self, mesh: Mesh, *operations: Any, size: int = 128) -> np.ndarray:
        made = flow_over_uvs(stack_of(*operations), mesh, object(), BakingContext(), "hand", size, 4)
        self.assertEqual((made.role, made.values.shape), ("flow", (2, size, size)))
        return made.values

    def test_a_combed_direction_is_read_back_in_the_frame_of_its_chart(self) -> None:
        turn = np.radians(30)
        flat = sheet(2.0, 6)
        u, v = flat.uvs.T - 0.5
        across = np.stack((u * np.cos(turn) + v * np.sin(turn), v * np.cos(turn) - u * np.sin(turn)), axis=1)
        stroke = line((-0.5, 0, 0), (0.5, 0, 0), mode="comb", value=0.6, softness=0.2)
        for mirrored in (False, True):
            uvs = across * (-1 if mirrored else 1, 1) * 0.6 + 0.5
            found = self.read(with_uvs(flat, uvs), AddStep("comb", id="hand"), AddStroke("hand", stroke))
            # +x, in the chart: along U by the cosine, against V by the sine.
            expected = np.array((np.cos(turn) * (-1 if mirrored else 1), -np.sin(turn)))
            middle = found[:, 60:68, 60:68].reshape(2, -1).T
            self.assertLess(degrees_between(middle, expected[None]).max(), 2.0)
            self.assertGreater(np.linalg.norm(middle, axis=1).min(), 0.3)

    def test_both_sides_of_a_seam_agree(self) -> None:
        mesh = ball(0.5, (0.0, 0.0, 0.0), 40, 80)
        # Over the seam, which looks along +z.
        rows = np.zeros((20, WIDTH), dtype=np.float32)
        turn = np.linspace(-0.6, 0.6, 20)
        rows[:, 0], rows[:, 2] = np.sin(turn) * 0.5, np.cos(turn) * 0.5
        rows[:, 1] = np.linspace(-0.1, 0.1, 20)
        rows[:, 3:6] = rows[:, :3] * 2
        rows[:, 6], rows[:, 7:] = 0.2, 1
        found = self.read(
            mesh, AddStep("comb", id="hand"), AddStroke("hand", Stroke(text_of(rows), ("red",), "comb")), size=256
        )
        left, right = found[:, 120:136, 0], found[:, 120:136, -1]
        self.assertGreater(np.linalg.norm(left, axis=0).min(), 0.3)
        self.assertLess(np.abs(left - right).max(), 0.02)
        self.assertLess(degrees_between(left.T, right.T).max(), 2.0)

    def test_a_rule_is_read_back_and_no_rule_is_refused(self) -> None:
        mesh = sheet(2.0, 20)
        found = self.read(mesh, AddStep("along_uvs", id="hand", values={"axis": "V", "speed": 0.5}))
        np.testing.assert_allclose(found[0], 0, atol=1e-5)
        np.testing.assert_allclose(found[1], 0.5, atol=1e-5)
        with self.assertRaisesRegex(OperationRefused, "gives no directions"):
            self.read(mesh, AddStep("height", id="hand"))


class AtVertices(unittest.TestCase):
    def test_numbers_of_a_flow_decode_to_its_directions(self) -> None:
        mesh = ball(1.0, (0, 0, 0), 24, 48)
        given: Floats = run("swirls", mesh, size=1.0)
        stack = stack_of(AddStep("swirls", id="hand", values={"size": 1.0}), AddStep("flow_numbers", id="numbers"))
        made, _ = evaluate(stack, mesh, object(), BakingContext())
        numbers = np.stack([made["numbers"][key] for key in ("along_u", "along_v")], axis=1) * 2 - 1
        along_u, along_v = tangent_frames(mesh.normals.astype(np.float64), mesh.tangents.astype(np.float64))
        again = along_u * numbers[:, :1] + along_v * numbers[:, 1:]
        inner = np.abs(mesh.positions[:, 1]) < 0.95
        np.testing.assert_allclose(again[inner], given[inner], atol=1e-4)
        np.testing.assert_allclose(made["numbers"]["speed"], np.linalg.norm(given, axis=1), atol=1e-6)


class Seen(unittest.TestCase):
    def test_streamlines_run_round_and_stay_on_the_surface(self) -> None:
        mesh = ball(0.8, (0, 0, 0), 60, 120)
        around: Floats = run("around_point", mesh, speed=0.5)
        lines = streamlines(mesh, around, 60, 1.2, 24)
        self.assertEqual(lines.shape, (60, 25, 3))
        low = np.abs(lines[:, 12, 1]) < 0.5
        height, away = lines[low, :, 1], np.linalg.norm(lines[low], axis=2)
        self.assertLess(np.abs(height - height[:, 12:13]).max(), 0.01)
        self.assertLess(np.abs(away - 0.8).max(), 0.004)
        length = np.linalg.norm(np.diff(lines[low], axis=1), axis=2).sum(axis=1)
        np.testing.assert_allclose(length, 0.6, atol=0.01)

    def test_a_moved_texture_never_jumps(self) -> None:
        """Wherever a phase begins again, what is read there is not seen: the picture goes on evenly over four of them."""
        graph = moved_texture("waves", 3.0, 0.8, 0.5)
        u, v = np.meshgrid((np.arange(64) + 0.5) / 64, (np.arange(64) + 0.5) / 64)
        wavy = 0.5 + 0.5 * np.stack(
            (np.sin(2 * np.pi * u), np.cos(2 * np.pi * v), np.sin(2 * np.pi * (u + v)), np.ones_like(u))
        )
        wavy[3] = 1.0
        lowered = lower(graph)
        expr, times = lowered.surface["base_colour"], np.arange(0, 4.0, 0.005)
        key = next(iter(drawing(lowered).shader.samplers)).key
        shape = (1, len(times))
        inputs = {
            "uv": np.broadcast_to(np.array((0.31, 0.72)).reshape(2, 1, 1), (2, *shape)).astype(np.float32),
            "vertex_colour": np.broadcast_to(np.array((0.9, 0.3, 1.0, 1.0)).reshape(4, 1, 1), (4, *shape)).astype(
                np.float32
            ),
            "time": times.astype(np.float32)[None],
        }
        values = {
            key: np.array(value, dtype=np.float32).reshape(-1, 1, 1) if len(value) > 1 else np.float32(value[0])
            for key, value in graph.uniform_values().items()
            if not isinstance(value, str)
        }
        (found,) = evaluate_graph([expr], Bindings(inputs, values, {key: Texture((wavy.astype(np.float32),))}))
        steps = np.abs(np.diff(found[:, 0], axis=1))
        self.assertGreater(np.ptp(found[:, 0]), 0.2, "it moves")
        # Its fastest wave goes by 3 * 0.8 * 0.5 repeats a second at most.
        self.assertLess(steps.max(), 0.005 * np.pi * 2 * 3 * 0.8 * 0.5 * 1.5)


if __name__ == "__main__":
    unittest.main()
