"""Meshes over the interface: brought in, read another way, replaced, stood on by graphs, saved and carried in files."""

import io
import json
from dataclasses import replace
from typing import Any

import numpy as np

from tests.support.meshes import sample_mesh
from tests.web.test_stage import OnStage
from velvet_moth.core.forms import form
from velvet_moth.core.meshes.formats import FORMATS, read_mesh
from velvet_moth.core.meshes.intake import as_source

SHEET = FORMATS["gltf"].encode(sample_mesh("16 bit"))
# A cube of 180, which stands on the face at its lowest z only.
CUBE = "\n".join(
    [
        *(f"v {x} {y} {z}" for x in (0, 180) for y in (0, 180) for z in (0, 180)),
        "f 1 3 7 5",
        "f 1 2 4 3",
        "f 1 5 6 2",
        "f 3 4 8 7",
        "f 5 7 8 6",
    ]
).encode()


class Meshes(OnStage):
    def bring(self, name: str, data: bytes, **beside: bytes) -> Any:
        files = [(io.BytesIO(one), called) for called, one in {name: data, **beside}.items()]
        return self.client.post("/api/meshes", data={"file": files})

    def brought(self, name: str, data: bytes, **beside: bytes) -> dict[str, Any]:
        answer = self.bring(name, data, **beside)
        self.assertEqual(answer.status_code, 200, answer.text)
        return dict(answer.get_json()["mesh"])

    def facts(self, key: str) -> dict[str, Any]:
        return dict(self.client.get(f"/api/meshes/{key}").get_json())

    def test_a_file_comes_in_with_what_it_holds_and_goes_out_the_same(self) -> None:
        mesh = self.brought("gate.glb", SHEET)
        facts = self.facts(mesh["id"])
        self.assertEqual((mesh["name"], mesh["format"], mesh["triangles"]), ("gate", "glTF", 128))
        self.assertEqual([part["name"] for part in facts["parts"]], ["Plank", "Iron strap"])
        self.assertEqual((facts["depth"], facts["has_uvs"], facts["reading"]["up"]), ("16 bit", True, "y"))
        saved = self.client.get(f"/api/meshes/{mesh['id']}/as/gltf").data
        own, back = sample_mesh("16 bit"), read_mesh({"a": saved}, "a")[0]
        for key in ("positions", "normals", "tangents", "uvs", "second_uvs", "colours", "triangles", "part_of"):
            np.testing.assert_array_equal(getattr(back, key), getattr(own, key), key)
        self.assertEqual(self.client.get(f"/api/meshes/{mesh['id']}/file/0").data, SHEET)
        drawn = self.client.get(f"/api/meshes/{mesh['id']}/geometry/{mesh['drawn']}")
        np.testing.assert_array_equal(np.frombuffer(drawn.data, np.float32, 81 * 3), own.positions.reshape(-1))
        seen = {**self.seen_whole(mesh), "width": 64, "height": 48, "column": 32, "row": 24}
        at = self.client.get(f"/api/meshes/{mesh['id']}/vertex", query_string=seen).get_json()
        np.testing.assert_allclose(at["place"], own.positions[at["index"]])
        np.testing.assert_allclose(at["colours"], own.colours[at["index"]], atol=1e-6)
        self.assertIsNone(
            self.client.get(f"/api/meshes/{mesh['id']}/vertex", query_string={**seen, "column": 0, "row": 0}).get_json()
        )
        picture = self.client.get(f"/api/meshes/{mesh['id']}/picture/{mesh['drawn']}.png")
        self.assertEqual(picture.mimetype, "image/png")

    def seen_whole(self, mesh: dict[str, Any]) -> dict[str, float]:
        view = mesh["view"]
        x, y, z = view["target"]
        return {key: view[key] for key in ("turn", "tilt", "distance", "field")} | {
            "target_x": x,
            "target_y": y,
            "target_z": z,
        }

    def test_axis_and_unit_are_guessed_and_chosen(self) -> None:
        mesh = self.brought("tub.obj", CUBE)
        facts = self.facts(mesh["id"])
        self.assertEqual((facts["reading"]["up"], facts["reading"]["unit"]), ("y", "cm"))
        np.testing.assert_allclose(mesh["size"], (1.8, 1.8, 1.8), atol=1e-6)
        self.assertTrue(any("centimetres" in note for note in facts["notes"]), facts["notes"])
        self.assertIn("no-uvs", [verdict["key"] for verdict in facts["verdicts"]])
        asked = {"up": "z", "unit": "mm"}
        read = self.client.post(f"/api/meshes/{mesh['id']}/reading", json=asked).get_json()["mesh"]
        np.testing.assert_allclose(read["size"], (0.18, 0.18, 0.18), atol=1e-6)
        self.assertNotEqual(read["drawn"], mesh["drawn"])
        wrong = self.client.post(f"/api/meshes/{mesh['id']}/reading", json={"up": "w", "unit": "mm"})
        self.assertEqual(wrong.status_code, 400)

    def test_what_is_broken_is_refused_and_what_lies_beside_is_asked_for(self) -> None:
        for name, data, words in (
            ("cut.glb", SHEET[:2000], "cut off"),
            ("notes.txt", b"no mesh at all", "no mesh that can be read"),
            ("empty.obj", b"", "empty"),
        ):
            error = self.refused(self.bring(name, data), 422, "file-refused")
            self.assertIn(words, error["what"])
            self.assertTrue(error["mend"])
        positions = np.array([(0, 0, 0), (1, 0, 0), (0, 1, 0)], dtype="<f4").tobytes()
        told = {
            "asset": {"version": "2.0"},
            "meshes": [{"primitives": [{"attributes": {"POSITION": 0}}]}],
            "accessors": [{"bufferView": 0, "componentType": 5126, "count": 3, "type": "VEC3"}],
            "bufferViews": [{"buffer": 0, "byteLength": 36}],
            "buffers": [{"byteLength": 36, "uri": "../elsewhere/sail.bin"}],
        }
        text = json.dumps(told).encode()
        error = self.refused(self.bring("sail.gltf", text), 422, "file-refused")
        self.assertIn("sail.bin", error["what"])
        self.assertEqual(self.brought("sail.gltf", text, **{"sail.bin": positions})["triangles"], 1)

    def test_a_graph_stands_on_it_follows_its_versions_and_says_when_it_is_gone(self) -> None:
        ball = replace(as_source(form("sphere")), depth="float")
        mesh = self.brought("float.glb", FORMATS["gltf"].encode(ball))
        before = self.client.get(f"{self.url}/picture.png").data
        state = self.change(op="set_mesh", value=mesh["id"])
        self.assertEqual(state["mesh"]["drawn"], mesh["drawn"])
        self.assertEqual([user["id"] for user in self.facts(mesh["id"])["users"]], [self.graph])
        self.assertNotEqual(self.client.get(f"{self.url}/picture.png").data, before)
        with_form = self.client.get(self.url, query_string={"swatch": "form"}).get_json()["swatches"]
        self.assertNotEqual(with_form, self.client.get(self.url).get_json()["swatches"])
        pin = self.asked(
            "pin", backdrop="", **{**self.seen_whole(mesh), "width": 64, "height": 48, "column": 32, "row": 24}
        )
        self.assertAlmostEqual(float(np.linalg.norm(pin["place"])), 1.0, places=2)
        larger = FORMATS["gltf"].encode(replace(ball, positions=ball.positions * np.float32(2)))
        sent = {"file": (io.BytesIO(larger), "float.glb")}
        other = self.client.post(f"/api/meshes/{mesh['id']}/file", data=sent).get_json()["mesh"]
        self.assertEqual(other["id"], mesh["id"])
        followed = self.client.get(self.url).get_json()
        self.assertEqual(followed["mesh"]["drawn"], other["drawn"])
        self.assertNotEqual(followed["stamp"], state["stamp"])
        self.client.delete(f"/api/meshes/{mesh['id']}")
        gone = self.client.get(self.url).get_json()
        self.assertIsNone(gone["mesh"])
        self.assertIn("missing-mesh", [problem["code"] for problem in gone["problems"]["dock"]])
        self.client.post(f"/api/meshes/{mesh['id']}/restore")
        self.assertEqual(self.client.get(self.url).get_json()["mesh"]["drawn"], other["drawn"])

    def test_a_graph_file_carries_its_mesh(self) -> None:
        mesh = self.brought("gate.glb", SHEET)
        self.change(op="set_mesh", value=mesh["id"])
        text = self.client.get(f"{self.url}/export.json").data
        sent = {"file": (io.BytesIO(text), "graph.json")}
        again = self.client.post("/api/graphs/import", data=sent).get_json()["id"]
        document = self.client.get(f"/api/graphs/{again}").get_json()["document"]
        self.assertEqual(document["mesh"], mesh["id"], "the same mesh is used as it is")
        file = json.loads(text)
        file["meshes"][mesh["id"]]["file"] = "AAAA"
        broken = {"file": (io.BytesIO(json.dumps(file).encode()), "graph.json")}
        self.refused(self.client.post("/api/graphs/import", data=broken), 422, "file-refused")
