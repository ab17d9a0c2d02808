"""Server time of one structural edit on a 60-node graph, with its parts. Run: .venv/bin/python -m bench.edit

The baseline is hand-written NumPy for the same kind of work (noise, remap, mix on 40x40 pixels for
ten branches), run in this process, so that the ratio does not depend on the machine.
"""

import json
import statistics
import time
from collections.abc import Callable
from functools import partial
from typing import Any

import numpy as np

import velvet_moth.core.nodes  # noqa: F401 - fills the catalogue
from bench.evaluate import noise_by_hand
from tests.support.graphs import TEXTURES, long_graph
from velvet_moth.core.document.graph import Graph, Node, Source
from velvet_moth.core.files.graph_json import graph_to_json
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.operations import AddNode, Unwire, Wire
from velvet_moth.core.render.shading import drawing
from velvet_moth.core.workbench.problems import find_problems
from velvet_moth.core.workbench.session import Session

ROUNDS = 40
BUDGET = 40.0


def measured(work: Callable[[], object]) -> float:
    started = time.perf_counter()
    work()
    return (time.perf_counter() - started) * 1000


def handwritten() -> None:
    """Ten branches of 2D gradient noise, remap and mix, as an expert would write them in NumPy."""
    u, v = np.meshgrid(np.linspace(0, 1, 40, dtype=np.float32), np.linspace(0, 1, 40, dtype=np.float32))
    colour: Any = np.full((3, 40, 40), 0.2, dtype=np.float32)

    for i in range(10):
        x, y = u * 8 * (1 + i % 7), v * 8 * (2 + i % 3)
        noise = noise_by_hand(x, y, i)
        amount = np.clip((noise - 0.2) / 0.6, 0, 1)
        tint = np.array([0.1 + i % 9 / 10, 0.3, 0.5], dtype=np.float32).reshape(3, 1, 1)
        colour = (colour + (tint - colour) * amount) * 0.95


def edits(graph: Graph) -> list[Callable[[Graph], Graph]]:
    """Structural edits in the middle of the graph, there and back."""
    put = AddNode(Node("clamp_here", "clamp", wires={"value": Source("mix_4", "result")}))
    return [
        lambda g: put.apply(g)[0],
        lambda g: Wire("scale_4", "a", "clamp_here", "result").apply(g)[0],
        lambda g: Unwire("mix_2", "amount").apply(g)[0],
        lambda g: Wire("mix_2", "amount", "range_3", "result").apply(g)[0],
    ]


def as_text(graph: Graph) -> str:
    return json.dumps(graph_to_json(graph))


def main() -> None:
    parts: dict[str, list[float]] = {}

    def timed(name: str, work: Callable[[], object]) -> None:
        parts.setdefault(name, []).append(measured(work))

    Session().show(long_graph(60), "", None, TEXTURES.get)
    for _ in range(ROUNDS // 4):
        graph, session = long_graph(60), Session()
        session.show(graph, "", None, TEXTURES.get)
        for edit in edits(graph):
            after = edit(graph)
            values = after.uniform_values()
            timed("apply", partial(edit, graph))
            timed("lower", partial(lower, after))
            lowered = lower(after)
            timed("emit", partial(drawing, lowered))
            timed("problems", partial(find_problems, lowered, {}))
            timed("swatches", partial(session.swatch_pass.update, lowered, values, {}))
            timed("document as JSON", partial(as_text, after))
            graph = after
        fresh, whole = long_graph(60), Session()
        whole.show(fresh, "", None, TEXTURES.get)
        for edit in edits(fresh):
            fresh = edit(fresh)
            timed("whole edit", partial(whole.show, fresh, "", None, TEXTURES.get))
        timed("handwritten NumPy", handwritten)
    medians = {name: statistics.median(times) for name, times in parts.items()}
    for name, median in medians.items():
        print(f"{name:20} {median:8.2f} ms")
    print(f"whole edit / handwritten NumPy of its pixels: {medians['whole edit'] / medians['handwritten NumPy']:.2f}")
    print(f"budget {BUDGET:.0f} ms: {'kept' if medians['whole edit'] < BUDGET else 'MISSED'}")


if __name__ == "__main__":
    main()
