"""Block models over HTTP: drawn, undone, cut into slices; what is sent of the surface is what the core makes of the cells."""

import io
import json
import struct
from typing import Any

import numpy as np

from tests.web.test_stage import OnStage
from velvet_moth.core.blocks.cells import Blocks
from velvet_moth.core.blocks.surface import surface_of
from velvet_moth.core.pictures.formats import write_png
from velvet_moth.store.database import plain_address
from velvet_moth.work.doing import do_job

STROKE: dict[str, Any] = {"shape": "box", "way": "put", "first": [120, 0, 120], "last": [135, 3, 124], "entry": 2}


def unpacked(data: bytes) -> tuple[dict[str, Any], dict[tuple[int, ...], dict[str, np.ndarray]]]:
    """The head of an answer, and the arrays of each chunk."""
    (length,) = struct.unpack_from("<I", data)
    head, at = json.loads(data[4 : 4 + length]), 4 + length
    found = {}
    for chunk in head["chunks"]:
        arrays = {}
        for name, kind, width in (
            ("position", "<f4", 3),
            ("second", "<f4", 2),
            ("uv", "<i2", 2),
            ("normal", "i1", 4),
            ("tangent", "i1", 4),
        ):
            count = chunk["faces"] * 4 * width
            arrays[name] = np.frombuffer(data, kind, count, at).reshape(-1, width)
            at += arrays[name].nbytes
        found[tuple(chunk["at"])] = arrays
    assert at == len(data)
    return head, found


