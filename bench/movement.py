"""How far untouched cards move for one added wire: the graph laid out again, against places that stay.

Run: .venv/bin/python -m bench.movement
"""

import random

from playwright.sync_api import Page, sync_playwright

from bench.serving import served
from tests.support.browser import ARGUMENTS, CHROMIUM
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.nodes.surfaces import DOCK
from velvet_moth.demo.contents import named_graphs

TRIES = 8
HEIGHT = 120
MOVED = """async ([boxes, wired, reader, docked]) => {
  const { columns } = await import("moth/workbench/graph/places/layout.js");
  const { settled } = await import("moth/workbench/graph/places/settling.js");
  const dagre = await import("dagre");
  const before = columns(dagre, boxes, docked).places;
  const source = wired.find(({ id }) => id === reader).sources.at(-1);
  const found = {
    again: columns(dagre, wired, docked).places,
    stays: settled(wired, before, new Set(), [[source, reader]]),
  };
  const others = boxes.map(({ id }) => id).filter((id) => id !== reader && id !== source);
  const far = (places) => others.reduce((sum, id) => {
    const [[a, b], [x, y]] = [before.get(id), places.get(id)];
    return sum + Math.hypot(a - x, b - y);
  }, 0) / others.length;
  return [far(found.again), far(found.stays)];
}"""


def steps(graph: Graph) -> list[tuple[list[dict[str, object]], list[dict[str, object]], str, list[str]]]:
    """Some added wires: the cards before, with the wire, who reads it, and what the dock reads."""
    draw = random.Random(7)
    nodes = [n for n in graph.nodes.values() if n.id != DOCK]
    read = {n.id: [s.node for s in n.wires.values()] for n in nodes}
    boxes = [{"id": key, "height": HEIGHT, "sources": sources} for key, sources in read.items()]
    docked = [s.node for s in graph.nodes[DOCK].wires.values()]
    found: list[tuple[list[dict[str, object]], list[dict[str, object]], str, list[str]]] = []
    while len(found) < TRIES:
        source, reader = draw.choice(nodes).id, draw.choice(nodes).id
        if source == reader or source in read[reader] or graph.reaches(source, reader):
            continue
        wired = [{**b, "sources": [*read[reader], source]} if b["id"] == reader else b for b in boxes]
        found.append((boxes, wired, reader, docked))
    return found


def measure(page: Page) -> None:
    print(f"{'graph':24} {'laid out again':>14} {'stays':>8}   pixels, the mean of untouched cards over {TRIES} wires")
    totals = [0.0, 0.0]
    graphs = named_graphs()
    for graph in graphs.values():
        every = [page.evaluate(MOVED, list(step)) for step in steps(graph)]
        again, stays = (sum(one) / len(every) for one in zip(*every, strict=True))
        totals = [totals[0] + again, totals[1] + stays]
        print(f"{graph.title:24} {again:14.1f} {stays:8.1f}")
    print(f"{'mean':24} {totals[0] / len(graphs):14.1f} {totals[1] / len(graphs):8.1f}")


def main() -> None:
    with served() as live, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS)
        page = browser.new_page()
        page.goto(live.url)
        measure(page)
        browser.close()


if __name__ == "__main__":
    main()
