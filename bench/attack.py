"""The server under fire: random calls, and people who edit beside a crowd. Run: .venv/bin/python -m bench.attack [CALLS], of each address

Prints the answers by status, the slowest call, what memory grew by, and how long ten people wait for their edits, alone
(the baseline of the same process) and beside 60 silent, 60 half-sent and 24 slow connections.
"""

import statistics
import sys
import threading
import time
from collections import Counter

from bench.serving import database, served
from tests.support.crowd import Client, Crowd, memory_of
from tests.support.databases import graph_id
from tests.support.fuzz import fuzz
from velvet_moth.store.database import make_engine
from velvet_moth.web.app import create_app

CALLS = 280
ROUNDS = 4
PEOPLE = 10
EDITS = 6
SLOWEST = 5.0
LONGEST = 1.0


def calls(count: int) -> None:
    """So many random calls of each address in a few rounds: memory may grow while caches fill, in the first one, and not after it."""
    with database() as address:
        engine = make_engine(address)
        app = create_app(engine, "a secret for benches")
        app.config.update(WTF_CSRF_ENABLED=False, PROPAGATE_EXCEPTIONS=False)
        statuses: Counter[int] = Counter()
        wrong: list[str] = []
        slowest = (0.0, "")
        memory: list[int] = []
        for _ in range(ROUNDS):
            found = fuzz(app, count // ROUNDS)
            for (_, status), times in found.answers.items():
                statuses[status] += times
            wrong += found.wrong
            slowest = max(slowest, found.slowest)
            memory.append(memory_of_this())
        engine.dispose()
    told = ", ".join(f"{times} of {status}" for status, times in sorted(statuses.items()))
    print(f"{sum(statuses.values())} calls: {told}")
    print(f"  failures: {len(wrong)} {wrong[:3]}")
    print(f"  slowest {slowest[0]:.2f} s ({slowest[1]}), budget {SLOWEST:.0f} s")
    print(f"  memory after each round: {', '.join(f'{m >> 20} MB' for m in memory)}")


def memory_of_this() -> int:
    with open("/proc/self/stat") as file:
        return memory_of(int(file.read().split()[0]))


def waits(url: str, paths: list[str]) -> list[float]:
    """Seconds that each of ten people waits for each edit, all at work at once, two to a graph."""
    found: list[float] = []

    def work(number: int) -> None:
        client = Client(url)
        client.refresh_key()
        path = paths[number % len(paths)]
        state = client.call(path)[1]
        for turn in range(EDITS):
            operation = {"op": "label_node", "node": "n", "label": f"{number} {turn}"}
            status = 0
            while status != 200:
                # As a page does: it says what it has, and gets what differs.
                body = {"operation": operation, **{key: state[key] for key in ("revision", "seen")}}
                started = time.perf_counter()
                status, answer = client.call(f"{path}/operations", {**body, "shader": state["shader"]["hash"]})
                found.append(time.perf_counter() - started)
                # The other one at the same graph may have come first.
                state = answer if status == 200 else client.call(path)[1]

    people = [threading.Thread(target=work, args=(number,)) for number in range(PEOPLE)]
    for person in people:
        person.start()
    for person in people:
        person.join()
    return found


def crowd() -> None:
    with served() as live:
        first = Client(live.url)
        first.refresh_key()
        paths = []
        for number in range(PEOPLE // 2):
            _, made = first.call("/api/graphs", {"title": f"At work {number}", "starter": "enamel"})
            paths.append(f"/api/graphs/{made['id']}")
            first.edit(paths[-1], {"op": "add_node", "node": {"id": "n", "type": "mix"}})
        alone = waits(live.url, paths)
        beside = Crowd(live.port)
        beside.silent(60)
        beside.half_sent(60)
        water = graph_id(live.engine, "Basin water")
        beside.slow(24, f"/api/graphs/{water}/export.json")
        crowded = waits(live.url, paths)
        beside.close()
    for name, found in (("alone", alone), ("beside the crowd", crowded)):
        print(f"{PEOPLE} people {name}: median {statistics.median(found):.2f} s, longest {max(found):.2f} s")
    print(f"  {statistics.median(crowded) / statistics.median(alone):.2f}x; budget {LONGEST:.0f} s for the longest")


def main(count: int = CALLS) -> None:
    crowd()
    calls(count)


if __name__ == "__main__":
    main(*map(int, sys.argv[1:2]))
