"""Long work as jobs: done once by whichever worker, cancelled at any moment, and not lost with the worker that did it."""

import time
from collections.abc import Callable
from typing import Any

from sqlalchemy.orm import Session

from tests.support.databases import StoreCase
from tests.support.meshes import sample_mesh
from tests.support.workers import Worker
from velvet_moth.core.baking.stack import mesh_stack_from_json, mesh_stack_to_json
from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.meshes.bringing import brought
from velvet_moth.core.meshes.formats import FORMATS
from velvet_moth.store import jobs, meshes, projects
from velvet_moth.store.database import plain_address
from velvet_moth.work import doing

PATIENCE = 60.0


def document(rays: int = 4, levels: int = 0, times: int = 0) -> dict[str, Any]:
    """A stack that takes as long as its rays and the times that the mesh is subdivided say."""
    steps: list[dict[str, Any]] = [{"id": "fine", "step": "subdivide", "values": {"times": times}}] if times else []
    steps.append({"id": "open", "step": "occlusion", "values": {"rays": rays}})
    told = {
        "name": "Steps",
        "steps": steps,
        "outputs": [{"id": "red", "name": "Open sky", "step": "open", "layer": "values"}],
        "levels": [{"share": 0.5**number} for number in range(1, levels + 1)],
    }
    return mesh_stack_to_json(mesh_stack_from_json(told))


SLOW = {"rays": 1024, "times": 4}


class Jobs(StoreCase):
    def setUp(self) -> None:
        super().setUp()
        self.address = plain_address(self.engine)
        files = {"gate.glb": FORMATS["gltf"].encode(sample_mesh("16 bit"))}
        with Session(self.engine) as session, session.begin():
            project = projects.first(session).id
            row = meshes.add(
                session, project, f"Gate of {self.id()}"[-60:], files, "gate.glb", brought(files, "gate.glb")
            )
            self.mesh = row.id
            self.before = row.revision

    def asked(self, told: dict[str, Any]) -> int:
        with Session(self.engine) as session, session.begin():
            base = meshes.load(session, self.mesh).base
            return jobs.begin(session, "bake", "Baking the gate", self.mesh, {"document": told, "base": base}).id

    def job(self, key: int) -> tuple[str, float]:
        with Session(self.engine) as session:
            found = jobs.load(session, key)
            return found.state, found.share

    def revision(self) -> int:
        with Session(self.engine) as session:
            return meshes.load(session, self.mesh).revision

    def until(self, words: str, is_so: Callable[[], bool]) -> None:
        end = time.monotonic() + PATIENCE
        while not is_so():
            self.assertLess(time.monotonic(), end, words)
            time.sleep(0.05)

    def worker(self) -> Worker:
        made = Worker(self.address)
        self.addCleanup(made.stop)
        return made

    def test_the_same_work_is_asked_for_once_and_done_once(self) -> None:
        first, again = self.asked(document(levels=1)), self.asked(document(levels=1))
        self.assertEqual(first, again)
        self.assertNotEqual(first, self.asked(document(rays=5)))
        doing.do_job(self.address, first)
        self.assertEqual(self.job(first), ("done", 1.0))
        after = self.revision()
        self.assertEqual(after, self.before + 1)
        # A queue that hands it out a second time changes nothing.
        doing.do_job(self.address, first)
        self.assertEqual((self.job(first)[0], self.revision()), ("done", after))
        with Session(self.engine) as session:
            self.assertEqual([level["share"] for level in meshes.load(session, self.mesh).levels], [0.5])
        with self.assertRaisesRegex(OperationRefused, "ended already"), Session(self.engine) as session:
            jobs.cancel(session, first)

    def test_what_is_refused_with_the_transaction_is_never_queued(self) -> None:
        with Session(self.engine) as session:
            jobs.begin(session, "bake", "Baking", self.mesh, {"document": {}, "base": ""})
            session.rollback()
        key = self.asked(document(rays=6))
        self.worker()
        self.until("the worker does what is there", lambda: self.job(key)[0] == "done")

    def test_a_job_that_is_cancelled_ends_and_changes_nothing(self) -> None:
        self.worker()
        key = self.asked(document(**SLOW))
        self.until("it is under way", lambda: self.job(key)[0] == "running" and self.job(key)[1] > 0)
        with Session(self.engine) as session, session.begin():
            jobs.cancel(session, key)
        # The worker is free for the next one at once.
        other = self.asked(document(rays=7))
        self.until("the next one is done", lambda: self.job(other)[0] == "done")
        self.assertEqual(self.job(key)[0], "cancelled")
        self.assertEqual(self.revision(), self.before + 1)

    def test_a_job_outlives_the_worker_that_did_it(self) -> None:
        first = Worker(self.address)
        key = self.asked(document(rays=128, times=4))
        self.until("it is under way", lambda: self.job(key)[0] == "running" and self.job(key)[1] > 0)
        first.kill()
        self.assertEqual((self.job(key)[0], self.revision()), ("running", self.before))
        self.worker()
        self.until("another one does it", lambda: self.job(key)[0] == "done")
        self.assertEqual(self.revision(), self.before + 1)
