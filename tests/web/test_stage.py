"""What the stage asks of the server: decals, exposure, environments, backdrops and their surfaces, views."""

import io
from typing import Any

import numpy as np

from tests.web.test_web import WebCase
from velvet_moth.core.lighting.environment import HEIGHT, RESPONSE_STRIP, environment_map
from velvet_moth.core.pictures.formats import write_png

EYE = {"form": "plane", "rig": "open_dock", "backdrop": "wall_and_floor", "turn": 0, "tilt": 2, "distance": 5}
PIXEL = {"width": 64, "height": 48, "column": 32, "row": 28}


class OnStage(WebCase):
    def setUp(self) -> None:
        super().setUp()
        self.revision = 0

    def change(self, **operation: Any) -> dict[str, Any]:
        answer = self.edit(self.revision, operation)
        self.assertEqual(answer.status_code, 200, answer.text)
        self.revision += 1
        return dict(answer.get_json())

    def wrong(self, words: str, **operation: Any) -> None:
        error = self.refused(self.edit(self.revision, operation), 422, "operation-refused")
        self.assertIn(words, error["what"])

    def asked(self, what: str, **more: Any) -> Any:
        return self.client.get(f"{self.url}/{what}", query_string={**EYE, **more}).get_json()

    def picture(self, light: float) -> str:
        """A texture that is the same in all directions."""
        file = io.BytesIO(write_png(np.full((32, 64, 3), round(255 * light), np.uint8)))
        sent = self.client.post("/api/textures", data={"file": (file, f"room {light}.png"), "role": "data"})
        return str(sent.get_json()["texture"]["id"])


class Decals(OnStage):
    def test_one_is_put_down_where_a_pixel_sees_the_wall(self) -> None:
        self.assertIsNone(self.asked("decal", **PIXEL, backdrop=""), "on nothing")
        self.assertIsNone(self.asked("decal", **{**PIXEL, "row": 47}, tilt=-40), "beside everything")
        found = self.asked("decal", **PIXEL)
        np.testing.assert_allclose(found["place"][2], -1.2, atol=1e-3)
        np.testing.assert_allclose((found["turn"], found["tilt"], found["index"]), (0, 0, 1), atol=1e-3)
        self.change(op="set_backdrop", value="wall_and_floor")
        state = self.change(op="set_kind", value="decal")
        self.assertTrue(state["shader"]["projected"])
        self.assertFalse(state["shader"]["casts"])
        self.assertEqual((len(state["decals"]), state["document"]["decals"]), (6, []), "those of the wall")
        own = self.change(op="set_decals", value=[found])
        written = {**found, "id": "decal_1"}
        self.assertEqual(own["document"]["decals"], [{name: written[name] for name in own["document"]["decals"][0]}])
        pinned = self.asked("pin", **PIXEL)
        np.testing.assert_allclose(pinned["place"], found["place"], atol=0.02)
        self.assertIsNone(self.asked("pin", **{**PIXEL, "column": 0}), "beside the decal")

    def test_what_cannot_be_put_down_is_told_with_its_number(self) -> None:
        fine = {"place": [0, 0, 0], "turn": 0, "tilt": 0, "roll": 0, "size": [1, 1, 1], "index": 1, "tint": [1, 1, 1]}
        for change, words in (
            ({"size": [0, 1, 1]}, "between 1 cm and 20 m"),
            ({"tint": [2, 0, 0]}, "between 0 and 1"),
            ({"index": -1}, "between 0 and 4096"),
            ({"place": [1e6, 0, 0]}, "too far away"),
        ):
            self.wrong(words, op="set_decals", value=[fine, {**fine, **change}])
        self.wrong("more than the 240", op="set_decals", value=[fine] * 241)


