"""Time against size, for everything that grows with a graph or with a library. Run: .venv/bin/python -m bench.growth

Each line gives seconds for each size, and by what power of the size the last step grew (1 is linear). The baseline of
the same process is copying a table of as many entries, a hundred times.
"""

import math
import time
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from functools import partial
from typing import Any

from flask.testing import FlaskClient
from playwright.sync_api import Page, sync_playwright
from sqlalchemy import text
from sqlalchemy.orm import Session as Database

from bench.serving import database, served
from tests.support.browser import ARGUMENTS, CHROMIUM
from velvet_moth.core.document.graph import Graph, Node, Source, empty_graph
from velvet_moth.core.files.graph_json import (
    GraphFile,
    graph_from_json,
    graph_to_json,
    read_graph_file,
    write_graph_file,
)
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.lowering.lowered import LoweredGraph
from velvet_moth.core.nodes.surfaces import DOCK
from velvet_moth.core.operations import SetValue
from velvet_moth.core.operations.nodes import with_nodes
from velvet_moth.core.render.swatches import SwatchPass
from velvet_moth.core.workbench.problems import find_problems
from velvet_moth.core.workbench.problems.ranges import constant_masks
from velvet_moth.core.workbench.problems.seeds import shared_seeds
from velvet_moth.core.workbench.problems.textures import texture_problems
from velvet_moth.core.workbench.problems.wiring import missing_inputs, unknown_nodes
from velvet_moth.core.workbench.session import Session
from velvet_moth.store import documents, graphs, projects, steps
from velvet_moth.store.database import make_engine
from velvet_moth.store.graphs import HISTORY
from velvet_moth.web.app import create_app
from velvet_moth.web.serve import collect_seldom

NODES = (100, 1000, 4000)
GRAPHS = (100, 1000, 10_000)
SIZES_OF_LIBRARY = """
    insert into graphs (project_id, title, revision, state, nodes, variants, kind, uses, reads, backdrop_graphs, tags, mesh, trouble, document, undo, redo)
    select project_id, title || ' ' || n, 0, md5(random()::text), nodes, variants, kind, uses, reads, backdrop_graphs, tags, mesh, '', document,
           '{}', '{}' from graphs, generate_series(1, :count) n where id = :model
"""


def timed(work: Callable[[], Any]) -> float:
    started = time.perf_counter()
    work()
    return time.perf_counter() - started


# Every kind of problem check, for a lowered graph and the values of its swatches.
CHECKS: Mapping[str, Callable[[LoweredGraph, SwatchPass], Any]] = {
    "types and ranges": lambda lowered, _: find_problems(lowered, {}),
    "missing inputs": lambda lowered, _: missing_inputs(lowered, {}),
    "unknown nodes": lambda lowered, _: unknown_nodes(lowered.graph),
    "textures": lambda lowered, _: texture_problems(lowered.graph, lambda key: None, {}),
    "constant masks": lambda lowered, samples: constant_masks(lowered, samples, lowered.graph.uniform_values()),
    "shared seeds": lambda lowered, samples: shared_seeds(lowered, lowered.graph.uniform_values(), samples.arrays),
}


def noises(count: int) -> Graph:
    """Nothing wired, all of one seed."""
    return with_nodes(empty_graph(f"noises {count}"), [Node(f"n{i}", "gradient_noise") for i in range(count)])


def branches(count: int) -> Graph:
    """Many short branches: noise, add, multiply, mix."""
    nodes: list[Node] = []
    for i in range(0, count, 4):
        nodes.append(Node(f"a{i}", "gradient_noise", {"seed": (float(i),)}))
        before = Source(f"a{i}", "value")
        for letter, type_ in (("b", "add"), ("c", "multiply"), ("d", "mix")):
            nodes.append(Node(f"{letter}{i}", type_, wires={"a": before}))
            before = Source(f"{letter}{i}", "result")
    return with_nodes(empty_graph(f"branches {count}"), nodes[:count])


def chain(count: int) -> Graph:
    """Each node reads the one before."""
    nodes = [Node("n0", "gradient_noise")]
    for i in range(1, count):
        nodes.append(Node(f"n{i}", "mix", wires={"a": Source(f"n{i - 1}", "value" if i == 1 else "result")}))
    return with_nodes(empty_graph(f"chain {count}"), nodes)


def of_graph(graph: Graph) -> Mapping[str, float]:
    """Seconds for each thing that is done with a graph."""
    document, file = graph_to_json(graph), write_graph_file(GraphFile(graph)).encode()
    key = list(graph.nodes)[-1]
    changed, _ = SetValue(key, "b" if "b" in graph.nodes[key].kind.inputs else "seed", (3.0,)).apply(graph)
    found = {"lower": timed(lambda: lower(graph))}
    session = Session()
    found["state, first"] = timed(lambda: session.show(graph, "", None, lambda key: None))
    found["state, after an edit"] = timed(lambda: session.show(changed, "", None, lambda key: None))
    lowered = lower(graph)
    for name, check in CHECKS.items():
        found[f"problems: {name}"] = timed(lambda check=check: check(lowered, session.swatch_pass))  # type: ignore[misc] # bound now
    found["write document"] = timed(lambda: graph_to_json(graph))
    found["read document"] = timed(lambda: graph_from_json(document))
    found["read file"] = timed(lambda: read_graph_file(file))
    found["baseline: copy a table"] = timed(lambda: [dict(graph.nodes) for _ in range(100)])
    return found


