"""Files: textures in and out, hostile ones, the noise generator, graph files, the command line."""

import contextlib
import io
import json
import tempfile
import unittest
from pathlib import Path

import numpy as np

from tests.support.graphs import MADE, TEXTURES, demo_graphs, enamel
from velvet_moth.cli.__main__ import main
from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.document.graph import Source
from velvet_moth.core.files.graph_json import (
    GraphFile,
    TextureFile,
    graph_from_json,
    graph_to_json,
    read_graph_file,
    write_graph_file,
)
from velvet_moth.core.language.texture import linear_to_srgb, srgb_to_linear
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.making.beginnings import BEGINNINGS
from velvet_moth.core.pictures.formats import Picture, read_picture, write_picture
from velvet_moth.core.pictures.levels import levels_of, read_texture
from velvet_moth.core.pictures.reading import Reading
from velvet_moth.core.render.shading import drawing
from velvet_moth.core.workbench.problems import find_problems
from velvet_moth.core.workbench.session import picture

RANDOM = np.random.default_rng(3)


class Pictures(unittest.TestCase):
    def test_levels_halve_to_one_pixel_and_average_light(self) -> None:
        checker = np.zeros((4, 8, 4), dtype=np.uint8)
        checker[::2, ::2], checker[1::2, 1::2] = 255, 255
        checker[..., 3] = 255
        for is_colour, middle in ((False, 127.5), (True, float(linear_to_srgb(np.float32(0.5))) * 255)):
            levels = levels_of(Picture(checker), Reading("colour" if is_colour else "data"))
            self.assertEqual([p.shape[:2] for p in levels], [(4, 8), (2, 4), (1, 2), (1, 1)])
            self.assertAlmostEqual(float(levels[-1][0, 0, 0]), middle, delta=1)
        texture = read_texture(Picture(checker), Reading("data"))
        centre = np.array([0.5, 0.5], dtype=np.float32).reshape(2, 1, 1)
        sampled = texture.sample(centre, np.zeros((), np.float32))
        self.assertAlmostEqual(float(sampled[0, 0, 0]), 0.5, places=5)

    def test_what_is_clear_leaves_no_dark_rim_in_coarse_levels(self) -> None:
        """A white disc in clear black is white at every level; all clear, it is the mean of the colours."""
        at = np.linspace(-1, 1, 64)
        disc = np.zeros((64, 64, 4), np.uint8)
        disc[np.hypot(*np.meshgrid(at, at)) < 0.6] = 255
        for level in levels_of(Picture(disc), Reading("colour")):
            there = level[level[..., 3] > 8]
            self.assertTrue((there[:, :3] >= 254).all())
        clear = np.zeros((2, 2, 4), np.float32)
        clear[0, 0, 0] = 1.0
        np.testing.assert_allclose(levels_of(Picture(clear), Reading("colour"))[1][0, 0], (0.25, 0, 0, 0), atol=1e-6)
        masked = levels_of(Picture(disc), Reading("data"))[3]
        self.assertLess(masked[..., 0].astype(int)[(masked[..., 3] > 8) & (masked[..., 3] < 250)].min(), 250)

    def test_transfer_functions_invert(self) -> None:
        ramp = np.linspace(0, 1, 256, dtype=np.float32)
        np.testing.assert_allclose(linear_to_srgb(srgb_to_linear(ramp)), ramp, atol=1e-5)


