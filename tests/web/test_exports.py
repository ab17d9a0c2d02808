"""Exports over HTTP: material documents out and in with their pictures, baked files as jobs."""

import io
import zipfile
from typing import Any

from tests.web.test_web import WebCase
from velvet_moth.store.database import plain_address
from velvet_moth.work.doing import do_job


class Documents(WebCase):
    def bring(self, data: bytes, name: str) -> Any:
        return self.client.post("/api/graphs/import", data={"file": (io.BytesIO(data), name)})

    def test_a_document_goes_out_with_its_pictures_and_comes_back(self) -> None:
        shown = self.client.get(f"{self.url}/material").get_json()
        self.assertIn("<gltf_pbr", shown["text"])
        packed = self.client.get(f"{self.url}/material.zip")
        with zipfile.ZipFile(io.BytesIO(packed.data)) as archive:
            names = archive.namelist()
            self.assertEqual(archive.read(shown["file"]).decode(), shown["text"])
        self.assertEqual(len([name for name in names if name.startswith("textures/")]), 2)
        back = self.bring(packed.data, "trial.zip")
        self.assertEqual(back.status_code, 200, back.text)
        state = self.client.get(f"/api/graphs/{back.get_json()['id']}").get_json()
        self.assertEqual(len([s for s in state["shader"]["samplers"] if s["key"]]), 2)
        self.assertFalse([m for m in state["document"]["marks"] if "did not come" in m.get("text", "")])
        alone = self.client.get(
            f"/api/graphs/{self.bring(shown['text'].encode(), 'a.mtlx').get_json()['id']}"
        ).get_json()
        (note,) = [m for m in alone["document"]["marks"] if m["kind"] == "note"]
        self.assertIn("did not come with the document", note["text"])

    def test_wrong_documents_and_packs_are_refused_in_words(self) -> None:
        empty = io.BytesIO()
        with zipfile.ZipFile(empty, "w") as archive:
            archive.writestr("a.txt", "a")
        bomb = io.BytesIO()
        with zipfile.ZipFile(bomb, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr("a.mtlx", b" " * (300 << 20))
        for data, name in (
            (b"<materialx", "a.mtlx"),
            (b"PK\x03\x04", "a.zip"),
            (empty.getvalue(), "a.zip"),
            (bomb.getvalue(), "a.zip"),
        ):
            with self.subTest(name, data=data[:12]):
                self.assertTrue(self.refused(self.bring(data, name), 422, "file-refused")["mend"])
        self.refused(self.client.get(f"{self.url}/material?variant=none"), 422, "operation-refused")
        self.refused(self.client.get(f"{self.url}/material?textures=gif"), 422, "file-refused")


class Baking(WebCase):
    def test_a_graph_is_baked_as_a_job_and_fetched(self) -> None:
        url = f"/api/graphs/{self.client.post('/api/graphs', json={'title': 'Plain'}).get_json()['id']}"
        plane = {"revision": 0, "operation": {"op": "set_form", "value": "plane"}}
        self.assertEqual(self.client.post(f"{url}/operations", json=plane).status_code, 200)
        job = self.client.post(f"{url}/baked", json={"size": 128, "padding": 2, "has_variants": False}).get_json()
        do_job(plain_address(self.engine), job["id"])
        (done,) = [one for one in self.client.get("/api/jobs").get_json()["jobs"] if one["id"] == job["id"]]
        self.assertEqual(done["state"], "done", done)
        (listed,) = self.client.get(f"{url}/baked").get_json()["files"]
        self.assertEqual((listed["id"], listed["side"], len(listed["sides"])), (done["subject"], 128, 4))
        file = self.client.get(f"/api/baked/{done['subject']}/file.glb")
        self.assertEqual((file.data[:4], len(file.data)), (b"glTF", listed["bytes"]))
        self.assertEqual(self.client.get(f"/api/baked/{done['subject']}/sides.png").data[:4], b"\x89PNG")
        self.refused(self.client.get("/api/baked/none/file.glb"), 404, "not-found")
        self.refused(self.client.post(f"{url}/baked", json={"size": 100}), 422, "operation-refused")
