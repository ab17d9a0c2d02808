"""Rules of placing and throws over HTTP: kept, changed, undone, carried by files; what lands, what spurts, what is judged."""

import io
import json
from typing import Any

import numpy as np

from tests.web.test_stage import OnStage
from velvet_moth.store.database import plain_address
from velvet_moth.work.doing import do_job

AIM = {"eye": [0.0, 1.0, 3.0], "towards": [0.0, -0.6, -0.8]}
CAMERA = {"turn": 24.0, "tilt": 27.0, "distance": 5.2, "field": 30.0, "target": [0.0, -0.5, 0.0]}


class Rules(OnStage):
    def rule(self, step: str, body: dict[str, Any]) -> dict[str, Any]:
        answer = self.client.post(f"/api/rules{step}", json=body)
        self.assertEqual(answer.status_code, 200, answer.text)
        return dict(answer.get_json())

    def test_a_rule_is_kept_changed_and_undone(self) -> None:
        made = self.rule("", {})
        url = f"/{made['id']}"
        tilt = {"points": [[0.1, 70.0], [0.4, 0.0]], "between": "smooth"}
        changed = self.rule(
            f"{url}/operations", {"revision": 0, "operation": {"op": "set_rule_part", "part": "tilt", "curve": tilt}}
        )
        self.assertEqual((changed["curves"]["tilt"], changed["changed_parts"]), (tilt, ["tilt"]))
        self.assertEqual(changed["undo"], "changed tilt at a wall")
        stale = self.client.post(f"/api/rules{url}/undo", json={"revision": 0})
        self.refused(stale, 409, "stale-revision")
        self.assertEqual(self.rule(f"{url}/undo", {"revision": 1})["changed_parts"], [])
        self.assertEqual(self.rule(f"{url}/redo", {"revision": 2})["curves"]["tilt"], tilt)
        wrong = {"op": "set_rule_part", "part": "tilt", "curve": {"points": [[0.0, 100.0]]}}
        refused = self.client.post(f"/api/rules{url}/operations", json={"revision": 3, "operation": wrong})
        self.assertIn("0 to 90", self.refused(refused, 422, "operation-refused")["what"])
        file = self.client.get(f"/api/rules{url}/export.json").text
        same = self.client.post("/api/rules/import", data={"file": (io.BytesIO(file.encode()), "a.rule.json")})
        self.assertEqual(same.get_json()["id"], made["id"], "the same rule is that one")
        copy = self.rule(f"{url}/copy", {})
        self.assertEqual((copy["curves"]["tilt"], copy["name"]), (tilt, "As first thrown 2"))
        broken = self.client.post("/api/rules/import", data={"file": (io.BytesIO(b"{"), "a.rule.json")})
        self.refused(broken, 422, "file-refused")
        left = self.client.delete(f"/api/rules{url}").get_json()["rules"]
        self.assertTrue(copy["id"] in (ids := [one["id"] for one in left]) and made["id"] not in ids)
        self.assertEqual(self.rule(f"{url}/restore", {})["id"], made["id"])

    def test_a_file_brings_its_rule_and_what_it_does_not_bring_is_gone(self) -> None:
        made = self.rule(
            "", {"rule": {"format": "velvet-moth-rule", "version": 1, "name": "For the quay", "curves": {}}}
        )
        self.change(op="set_rule", value=str(made["id"]))
        file = self.client.get(f"{self.url}/export.json").text
        self.client.delete(f"/api/rules/{made['id']}")
        for text, named in ((file, True), (json.dumps({**json.loads(file), "rules": {}}), False)):
            sent = {"file": (io.BytesIO(text.encode()), "a.moth.json")}
            key = self.client.post("/api/graphs/import", data=sent).get_json()["id"]
            rule = self.client.get(f"/api/graphs/{key}").get_json()["document"]["rule"]
            names = {str(one["id"]): one["name"] for one in self.client.get("/api/rules").get_json()["rules"]}
            self.assertEqual(names.get(rule), "For the quay" if named else None)
            self.assertNotEqual(rule, str(made["id"]))


