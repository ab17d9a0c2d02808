"""Motifs, analysis and the node reference through Flask's test client."""

import io
import json
import re

from tests.web.test_web import WebCase
from velvet_moth.core.catalogue.registry import CATALOGUE

CHOSEN = ["gloss_fall", "gloss_scale", "gloss_range"]


class Motifs(WebCase):
    def make(self) -> dict:
        asked = {"revision": 0, "nodes": CHOSEN, "title": "Gloss by rim"}
        return self.client.post(f"{self.url}/motifs", json=asked).get_json()

    def test_make_find_edit_once_unpack_undo(self) -> None:
        made = self.make()
        (use,) = [n for n in made["document"]["nodes"] if n["type"].startswith("motif_")]
        name = made["kinds"][use["id"]]["name"]
        self.assertIn("Gloss by rim", name)
        self.assertEqual(made["undo"], f"made the motif {name}")
        hits = {h["key"]: h for h in self.client.get("/api/nodes/search?q=gloss rim").get_json()["hits"]}
        self.assertEqual(hits[use["type"]]["kind"]["outputs"][0]["name"], "Keep in 0..1")
        users = self.client.get(f"/api/graphs/{made['made']}/uses").get_json()["uses"]
        self.assertEqual([u["id"] for u in users], [self.graph])
        before = self.client.get(f"{self.url}/picture.png").data
        inside = {"op": "set_value", "node": "gloss_fall", "input": "power", "value": [6.0]}
        self.client.post(f"/api/graphs/{made['made']}/operations", json={"revision": 0, "operation": inside})
        self.assertNotEqual(self.client.get(f"{self.url}/picture.png").data, before, "edited once, changed here")
        page = self.client.get(f"/motifs/{use['type']}", follow_redirects=True)
        self.assertIn("used in", page.text)
        self.assertIn("Gloss by rim", self.client.get("/").text)
        unpacked = self.client.post(f"{self.url}/unpack", json={"revision": 1, "node": use["id"]}).get_json()
        self.assertFalse([n for n in unpacked["document"]["nodes"] if n["type"].startswith("motif_")])
        back = self.client.post(f"{self.url}/undo", json={"revision": 2}).get_json()
        self.assertEqual([n["id"] for n in back["document"]["nodes"] if n["type"] == use["type"]], [use["id"]])

    def test_the_way_into_a_motif_leads_back_out(self) -> None:
        made = self.make()
        use = next(n for n in made["document"]["nodes"] if n["type"].startswith("motif_"))
        inside = self.client.get(f"/motifs/{use['type']}?within={self.graph}", follow_redirects=True)
        self.assertIn(f"within={self.graph}", inside.request.url)
        links = re.findall(r'<a href="([^"]+)">', inside.text)
        self.assertIn(f"/graphs/{self.graph}", links)
        deeper = self.client.get(f"/graphs/{made['made']}?within={self.graph},{made['made']}").text
        self.assertIn(f"/graphs/{made['made']}?within={self.graph}", re.findall(r'<a href="([^"]+)">', deeper))
        for wrong, status in (("x,;drop", 200), (str(10**30), 404), ("4711", 404), ("-1", 200)):
            with self.subTest(wrong):
                asked = self.client.get(f"/graphs/{made['made']}?within={wrong}")
                self.assertEqual(asked.status_code, status)

    def test_one_in_use_is_not_deleted(self) -> None:
        made = self.make()
        error = self.refused(self.client.delete(f"/api/graphs/{made['made']}"), 409, "motif-in-use")
        self.assertIn("used by Trial", error["what"])

    def test_a_stale_page_makes_none(self) -> None:
        self.edit(0, {"op": "set_title", "value": "Meanwhile"})
        before = self.client.get("/").text.count("graph-tile")
        asked = {"revision": 0, "nodes": CHOSEN, "title": "Late"}
        self.assertEqual(self.client.post(f"{self.url}/motifs", json=asked).status_code, 409)
        self.assertEqual(self.client.get("/").text.count("graph-tile"), before)

    def test_a_file_brings_it_into_another_project_once(self) -> None:
        self.make()
        exported = self.client.get(f"{self.url}/export.json").data
        data = json.loads(exported)
        (type_,) = data["motifs"]
        taken = [
            self.client.post("/api/graphs/import", data={"file": (io.BytesIO(text), "a.json")}).get_json()["id"]
            for text in (exported, json.dumps(data).replace("Gloss by rim", "Another gloss").encode())
        ]
        found = [
            [n["type"] for n in self.client.get(f"/api/graphs/{i}").get_json()["document"]["nodes"]] for i in taken
        ]
        self.assertIn(type_, found[0], "the very one that is kept here")
        self.assertNotIn(type_, found[1], "one that differs comes in beside it")


class Reference(WebCase):
    def test_analysis_of_one_node_and_of_all(self) -> None:
        one = self.client.get(f"{self.url}/analysis?node=rim&form=sphere").get_json()
        found = one["ranges"]["value"]
        self.assertEqual(found["proved"], [0, 1])
        self.assertGreater(found["seen"][1], 0.9)
        self.assertGreater(one["cost"]["operations"], 5)
        whole = self.client.get(f"{self.url}/cost").get_json()
        self.assertEqual(whole["pixel"]["reads"], 2)
        self.assertIsNone(whole["bounds"])
        self.assertIsNone(self.client.get(f"{self.url}/analysis?node=ghost").get_json())
        self.assertEqual(self.client.get(f"{self.url}/analysis?node=rim&tilt=900").status_code, 400)

    def test_the_reference_has_a_page_and_a_picture_for_every_node(self) -> None:
        listed = self.client.get("/nodes").text
        for key, kind in CATALOGUE.items():
            if kind.hidden:
                continue
            self.assertIn(f'href="/nodes/{key}"', listed)
            self.assertEqual(self.client.get(f"/nodes/{key}").status_code, 200, key)
        self.assertEqual(self.client.get("/nodes/brick/picture.png").mimetype, "image/png")
        for query, key in (
            ("darken crevices", "cavity"),
            ("two-sided", "face_side"),
            ("break up repeats", "scattered"),
        ):
            self.assertIn(f'href="/nodes/{key}', self.client.get(f"/nodes?q={query}").text, query)
        self.assertIn("No node is found", self.client.get("/nodes?q=zzz").text)
        self.assertEqual(self.client.get("/nodes/ghost").status_code, 404)

    def test_an_example_opens_as_a_graph_with_its_textures(self) -> None:
        made = self.client.post("/api/nodes/triplanar/example", json={}).get_json()["id"]
        state = self.client.get(f"/api/graphs/{made}").get_json()
        self.assertEqual(state["document"]["title"], "Triplanar: example")
        self.assertEqual([p for found in state["problems"].values() for p in found if "texture" in p["code"]], [])

    def test_a_variant_with_another_toggle_has_a_shader_of_its_own(self) -> None:
        splash = self.client.post("/api/graphs", json={"title": "S", "starter": "splash"}).get_json()["id"]
        url = f"/api/graphs/{splash}"
        plain = self.client.get(url).get_json()["shader"]["hash"]
        hard = self.client.get(f"{url}/shader?variant=hard_edge").get_json()
        self.assertNotEqual(hard["hash"], plain)
        self.assertIn("void main()", hard["fragment"])
        self.assertEqual(self.client.get(f"{url}?variant=hard_edge").get_json()["shader"]["hash"], hard["hash"])
        self.assertEqual(self.client.get(f"{url}/shader?variant=lime_wash").get_json()["hash"], plain)
