"""Problems of a graph as sentences: what, where, and mends that are operations ready to apply."""

import math
from collections.abc import Callable, Hashable, Mapping
from dataclasses import dataclass, replace
from functools import partial

import numpy as np

from velvet_moth.core.expr import Array, Domain, Expr, Structural
from velvet_moth.core.graph import Graph, Node, Source, Value
from velvet_moth.core.interpreters.bound import Bounds, Breach, leaves
from velvet_moth.core.interval import EVERYTHING, Interval, spanning
from velvet_moth.core.lower import LoweredGraph, Mismatch
from velvet_moth.core.mends import Mend, conversions, keep_within
from velvet_moth.core.nodes.surfaces import DOCK
from velvet_moth.core.operations import SetValue, Unwire
from velvet_moth.core.types import P_SURFACE, P_TEXTURE


@dataclass(frozen=True)
class Problem:
    """``severity`` is ``error`` (the wire is ignored), ``warning`` (it happens), ``may`` (it can happen) or ``note``."""

    code: str
    severity: str
    node: str
    input: str
    what: str
    where: str
    mends: tuple[Mend, ...] = ()
    suspect: Expr | None = None
    domain: Domain | None = None


def mismatch_problem(graph: Graph, found: Mismatch) -> Problem:
    node, source = graph.nodes[found.node], graph.nodes[found.source.node]
    name = node.kind.inputs[found.input].name
    mends = conversions(graph, found.source, found.given.name, node.id, found.input, found.taken.name)
    advice = ": " + " or ".join(m.words.lower() for m in mends) if mends else ""
    return Problem(
        "type-mismatch",
        "error",
        node.id,
        found.input,
        f"This input takes {found.taken.words}; the wire carries {found.given.words}{advice}.",
        f"{source.name} to {name} of {node.name}",
        (*mends, Mend("Remove the wire", Unwire(node.id, found.input))),
    )


def _end(value: float) -> str:
    if math.isinf(value):
        return "−∞" if value < 0 else "∞"
    return f"{value:.2f}".replace("-", "−")


def _span(interval: Interval) -> str:
    return f"{_end(interval.low)} … {_end(interval.high)}"


def _runs(interval: Interval) -> str:
    return f"is {_end(interval.low)}" if interval.low == interval.high else f"runs over {_span(interval)}"


def _severity(interval: Interval) -> str:
    """A single value is a fact; a range only says what may be, until samples confirm it."""
    return "warning" if interval.low == interval.high else "may"


@dataclass(frozen=True)
class View:
    """What is looked at: the lowered graph, the values of a variant, and the ranges they give."""

    lowered: LoweredGraph
    variant: str
    bounds: Bounds


def _breach_problem(view: View, node: Node, breach: Breach) -> Problem | None:
    keys = [key for key, expr in view.lowered.inputs_of(node).items() if expr is breach.argument]
    if not keys:
        return None
    key = keys[0]
    name = node.kind.inputs[key].name
    domain = breach.domain
    mends: tuple[Mend, ...] = ()
    if domain.excluded is None:
        mends = (keep_within(view.lowered.graph, view.variant, node, key, max(domain.low, -1e6), domain.high),)
    elif key not in node.wires:
        mends = (Mend("Set it to 1", SetValue(node.id, key, (1.0,))),)
    return Problem(
        "outside-domain",
        _severity(breach.interval),
        node.id,
        key,
        f"{name} {_runs(breach.interval)}: {domain.words}.",
        f"{name} of {node.name}",
        mends,
        breach.argument,
        domain,
    )


def uniform_bounds(graph: Graph, values: Mapping[tuple[str, str], Value]) -> Callable[[Hashable], Interval]:
    """The range of every value set from outside: a parameter's whole range, a plain value as it stands."""
    table: dict[Hashable, Interval] = {
        key: spanning(value) for key, value in values.items() if not isinstance(value, str)
    }
    for p in graph.parameters:
        node = graph.nodes[p.node]
        declared = node.kind.inputs[p.input]
        if declared.type.strands == 1:
            table[p.node, p.input] = table[p.node, p.input].hull(Interval(p.low, p.high))
    return partial(_from_table, table)


