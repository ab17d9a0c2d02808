"""The JSON interface and the pages, through Flask's test client."""

import io
import json
import zipfile
from typing import Any

import cv2
import numpy as np
from flask.testing import FlaskClient
from sqlalchemy import update
from werkzeug.test import TestResponse

from tests.support.databases import StoreCase, graph_id
from velvet_moth.core.making.beginnings import noise, stack
from velvet_moth.core.pictures.formats import read_picture
from velvet_moth.store.database import plain_address
from velvet_moth.store.models import PaintedRow
from velvet_moth.web.app import create_app
from velvet_moth.work.doing import do_job


class WebCase(StoreCase):
    client: FlaskClient

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.app = create_app(cls.engine, "a secret for tests")
        cls.app.config["WTF_CSRF_ENABLED"] = False
        cls.addClassCleanup(cls.app.extensions["apart"].close)

    def setUp(self) -> None:
        super().setUp()
        self.client = self.app.test_client()
        made = self.client.post("/api/graphs", json={"title": "Trial", "starter": "enamel"})
        self.graph = made.get_json()["id"]
        self.url = f"/api/graphs/{self.graph}"

    def edit(self, revision: int, operation: dict[str, Any], **view: Any) -> TestResponse:
        return self.client.post(f"{self.url}/operations", json={"revision": revision, "operation": operation, **view})

    def refused(self, response: TestResponse, status: int, code: str) -> dict[str, Any]:
        self.assertEqual(response.status_code, status, response.text)
        error = response.get_json()["error"]
        self.assertEqual(error["code"], code)
        self.assertEqual(set(error), {"code", "what", "where", "mend"})
        self.assertTrue(error["what"].endswith((".", "!")) or ":" in error["what"])
        return error


class Editing(WebCase):
    def test_the_answer_carries_what_changed(self) -> None:
        whole = self.client.get(self.url).get_json()
        self.assertIn("void main()", whole["shader"]["fragment"])
        self.assertIsNone(whole["gone"])
        known = whole["shader"]["hash"]
        value = {"op": "set_value", "node": "gloss_scale", "input": "b", "value": [0.9]}
        answer = self.edit(0, value, shader=known, seen=whole["seen"]).get_json()
        self.assertEqual(answer["revision"], 1)
        self.assertNotIn("fragment", answer["shader"], "an unchanged text is not sent again")
        self.assertEqual([node["id"] for node in answer["document"]["nodes"]], ["gloss_scale"])
        self.assertIn("gloss.surface", answer["swatches"])
        self.assertNotIn("flake_map.normal", answer["swatches"])
        self.assertEqual(answer["undo"], "set Gloss roughness to 0.9")
        rewired = {"op": "wire", "node": "gloss", "input": "metallic", "from_node": "rim", "from_output": "value"}
        self.assertIn("fragment", self.edit(1, rewired, shader=known).get_json()["shader"])
        undone = self.client.post(f"{self.url}/undo", json={"revision": 2}).get_json()
        self.assertEqual(undone["shader"]["hash"], known)
        self.assertEqual(undone["redo"], "wired Rim to Metallic of Clear gloss")

    def test_a_stale_edit_is_answered_with_what_happened(self) -> None:
        self.edit(0, {"op": "set_title", "value": "First"})
        response = self.edit(0, {"op": "set_title", "value": "Second"})
        self.refused(response, 409, "stale-revision")
        body = response.get_json()
        self.assertEqual(body["revision"], 1)
        self.assertEqual(body["since"][0]["operation"]["value"], "First")

    def test_refusals_roll_back_and_speak(self) -> None:
        self.refused(self.edit(0, {"op": "remove_nodes", "nodes": ["dock"]}), 422, "operation-refused")
        self.assertEqual(self.client.get(self.url).get_json()["revision"], 0)

    def test_views_of_a_variant_and_of_one_output(self) -> None:
        night = self.client.get(f"{self.url}?variant=night_ferry").get_json()
        mean = night["swatches"]["face_tint.colour"]["mean"]
        self.assertGreater(mean[2], mean[0])
        shown = self.client.get(f"{self.url}?shown=flakes_face_on.result").get_json()
        self.assertEqual(shown["shown"], "flakes_face_on.result")
        self.assertNotIn("fn_lit", shown["shader"]["fragment"])
        gone = self.client.get(f"{self.url}?shown=ghost.result&variant=ghost").get_json()
        self.assertEqual((gone["shown"], gone["variant"]), ("", ""))

    def test_requests_out_of_order_are_told_so(self) -> None:
        cases: list[tuple[Any, int, str]] = [
            ({"revision": 0, "operation": {"op": "explode"}}, 400, "bad-request"),
            ({"revision": -1, "operation": {"op": "set_title", "value": "x"}}, 400, "bad-request"),
            ({"revision": 2**40, "operation": {"op": "set_title", "value": "x"}}, 400, "bad-request"),
            ({"revision": 0}, 400, "bad-request"),
            ({"revision": 0, "operation": {"op": "set_title", "value": "x"}, "extra": 1}, 400, "bad-request"),
            ({"revision": 0, "operation": {"op": "set_title", "value": "a\0b"}}, 400, "bad-request"),
            ({"revision": 0, "operation": {"op": "set_title", "value": "x"}, "shown": "a.b;drop"}, 400, "bad-request"),
            ("no object", 400, "bad-request"),
        ]
        for body, status, code in cases:
            with self.subTest(body=body):
                self.refused(self.client.post(f"{self.url}/operations", json=body), status, code)
        self.refused(self.client.get("/api/graphs/999999"), 404, "not-found")
        self.refused(self.client.get("/api/graphs/99999999999999"), 404, "not-found")
        self.refused(self.client.post(f"{self.url}/undo", json={"revision": 0}), 409, "nothing-to-undo")
        self.refused(self.client.put(self.url), 405, "method-not-allowed")


