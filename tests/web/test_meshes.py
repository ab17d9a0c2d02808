"""Meshes over the interface: brought in, read another way, replaced, stood on by graphs, saved and carried in files."""

import io
import json
from dataclasses import replace
from typing import Any
from unittest import mock

import numpy as np
from numpy.typing import NDArray

from tests.core.test_baking import sheet
from tests.support.meshes import sample_mesh
from tests.web.test_stage import OnStage
from velvet_moth.core.baking import by_hand
from velvet_moth.core.forms import form
from velvet_moth.core.meshes.formats import FORMATS, read_mesh
from velvet_moth.core.meshes.intake import as_source
from velvet_moth.core.pictures.formats import read_picture
from velvet_moth.core.stacks.stroke import WIDTH, text_of
from velvet_moth.store import mesh_files, mesh_stacks
from velvet_moth.store.database import plain_address
from velvet_moth.web.api.contract import MOST_BYTES
from velvet_moth.work.doing import do_job

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

    def test_what_is_read_on_the_stage_is_read_off_the_level_that_is_drawn(self) -> None:
        mesh = self.brought("buoy.glb", FORMATS["gltf"].encode(as_source(form("sphere"))))
        self.change(op="set_mesh", value=mesh["id"])
        self.edited(mesh["id"], op="set_levels", levels=[{"share": 0.02}])
        self.assertEqual(self.baked(mesh["id"])["state"], "done")
        after = self.facts(mesh["id"])
        seen = {**self.seen_whole(after["mesh"]), "width": 64, "height": 48, "column": 27, "row": 29}
        full, simple, furthest = (self.asked("pin", **seen, level=level)["place"] for level in (0, 1, 9))
        # A chord of a ball of 1 m is inside it.
        self.assertAlmostEqual(float(np.linalg.norm(full)), 1.0, places=2)
        self.assertLess(float(np.linalg.norm(simple)), 0.99)
        self.assertEqual(furthest, simple, "after the last level there is none")
        address = f"/api/meshes/{mesh['id']}/vertex"
        vertices = [self.client.get(address, query_string={**seen, "level": n}).get_json() for n in (0, 1)]
        self.assertNotEqual(vertices[0]["index"], vertices[1]["index"])
        self.assertLess(vertices[1]["index"], after["levels"][0]["vertices"])

    def test_a_graph_file_carries_its_mesh(self) -> None:
        mesh = self.brought("sluice.glb", FORMATS["gltf"].encode(sample_mesh("float", 3)))
        self.change(op="set_mesh", value=mesh["id"])
        text = self.client.get(f"{self.url}/export.json").data
        sent = {"file": (io.BytesIO(text), "graph.json")}
        again = self.client.post("/api/graphs/import", data=sent).get_json()["id"]
        document = self.client.get(f"/api/graphs/{again}").get_json()["document"]
        self.assertEqual(document["mesh"], mesh["id"], "the same mesh is used as it is")
        texture = self.picture(0.25)
        self.edited(
            mesh["id"], op="add_step", step="texture_at_uvs", id="mask", values={"picture": {"texture": texture}}
        )
        self.edited(mesh["id"], op="add_output", step="mask", layer="values", id="red", name="Mask")
        self.edited(mesh["id"], op="set_levels", levels=[{"share": 0.5}])
        self.assertEqual(self.baked(mesh["id"])["state"], "done")
        text = self.client.get(f"{self.url}/export.json").data
        self.assertIn(texture, json.loads(text)["textures"])
        before = self.facts(mesh["id"])
        # Where the mesh is without its steps, both come in: one is baked while the other stays.
        self.done(mesh["id"], "undo")
        self.done(mesh["id"], "undo")
        self.done(mesh["id"], "undo")
        self.assertEqual(self.baked(mesh["id"])["state"], "done")
        sent = {"file": (io.BytesIO(text), "graph.json")}
        again = self.client.post("/api/graphs/import", data=sent).get_json()["id"]
        other = self.client.get(f"/api/graphs/{again}").get_json()["document"]["mesh"]
        self.assertNotEqual(other, mesh["id"])
        jobs = self.client.get("/api/jobs").get_json()["jobs"]
        do_job(plain_address(self.engine), *[job["id"] for job in jobs if job["subject"] == other])
        after = self.facts(other)
        self.assertEqual((after["carried"], after["levels"]), (before["carried"], before["levels"]))
        self.assertEqual(after["mesh"]["drawn"], before["mesh"]["drawn"], "the very same mesh comes of it")
        file = json.loads(text)
        file["meshes"][mesh["id"]]["file"] = "AAAA"
        broken = {"file": (io.BytesIO(json.dumps(file).encode()), "graph.json")}
        self.refused(self.client.post("/api/graphs/import", data=broken), 422, "file-refused")

    def test_files_larger_than_others_may_be_are_taken(self) -> None:
        padded = SHEET + bytes(MOST_BYTES)
        # What checks the key of the page is the first to read the form.
        self.app.config["WTF_CSRF_ENABLED"] = True
        try:
            self.assertEqual(self.bring("gate.glb", padded).status_code, 400)
        finally:
            self.app.config["WTF_CSRF_ENABLED"] = False
        self.assertEqual(self.bring("gate.glb", padded).status_code, 200)
        sent = {"file": (io.BytesIO(padded), "graph.json")}
        self.assertEqual(self.client.post("/api/graphs/import", data=sent).status_code, 413)

    def test_large_files_are_read_by_a_job(self) -> None:
        def ended(answer: Any) -> dict[str, Any]:
            self.assertIsNone(answer["mesh"])
            do_job(plain_address(self.engine), answer["job"]["id"])
            found = self.client.get("/api/jobs").get_json()["jobs"]
            return next(dict(one) for one in found if one["id"] == answer["job"]["id"])

        with mock.patch.object(mesh_files, "MOST_AT_ONCE", 1000):
            done = ended(self.bring("gate.glb", SHEET).get_json())
            self.assertEqual((done["state"], done["title"]), ("done", "Reading gate.glb"))
            self.assertEqual(self.facts(done["subject"])["mesh"]["triangles"], 128)
            # The same file again is the same mesh; read another way it follows, and so does a new version.
            again = ended(self.bring("gate.glb", SHEET).get_json())
            self.assertEqual(again["subject"], done["subject"])
            reading = {"up": "z", "unit": "cm", "smooth_below": 20}
            url = f"/api/meshes/{done['subject']}"
            self.assertEqual(ended(self.client.post(f"{url}/reading", json=reading).get_json())["state"], "done")
            self.assertEqual(self.facts(done["subject"])["reading"], reading)
            broken = FORMATS["gltf"].encode(replace(sample_mesh(), triangles=sample_mesh().triangles + 90))
            sent = {"file": (io.BytesIO(broken), "gate.glb")}
            refused = ended(self.client.post(f"{url}/file", data=sent).get_json())
            self.assertEqual(refused["state"], "failed")
            self.assertIn("A triangle uses vertex", refused["words"])
            self.assertEqual(self.facts(done["subject"])["reading"], reading)

    def stack(self, key: str) -> dict[str, Any]:
        return dict(self.client.get(f"/api/meshes/{key}/stack").get_json())

    def done(self, key: str, act: str, **body: Any) -> Any:
        revision = self.stack(key)["revision"]
        return self.client.post(f"/api/meshes/{key}/stack/{act}", json={"revision": revision, **body})

    def baked(self, key: str) -> dict[str, Any]:
        """Asks for a bake and does it, as a worker would; how the job has ended."""
        answer = self.done(key, "make")
        self.assertEqual(answer.status_code, 200, answer.text)
        job = answer.get_json()
        do_job(plain_address(self.engine), job["id"])
        return next(one for one in self.client.get("/api/jobs").get_json()["jobs"] if one["id"] == job["id"])

    def edited(self, key: str, **operation: Any) -> dict[str, Any]:
        answer = self.done(key, "operations", operation=operation)
        self.assertEqual(answer.status_code, 200, answer.text)
        return dict(answer.get_json())

    def test_steps_are_seen_and_baked_and_what_stands_on_the_mesh_follows(self) -> None:
        key = self.brought("gate.glb", SHEET)["id"]
        self.assertTrue(self.stack(key)["is_made"])
        self.edited(key, op="add_step", step="height", id="high", values={"axis": "x"})
        state = self.edited(key, op="add_output", step="high", layer="values", id="second green", name="Tide")
        self.assertFalse(state["is_made"])
        seen = self.client.post(
            f"/api/meshes/{key}/stack/preview", json={"stack": state["stack"], "step": "high"}
        ).get_json()
        self.assertEqual((seen["problems"], seen["is_rough"], list(seen["small"])), ({}, False, ["high"]))
        own = sample_mesh("16 bit")
        expected = (own.positions[:, 0] - own.positions[:, 0].min()) / np.ptp(own.positions[:, 0])
        numbers = self.client.get(f"/api/meshes/{key}/stack/values/{seen['values']}").data
        np.testing.assert_allclose(np.frombuffer(numbers, np.float32), expected, atol=1e-6)
        self.assertEqual(self.client.get(f"/api/meshes/{key}/stack/values/none").status_code, 404)
        before = self.facts(key)["mesh"]
        self.assertEqual(self.baked(key)["state"], "done")
        self.assertTrue(self.stack(key)["is_made"])
        after = self.facts(key)
        self.assertEqual(after["carried"]["second green"], "Tide")
        self.assertGreater(after["mesh"]["revision"], before["revision"])
        drawn = self.client.get(f"/api/meshes/{key}/geometry/{after['mesh']['drawn']}")
        self.assertEqual(drawn.headers["X-Second"], "yes")
        back = read_mesh({"a": self.client.get(f"/api/meshes/{key}/as/gltf").data}, "a")[0]
        assert back.second_colours is not None
        np.testing.assert_allclose(back.second_colours[:, 1], expected, atol=1e-6)
        # A new version of the file keeps everything that was made on it.
        other = FORMATS["gltf"].encode(replace(own, positions=own.positions * np.float32(2)))
        answer = self.client.post(f"/api/meshes/{key}/file", data={"file": (io.BytesIO(other), "gate.glb")})
        self.assertEqual(answer.status_code, 200, answer.text)
        self.assertFalse(self.stack(key)["is_made"])
        jobs = self.client.get("/api/jobs").get_json()["jobs"]
        (again,) = [job["id"] for job in jobs if (job["subject"], job["state"]) == (key, "waiting")]
        do_job(plain_address(self.engine), again)
        self.assertEqual(self.facts(key)["carried"]["second green"], "Tide")
        self.assertTrue(self.stack(key)["is_made"])
        undone = self.done(key, "undo").get_json()
        self.assertEqual((undone["stack"]["outputs"], undone["is_made"]), ([], False))

    def test_strokes_are_drawn_kept_once_listed_and_baked(self) -> None:
        key = self.brought("quay.glb", FORMATS["gltf"].encode(sample_mesh("float", 5)))["id"]
        self.edited(key, op="add_step", step="paint", id="wet")
        state = self.edited(key, op="add_output", step="wet", layer="green", id="alpha", name="Puddle")
        rows = np.zeros((6, WIDTH), dtype=np.float32)
        rows[:, 0], rows[:, 4], rows[:, 6], rows[:, 7:] = np.linspace(-0.5, 0.5, 6), 1, 0.4, 1
        brush = {"touches": ["green"], "value": 0.75, "side": "through"}
        seen = np.zeros((81, 4), dtype=np.float32)
        for first, last in ((0, 1), (1, 4), (4, 6)):
            asked = {
                "drawing": "one",
                "step": "wet",
                "begun": first,
                "stroke": {**brush, "points": text_of(rows[first:last])},
            }
            answer = self.client.post(
                f"/api/meshes/{key}/stack/brush", json={**asked, "stack": state["stack"] if not first else None}
            )
            self.assertEqual(answer.status_code, 200)
            count = int(answer.headers["X-Vertices"])
            seen[np.frombuffer(answer.data, "<u4", count)] = np.frombuffer(
                answer.data, "<f4", offset=4 * count
            ).reshape(-1, 4)
        again = self.client.post(f"/api/meshes/{key}/stack/brush", json={**asked, "drawing": "lost"})
        self.assertEqual(again.status_code, 404)
        stroke = {**brush, "points": text_of(rows)}
        state = self.edited(key, op="add_stroke", step="wet", stroke=stroke)
        (mark,) = state["stack"]["steps"][0]["values"]["lines"]
        self.assertEqual(len(mark), 64, "the page has no need of its points")
        preview = self.client.post(
            f"/api/meshes/{key}/stack/preview", json={"stack": state["stack"], "step": "wet", "layer": "green"}
        ).get_json()
        numbers = self.client.get(f"/api/meshes/{key}/stack/values/{preview['values']}").data
        np.testing.assert_allclose(np.frombuffer(numbers, np.float32), seen[:, 1], atol=1e-6)
        far = rows + np.float32([0, 9, 0, 0, 0, 0, 0, 0, 0])
        self.edited(key, op="add_stroke", step="wet", stroke={**brush, "points": text_of(far)})
        listed = self.client.get(f"/api/meshes/{key}/stack/strokes/wet").get_json()["strokes"]
        self.assertEqual([(one["points"], one["misses"]) for one in listed], [(6, False), (6, True)])
        self.assertEqual(self.baked(key)["state"], "done")
        back = read_mesh({"a": self.client.get(f"/api/meshes/{key}/as/gltf").data}, "a")[0]
        assert back.colours is not None
        np.testing.assert_allclose(back.colours[:, 3], seen[:, 1], atol=1e-6)
        # A file of the steps has the strokes themselves, and so has a graph's.
        file = self.client.get(f"/api/meshes/{key}/stack/file").get_json()
        self.assertEqual(file["steps"][0]["values"]["lines"][0]["points"], stroke["points"])
        self.change(op="set_mesh", value=key)
        carried = self.client.get(f"{self.url}/export.json").get_json()["meshes"][key]["stack"]
        self.assertEqual(carried, file)
        undone = self.done(key, "undo").get_json()
        self.assertEqual(len(undone["stack"]["steps"][0]["values"]["lines"]), 1)
        wrong = self.done(
            key, "operations", operation={"op": "add_stroke", "step": "wet", "stroke": {**stroke, "points": "AAAA"}}
        )
        self.assertEqual(wrong.status_code, 400)
        stack: Any = {"name": "x", "steps": [{"id": "wet", "step": "paint", "values": {"lines": ["none"]}}]}
        lost = self.client.post(f"/api/meshes/{key}/stack/preview", json={"stack": stack, "step": "wet"})
        self.assertIn("no longer kept", self.refused(lost, 422, "operation-refused")["what"])

    def test_what_is_wrong_is_mended_by_a_step(self) -> None:
        key = self.brought("tub.obj", CUBE.replace(b"180", b"170"))["id"]
        wrong = {verdict["key"]: verdict["mend"] for verdict in self.facts(key)["verdicts"]}
        self.assertEqual(wrong["no-uvs"], "Unwrap it")
        self.assertEqual(self.done(key, "mend", verdict="no-uvs").get_json()["stack"]["steps"][0]["step"], "unwrap")
        self.assertEqual(self.baked(key)["state"], "done")
        self.assertTrue(self.stack(key)["is_made"])
        self.assertNotIn("no-uvs", [verdict["key"] for verdict in self.facts(key)["verdicts"]])
        refused = self.done(key, "mend", verdict="no-uvs")
        self.assertEqual(
            (refused.status_code, refused.get_json()["error"]["what"]), (422, "This is no longer wrong with the mesh.")
        )

    def test_channels_become_a_texture_of_the_project(self) -> None:
        key = self.brought("gate.glb", SHEET)["id"]
        asked = {"channels": ["red", "alpha"], "name": "Gate masks", "size": 64, "depth": "16 bit", "padding": 2}
        for _ in range(2):
            job = self.client.post(f"/api/meshes/{key}/texture", json=asked).get_json()
            do_job(plain_address(self.engine), job["id"])
        found = [t for t in self.client.get("/api/textures").get_json()["textures"] if t["name"] == "Gate masks"]
        self.assertEqual(
            [(t["channels"], t["width"], t["depth"], t["role"]) for t in found], [(2, 64, "16 bit", "data")]
        )

    def test_a_flow_map_follows_the_strokes_of_its_mesh(self) -> None:
        mesh = replace(as_source(sheet(1.0, 12)), depth="float")
        key = self.brought("brook.glb", FORMATS["gltf"].encode(mesh))["id"]
        self.edited(key, op="add_step", step="comb", id="hand")
        refused = self.done(key, "operations", operation={"op": "add_output", "step": "hand", "layer": "directions"})
        self.assertIn("No channel is made of directions", refused.get_json()["error"]["what"])
        asked = {"step": "hand", "name": "Brook flow", "size": 64, "padding": 2}
        both = self.client.post(f"/api/meshes/{key}/texture", json={**asked, "channels": ["red"]})
        self.assertEqual(both.status_code, 422)

        def combed(turn: float) -> dict[str, Any]:
            way = np.array((np.cos(turn), 0, -np.sin(turn)))
            rows = [[*(way * at), 0, 1, 0, 0.4, 1, 1] for at in (-0.3, 0.3)]
            return {"points": text_of(np.array(rows, dtype=np.float32)), "touches": ["red"], "mode": "comb"}

        def middle(turn: float) -> NDArray[np.float64]:
            self.edited(key, op="add_stroke", step="hand", stroke=combed(turn))
            self.assertEqual(self.baked(key)["state"], "done")
            for job in self.client.get("/api/jobs").get_json()["jobs"]:
                do_job(plain_address(self.engine), job["id"])
            (found,) = (t for t in self.client.get("/api/textures").get_json()["textures"] if t["mesh"] == key)
            self.assertEqual((found["role"], found["width"], found["name"]), ("flow", 64, "Brook flow"))
            data = self.client.get(f"/api/textures/{found['id']}/file").data
            picture, _ = read_picture(data, "flow.png")
            return picture.samples[32, 32, :2].astype(np.float64) / 255 * 2 - 1

        # Nothing of it is baked yet: it is made of the steps as they are.
        self.edited(key, op="add_stroke", step="hand", stroke=combed(0.5))
        job = self.client.post(f"/api/meshes/{key}/texture", json=asked).get_json()
        do_job(plain_address(self.engine), job["id"])
        for turn in (2.0, -1.0):
            np.testing.assert_allclose(middle(turn), (np.cos(turn), np.sin(turn)), atol=0.02)

    def test_what_many_strokes_have_made_is_at_hand_after_a_restart(self) -> None:
        key = self.brought("brook.glb", FORMATS["gltf"].encode(replace(as_source(sheet(1.0, 12)), depth="float")))["id"]
        self.edited(key, op="add_step", step="paint", id="wet")
        self.edited(key, op="add_output", step="wet", layer="red", id="red")

        def stroke(x: float) -> None:
            rows = np.array([[x, 0, 0, 0, 1, 0, 0.2, 1, 1]], dtype=np.float32)
            self.edited(key, op="add_stroke", step="wet", stroke={"points": text_of(rows), "touches": ["red"]})

        with mock.patch.object(by_hand, "MANY", 3):
            for x in (-0.3, 0.0, 0.3):
                stroke(x)
            self.assertEqual(self.baked(key)["state"], "done")
            stroke(0.4)
            asked = {"stack": self.stack(key)["stack"], "step": ""}
            now = self.client.post(f"/api/meshes/{key}/stack/channels", json=asked).data
            # As a process that was started again.
            by_hand._laid.clear()
            mesh_stacks._made.clear()
            with mock.patch.object(by_hand, "laid", wraps=by_hand.laid) as laying:
                again = self.client.post(f"/api/meshes/{key}/stack/channels", json=asked).data
            self.assertEqual([len(call.args[0]) for call in laying.call_args_list], [1], "only the new one is laid")
            self.assertEqual(again, now)

    def test_what_a_step_cannot_do_is_said_at_the_step(self) -> None:
        key = self.brought("tub.obj", CUBE.replace(b"180", b"160"))["id"]
        self.edited(key, op="add_step", step="part_distance", id="far", values={"to": "mast"})
        state = self.edited(key, op="add_step", step="invert", id="turned")
        asked = {"stack": state["stack"], "step": "turned"}
        seen = self.client.post(f"/api/meshes/{key}/stack/preview", json=asked).get_json()
        self.assertEqual(list(seen["problems"]), ["far"])
        self.assertIn("no part called 'mast'", seen["problems"]["far"])
        self.assertEqual(self.baked(key)["state"], "done", "nothing that is sent anywhere needs the step")
        self.edited(key, op="add_output", step="turned", layer="values")
        refused = self.baked(key)
        self.assertEqual(refused["state"], "failed")
        self.assertIn("no part called 'mast'", refused["words"])