def _from_table(table: Mapping[Hashable, Interval], key: Hashable) -> Interval:
    return table.get(key, EVERYTHING)


def _range_problems(view: View, node: Node) -> list[Problem]:
    lowered, bounds = view.lowered, view.bounds
    inputs = lowered.inputs_of(node)
    outputs = [
        e
        for key in node.kind.outputs
        for e in [lowered.outputs[Source(node.id, key)]]
        if isinstance(e, Expr) and e.operator is not Structural.INPUT
    ]
    boundary = frozenset(e for e in inputs.values() if e.type.base != "texture")
    found = [_breach_problem(view, node, b) for b in bounds.breaches(outputs, boundary)]
    problems = [p for p in found if p is not None]
    for key, expr in inputs.items():
        declared = node.kind.inputs[key]
        if not declared.beyond or expr.type.base != "float":
            continue
        interval = bounds.of([expr])[0]
        words = declared.beyond
        domain = Domain(0, words, declared.low, declared.high)
        if leaves(domain, interval):
            problems.append(
                Problem(
                    "outside-channel",
                    _severity(interval),
                    node.id,
                    key,
                    f"{declared.name} {_runs(interval)}; {words}.",
                    f"{declared.name} of {node.name}",
                    (keep_within(lowered.graph, view.variant, node, key, declared.low, declared.high),),
                    expr,
                    domain,
                )
            )
    return problems


def _missing_inputs(lowered: LoweredGraph, textures: frozenset[str]) -> list[Problem]:
    """Textures that are not chosen or gone, and whole surfaces that are not wired: what stands in for each."""
    problems = []
    for node in lowered.graph.nodes.values():
        for key, declared in node.kind.inputs.items():
            if key in node.wires:
                continue
            where = f"{declared.name} of {node.name}"
            if declared.type is P_TEXTURE and node.value(key) not in textures:
                stand_in = "a flat normal map" if declared.missing == "flat" else "white"
                is_gone = bool(node.value(key))
                what = f"{'The chosen texture is gone' if is_gone else 'No texture is chosen'}; it reads as {stand_in}."
                severity = "warning" if is_gone else "note"
                problems.append(Problem("missing-texture", severity, node.id, key, what, where))
            elif declared.type is P_SURFACE and node.id != DOCK:
                what = f"No surface is wired to {declared.name}; a plain grey one stands in."
                problems.append(Problem("missing-surface", "note", node.id, key, what, where))
    return problems


def find_problems(lowered: LoweredGraph, textures: frozenset[str], variant: str = "") -> list[Problem]:
    """All problems for a variant's values, those of types first; ``textures`` are the ids that are kept.

    Range warnings say "may" until ``confirm`` has seen samples.
    """
    graph = lowered.graph
    view = View(lowered, variant, Bounds(uniform_bounds(graph, graph.uniform_values(variant))))
    problems = [mismatch_problem(graph, m) for m in lowered.mismatches]
    problems += _missing_inputs(lowered, textures)
    for node in graph.nodes.values():
        problems += _range_problems(view, node)
    return problems


def confirm(problems: list[Problem], samples: Mapping[Expr, Array]) -> list[Problem]:
    """Range warnings whose samples leave the domain become ``warning``; all quote what was seen."""
    return [_confirmed(p, samples) for p in problems]


def _confirmed(problem: Problem, samples: Mapping[Expr, Array]) -> Problem:
    sampled = samples.get(problem.suspect) if problem.suspect else None
    if sampled is None or problem.domain is None:
        return problem
    seen = Interval(float(np.min(sampled)), float(np.max(sampled)))
    if leaves(problem.domain, seen):
        return replace(problem, severity="warning", what=f"{problem.what} The swatch reaches {_span(seen)}.")
    return replace(problem, what=f"{problem.what} The swatch stays within {_span(seen)}.")
