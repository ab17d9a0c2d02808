"""Servers and the database killed at random between edits, beside a model: nothing acknowledged is lost or comes twice.

Longer with MOTH_CRASHES in the environment: so many kills.
"""

import os
import random
import shutil
import signal
import tempfile
import threading
import time
import unittest
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

from tests.support.browser import wait_until
from tests.support.crowd import Client
from tests.support.live import LiveServer
from tooling.places import IS_ROOT
from tooling.postgres import Cluster, is_alive
from velvet_moth.store.database import make_engine, migrate

KILLS = int(os.environ.get("MOTH_CRASHES", "2"))
EDITS_BETWEEN = 3


class Crashing(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(tempfile.mkdtemp(dir="/var/lib" if IS_ROOT else None))
        os.chmod(self.folder, 0o755)
        self.addCleanup(shutil.rmtree, self.folder, True)
        # A cluster that keeps its promises, unlike that of other tests.
        self.cluster = Cluster(self.folder / "cluster")
        serving = self.cluster.serving()
        address = f"{serving.__enter__()}/crashes"
        self.addCleanup(serving.__exit__, None, None, None)
        migrate(address)
        engine = make_engine(address)
        with engine.begin() as connection:
            # Without the demo the servers start at once.
            connection.exec_driver_sql("insert into projects (name) values ('Heron Lock')")
        engine.dispose()
        with ThreadPoolExecutor(2) as pool:
            self.servers = list(pool.map(LiveServer, [address, address]))
        for server in self.servers:
            self.addCleanup(server.close)
        self.clients = [Client(server.url) for server in self.servers]
        self.draw = random.Random(7)

    def test_every_acknowledged_edit_is_there_once(self) -> None:
        for client in self.clients:
            client.refresh_key()
        status, made = self.clients[0].call("/api/graphs", {"title": "Model"})
        self.assertEqual(status, 200, made)
        path = f"/api/graphs/{made['id']}"
        acknowledged: list[str] = []
        sent = 0
        for _ in range(KILLS):
            # It comes down in the middle of whatever is done just then.
            crash = threading.Thread(target=self.crash, args=(self.draw.uniform(0, 0.3),))
            crash.start()
            for _ in range(EDITS_BETWEEN):
                sent += 1
                self.edit(self.draw.choice(self.clients), path, f"n{sent}", acknowledged)
            crash.join()
            self.assertEqual(self.crashed, crash.name, "what was killed was started again")
        _, state = wait_until("an answer", lambda: self.whole(self.clients[0], path))
        held = [node["id"] for node in state["document"]["nodes"] if node["id"] != "dock"]
        self.assertEqual(sorted(held), sorted(acknowledged))
        self.assertEqual(len(set(held)), len(held))
        # Both servers tell the same, and the whole history goes back and forth.
        _, other = self.whole(self.clients[1], path)
        self.assertEqual(other["document"], state["document"])
        _, history = self.clients[0].call(f"{path}/history")
        self.assertEqual(len(history["steps"]), len(acknowledged))
        for number in (0, history["steps"][-1]["number"]):
            body = {"revision": state["revision"], "number": number}
            status, state = self.clients[1].call(f"{path}/jump", body)
            self.assertEqual(status, 200, state)
        self.assertEqual(len(state["document"]["nodes"]), len(acknowledged) + 1)

    def whole(self, client: Client, path: str) -> tuple[int, Any] | None:
        status, state = client.call(path)
        return (status, state) if status == 200 else None

    def edit(self, client: Client, path: str, node: str, acknowledged: list[str]) -> None:
        """Adds a node as a page does: on the newest revision, again after silence, once only."""

        def is_taken() -> bool:
            found = self.whole(client, path)
            if found is None:
                client.refresh_key()
                return False
            state = found[1]
            if node in [n["id"] for n in state["document"]["nodes"]]:
                return True
            operation = {"op": "add_node", "node": {"id": node, "type": "mix"}}
            status, answer = client.call(f"{path}/operations", {"revision": state["revision"], "operation": operation})
            self.assertIn(status, (0, 200, 400, 409, 503), answer)
            if status == 400:
                # The key was asked for while nobody answered.
                client.refresh_key()
            return status == 200

        wait_until(f"{node} was taken", is_taken)
        acknowledged.append(node)

    def crash(self, moment: float) -> None:
        """After ``moment`` seconds kills a server, the database, or both, and starts them again, as a start command does."""
        time.sleep(moment)
        which = self.draw.choice(("server", "database", "both"))
        if which != "server":
            pid = int((self.cluster.data / "postmaster.pid").read_text().splitlines()[0])
            os.kill(pid, signal.SIGKILL)
            # Killed is not yet gone; what still seems to run would not be started again.
            wait_until("the database is gone", lambda: not is_alive(pid))
        if which != "database":
            server = self.draw.choice(self.servers)
            server.kill()
        if which != "server":
            self.cluster.restarted()
        if which != "database":
            server.start()
        self.crashed = threading.current_thread().name
