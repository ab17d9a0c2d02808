"""Patterns that move together because they share a seed."""

from collections.abc import Mapping
from itertools import combinations

import numpy as np

from velvet_moth.core.expr import Array, Expr
from velvet_moth.core.graph import Node, Source, Value
from velvet_moth.core.lowered import LoweredGraph
from velvet_moth.core.mends import Mend
from velvet_moth.core.operations import SetValue
from velvet_moth.core.problems.record import Problem

ALIKE = 0.9


def _seed(node: Node, values: Mapping[tuple[str, str], Value]) -> tuple[str, float] | None:
    """The node's own seed input and its value, unless it is wired."""
    for key, declared in node.kind.inputs.items():
        if declared.role == "seed" and key not in node.wires:
            value = values[node.id, key]
            assert not isinstance(value, str)
            return key, float(np.floor(value[0]))
    return None


def _likeness(a: Array, b: Array) -> float:
    """The correlation of two pictures, 0 where one of them is constant."""
    x, y = np.ravel(a), np.ravel(b)
    if x.size != y.size or np.ptp(x) < 1e-6 or np.ptp(y) < 1e-6:
        return 0.0
    return abs(float(np.corrcoef(x, y)[0, 1]))


def shared_seeds(
    lowered: LoweredGraph, values: Mapping[tuple[str, str], Value], samples: Mapping[Expr, Array]
) -> list[Problem]:
    """Pairs of nodes with one seed whose pictures are alike: what they drive moves together."""
    seeded = [(n, found) for n in lowered.graph.nodes.values() if (found := _seed(n, values)) is not None]
    problems = []
    for (first, (_, seed)), (second, (key, other)) in combinations(seeded, 2):
        if seed != other:
            continue
        pictures = [samples.get(_first_output(lowered, n)) for n in (first, second)]
        if any(p is None for p in pictures) or _likeness(*pictures) < ALIKE:  # type: ignore[arg-type] # neither is None
            continue
        free = max(s for _, (_, s) in seeded) + 1.0
        problems.append(
            Problem(
                "shared-seed",
                "warning",
                second.id,
                key,
                f"{second.name} and {first.name} share seed {seed:g} and show the same pattern: what they drive moves"
                " together, such as brightness with roughness.",
                f"Seed of {second.name}",
                (Mend(f"Give it seed {free:g}", SetValue(second.id, key, (free,))),),
            )
        )
    return problems


def _first_output(lowered: LoweredGraph, node: Node) -> Expr:
    found = lowered.outputs[Source(node.id, next(iter(node.kind.outputs)))]
    assert isinstance(found, Expr)
    return found
