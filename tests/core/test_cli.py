"""Pictures without a browser: one variant, all of them on a sheet, and what is said of wrong ones."""

import contextlib
import io
import json
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

import cv2
import numpy as np

from tests.support.graphs import enamel
from tests.support.meshes import sample_mesh
from velvet_moth.cli.__main__ import main
from velvet_moth.core.document.graph import empty_graph
from velvet_moth.core.files.graph_json import GraphFile, MeshFile, graph_to_json, read_graph_file, write_graph_file
from velvet_moth.core.meshes.formats import FORMATS, read_mesh
from velvet_moth.core.pictures.formats import write_png
from velvet_moth.core.workbench.filming import beside


class BlockFiles(unittest.TestCase):
    def test_blocks_go_to_points_and_meshes_and_back(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            hill = folder / "hill.png"
            hill.write_bytes(write_png(np.full((4, 5, 1), 255, dtype=np.uint8)))
            said = io.StringIO()
            with contextlib.redirect_stdout(said), contextlib.redirect_stderr(said):
                for source, made, more in (
                    ("hill.png", "a.ply", ("--high", "3", "--entry", "7")),
                    ("a.ply", "b.glb", ("--size", "0.25")),
                    ("b.glb", "c.zip", ()),
                ):
                    self.assertEqual(main(["blocks", str(folder / source), "-o", str(folder / made), *more]), 0)
                self.assertEqual(main(["blocks", str(hill), "-o", str(folder / "d.txt")]), 1)
            lines = said.getvalue().splitlines()
            self.assertTrue(lines[0].endswith("60 blocks of 0.1 m, 1 entries"))
            self.assertTrue(lines[1].endswith("60 blocks of 0.25 m, 1 entries"))
            self.assertTrue(lines[2].endswith("60 blocks of 0.25 m, 1 entries"))
            self.assertIn("does not say which format", lines[3])


class Exports(unittest.TestCase):
    def test_a_material_document_goes_out_and_is_taken_by_other_commands(self) -> None:
        with tempfile.TemporaryDirectory() as name, contextlib.redirect_stdout(io.StringIO()) as said:
            folder = Path(name)
            folder.joinpath("a.json").write_text(write_graph_file(GraphFile(enamel())))
            self.assertEqual(main(["export", str(folder / "a.json"), "-o", str(folder / "out"), "--as", "material"]), 0)
            document = folder / "out/ferry_enamel.mtlx"
            self.assertIn("<gltf_pbr", document.read_text())
            self.assertEqual(main(["render", str(document), "-o", str(folder / "a.png"), "--size", "32"]), 0)
            folder.joinpath("b.json").write_text(
                write_graph_file(GraphFile(replace(empty_graph("Plain"), form="plane")))
            )
            asked = ("--as", "baked", "--size", "128", "--alone")
            self.assertEqual(main(["export", str(folder / "b.json"), "-o", str(folder / "baked"), *asked]), 0)
            self.assertEqual((folder / "baked/plain.glb").read_bytes()[:4], b"glTF")
        self.assertIn("It differs from the graph by", said.getvalue())


class Pictures(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.graph, self.made = Path(folder.name, "enamel.json"), Path(folder.name, "made.png")
        self.graph.write_text(json.dumps(graph_to_json(enamel())))

    def run_moth(self, *arguments: str) -> tuple[int, str]:
        said = io.StringIO()
        with contextlib.redirect_stdout(said), contextlib.redirect_stderr(said):
            code = main([arguments[0], str(self.graph), "-o", str(self.made), *arguments[1:]])
        return code, said.getvalue()

    def picture(self) -> np.ndarray:
        found = cv2.imread(str(self.made), cv2.IMREAD_UNCHANGED)
        assert found is not None
        return np.asarray(found)

    def test_all_variants_stand_on_one_sheet_from_the_upper_left(self) -> None:
        code, said = self.run_moth("render", "--sheet", "--size", "32")
        self.assertEqual((code, said.split("made.png: ")[1].split(",")[0]), (0, "96 x 64: defaults"))
        sheet = self.picture()
        self.assertEqual(sheet.shape, (64, 96, 4))
        self.assertEqual(self.run_moth("render", "--size", "32", "--variant", "Night ferry")[0], 0)
        np.testing.assert_array_equal(sheet[:32, 32:64], self.picture())
        self.assertEqual(sheet[32:, 64:].max(), 0, "what is left over is clear")

    def test_a_wrong_name_is_told_with_those_there_are(self) -> None:
        code, said = self.run_moth("render", "--variant", "Nobody")
        self.assertEqual(code, 1)
        self.assertIn("Night ferry", said)
        self.graph.write_text("{}")
        self.assertIn("mend:", self.run_moth("render")[1])
        self.assertFalse(self.made.exists())

    def test_a_graph_is_drawn_on_the_mesh_that_its_file_carries(self) -> None:
        small = FORMATS["gltf"].encode(sample_mesh("float"))
        graph = replace(enamel(), mesh="m1")
        self.graph.write_text(write_graph_file(GraphFile(graph, meshes={"m1": MeshFile("Sheet", small)})))
        self.assertEqual(self.run_moth("render", "--size", "32")[0], 0)
        on_mesh = self.picture()
        self.assertEqual(self.run_moth("render", "--size", "32", "--form", "mooring")[0], 0)
        on_form = self.picture()
        self.assertNotEqual((on_mesh[..., 3] > 0).sum(), (on_form[..., 3] > 0).sum())
        self.assertIn("no level 1", self.run_moth("render", "--level", "1")[1])
        steps = [{"id": "a", "step": "scale_and_turn", "values": {"scale": 0.5, "turn_x": 40}}]
        stack = {"name": "Half", "steps": steps, "outputs": [], "levels": [{"share": 0.3}, {"share": 0.05}]}
        file = GraphFile(graph, meshes={"m1": MeshFile("Sheet", small, stack)})
        self.graph.write_text(write_graph_file(file))
        self.assertEqual(read_graph_file(self.graph.read_bytes()).meshes, file.meshes)
        seen = []
        for level in (0, 2):
            self.assertEqual(self.run_moth("render", "--size", "32", "--level", str(level))[0], 0)
            seen.append(self.picture())
        self.assertTrue((seen[0] != on_mesh).any() and (seen[0] != seen[1]).any())

    def test_a_mesh_is_judged_and_written_in_another_format(self) -> None:
        self.graph = self.graph.with_name("post.obj")
        self.made = self.made.with_name("post.ply")
        self.graph.write_bytes(FORMATS["obj"].encode(sample_mesh("16 bit")))
        code, said = self.run_moth("mesh", "--up", "z", "--unit", "cm", "--depth", "8 bit")
        self.assertEqual(code, 0, said)
        self.assertIn("128 triangles", said)
        back = read_mesh({"a": self.made.read_bytes()}, "a")[0]
        own = sample_mesh("16 bit")
        self.assertAlmostEqual(float(np.ptp(back.positions[:, 1])), float(np.ptp(own.positions[:, 2])) / 100, places=6)
        self.assertEqual(back.depth, "8 bit")
        steps = [{"id": "a", "step": "height", "values": {}}, {"id": "b", "step": "invert", "values": {}}]
        kept = [{"id": "second red", "name": "Tide", "step": "b", "layer": "values"}]
        stack = self.made.with_name("steps.json")
        stack.write_text(json.dumps({"name": "Post", "steps": steps, "outputs": kept, "levels": [{"share": 0.3}]}))
        self.made = self.made.with_name("post.glb")
        code, said = self.run_moth("mesh", "--up", "y", "--unit", "m", "--stack", str(stack))
        self.assertIn("second red: Tide", said)
        self.assertIn("level 1: 102 triangles", said)
        self.assertIn(b'"LOD 1"', self.made.read_bytes())
        back = read_mesh({"a": self.made.read_bytes()}, "a")[0]
        high = (back.positions[:, 1] - back.positions[:, 1].min()) / np.ptp(back.positions[:, 1])
        assert back.second_colours is not None
        np.testing.assert_allclose(back.second_colours[:, 0], 1 - high, atol=1e-6)
        self.made = self.made.with_name("post.stl")
        self.assertIn(".glb", self.run_moth("mesh")[1])

    def test_a_sheet_of_one_is_the_picture(self) -> None:
        one = np.arange(4 * 4 * 4, dtype=np.uint8).reshape(4, 4, 4)
        np.testing.assert_array_equal(beside([one], 1), one)


if __name__ == "__main__":
    unittest.main()