class Throwing(OnStage):
    def setUp(self) -> None:
        super().setUp()
        self.change(op="set_kind", value="decal")
        self.change(op="set_backdrop", value="quay_corner")

    def thrown(self, **asked: Any) -> list[dict[str, Any]]:
        answer = self.client.post(f"{self.url}/throws", json=asked)
        self.assertEqual(answer.status_code, 200, answer.text)
        return list(answer.get_json()["splashes"])

    def test_a_hand_throws_and_the_same_throw_lands_the_same(self) -> None:
        (found,) = self.thrown(aims=[{**AIM, "aside": [1.0, 0.0, 0.0], "slant": 40.0, "strength": 0.7, "seed": 8}])
        self.assertTrue(found["decals"])
        self.assertEqual(self.thrown(throws=[found["throw"]]), [found])
        self.assertEqual([one["seed"] for one in found["sources"]], [9.0])
        self.assertIn("tilt" if "tilted" in found["words"][0] else "size", {one["part"] for one in found["made"]})
        # Another rule, as while a curve is in a hand; then kept, it is read back and pinned.
        draft = {"points": [[0.0, 1.5]], "between": "straight"}
        rule = {"format": "velvet-moth-rule", "version": 1, "name": "Huge", "curves": {"size": draft}}
        (huge,) = self.thrown(throws=[found["throw"]], rule=rule)
        self.assertGreater(huge["decals"][0]["size"][0], found["decals"][0]["size"][0] * 1.5)
        state = self.change(op="set_decals", value=found["decals"])
        self.assertEqual(len(state["document"]["decals"]), len(found["decals"]))
        np.testing.assert_allclose(state["document"]["decals"][0]["reach"], found["decals"][0]["reach"])
        self.assertEqual(len(state["sources"]), 1)
        (nothing,) = self.thrown(aims=[{**AIM, "towards": [0.0, 1.0, 0.0]}])
        self.assertEqual((nothing["decals"], nothing["words"]), ([], ["It hits nothing."]))
        self.change(op="set_backdrop", value="")
        refused = self.client.post(f"{self.url}/throws", json={"aims": [AIM]})
        self.assertIn("nothing to throw at", self.refused(refused, 422, "operation-refused")["what"])

    def test_the_form_itself_can_be_thrown_at(self) -> None:
        self.change(op="set_form", value="sphere")
        self.change(op="set_backdrop", value="own_form")
        (found,) = self.thrown(aims=[{"eye": [0.0, 0.0, 4.0], "towards": [0.0, 0.0, -1.0]}])
        np.testing.assert_allclose(found["decals"][0]["place"], (0, 0, 1), atol=0.01)

    def test_what_spurts_is_another_graph_with_an_emitter(self) -> None:
        url = f"{self.url}/spurt_shader"
        self.refused(self.client.get(url), 422, "operation-refused")
        other = self.client.post("/api/graphs", json={"title": "Drops", "starter": "enamel"}).get_json()["id"]
        choices = lambda: self.client.get(f"{self.url}/spurt_choices").get_json()["graphs"]  # noqa: E731 - asked twice
        before = choices()
        self.assertNotIn("Trial", [one["title"] for one in before])
        document = self.client.get(f"/api/graphs/{other}").get_json()["document"]
        emitter = {**document["emitter"], "burst": 12.0}
        sent = {"revision": 0, "operation": {"op": "set_emitter", "value": emitter}}
        drops = self.client.post(f"/api/graphs/{other}/operations", json=sent).get_json()
        self.assertEqual((drops["emitter"]["slots"], len(drops["emitter"]["sources"])), (12, 1))
        self.assertIn("gl_InstanceID", self.client.get(f"/api/graphs/{other}").get_json()["shader"]["vertex"])
        self.assertEqual([one for one in choices() if one not in before], [{"graph": str(other), "title": "Drops"}])
        state = self.change(op="set_spurt", value=str(other))
        self.assertEqual(state["spurt"]["title"], "Drops")
        found = self.client.get(url).get_json()
        self.assertIn("gl_InstanceID", found["shader"]["vertex"])
        self.assertEqual(found["emitter"]["slots"], 12)

    def test_many_are_judged_as_a_job(self) -> None:
        asked = {"count": 20, "seed": 2, "camera": CAMERA}
        job = self.client.post(f"{self.url}/judgements", json=asked).get_json()
        do_job(plain_address(self.engine), job["id"])
        (done,) = [one for one in self.client.get("/api/jobs").get_json()["jobs"] if one["id"] == job["id"]]
        self.assertEqual(done["state"], "done", done)
        found = self.client.get(f"/api/judgements/{done['subject']}").get_json()
        self.assertEqual((len(found["throws"]), len(found["measured"]), found["rule"]), (20, 20, "As first thrown"))
        self.assertTrue(all(one["is_good"] for one in found["verdicts"] if one["key"] in ("hanging", "through")))
        sheet = self.client.get(f"/api/judgements/{done['subject']}/sheet.png")
        self.assertEqual((sheet.status_code, sheet.data[:4]), (200, b"\x89PNG"))
        self.refused(self.client.get("/api/judgements/none"), 404, "not-found")
