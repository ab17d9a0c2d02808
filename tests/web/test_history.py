"""History, versions, crafts and news through Flask's test client and the database."""

import threading
from itertools import islice
from typing import Any

from sqlalchemy.orm import Session

from tests.web.test_web import WebCase
from velvet_moth.core.operations import set_field
from velvet_moth.store import graphs


class History(WebCase):
    EDITS = (
        {"op": "add_node", "node": {"id": "silt", "type": "fractal_noise"}},
        {"op": "wire", "node": "base_coat", "input": "occlusion", "from_node": "silt", "from_output": "value"},
        {"op": "mute_nodes", "nodes": ["rim"], "muted": True},
        {"op": "put_marks", "marks": [{"kind": "frame", "id": "f", "title": "Rim", "nodes": ["rim"]}]},
        {"op": "remove_nodes", "nodes": ["face_tint", "rim"]},
    )

    def document(self) -> dict[str, Any]:
        return self.client.get(self.url).get_json()["document"]

    def edited(self) -> list[dict[str, Any]]:
        states = [self.document()]
        for revision, operation in enumerate(self.EDITS):
            states.append(self.edit(revision, operation).get_json()["document"])
        return states

    def jump(self, revision: int, number: int) -> Any:
        return self.client.post(f"{self.url}/jump", json={"revision": revision, "number": number})

    def test_any_step_is_one_jump_away_and_nothing_is_lost(self) -> None:
        states = self.edited()
        listed = self.client.get(f"{self.url}/history").get_json()["steps"]
        self.assertEqual(
            [s["words"] for s in listed][:2], ["added Fractal noise", "wired Fractal noise to Occlusion of Flake coat"]
        )
        numbers = [0, *(s["number"] for s in listed)]
        revision = len(self.EDITS)
        for goal in (2, 0, 4, 5, 1, 3):
            answer = self.jump(revision, numbers[goal]).get_json()
            self.assertEqual(answer["document"], states[goal], goal)
            revision = answer["revision"]
            done = [s["done"] for s in self.client.get(f"{self.url}/history").get_json()["steps"]]
            self.assertEqual(done, [True] * goal + [False] * (5 - goal))
        self.assertEqual(answer["undo"], "muted Rim")
        self.assertEqual(answer["redo"], "added the frame Rim")
        undone = self.client.post(f"{self.url}/undo", json={"revision": revision}).get_json()
        self.assertEqual(undone["document"], states[2])
        self.refused(self.jump(undone["revision"], 4711), 404, "not-found")
        self.assertEqual(self.jump(0, 0).status_code, 409)

    def test_the_values_a_parameter_had_are_found_again(self) -> None:
        parameter = next(p for p in self.document()["parameters"] if p["id"] == "rim_width")
        node, key = parameter["node"], parameter["input"]
        first = next(n for n in self.document()["nodes"] if n["id"] == node)["values"][key]
        variant = self.document()["variants"][0]
        for revision, operation in enumerate(
            (
                {"op": "set_value", "node": node, "input": key, "value": [5.5]},
                {"op": "set_override", "variant": variant["id"], "parameter": "rim_width", "value": [1.5]},
                {"op": "set_value", "node": node, "input": key, "value": [2.5]},
            )
        ):
            self.assertEqual(self.edit(revision, operation).status_code, 200)
        found = self.client.get(f"{self.url}/history/rim_width").get_json()["values"]
        self.assertEqual([h["value"] for h in found], [[2.5], [5.5], [1.5], first])
        self.assertEqual([h["where"] for h in found], ["the defaults", "the defaults", variant["name"], "the defaults"])
        self.refused(self.client.get(f"{self.url}/history/nothing"), 404, "not-found")

    def test_versions_are_kept_compared_and_restored(self) -> None:
        states = self.edited()
        kept = self.client.post(f"{self.url}/versions", json={"name": "No face"}).get_json()
        same = self.client.post(f"{self.url}/versions", json={"name": "No face"})
        self.refused(same, 422, "operation-refused")
        self.jump(5, 0)
        url = f"{self.url}/versions/{kept['id']}"
        self.edit(6, {"op": "set_value", "node": "gloss_scale", "input": "b", "value": [0.9]})
        told = self.client.get(f"{url}/compare").get_json()
        self.assertEqual(set(told["added"]), {"face_tint", "rim"})
        self.assertEqual([r["name"] for r in told["removed"]], ["Fractal noise"])
        self.assertEqual(told["changed"]["gloss_scale"], ["B 0.9, was 0.35"])
        self.assertIn("Occlusion not wired, was from Fractal noise", told["changed"]["base_coat"])
        self.assertIn("new parameter Face tint", told["elsewhere"])
        picture = self.client.get(f"{url}/picture.png").data
        now = self.edit(7, {"op": "set_value", "node": "gloss_scale", "input": "b", "value": [0.8]}).get_json()
        later = self.client.get(f"{url}/compare").get_json()
        self.assertEqual(later["version"], told["version"], "a version's picture does not change with the graph")
        self.assertEqual((later["stamp"], now["stamp"] == told["stamp"]), (now["stamp"], False))
        self.assertEqual(self.client.get(f"{url}/picture.png").data, picture)
        self.client.post(f"{self.url}/undo", json={"revision": 8})
        restored = self.client.post(f"{url}/restore", json={"revision": 9}).get_json()
        self.assertEqual(restored["document"], states[5])
        self.assertEqual(restored["undo"], "restored version No face")
        self.refused(self.client.post(f"{url}/restore", json={"revision": 10}), 422, "operation-refused")
        back = self.client.post(f"{self.url}/undo", json={"revision": 10}).get_json()
        self.assertEqual(back["undo"], "set Gloss roughness to 0.9", "what came after is an undo away")
        self.assertEqual(self.client.delete(url).status_code, 200)
        self.refused(self.client.get(f"{url}/compare"), 404, "not-found")

    def test_crafts_answer_with_what_they_made(self) -> None:
        asked = {"craft": "duplicate", "nodes": ["flake_tile", "flake_map"], "find": "Flake", "replace_with": "Grit"}
        made = self.client.post(f"{self.url}/crafts", json={"revision": 0, "craft": asked}).get_json()
        self.assertEqual(made["made"], ["flake_map_2", "flake_tile_2"])
        self.assertEqual(made["undo"], "duplicated 2 cards")
        pasted = {"craft": "paste", "text": "no cards at all"}
        self.refused(self.client.post(f"{self.url}/crafts", json={"revision": 1, "craft": pasted}), 422, "file-refused")
        self.assertEqual(self.client.post(f"{self.url}/crafts", json={"revision": 0, "craft": asked}).status_code, 409)

    def test_news_come_once_a_change_is_committed(self) -> None:
        newsroom = self.app.extensions["newsroom"]
        self.addCleanup(newsroom.close)
        heard: list[Any] = []
        stream = newsroom.stream()
        ready = threading.Event()

        def hear() -> None:
            ready.set()
            heard.extend(islice((n for n in stream if n), 2))

        listener = threading.Thread(target=hear)
        listener.start()
        ready.wait()
        while not listener_is_on(self.engine):
            pass
        with Session(self.engine) as lost:
            graphs.change(lost, self.graph, 0, set_field("title", "Never told"))
            lost.rollback()
        self.edit(0, {"op": "set_title", "value": "Told"})
        self.edit(1, {"op": "set_title", "value": "Told again"})
        listener.join(30)
        self.assertEqual([(n.graph, n.revision) for n in heard], [(self.graph, 1), (self.graph, 2)])
        self.assertEqual(heard[0].words, "renamed the graph Told")


def listener_is_on(engine: Any) -> bool:
    with engine.connect() as connection:
        asked = "select 1 from pg_stat_activity where query ilike 'listen %%' and datname = current_database()"
        return connection.exec_driver_sql(asked).first() is not None