class Light(OnStage):
    def test_the_exposure_follows_the_light_and_what_lies_behind(self) -> None:
        bare = self.asked("exposure", backdrop="")["exposure"]
        self.change(op="set_environment", value=self.picture(0.05))
        dark = self.asked("exposure", backdrop="")["exposure"]
        self.assertGreater(dark, bare)
        before_a_wall = self.asked("exposure", form="sphere", distance=8)["exposure"]
        self.assertNotAlmostEqual(
            before_a_wall, self.asked("exposure", form="sphere", distance=8, backdrop="")["exposure"]
        )
        self.change(op="set_kind", value="decal")
        self.assertGreater(self.asked("exposure")["exposure"], 0.05)
        self.assertEqual(self.asked("exposure", backdrop="")["exposure"], 1.0, "nothing is seen at all")

    def test_a_texture_stands_around_and_is_told_of_when_it_is_gone(self) -> None:
        room = self.picture(0.5)
        state = self.change(op="set_environment", value=room)
        self.assertIn(room, state["textures"])
        self.assertEqual(self.client.get(f"/api/textures/{room}").get_json()["users"][0]["id"], self.graph)
        answer = self.client.get(f"/api/stage/environments/{room}")
        whole = np.frombuffer(answer.data, np.float16).reshape(-1, 256, 4)
        np.testing.assert_allclose(whole[: RESPONSE_STRIP * HEIGHT, :, :3].astype(float), 0.5, atol=0.01)
        harmonics = np.array(answer.headers["X-Texture-Harmonics"].split(), float).reshape(9, 3)
        np.testing.assert_allclose(harmonics[0] * 0.282095, 0.5, atol=0.01, err_msg="even light arrives as it is")
        np.testing.assert_allclose(harmonics[1:], 0, atol=0.01)
        own = environment_map("open_dock").levels[0]
        self.assertEqual(answer.headers["X-Texture-Size"], f"{own.shape[2]} {own.shape[1]}")
        self.client.delete(f"/api/textures/{room}")
        gone = self.client.get(self.url).get_json()
        (told,) = [p for p in gone["problems"]["dock"] if p["code"] == "missing-environment"]
        mended = self.change(**told["mends"][0]["operation"])
        self.assertNotIn("dock", mended["problems"])
        self.refused(self.client.get("/api/stage/environments/nobody"), 404, "not-found")

    def test_a_backdrop_is_lit_by_as_many_lamps_as_the_rig_has(self) -> None:
        texts = [
            self.client.get(f"/api/stage/backdrops/lock_basin?lamps={count}").get_json()["light"]["fragment"]
            for count in (0, 1, 3)
        ]
        for text, count in zip(texts, (0, 1, 3), strict=True):
            self.assertEqual([f"lamp_place_{n}" in text for n in (1, 2, 3)], [n <= count for n in (1, 2, 3)])
        self.refused(self.client.get("/api/stage/backdrops/lock_basin?lamps=99"), 400, "bad-request")
        night = self.change(op="set_rig", value="night_lamps")
        self.assertIn("lamp_colour_3", night["shader"]["fragment"])


class Views(OnStage):
    def test_views_are_kept_and_wrong_ones_told(self) -> None:
        camera = {"turn": 10, "tilt": 5, "distance": 3, "field": 40, "target": [0, 0.1, 0]}
        view = {"name": "From the quay", "camera": camera, "light_turn": 30, "light_tilt": 20}
        kept = self.change(op="set_views", value=[view])["document"]["views"]
        self.assertEqual(kept, [view])
        self.wrong("has this name", op="set_views", value=[view, view])
        self.wrong("sees 1 to 120", op="set_views", value=[{**view, "camera": {**camera, "field": 170}}])
        self.wrong("at most 1e+06", op="set_views", value=[{**view, "light_turn": 1e9}])
        self.wrong("at most 40", op="set_views", value=[{**view, "name": f"{n}"} for n in range(41)])
        version = self.client.post(f"{self.url}/versions", json={"name": "With a view"}).get_json()
        self.change(op="set_views", value=[])
        self.change(op="set_kind", value="see_through")
        told = self.client.get(f"{self.url}/versions/{version['id']}/compare").get_json()["elsewhere"]
        self.assertEqual(told, ["kind see-through, was solid", "saved views changed"])
        back = self.client.post(f"{self.url}/versions/{version['id']}/restore", json={"revision": self.revision})
        self.assertEqual(back.get_json()["document"]["views"], [view])
        self.assertEqual(back.get_json()["document"]["kind"], "solid")