class GraphFiles(unittest.TestCase):
    def whole(self) -> str:
        inside = {
            k: TextureFile(t.name, t.reading, write_picture(t.picture, "png")) for k, t in MADE.items() if "flake" in k
        }
        return write_graph_file(GraphFile(enamel(), inside))

    def test_round_trip_is_exact_and_stable(self) -> None:
        for graph in demo_graphs():
            text = write_graph_file(GraphFile(graph))
            read = read_graph_file(text.encode())
            self.assertEqual(read.graph, graph)
            self.assertEqual(write_graph_file(read), text)

    def test_broken_files_name_the_place(self) -> None:
        def broken(change: object) -> bytes:
            data = json.loads(self.whole())
            change(data)  # type: ignore[operator]
            return json.dumps(data).encode()

        cases = {
            "not JSON": (b"{", "not JSON"),
            "deep": (b"[" * 100_000, "not JSON"),
            "other format": (b'{"format": "x", "version": 1}', "not a Velvet Moth graph"),
            "list": (b"[]", "object with named fields"),
            "newer": (broken(lambda d: d.update(version=99)), "version 99"),
            "type that is no word": (broken(lambda d: d["nodes"][1].update(id="odd", type="warp drive")), "warp drive"),
            "wire to nowhere": (
                broken(lambda d: d["nodes"][0].update(wires={"base_colour": ["ghost", "x"]})),
                "'ghost' .* is not there",
            ),
            "three ends": (broken(lambda d: d["nodes"][0].update(wires={"a": ["b", "c", "d", "e"]})), "at most a part"),
            "mark": (broken(lambda d: d.update(marks=[{"kind": "star", "id": "a"}])), "The kind .star."),
            "value of words": (broken(lambda d: d["nodes"][0].update(values={"metallic": ["x"]})), "A number"),
            "no title": (broken(lambda d: d.pop("title")), "'title' is missing"),
            "infinite": (broken(lambda d: d["parameters"][0].update(low=float("inf"))), "not JSON"),
            "role": (broken(lambda d: d["textures"]["flake_height"].update(role="x")), "role"),
            "base64": (broken(lambda d: d["textures"]["flake_height"].update(file="?")), "base64"),
        }
        for name, (data, words) in cases.items():
            with self.subTest(name), self.assertRaisesRegex(FileRefused, words) as caught:
                read_graph_file(data, "upload")
            self.assertTrue(caught.exception.where.startswith("upload"), caught.exception.where)

    def run_cli(self, *arguments: str) -> tuple[int, str]:
        out = io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(out):
            code = main(list(arguments))
        return code, out.getvalue()

    def test_compile_and_render_without_a_server(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "enamel.json"
            path.write_text(self.whole())
            code, _ = self.run_cli("compile", str(path), "-o", f"{folder}/out", "--variant", "Night ferry")
            self.assertEqual(code, 0)
            described = json.loads((Path(folder) / "out/parameters.json").read_text())
            tint = next(p for p in described["parameters"] if p["name"] == "Face tint")
            self.assertEqual(tint["value"], [0.02, 0.11, 0.3])
            (at,) = tint["offsets"]
            self.assertEqual(described["values"][at : at + 3], tint["value"])
            self.assertIn("void main()", (Path(folder) / "out/fragment.glsl").read_text())
            code, _ = self.run_cli(
                "render", str(path), "-o", f"{folder}/r.png", "--size", "48", "--variant", "night_ferry"
            )
            self.assertEqual(code, 0)
            made = read_picture((Path(folder) / "r.png").read_bytes(), "r.png")[0].samples
            np.testing.assert_array_equal(made, picture(enamel(), (48, 48), TEXTURES.get, "night_ferry"))
            Path(f"{folder}/stack.json").write_text(json.dumps(BEGINNINGS["Splash"] | {"size": [64, 64]}))
            code, said = self.run_cli("texture", f"{folder}/stack.json", "-o", f"{folder}/made", "--format", "tga")
            self.assertEqual((code, "splash-normal_normal.tga: read it as normal" in said), (0, True), said)
            code, said = self.run_cli("texture", f"{folder}/r.png", "-o", f"{folder}/a.exr", "--channel", "alpha")
            self.assertEqual(
                (code, read_picture(Path(f"{folder}/a.exr").read_bytes(), "a.exr")[0].channels), (0, 1), said
            )
            code, said = self.run_cli("texture", f"{folder}/r.png", "-o", f"{folder}/a.gif")
            self.assertEqual((code, "mend:" in said), (1, True))
            code, said = self.run_cli("render", str(path), "-o", f"{folder}/r.png", "--variant", "Nobody")
            self.assertEqual((code, "It has: Night ferry" in said), (1, True))
            code, said = self.run_cli("compile", f"{folder}/none.json", "-o", folder)
            self.assertEqual((code, "mend:" in said), (1, True))
            wrong = graph_to_json(enamel())
            wrong["nodes"][0]["wires"]["metallic"] = ["face_tint", "colour"]
            path.write_text(json.dumps(wrong))
            code, said = self.run_cli("compile", str(path), "-o", folder)
            self.assertEqual((code, "takes one number" in said), (1, True))

    def test_version_1_is_brought_up_to_date(self) -> None:
        old = {
            "format": "velvet-moth-graph",
            "version": 1,
            "title": "Old",
            "nodes": [
                {"id": "c", "type": "compare", "values": {"a": [0.2]}},
                {"id": "pick", "type": "choose", "wires": {"condition": ["c", "below"]}},
                {"id": "dock", "type": "dock", "wires": {"roughness": ["pick", "result"]}},
            ],
        }
        before = json.dumps(old)
        graph = graph_from_json(old)
        self.assertEqual(graph.nodes["pick"].wires["condition"], Source("c", "answer"))
        self.assertEqual(json.dumps(old), before, "what was given stays as it is")
        self.assertEqual(graph_from_json(graph_to_json(graph)), graph)

    def test_unknown_nodes_keep_their_place_wiring_and_values(self) -> None:
        data = json.loads(self.whole())
        for node in data["nodes"]:
            if node["id"] == "two_tints":
                node["type"] = "mix_of_next_year"
        graph = graph_from_json(data)
        unknown = graph.nodes["two_tints"]
        self.assertEqual(unknown.kind.outputs["result"].type.name, "colour")
        self.assertEqual(set(unknown.wires), {"a", "b", "amount"})
        kept = {n["id"]: n for n in graph_to_json(graph)["nodes"]}["two_tints"]
        original = {n["id"]: n for n in data["nodes"]}["two_tints"]
        self.assertEqual({k: kept[k] for k in original}, original)
        self.assertEqual(graph_from_json(graph_to_json(graph)), graph)
        (problem,) = [p for p in find_problems(lower(graph), {}) if p.code == "unknown-node"]
        self.assertIn("mix_of_next_year", problem.what)
        drawing(lower(graph))
