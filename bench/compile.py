"""Graph to GLSL text: milliseconds warm and cold, and against glslangValidator on the same text.

Run: .venv/bin/python -m bench.compile
"""

import statistics
import subprocess
import tempfile
import time
from collections.abc import Callable, Iterator
from dataclasses import replace
from functools import partial
from pathlib import Path

import velvet_moth.core.nodes  # noqa: F401 - fills the catalogue
from tests.support.graphs import long_graph
from velvet_moth.core.catalogue import registry
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.language.interpreters import glsl
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.lowering.lowered import LoweredGraph
from velvet_moth.core.render.shading import shown_look

# Nodes: milliseconds warm and cold, on a quiet machine of two cores.
BUDGET = {60: (1.0, 3.0), 200: (2.0, 8.0), 500: (5.0, 15.0)}
ROUNDS = 15
LEAST_RATIO = 8.0


def measured(work: Callable[[], object]) -> float:
    started = time.perf_counter()
    work()
    return (time.perf_counter() - started) * 1000


def edits(graph: Graph, rounds: int) -> Iterator[Graph]:
    """The graph after one structural edit more each time: another node is set another way, from the middle out."""
    ranges = [k for k, n in graph.nodes.items() if n.type == "remap"]
    middle = len(ranges) // 2
    for step in range(rounds):
        at = ranges[(middle + (step + 1) // 2 * (1 if step % 2 else -1)) % len(ranges)]
        turn = ("open", "clamped")[step // len(ranges) % 2]
        graph = graph.with_node(replace(graph.nodes[at], settings={"ends": turn}))
        yield graph


def clear_caches() -> None:
    """As in a process that has seen no graph yet."""
    registry.clear_cache()
    glsl.clear_caches()


def whole(graph: Graph, before: list[LoweredGraph]) -> str:
    """The shader of a graph, lowered after what was ``before``, as a session does, which it replaces there."""
    lowered = lower(graph, before=before[0] if before else None)
    before[:] = [lowered]
    found = shown_look(lowered)
    return glsl.emit(found.picture, lowered.names, found.offset, found.opacity).fragment


# What a loop of this many additions takes on the machine the budgets are meant for, in milliseconds.
NOMINAL, LOOP = 40.0, 1_000_000


def _additions() -> int:
    total = 0
    for i in range(LOOP):
        total += i
    return total


def slowness() -> float:
    """How many times slower than that machine this one is just now, at least 1."""
    return max(1.0, min(measured(_additions) for _ in range(5)) / NOMINAL)


def main() -> None:
    print("Budgets are for a quiet machine of two cores; they are scaled by how much slower this one is just then.")
    for count, (most_warm, most_cold) in BUDGET.items():
        graph = long_graph(count)
        factor = slowness()
        cold = []
        for _ in range(5):
            clear_caches()
            cold.append(measured(partial(whole, graph, [])))
        warm, before = [], [lower(graph)]
        for after in edits(graph, ROUNDS):
            warm.append(measured(partial(whole, after, before)))
        factor = (factor + slowness()) / 2
        most_warm, most_cold = most_warm * factor, most_cold * factor
        kept = statistics.median(warm) < most_warm and statistics.median(cold) < most_cold
        print(
            f"{count:4} nodes: warm {statistics.median(warm):6.2f} ms (budget {most_warm:.1f}),"
            f" cold {statistics.median(cold):6.2f} ms (budget {most_cold:.1f}) {'kept' if kept else 'MISSED'} ({factor:.1f} times slower)"
        )
        if count == 200:
            with tempfile.TemporaryDirectory() as folder:
                path = Path(folder) / "shader.frag"
                path.write_text(whole(graph, []))
                checking = statistics.median(
                    measured(partial(subprocess.run, ["glslangValidator", str(path)], capture_output=True, check=True))
                    for _ in range(7)
                )
            ratio = checking / statistics.median(warm)
            print(
                f"     glslangValidator on the same text: {checking:.1f} ms, {ratio:.1f}x ours (at least {LEAST_RATIO:g})"
            )


if __name__ == "__main__":
    main()