class Wears(OnStage):
    """Parts of a backdrop in other graphs."""

    WALL = "wall_and_floor.wall"

    def made(self, title: str, colour: list[float]) -> str:
        key = str(self.client.post("/api/graphs", json={"title": title}).get_json()["id"])
        operation = {"op": "set_value", "node": "dock", "input": "base_colour", "value": colour}
        answer = self.client.post(f"/api/graphs/{key}/operations", json={"revision": 0, "operation": operation})
        self.assertEqual(answer.status_code, 200, answer.text)
        return key

    def test_a_part_is_dressed_follows_its_graph_and_outlives_it(self) -> None:
        self.change(op="set_backdrop", value="wall_and_floor")
        self.change(op="set_kind", value="see_through")
        self.change(op="set_value", node="dock", input="opacity", value=[0.0])
        red = self.made("Red wall", [0.8, 0.0, 0.0])
        for wears, words in (
            ([{"part": "wall_and_floor.roof", "graph": red}], "no part"),
            ([{"part": self.WALL, "graph": ""}], "no graph"),
            ([{"part": self.WALL, "graph": red}] * 2, "twice"),
        ):
            self.wrong(words, op="set_backdrop_materials", value=wears)
        offered = self.asked("backdrop_choices")["graphs"]
        self.assertIn({"graph": red, "title": "Red wall", "variants": []}, offered)
        self.assertNotIn(self.url.rpartition("/")[2], [one["graph"] for one in offered], "it is see-through")
        plain = self.asked("exposure")["exposure"]
        state = self.change(op="set_backdrop_materials", value=[{"part": self.WALL, "graph": red}])
        (shown,) = state["part_surfaces"]
        self.assertEqual((shown["title"], shown["part"]), ("Red wall", self.WALL))
        shader = self.client.get(f"/api/graphs/{red}/backdrop_shader?lamps=1").get_json()
        self.assertIn(0.8, [round(value, 3) for value in shader["values"]])
        self.assertNotIn("texture_backdrop", shader["shader"]["fragment"])
        lit = self.asked("exposure")["exposure"]
        self.assertGreater(abs(lit - plain), 0.01, "the picture is another")
        operation = {"op": "set_value", "node": "dock", "input": "base_colour", "value": [0.0, 0.0, 0.02]}
        self.client.post(f"/api/graphs/{red}/operations", json={"revision": 1, "operation": operation})
        after = self.client.get(self.url).get_json()
        self.assertNotEqual(after["part_surfaces"][0]["stamp"], shown["stamp"])
        self.assertNotEqual(after["stamp"], state["stamp"])
        self.assertGreater(self.asked("exposure")["exposure"], lit, "it is darker")
        self.client.delete(f"/api/graphs/{red}")
        gone = self.client.get(self.url).get_json()
        self.assertEqual(gone["part_surfaces"], [])
        self.assertAlmostEqual(self.asked("exposure")["exposure"], plain, 6)
        (told,) = [p for p in gone["problems"]["dock"] if p["code"] == "missing-graph"]
        self.assertIn("Wall of Wall and floor", told["what"])
        mended = self.change(**told["mends"][0]["operation"])
        self.assertNotIn("missing-graph", [p["code"] for p in mended["problems"].get("dock", [])])

    def test_a_file_carries_the_graphs_of_its_backdrop(self) -> None:
        blue = self.made("Blue wall", [0.0, 0.0, 0.7])
        self.change(op="set_backdrop", value="wall_and_floor")
        self.change(op="set_backdrop_materials", value=[{"part": self.WALL, "graph": blue}])
        file = self.client.get(f"{self.url}/export.json").data

        def shown_by_import() -> str:
            sent = {"file": (io.BytesIO(file), "dressed.json")}
            key = self.client.post("/api/graphs/import", data=sent).get_json()["id"]
            (one,) = self.client.get(f"/api/graphs/{key}").get_json()["part_surfaces"]
            return str(one["graph"])

        self.assertEqual(shown_by_import(), blue, "the one that is here already")
        self.client.delete(f"/api/graphs/{blue}")
        other = shown_by_import()
        self.assertNotEqual(other, blue)
        document = self.client.get(f"/api/graphs/{other}").get_json()["document"]
        (dock,) = [node for node in document["nodes"] if node["id"] == "dock"]
        self.assertEqual(dock["values"]["base_colour"], [0.0, 0.0, 0.7])