def of_store(client: FlaskClient, session: Database, graph: Graph) -> Mapping[str, float]:
    """Seconds for a graph over HTTP, database included."""
    project = projects.first(session).id
    key = graphs.create(session, project, graph).id
    session.commit()
    documents.clear_caches()
    url = f"/api/graphs/{key}"
    seen: dict[str, Any] = {}

    def read() -> None:
        answer = client.get(url)
        assert answer.status_code == 200, answer.text
        seen.update(answer.get_json())

    def edit() -> None:
        body = {"revision": seen["revision"], "operation": {"op": "set_title", "value": f"{graph.title} again"}}
        answer = client.post(f"{url}/operations", json={**body, "seen": seen["seen"]})
        assert answer.status_code == 200, answer.text

    found = {"HTTP: open": timed(read), "HTTP: an edit": timed(edit)}
    found["HTTP: history"] = timed(lambda: client.get(f"{url}/history"))
    steps.steps(session, HISTORY, key)
    return found


def library(client: FlaskClient, session: Database) -> Mapping[str, Sequence[float]]:
    """Seconds of the library's page and of other lists, as graphs are added."""
    project = projects.first(session).id
    model = graphs.create(session, project, replace(branches(60), title="One of many")).id
    found: dict[str, list[float]] = {}
    there = 0
    for count in GRAPHS:
        session.execute(text(SIZES_OF_LIBRARY), {"count": count - there, "model": model})
        session.commit()
        there = count
        for name, url in (
            ("library", "/"),
            ("library, found by title", "/?q=many+99"),
            ("surfaces for a backdrop", f"/api/graphs/{model}/backdrop_choices"),
            ("a new graph", ""),
        ):
            work: Callable[[], object] = (
                partial(client.get, url) if url else partial(client.post, "/api/graphs", json={})
            )
            work()
            found.setdefault(name, []).append(timed(work))
    return found


LAY_OUT = """async (boxes) => {
  const modules = JSON.parse(document.querySelector("script[type=importmap]").textContent).imports["moth/"];
  const worker = new Worker(`${modules}workbench/graph/places/layout_worker.js`, { type: "module" });
  const answer = (boxes) => new Promise((done, fail) => {
    worker.onmessage = () => done();
    worker.onerror = (event) => fail(new Error(event.message ?? "the worker did not load"));
    worker.postMessage({ number: 1, boxes, docked: [], groups: [] });
  });
  await answer([]);
  const started = performance.now();
  await answer(boxes);
  worker.terminate();
  return (performance.now() - started) / 1000;
}"""


def layout(page: Page, graph: Graph) -> float:
    """Seconds in which the page's worker places all cards, with nothing placed before."""
    boxes = [
        {"id": node.id, "height": 90, "sources": sorted({s.node for s in node.wires.values()})}
        for node in graph.nodes.values()
        if node.id != DOCK
    ]
    return float(page.evaluate(LAY_OUT, boxes))


def line(name: str, sizes: Sequence[int], seconds: Sequence[float]) -> str:
    power = math.log(max(seconds[-1], 1e-9) / max(seconds[-2], 1e-9)) / math.log(sizes[-1] / sizes[-2])
    return f"  {name:32}" + "".join(f"{s:9.3f}" for s in seconds) + f"   grows by {power:4.1f}"


def main() -> None:
    # As the server does.
    collect_seldom()
    with served() as live, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=list(ARGUMENTS))
        page = browser.new_page()
        page.goto(live.url)
        for make in (noises, branches, chain):
            print(line(f"layout, {make.__name__}", NODES, [layout(page, make(count)) for count in NODES]))
        browser.close()
    with database() as address:
        engine = make_engine(address)
        app = create_app(engine, "a secret for benches")
        app.config["WTF_CSRF_ENABLED"] = False
        client = app.test_client()
        with Database(engine) as session:
            for make in (noises, branches, chain):
                print(f"{make.__name__}, seconds at {', '.join(map(str, NODES))} nodes")
                rows = [{**of_graph(made), **of_store(client, session, made)} for made in map(make, NODES)]
                for name in rows[0]:
                    print(line(name, NODES, [row[name] for row in rows]))
            print(f"library, seconds at {', '.join(map(str, GRAPHS))} graphs")
            for name, seconds in library(client, session).items():
                print(line(name, GRAPHS, seconds))
        engine.dispose()


if __name__ == "__main__":
    main()
