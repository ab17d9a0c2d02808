"""Wrong moves against the language's interface: each gets a sentence, and nothing is lost."""

import io
import json

from tests.web.test_web import WebCase


class WrongMoves(WebCase):
    def document(self) -> dict:
        return self.client.get(self.url).get_json()["document"]

    def test_motifs_that_cannot_be(self) -> None:
        before = self.document()
        for nodes, words in (
            ([], "No node is selected"),
            (["dock"], "No node is selected"),
            (["ghost"], "No node is selected"),
            (["layers", "two_tints"], "comes back"),
        ):
            asked = {"revision": 0, "nodes": nodes, "title": "M"}
            error = self.refused(self.client.post(f"{self.url}/motifs", json=asked), 422, "operation-refused")
            self.assertIn(words, error["what"])
            self.assertTrue(error["mend"])
        self.assertEqual(self.document(), before)
        for title in ("", "x" * 81):
            asked = {"revision": 0, "nodes": ["rim"], "title": title}
            self.assertEqual(self.client.post(f"{self.url}/motifs", json=asked).status_code, 400)
        bad_key = {"revision": 0, "nodes": ["rim\u0000"], "title": "M"}
        self.assertEqual(self.client.post(f"{self.url}/motifs", json=bad_key).status_code, 400)

    def test_unpacking_what_is_no_motif(self) -> None:
        for node, words in (("rim", "not a motif"), ("ghost", "no longer in the graph")):
            error = self.refused(
                self.client.post(f"{self.url}/unpack", json={"revision": 0, "node": node}), 422, "operation-refused"
            )
            self.assertIn(words, error["what"])
        self.assertEqual(self.client.get("/motifs/motif_ghost").status_code, 404)

    def test_a_motif_that_would_stand_inside_itself(self) -> None:
        asked = {"revision": 0, "nodes": ["gloss_fall", "gloss_scale"], "title": "Loop"}
        made = self.client.post(f"{self.url}/motifs", json=asked).get_json()
        type_ = next(n["type"] for n in made["document"]["nodes"] if n["type"].startswith("motif_"))
        put = {"op": "add_node", "node": {"id": "again", "type": type_}}
        inside = self.client.post(f"/api/graphs/{made['made']}/operations", json={"revision": 0, "operation": put})
        self.assertIn("cannot stand inside itself", self.refused(inside, 422, "operation-refused")["what"])

    def test_values_that_are_no_gradient(self) -> None:
        self.edit(0, {"op": "add_node", "node": {"id": "g", "type": "gradient"}})
        for value, ok in (
            ([0, 1, 0, 0, 1, 0, 0, 1], True),
            ([0, 1, 0, 0], False),
            ([0, 1, 0, 0, 1, 0, 0], False),
            ([0.5, 1, 0, 0, 0.2, 0, 0, 1], False),
            ([-0.1, 1, 0, 0, 1, 0, 0, 1], False),
            ([c for i in range(9) for c in (i / 8, 1, 1, 1)], False),
        ):
            revision = self.client.get(self.url).get_json()["revision"]
            answer = self.edit(revision, {"op": "set_value", "node": "g", "input": "stops", "value": value})
            self.assertEqual(answer.status_code, 200 if ok else 422, (value, answer.text[:200]))
            if not ok:
                self.assertIn("2 to 8 stops", answer.get_json()["error"]["what"])
        wire = {"op": "wire", "node": "g", "input": "stops", "from_node": "rim", "from_output": "value"}
        revision = self.client.get(self.url).get_json()["revision"]
        self.assertIn("set by hand", self.refused(self.edit(revision, wire), 422, "operation-refused")["what"])

    def test_parameters_in_words_too_long_and_places_too_far(self) -> None:
        first = self.document()["parameters"][0]
        for changed, words in (
            ({"group": "x" * 41}, "at most 40"),
            ({"help": "x" * 201}, "at most 200 characters"),
            ({"low": 2.0, "high": 1.0}, "low end lies below"),
        ):
            edited = {"op": "edit_parameter", "parameter": {**first, **changed}}
            self.assertIn(words, self.refused(self.edit(0, edited), 422, "operation-refused")["what"])
        far = self.edit(0, {"op": "order_parameter", "parameter": first["id"], "at": 999}).get_json()
        self.assertEqual(far["document"]["parameters"][-1]["id"], first["id"])
        gone = {"op": "order_parameter", "parameter": "ghost", "at": 0}
        self.assertIn("gone", self.refused(self.edit(1, gone), 422, "operation-refused")["what"])
        for key, words in (
            ("teapot", "no form"),
            ("sphere:4", "one fineness"),
            *((f"plane:{cells}", "1 to 256 cells") for cells in ("0", "257", "x", "", "-1", "9" * 150)),
        ):
            form = {"op": "set_form", "value": key}
            self.assertIn(words, self.refused(self.edit(1, form), 422, "operation-refused")["what"])

    def test_files_that_tell_ports_wrongly(self) -> None:
        whole = json.loads(self.client.get(f"{self.url}/export.json").data)

        def taken(change) -> dict:
            data = json.loads(json.dumps(whole))
            change(data)
            text = json.dumps(data).encode()
            answer = self.client.post("/api/graphs/import", data={"file": (io.BytesIO(text), "a.json")})
            return self.refused(answer, 422, "file-refused")

        rim = next(i for i, n in enumerate(whole["nodes"]) if n["id"] == "rim")
        for outline, words in (
            ({"name": "N", "inputs": [{"key": "a", "name": "A", "type": "warp"}], "outputs": []}, "port type 'warp'"),
            ({"name": "N", "inputs": "none", "outputs": []}, "A list is needed"),
            ({"inputs": [], "outputs": []}, "'name' is missing"),
        ):
            error = taken(lambda d, o=outline: d["nodes"][rim].update(type="of_tomorrow", outline=o))
            self.assertIn(words, error["what"])
            self.assertRegex(error["where"], "outline|node rim")
        self.assertIn("versions 1 to", taken(lambda d: d.update(version=True))["what"])
        self.assertIn("motifs/m", taken(lambda d: d.update(motifs={"m": {"format": "x"}}))["where"])
        self.assertIn("no form", taken(lambda d: d.update(form="teapot"))["what"])
        self.assertIn("1 to 256 cells", taken(lambda d: d.update(form="plane:999"))["what"])

    def test_pictures_and_pages_of_nothing(self) -> None:
        for path in (
            "/nodes/dock",
            "/nodes/ghost/picture.png",
            "/nodes/%00",
            "/api/stage/environment/ghost",
            "/api/stage/backdrops/ghost",
        ):
            self.assertIn(self.client.get(path).status_code, (400, 404, 422), path)
        self.assertEqual(self.client.post("/api/nodes/dock/example", json={}).status_code, 404)
        self.assertEqual(self.client.get(f"{self.url}/cost?form=teapot").status_code, 200, "nothing moves here")
        self.assertEqual(self.client.get(f"{self.url}/analysis?node=rim&form=teapot").status_code, 422)