class BlockModels(OnStage):
    def setUp(self) -> None:
        super().setUp()
        self.model = self.client.post("/api/blocks", json={"name": "Lamp"}).get_json()
        self.address = f"/api/blocks/{self.model['id']}"
        self.chunks: dict[tuple[int, ...], dict[str, np.ndarray]] = {}
        self.head: dict[str, Any] = {}

    def ask(self, step: str, **body: Any) -> dict[str, Any]:
        """Posts, and takes over what is answered as the page does."""
        sent = {"revision": self.head.get("state", {}).get("revision", 0), **body}
        answer = self.client.post(f"{self.address}/{step}", json=sent)
        self.assertEqual(answer.status_code, 200, answer.data[:400])
        self.take(answer.data)
        return dict(self.head["state"])

    def take(self, data: bytes) -> None:
        self.head, chunks = unpacked(data)
        self.chunks = chunks if self.head["is_whole"] else {**self.chunks, **chunks}
        self.chunks = {key: arrays for key, arrays in self.chunks.items() if len(arrays["position"])}

    def area(self) -> float:
        """Of everything the page has, in faces of a block."""
        quads = np.concatenate([c["position"].reshape(-1, 4, 3) for c in self.chunks.values()]).astype(np.float64)
        sides = np.cross(quads[:, 1] - quads[:, 0], quads[:, 3] - quads[:, 0])
        return float(np.linalg.norm(sides, axis=1).sum()) / self.head["state"]["size"] ** 2

    def test_what_is_drawn_is_sent_undone_and_read_again(self) -> None:
        first = self.ask("draw", strokes=[STROKE])
        name = next(e["name"] for e in first["entries"] if e["number"] == 2)
        self.assertEqual((first["count"], first["undo"]), (16 * 4 * 5, f"put a box of {name}"))
        self.assertAlmostEqual(self.area(), 2 * (16 * 4 + 16 * 5 + 4 * 5), places=2)
        self.ask("draw", strokes=[{**STROKE, "way": "take", "first": [126, 0, 100], "last": [129, 255, 200]}])
        self.assertAlmostEqual(self.area(), 2 * (12 * 4 + 12 * 5) + 4 * 4 * 5, places=2)
        self.assertLessEqual(len(self.head["chunks"]), 6, "only what was touched")
        back = self.ask("undo")
        self.assertEqual((back["count"], back["redo"]), (320, "took away 80 blocks"))
        self.assertAlmostEqual(self.area(), 328, places=2)
        seen = self.chunks
        self.take(self.client.get(self.address).data)
        self.assertEqual(seen.keys(), self.chunks.keys())
        for key, arrays in seen.items():
            for name, values in arrays.items():
                np.testing.assert_array_equal(values, self.chunks[key][name])
        mesh = surface_of(Blocks().with_cells(np.argwhere(np.ones((16, 4, 5))) + np.array((120, 0, 120)), 2), 0.1)
        assert mesh is not None
        every = np.concatenate([c["position"] for c in self.chunks.values()])
        np.testing.assert_allclose((every.min(axis=0), every.max(axis=0)), mesh.box, atol=1e-6)
        again = self.ask("redo")
        self.assertEqual(again["count"], 240)
        stale = self.client.post(f"{self.address}/draw", json={"revision": 1, "strokes": [STROKE]})
        self.refused(stale, 409, "stale-revision")
        outside = {**STROKE, "first": [-9, 0, 0], "last": [-3, 0, 0]}
        refused = self.client.post(f"{self.address}/draw", json={"revision": 4, "strokes": [outside]})
        self.assertIn("inside the model", self.refused(refused, 422, "operation-refused")["what"])

    def test_slices_show_the_cut_and_parts_are_moved_and_entries_exchanged(self) -> None:
        self.ask("draw", strokes=[STROKE])
        self.take(self.client.get(f"{self.address}?axis=y&first=1&last=1").data)
        self.assertAlmostEqual(self.area(), 2 * (16 * 1 + 16 * 5 + 1 * 5), places=2)
        self.ask(
            "draw",
            strokes=[
                {
                    **STROKE,
                    "way": "take",
                    "shape": "single",
                    "low": [0, 1, 0],
                    "high": [255, 1, 255],
                    "first": [121, 1, 121],
                }
            ],
            axis="y",
            first=1,
            last=1,
        )
        self.assertAlmostEqual(self.area(), 2 * (16 * 1 + 16 * 5 + 1 * 5) + 2, places=2)
        self.take(self.client.get(self.address).data)
        moved = self.ask(
            "move", move={"low": [120, 0, 120], "high": [135, 3, 124], "to": [20, 9, 20], "turns": [0, 1, 0]}
        )
        self.assertEqual((moved["box"], moved["undo"]), ([[20, 9, 20], [25, 13, 36]], "moved a part"))
        swapped = self.ask("exchange", one=2, other=5)
        self.assertEqual({e["number"]: e["uses"] for e in swapped["entries"] if e["uses"]}, {5: 319})
        large = self.ask("operations", operation={"op": "set_block_size", "size": 0.5})
        self.assertEqual((large["size"], self.head["is_whole"]), (0.5, True))
        named = self.ask("operations", operation={"op": "set_block_name", "name": "Signal lamp"})
        self.assertEqual(named["name"], "Signal lamp")

    def test_models_are_listed_copied_deleted_and_come_back_and_seen(self) -> None:
        self.ask("draw", strokes=[STROKE])
        copy = self.client.post(f"{self.address}/copy").get_json()
        self.assertEqual((copy["name"], copy["count"]), (f"{self.model['name']} 2", 320))
        left = self.client.delete(self.address).get_json()["models"]
        self.assertNotIn(self.model["id"], [one["id"] for one in left])
        self.refused(self.client.get(self.address), 404, "not-found")
        back = self.client.post(f"{self.address}/restore").get_json()
        self.assertEqual(back["count"], 320)
        for address in (f"picture/{back['picture']}.png", "entries/2/x.png"):
            answer = self.client.get(f"{self.address}/{address}")
            self.assertEqual((answer.status_code, answer.mimetype), (200, "image/png"))
        shader = self.client.get(f"{self.address}/shader").get_json()
        self.assertIn("void main", shader["shader"]["fragment"])

    def test_an_entry_shows_a_graph_and_says_where_it_is_gone(self) -> None:
        self.ask("draw", strokes=[STROKE])
        found = self.client.get("/api/blocks/surfaces").get_json()["graphs"]
        enamel = next(one for one in found if one["title"] == "Ferry enamel")
        before = {e["number"]: e["stamp"] for e in self.head["state"]["entries"]}
        entry = {"graph": enamel["graph"], "variant": enamel["variants"][0]["id"]}
        state = self.ask("operations", operation={"op": "set_entry", "number": 2, "entry": entry})
        apart = {e["number"] for e in state["entries"] if e["stamp"] != before[e["number"]]}
        self.assertEqual((apart, state["undo"]), ({2}, "chose what entry 2 shows"))
        answer = self.client.get(f"{self.address}/entries/2/{state['entries'][1]['stamp']}.png")
        self.assertEqual((answer.status_code, answer.mimetype), (200, "image/png"))
        self.client.post(f"{self.address}/mesh")
        graph = self.client.post(f"{self.address}/graph").get_json()["id"]
        document = self.client.get(f"/api/graphs/{graph}").get_json()["document"]
        self.assertIn("Ferry enamel", {one["group"] for one in document["parameters"]})
        self.client.delete(f"/api/graphs/{enamel['graph']}")
        self.take(self.client.get(self.address).data)
        self.assertIn("The graph of these entries is gone", self.head["state"]["problem"])

    def test_any_step_of_the_history_is_gone_to(self) -> None:
        for number in range(3):
            self.ask("draw", strokes=[{**STROKE, "entry": number + 2}])
        steps = self.client.get(f"{self.address}/history").get_json()["steps"]
        self.assertEqual([one["done"] for one in steps], [True] * 3)
        for number, used in ((steps[0]["number"], {2: 320}), (0, {}), (steps[2]["number"], {4: 320})):
            state = self.ask("jump", number=number)
            self.assertEqual({e["number"]: e["uses"] for e in state["entries"] if e["uses"]}, used)
        self.refused(self.client.post(f"{self.address}/jump", json={"revision": 6, "number": 99}), 404, "not-found")

    def test_files_go_out_and_come_back(self) -> None:
        self.ask("draw", strokes=[STROKE, {**STROKE, "first": [122, 4, 122], "last": [124, 6, 123], "entry": 7}])
        for key, suffix in (("points", "ply"), ("slices", "zip"), ("gltf", "glb")):
            answer = self.client.get(f"{self.address}/as/{key}")
            self.assertEqual(answer.status_code, 200, answer.data[:300])
            self.assertTrue(answer.headers["Content-Disposition"].endswith(f'.{suffix}"'))
            if key in ("points", "slices"):
                sent = {"file": (io.BytesIO(answer.data), f"lamp.{suffix}")}
                back = self.client.post("/api/blocks/file", data=sent).get_json()
                self.assertEqual(back["count"], 338)
        high = {
            "file": (io.BytesIO(write_png(np.full((4, 5, 1), 255, dtype=np.uint8))), "hill.png"),
            "high": "9",
            "entry": "3",
        }
        hill = self.client.post("/api/blocks/file", data=high).get_json()
        self.assertEqual((hill["name"], hill["count"]), ("hill", 4 * 5 * 9))
        for sent in (
            {"file": (io.BytesIO(b"nothing"), "a.bin")},
            {"file": (io.BytesIO(b"PK\x03\x04"), "a.zip"), "high": "900"},
        ):
            self.refused(self.client.post("/api/blocks/file", data=sent), 422, "file-refused")
        wrong = self.client.get(f"{self.address}/as/heights")
        self.assertIn("cannot be written", self.refused(wrong, 422, "file-refused")["what"])
        mesh = self.client.post(f"{self.address}/mesh").get_json()["mesh"]["id"]
        again = self.client.post("/api/blocks/of_mesh", json={"mesh": mesh}).get_json()
        self.assertEqual(again["count"], 338)

    def test_its_mesh_follows_and_graphs_begin_on_it(self) -> None:
        self.ask("draw", strokes=[STROKE])
        mesh = self.client.post(f"{self.address}/mesh").get_json()["mesh"]
        graph = self.client.post(f"{self.address}/graph").get_json()["id"]
        document = self.client.get(f"/api/graphs/{graph}").get_json()["document"]
        self.assertEqual((document["mesh"], document["title"]), (mesh["id"], self.model["name"]))
        for _ in range(3):
            self.ask("draw", strokes=[{**STROKE, "first": [140, 0, 120], "last": [150, 9, 124], "entry": 3}])
        jobs = [one for one in self.client.get("/api/jobs").get_json()["jobs"] if one["kind"] == "block_mesh"]
        self.assertEqual(len(jobs), 1, "asked for once")
        do_job(plain_address(self.engine), jobs[0]["id"])
        after = self.client.get(f"/api/meshes/{mesh['id']}").get_json()["mesh"]
        self.assertNotEqual(after["drawn"], mesh["drawn"])
        self.assertGreater(after["size"][0], mesh["size"][0])
