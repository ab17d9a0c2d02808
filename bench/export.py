"""A graph of 200 nodes exported in every language, against the stage's own shader of the same graph.

Run: .venv/bin/python -m bench.export
"""

import statistics
import time
from collections.abc import Callable
from functools import partial

from tests.support.graphs import long_graph
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.exporting.choices import Choices
from velvet_moth.core.exporting.exported import exported, lowered_for_export
from velvet_moth.core.exporting.shapes import SHAPES
from velvet_moth.core.language.dialects import DIALECTS
from velvet_moth.core.language.interpreters.glsl import clear_caches
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.render.shading import drawing


def timed(work: Callable[[], object], is_first: bool = False) -> float:
    """The median of some runs, milliseconds; each as the first of a process, or as one of many."""
    work()
    found = []
    for _ in range(15):
        if is_first:
            clear_caches()
        start = time.perf_counter()
        work()
        found.append(time.perf_counter() - start)
    return statistics.median(found) * 1e3


def in_every_language(graph: Graph, shape: str) -> None:
    """As the page and the command do, one language after the other."""
    lowered = lowered_for_export(graph, "")
    for language in DIALECTS:
        exported(graph, Choices(language, shape), {}, lowered)


def main() -> None:
    graph = long_graph(200)
    for is_first, words in ((False, "in a program that runs"), (True, "the first of a program")):
        stage = timed(lambda: drawing(lower(graph, folded=True)), is_first)
        print(f"{len(graph.nodes)} nodes, {words}; the stage's shader: {stage:.1f} ms")
        for shape in SHAPES:
            whole = timed(partial(in_every_language, graph, shape), is_first)
            print(f"  {SHAPES[shape].name} in {len(DIALECTS)} languages: {whole:.0f} ms, {whole / stage:.1f}x")


if __name__ == "__main__":
    main()
