"""Patterns that move together because they share a seed."""

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.document.graph import Node, Source
from velvet_moth.core.document.values import Value
from velvet_moth.core.editing.mends import Mend
from velvet_moth.core.language.expr import Array, Expr
from velvet_moth.core.lowering.lowered import LoweredGraph
from velvet_moth.core.operations import SetValue
from velvet_moth.core.workbench.problems.record import Problem

ALIKE = 0.9
_BLOCK = 512


def _seed(node: Node, values: Mapping[tuple[str, str], Value]) -> tuple[str, float] | None:
    """The node's own seed input and its value, unless it is wired."""
    for key, declared in node.kind.inputs.items():
        if declared.role == "seed" and key not in node.wires:
            value = values[node.id, key]
            assert not isinstance(value, str)
            return key, float(np.floor(value[0]))
    return None


def _unit(picture: Array) -> NDArray[np.float32] | None:
    """A picture as a vector of length 1 around its mean, so that products of two are correlations; None where constant."""
    flat = np.ravel(picture).astype(np.float64)
    if not np.isfinite(flat).all() or np.ptp(flat) < 1e-6:
        return None
    centred = flat - flat.mean()
    made: NDArray[np.float32] = (centred / np.linalg.norm(centred)).astype(np.float32)
    return made


def _first_alike(vectors: NDArray[np.float32]) -> list[int | None]:
    """For each vector the first one before it that is alike, (count, length) in all; in blocks, to need little memory."""
    found: list[int | None] = []
    for start in range(0, len(vectors), _BLOCK):
        block = vectors[start : start + _BLOCK]
        alike = np.abs(block @ vectors[: start + len(block)].T) >= ALIKE
        for row, line in enumerate(alike):
            before = line[: start + row]
            first = int(before.argmax()) if before.size else 0
            found.append(first if before.size and before[first] else None)
    return found


def shared_seeds(
    lowered: LoweredGraph, values: Mapping[tuple[str, str], Value], samples: Mapping[Expr, Array]
) -> list[Problem]:
    """Nodes whose pictures are like that of an earlier one of the same seed: what they drive moves together."""
    seeded = [(n, *found) for n in lowered.graph.nodes.values() if (found := _seed(n, values)) is not None]
    free = max((seed for _, _, seed in seeded), default=0.0) + 1.0
    # By seed and size, the pictures that differ, each under the first node that shows it.
    groups: dict[tuple[float, int], list[tuple[Node, str, NDArray[np.float32]]]] = {}
    shown_by: dict[tuple[float, int], Node] = {}
    problems = []
    for node, key, seed in seeded:
        picture = samples.get(_first_output(lowered, node))
        vector = None if picture is None or (seed, id(picture)) in shown_by else _unit(picture)
        if vector is not None:
            shown_by[seed, id(picture)] = node
            groups.setdefault((seed, vector.size), []).append((node, key, vector))
        elif (seed, id(picture)) in shown_by:
            problems.append(_problem(shown_by[seed, id(picture)], node, key, seed, free))
    for (seed, _), members in groups.items():
        for (second, key, _), first in zip(members, _first_alike(np.stack([m[2] for m in members])), strict=True):
            if first is not None:
                problems.append(_problem(members[first][0], second, key, seed, free))
    return problems


def _problem(first: Node, second: Node, key: str, seed: float, free: float) -> Problem:
    return Problem(
        "shared-seed",
        "warning",
        node=second.id,
        input=key,
        what=f"{second.name} and {first.name} share seed {seed:g} and show the same pattern: what they drive moves together,"
        " such as brightness with roughness.",
        where=f"Seed of {second.name}",
        mends=(Mend(f"Give it seed {free:g}", SetValue(second.id, key, (free,))),),
    )


def _first_output(lowered: LoweredGraph, node: Node) -> Expr:
    found = lowered.outputs[Source(node.id, next(iter(node.kind.outputs)))]
    assert isinstance(found, Expr)
    return found