class Files(WebCase):
    def send(self, url: str, data: bytes, name: str, **fields: str) -> TestResponse:
        return self.client.post(url, data={"file": (io.BytesIO(data), name), **fields})

    def test_a_graph_goes_out_and_comes_back_with_its_textures(self) -> None:
        out = self.client.get(f"{self.url}/export.json")
        self.assertIn("trial.moth.json", out.headers["Content-Disposition"])
        self.assertEqual(len(json.loads(out.data)["textures"]), 2)
        back = self.send("/api/graphs/import", out.data, "trial.moth.json").get_json()["id"]
        mine, theirs = (self.client.get(f"/api/graphs/{k}").get_json() for k in (self.graph, back))
        self.assertEqual(theirs["document"]["title"], "Trial 2")
        self.assertEqual(theirs["document"]["nodes"], mine["document"]["nodes"])
        self.assertEqual(theirs["problems"], mine["problems"])
        error = self.refused(self.send("/api/graphs/import", b"{}", "x.json"), 422, "file-refused")
        self.assertIn("x.json", error["where"])

    def test_a_picture_becomes_a_texture_with_its_levels(self) -> None:
        _, png = cv2.imencode(".png", np.full((4, 8, 3), (10, 20, 200), np.uint8))
        made = self.send("/api/textures", png.tobytes(), "chalk.png", role="colour").get_json()["texture"]
        self.assertEqual((made["name"], made["width"], made["height"]), ("chalk", 8, 4))
        levels = self.client.get(f"/api/textures/{made['id']}/levels")
        self.assertEqual(levels.headers["X-Texture-Size"], "8 4")
        self.assertEqual(len(levels.data), (32 + 8 + 2 + 1) * 4)
        self.assertEqual(list(levels.data[:4]), [200, 20, 10, 255])
        small = self.client.get(f"/api/textures/{made['id']}/levels?most=4")
        self.assertEqual((small.headers["X-Texture-Size"], small.headers["X-Texture-Whole"]), ("4 2", "8 4"))
        self.assertEqual(small.data, levels.data[32 * 4 :])
        kept = self.client.get(f"/api/textures/{made['id']}/file")
        self.assertEqual(kept.data, png.tobytes(), "the very file is kept")

    def test_textures_go_out_in_any_format_alone_and_together(self) -> None:
        _, png = cv2.imencode(".png", np.full((4, 8, 3), (40, 20, 180), np.uint8))
        key = self.send("/api/textures", png.tobytes(), "sluice.png", role="colour").get_json()["texture"]["id"]
        for format_ in ("png", "tga", "exr", "hdr"):
            out = self.client.get(f"/api/textures/{key}/as/{format_}")
            self.assertIn(f'"sluice.{format_}"', out.headers["Content-Disposition"])
            picture, found = read_picture(out.data, f"sluice.{format_}")
            self.assertEqual((picture.size, found.key), ((8, 4), format_))
        red = self.client.get(f"/api/textures/{key}/as/png?channel=red")
        self.assertEqual(red.headers["Content-Disposition"], 'attachment; filename="sluice-red.png"')
        self.assertEqual(np.unique(read_picture(red.data, "red.png")[0].samples).tolist(), [180])
        told = self.client.get("/api/textures/all.zip?format=tga&names={name}_{role}_{width}")
        with zipfile.ZipFile(io.BytesIO(told.data)) as folder:
            self.assertIn("sluice_colour_8.tga", folder.namelist())
            self.assertGreater(len(folder.namelist()), 20)
        for wrong in (f"{key}/as/jpeg", f"{key}/as/png?channel=fog", "all.zip?format=gif", "all.zip?names={fog}"):
            self.refused(self.client.get(f"/api/textures/{wrong}"), 422, "file-refused")

    def test_a_texture_is_read_another_way_and_its_users_follow(self) -> None:
        state = self.client.get(self.url).get_json()
        key = next(s["texture"] for s in state["shader"]["samplers"] if s["key"] == ["flake_map", "texture"])
        told = self.client.get(f"/api/textures/{key}").get_json()
        self.assertLessEqual({"Ferry enamel", "Trial"}, {user["title"] for user in told["users"]})
        self.assertEqual(told["guess"]["reading"], {"role": "normal", "green": "up"})
        turned = {"role": "normal", "green": "down"}
        self.assertEqual(
            self.client.post(f"/api/textures/{key}/reading", json=turned).get_json()["texture"]["revision"], 1
        )
        told = self.client.get(f"/api/textures/{key}").get_json()
        (verdict,) = [v for v in told["verdicts"] if v["code"] == "other-green"]
        self.assertEqual(verdict["reading"], {"role": "normal", "green": "up"})
        after = self.client.get(self.url).get_json()
        self.assertEqual(after["textures"][key]["revision"], 1)
        self.assertNotEqual(after["seen"], state["seen"])
        self.assertNotEqual(after["swatches"]["flake_map.normal"], state["swatches"]["flake_map.normal"])
        self.client.post(f"/api/textures/{key}/reading", json=verdict["reading"])
        mended = self.client.get(self.url).get_json()
        self.assertEqual(mended["swatches"]["flake_map.normal"], state["swatches"]["flake_map.normal"])
        self.client.delete(f"/api/textures/{key}")
        gone = self.client.get(self.url).get_json()
        self.assertIn("missing-texture", [p["code"] for p in gone["problems"]["flake_map"]])
        self.assertNotEqual(gone["stamp"], mended["stamp"], "pictures kept by the stamp are not those of before")
        self.client.post(f"/api/textures/{key}/restore")
        back = self.client.get(self.url).get_json()
        self.assertEqual(back["swatches"]["flake_map.normal"], mended["swatches"]["flake_map.normal"])

    def test_hostile_uploads_get_a_sentence(self) -> None:
        for data, name, role in (
            (b"", "a.png", "colour"),
            (b"MZ\x90", "a.png", "data"),
            (b"\xff\xd8\xff", "a.jpg", "data"),
        ):
            self.refused(self.send("/api/textures", data, name, role=role), 422, "file-refused")
        self.refused(self.client.post("/api/textures"), 422, "file-refused")
        _, png = cv2.imencode(".png", np.zeros((2, 2, 3), np.uint8))
        self.refused(self.send("/api/textures", png.tobytes(), "a.png", role="sound"), 400, "bad-request")

    def made(self, recipe: dict[str, Any]) -> dict[str, Any]:
        """A stack kept and its textures made."""
        row = self.client.post("/api/recipes", json={"recipe": recipe}).get_json()
        return self.made_again(f"/api/recipes/{row['id']}", row["revision"])

    def made_again(self, url: str, revision: int) -> dict[str, Any]:
        """The textures of a stack made as a worker would; its state then."""
        job = self.client.post(f"{url}/make", json={"revision": revision}).get_json()
        do_job(plain_address(self.engine), job["id"])
        return dict(self.client.get(url).get_json())

    def test_a_stack_makes_textures_and_its_users_follow_when_it_changes(self) -> None:
        stack = noise("Silt", 64, "fractal_noise", {"cells": 4}, 0.03)
        made = self.made(stack)
        height, normal = made["textures"]["height"], made["textures"]["normal"]
        told = {t["id"]: t for t in self.client.get("/api/textures").get_json()["textures"]}
        self.assertEqual(
            [(told[k]["name"], told[k]["role"]) for k in (height, normal)],
            [("Silt height", "height"), ("Silt normal", "normal")],
        )
        value = {"op": "set_value", "node": "flake_map", "input": "texture", "value": normal}
        before = self.edit(0, value).get_json()
        url = f"/api/recipes/{made['id']}"

        def ask(step: str, revision: int, **more: Any) -> Any:
            return self.client.post(f"{url}/{step}", json={"revision": revision, **more})

        cells = {"op": "set_step_setting", "step": stack["steps"][0]["id"], "setting": "cells", "value": 9}
        edited = ask("operations", 0, operation=cells).get_json()
        self.assertEqual(
            (edited["revision"], edited["is_made"], edited["undo"]), (1, False, "set Cells of Fractal noise to 9")
        )
        self.assertEqual(self.client.get(self.url).get_json()["textures"][normal]["revision"], 0, "until it is made")
        kept = self.made_again(url, 1)
        self.assertEqual((kept["textures"], kept["revision"], kept["is_made"]), (made["textures"], 1, True))
        after = self.client.get(self.url).get_json()
        self.assertEqual((after["textures"][normal]["revision"], after["textures"][normal]["role"]), (1, "normal"))
        self.assertNotEqual(after["swatches"]["flake_map.normal"], before["swatches"]["flake_map.normal"])
        stale = ask("operations", 0, operation=cells)
        self.refused(stale, 409, "stale-revision")
        self.assertEqual([change["operation"]["setting"] for change in stale.get_json()["since"]], ["cells"])
        own = {**cells, "step": stack["steps"][1]["id"], "setting": "height", "value": {"texture": normal}}
        self.refused(ask("operations", 1, operation=own), 422, "operation-refused")
        undone = ask("undo", 1).get_json()
        self.assertEqual((undone["stack"], undone["redo"]), (made["stack"], edited["undo"]))
        self.assertEqual(ask("redo", 2).get_json()["stack"], edited["stack"])
        self.refused(self.client.delete(url), 422, "operation-refused")
        stack["steps"][0]["values"] = {"cells": 0}
        error = self.refused(self.client.post("/api/recipes/preview", json={"recipe": stack}), 422, "file-refused")
        self.assertIn("Cells takes a number from 1", error["what"])

    def test_a_stack_that_cannot_be_made_stops_no_change_of_a_texture(self) -> None:
        keys = [
            self.send(
                "/api/textures", cv2.imencode(".png", np.full((8, 8), grey, np.uint8))[1].tobytes(), name
            ).get_json()["texture"]["id"]
            for name, grey in (("kept.png", 40), ("gone.png", 90))
        ]
        steps = {"both": ("blend", {"under": {"texture": keys[0]}, "over": {"texture": keys[1]}})}
        made = self.made(stack("Both", 64, steps, {"a": ("Both", "both", "8 bit")}))
        self.client.delete(f"/api/textures/{keys[1]}")
        other = cv2.imencode(".png", np.full((8, 8), 9, np.uint8))[1].tobytes()
        self.assertEqual(self.send(f"/api/textures/{keys[0]}/file", other, "flat.png").status_code, 200)
        url = f"/api/recipes/{made['id']}"
        told = {one["id"]: one["has_textures"] for one in self.client.get("/api/recipes").get_json()["stacks"]}
        self.assertTrue(told[made["id"]])
        key = made["textures"]["a"]
        self.client.delete(f"/api/textures/{key}")
        self.assertEqual(self.client.delete(url).status_code, 200)
        back = self.client.post(f"/api/textures/{key}/restore").get_json()["texture"]
        self.assertIsNone(back["recipe"], "it names no stack that is gone")

    def test_a_texture_takes_the_place_of_another_everywhere_and_goes_back(self) -> None:
        _, png = cv2.imencode(".png", np.full((8, 8, 3), (255, 128, 128), np.uint8))
        other = self.send("/api/textures", png.tobytes(), "calm.png", role="normal").get_json()["texture"]["id"]
        node = next(n for n in self.client.get(self.url).get_json()["document"]["nodes"] if n["id"] == "flake_map")
        old = node["values"]["texture"]
        steps = {"turned": ("invert", {"before": {"texture": old}})}
        made = self.made(stack("Turned", 64, steps, {"a": ("Turned", "turned", "8 bit")}))
        done = self.client.post(f"/api/textures/{old}/replace", json={"by": other}).get_json()
        self.assertIn("Trial", [graph["title"] for graph in done["graphs"]])
        self.assertEqual([recipe["title"] for recipe in done["recipes"]], ["Turned"])
        self.assertEqual(self.client.get(f"/api/textures/{old}").get_json()["users"], [])
        state = self.client.get(self.url).get_json()
        self.assertEqual(state["undo"], "replaced a texture by another")
        again = self.client.post(f"/api/textures/{old}/replace", json={"by": other})
        self.assertIn("Nothing uses", self.refused(again, 422, "operation-refused")["what"])
        self.client.post("/api/textures/replace/undo", json=done)
        after = self.client.get(self.url).get_json()
        self.assertIn(old, after["textures"])
        self.assertEqual(self.client.get(f"/api/recipes/{made['id']}").get_json()["stack"], made["stack"])
        self.refused(self.client.post("/api/textures/replace/undo", json=done), 409, "stale-revision")

    def test_a_stack_that_reads_a_texture_follows_it(self) -> None:
        _, png = cv2.imencode(".png", np.arange(64, dtype=np.uint8).reshape(8, 8) * 4)
        source = self.send("/api/textures", png.tobytes(), "slope.png", role="height").get_json()["texture"]["id"]
        steps = {"turned": ("invert", {"before": {"texture": source}})}
        made = self.made(stack("Turned", 64, steps, {"a": ("Turned", "turned", "8 bit")}))
        key = made["textures"]["a"]
        before = self.client.get(f"/api/textures/{key}/levels").data
        other = cv2.imencode(".png", np.full((8, 8), 9, np.uint8))[1].tobytes()
        self.send(f"/api/textures/{source}/file", other, "flat.png")
        after = self.client.get(f"/api/textures/{key}/levels").data
        self.assertNotEqual(after, before)
        self.assertEqual(after[0], 255 - 9)

    def test_pictures_and_stage_data(self) -> None:
        self.client.get(f"{self.url}/picture.png")
        self.session.execute(update(PaintedRow).values(program="another"))
        self.session.commit()
        stand_in = self.client.get(f"{self.url}/picture.png")
        self.assertEqual((stand_in.headers["X-Stand-In"], stand_in.headers["Cache-Control"]), ("yes", "no-store"))
        picture = self.client.get(f"{self.url}/picture.png?fresh=1")
        self.assertNotIn("X-Stand-In", picture.headers)
        self.assertEqual(self.client.get(f"{self.url}/picture.png").data, picture.data, "no longer stood in for")
        self.assertEqual(cv2.imdecode(np.frombuffer(picture.data, np.uint8), 1).shape, (200, 320, 3))
        form = self.client.get("/api/stage/forms/box")
        self.assertEqual(len(form.data), int(form.headers["X-Vertices"]) * 72 + int(form.headers["X-Triangles"]) * 12)
        self.refused(self.client.get("/api/stage/forms/teapot"), 422, "file-refused")
        self.assertEqual(len(self.client.get("/api/stage/environment/low_sun").data), 256 * 1024 * 8)
        again = self.client.get("/api/stage/environment/low_sun", headers={"If-None-Match": "*"})
        self.assertEqual(again.status_code, 304)
        shaders = self.client.get("/api/stage/backdrops/lock_basin").get_json()
        self.assertIn("texture_backdrop", shaders["seen"]["fragment"])
        self.assertNotIn("texture_backdrop", shaders["light"]["fragment"], "it may not read what it draws")
        hits = self.client.get("/api/nodes/search?q=rim").get_json()["hits"]
        self.assertEqual(hits[0]["key"], "view_falloff")


