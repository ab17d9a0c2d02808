"""A database of an older version opens with all that was in it, and what was done can be taken back."""

import json
import unittest
import uuid
from typing import Any

from sqlalchemy import text
from sqlalchemy.orm import Session

from tests.support.databases import server
from tests.support.graphs import enamel
from velvet_moth.core.document.scene import BackdropMaterial
from velvet_moth.core.files.graph_json import graph_to_json
from velvet_moth.core.operations import SetValue, set_field
from velvet_moth.store import graphs
from velvet_moth.store.database import make_engine, migrate

# One step of the history as version 0006 kept it, with what takes it back, from the first to the last.
STEPS: list[tuple[dict[str, Any], dict[str, Any]]] = [
    ({"op": "rename", "title": "Found"}, {"op": "rename", "title": "Lost"}),
    (
        {"op": "batch", "operations": [{"op": "set_scene", "part": "rig", "value": "low_sun"}], "summary": "low"},
        {"op": "batch", "operations": [{"op": "set_scene", "part": "rig", "value": "overcast"}], "summary": ""},
    ),
    ({"op": "choose_form", "form": "sphere"}, {"op": "choose_form", "form": "box"}),
    (
        {"op": "set_wears", "wears": [{"part": "lock_basin.bed", "graph": "7", "variant": ""}]},
        {"op": "set_wears", "wears": []},
    ),
    (
        {"op": "set_value", "node": "dock", "input": "cut_at", "value": [0.25]},
        {"op": "set_value", "node": "dock", "input": "cut_at", "value": None},
    ),
    ({"op": "set_surroundings", "texture": "sky"}, {"op": "set_surroundings", "texture": ""}),
]


class Older(unittest.TestCase):
    def test_what_was_set_is_there_and_taken_back_step_by_step(self) -> None:
        address = f"{server()}/older_{uuid.uuid4().hex[:8]}"
        migrate(address, "0006")
        document = graph_to_json(enamel())
        document |= {"version": 7, "title": "Found", "form": "sphere", "rig": "low_sun", "surroundings": "sky"}
        document["wears"] = [{"part": "lock_basin.bed", "graph": "7", "variant": ""}]
        (dock,) = (node for node in document["nodes"] if node["id"] == "dock")
        dock.setdefault("values", {})["cut_at"] = [0.25]
        for name in ("environment", "backdrop_materials"):
            del document[name]
        engine = make_engine(address)
        self.addCleanup(engine.dispose)
        with engine.begin() as connection:
            connection.execute(text("insert into projects (id, name) values (1, 'Older')"))
            connection.execute(
                text(
                    "insert into graphs (id, project_id, title, revision, document, undo, redo, wears)"
                    " values (1, 1, 'Found', 6, :document, '{1,2,3,4,5,6}', '{}', '{7}')"
                ),
                {"document": json.dumps(document)},
            )
            for number, (operation, inverse) in enumerate(STEPS, 1):
                connection.execute(
                    text(
                        "insert into revisions (graph_id, number, kind, operation, inverse, words)"
                        " values (1, :number, 'edit', :operation, :inverse, 'changed')"
                    ),
                    {"number": number, "operation": json.dumps(operation), "inverse": json.dumps(inverse)},
                )
        migrate(address)
        with Session(engine) as session:
            now = graphs.load(session, 1).graph
            expected = enamel()
            for name, value in {
                "title": "Found",
                "form": "sphere",
                "rig": "low_sun",
                "environment": "sky",
                "backdrop_materials": (BackdropMaterial("lock_basin.bed", "7"),),
            }.items():
                expected, _ = set_field(name, value).apply(expected)
            expected, _ = SetValue("dock", "alpha_cutoff", (0.25,)).apply(expected)
            self.assertEqual((now, now.mended), (expected, ()))
            for name, value in (
                ("environment", ""),
                ("kind", "solid"),
                ("backdrop_materials", ()),
                ("form", "box"),
                ("rig", "overcast"),
                ("title", "Lost"),
            ):
                now = graphs.undo(session, 1, graphs.load(session, 1).revision).graph
                self.assertEqual(getattr(now, name), value)