class Library(WebCase):
    def test_delete_restore_duplicate(self) -> None:
        self.client.delete(self.url)
        self.refused(self.client.get(self.url), 404, "not-found")
        self.assertEqual(self.client.get(f"/graphs/{self.graph}").status_code, 404)
        self.client.post(f"{self.url}/restore")
        self.assertEqual(self.client.get(self.url).status_code, 200)
        copy = self.client.post(f"{self.url}/duplicate").get_json()["id"]
        self.assertNotEqual(copy, self.graph)
        page = self.client.get("/").text
        self.assertIn("Trial copy", page)
        self.refused(self.client.post("/api/graphs", json={"starter": "none"}), 422, "file-refused")

    def test_titles_are_text_on_every_page(self) -> None:
        title = "<script>alert(1)</script>"
        self.edit(0, {"op": "set_title", "value": title})
        for url in ("/", f"/graphs/{self.graph}"):
            page = self.client.get(url).text
            self.assertNotIn(title, page)
            self.assertIn("&lt;script&gt;", page)


class Safety(WebCase):
    def test_headers_and_loopback_names(self) -> None:
        page = self.client.get("/")
        policy = page.headers["Content-Security-Policy"]
        self.assertIn("default-src 'none'", policy)
        self.assertNotIn("unsafe", policy)
        self.assertNotIn("style=", page.text)
        self.assertEqual(self.client.get("/", headers={"Host": "elsewhere.example"}).status_code, 400)

    def test_a_post_needs_the_pages_key(self) -> None:
        self.app.config["WTF_CSRF_ENABLED"] = True
        try:
            self.refused(self.edit(0, {"op": "set_title", "value": "x"}), 400, "stale-page")
        finally:
            self.app.config["WTF_CSRF_ENABLED"] = False

    def test_shipped_files_are_kept_for_ever_and_nothing_else_is_served(self) -> None:
        page = self.client.get(f"/graphs/{graph_id(self.engine, 'Ferry enamel')}").text
        tree = page.split("/assets/")[1].split("/")[0]
        script = self.client.get(f"/assets/{tree}/js/base/dom.js")
        self.assertIn("immutable", script.headers["Cache-Control"])
        for path in ("../app.py", "..%2fapp.py", "js/../../app.py"):
            self.assertEqual(self.client.get(f"/assets/{tree}/{path}").status_code, 404)
