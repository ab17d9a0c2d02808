"""Problems of ranges: domains that are left, values beyond what an input takes, masks that are all the same."""

from collections.abc import Callable, Hashable, Iterable, Mapping
from dataclasses import dataclass, field, replace
from functools import lru_cache

import numpy as np

from velvet_moth.core.catalogue.registry import NodeType
from velvet_moth.core.document.graph import Graph, Node
from velvet_moth.core.document.values import Value
from velvet_moth.core.editing.mends import Mend, conversions, keep_above, keep_long, keep_within
from velvet_moth.core.language.expr import Array, Domain, Expr, Function, Rate, Structural, topological_order
from velvet_moth.core.language.inputs import SURFACE_INPUTS
from velvet_moth.core.language.interpreters.bound import Bounds, Breach, leaves
from velvet_moth.core.language.interval import EVERYTHING, Interval, spanning
from velvet_moth.core.language.types import P_COLOUR, P_FLEXIBLE
from velvet_moth.core.lowering.lowered import Lowered, LoweredGraph
from velvet_moth.core.operations import SetValue, Unwire
from velvet_moth.core.render.swatches import SwatchPass
from velvet_moth.core.workbench.problems.record import Problem, end, runs, severity_of, span

# So many ranges of expressions are remembered, those of nodes long gone among them.
MOST_REMEMBERED = 100_000


# By node: all that its ranges hang on.
Clean = dict[str, tuple[NodeType | Lowered | None, ...]]
# A value set from outside, a parameter's with the ends of its slider.
Outside = Value | tuple[Value, float, float]


def _from_outside(outside: Mapping[tuple[str, str], Outside]) -> Callable[[Hashable], Interval]:
    def interval(key: Hashable) -> Interval:
        found = outside.get(key)  # type: ignore[call-overload] # any key may be asked for
        if found is None or isinstance(found, str):
            return EVERYTHING
        if isinstance(found[0], tuple):
            value, low, high = found
            return spanning(value).hull(Interval(low, high))
        return spanning(found)

    return interval


@dataclass
class RangeMemory:
    """Ranges kept between two looks at a graph, and the nodes found within theirs, as long as no value changes."""

    outside: dict[tuple[str, str], Outside] = field(default_factory=dict)
    clean: Clean = field(default_factory=dict)
    bounds: Bounds = field(init=False)

    def __post_init__(self) -> None:
        self.bounds = Bounds(_from_outside(self.outside))

    def bounds_of(self, graph: Graph, values: Mapping[tuple[str, str], Value]) -> Bounds:
        """The ranges for these values: those of the look before, unless one of the values was another then."""
        now = outside_of(graph, values)
        is_other = any(self.outside.get(key, value) != value for key, value in now.items())
        if is_other or len(self.bounds.found) > MOST_REMEMBERED:
            self.clean, self.outside = {}, {}
            self.__post_init__()
        self.outside.update(now)
        return self.bounds


@dataclass(frozen=True)
class View:
    """What is looked at: the lowered graph, the values of a variant, and the ranges they give."""

    lowered: LoweredGraph
    variant: str
    bounds: Bounds
    clean: Clean


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
    elif domain.quiet:
        mends = (keep_long(view.lowered.graph, node, key),)
    elif key not in node.wires:
        mends = (Mend("Set it to 1", SetValue(node.id, key, (1.0,))),)
    else:
        mends = (keep_above(view.lowered.graph, node, key, 0.001),)
    return Problem(
        "outside-domain",
        severity_of(breach.interval),
        node=node.id,
        input=key,
        what=f"{name} {runs(breach.interval)}: {domain.words}.",
        where=f"{name} of {node.name}",
        mends=mends,
        suspect=breach.argument,
        domain=domain,
    )


def outside_of(graph: Graph, values: Mapping[tuple[str, str], Value]) -> dict[tuple[str, str], Outside]:
    """Every value set from outside, a parameter's with its whole range."""
    found: dict[tuple[str, str], Outside] = dict(values)
    for p in graph.parameters:
        if graph.nodes[p.node].kind.inputs[p.input].type.strands == 1:
            found[p.node, p.input] = (values[p.node, p.input], p.low, p.high)
    return found


def uniform_bounds(graph: Graph, values: Mapping[tuple[str, str], Value]) -> Callable[[Hashable], Interval]:
    """The range of every value set from outside: a parameter's whole range, a plain value as it stands."""
    return _from_outside(outside_of(graph, values))


def range_problems(view: View, node: Node) -> list[Problem]:
    """What the ranges of a node's values say is wrong with it."""
    lowered, bounds = view.lowered, view.bounds
    made = [lowered.outputs[source] for source in node.sources.values()]
    looked_at = (node.kind, *made, *[lowered.inputs.get(end) for end in node.ends])
    if view.clean.get(node.id) == looked_at:
        return []
    inputs = lowered.inputs_of(node)
    outputs = [e for e in made if isinstance(e, Expr) and e.operator is not Structural.INPUT]
    boundary = frozenset(e for e in inputs.values() if e.type.base != "texture")
    found = [_breach_problem(view, node, b) for b in bounds.breaches(outputs, boundary)]
    problems = [p for p in found if p is not None]
    for key, expr in inputs.items():
        declared = node.kind.inputs[key]
        if not declared.beyond or expr.type.base != "float":
            continue
        interval = bounds.of([expr])[0]
        words = declared.beyond
        limits = Interval(declared.low, declared.high)
        if declared.limits is not None:
            limits = declared.limits({k: bounds.of([e])[0] for k, e in inputs.items() if e.type.base == "float"})
            if interval.low <= limits.high and interval.high >= limits.low:
                continue  # what counts on beyond the last begins again on purpose
        domain = Domain(0, words, limits.low, limits.high)
        if leaves(domain, interval):
            problems.append(
                Problem(
                    "outside-channel",
                    severity_of(interval),
                    node=node.id,
                    input=key,
                    what=f"{declared.name} {runs(interval)}; {words}.",
                    where=f"{declared.name} of {node.name}",
                    mends=(keep_within(lowered.graph, view.variant, node, key, limits.low, limits.high),),
                    suspect=expr,
                    domain=domain,
                )
            )
    if not problems:
        problems += far_out(view, node)
    if not problems:
        view.clean[node.id] = looked_at
    return problems


# A value so many times beyond its slider is likely a slip of the hand.
_FAR = 1000.0


def far_out(view: View, node: Node) -> list[Problem]:
    """Values by hand that are far from where they are of use; those of plain arithmetic may be anything."""
    problems: list[Problem] = []
    if any(declared.type is P_FLEXIBLE for declared in node.kind.inputs.values()):
        return problems
    for key, expr in view.lowered.inputs_of(node).items():
        declared = node.kind.inputs[key]
        if declared.role == "seed" or expr.operator is not Structural.UNIFORM:
            continue
        interval = view.bounds.of([expr])[0]
        usual = Interval(declared.low, declared.high)
        reach = _FAR * max(abs(usual.low), abs(usual.high))
        if reach == 0 or interval.within(-reach, reach):
            continue
        nearest = usual.high if interval.high > reach else usual.low
        what = f"{declared.name} {runs(interval)}; it is of use within {span(usual)}."
        mend = Mend(f"Set it to {nearest:g}", SetValue(node.id, key, (nearest,) * expr.type.width))
        where = f"{declared.name} of {node.name}"
        problems.append(Problem("far-out", "note", node=node.id, input=key, what=what, where=where, mends=(mend,)))
    return problems


def confirm(problems: list[Problem], samples: Mapping[Expr, Array]) -> list[Problem]:
    """Range warnings whose samples leave the domain become ``warning``; all quote what was seen.

    Those of a quiet domain are dropped unless they were seen.
    """
    return [p for p in (_confirmed(problem, samples) for problem in problems) if p is not None]


def _confirmed(problem: Problem, samples: Mapping[Expr, Array]) -> Problem | None:
    sampled = samples.get(problem.suspect) if problem.suspect else None
    if problem.domain is not None and problem.domain.quiet:
        is_seen = sampled is not None and bool((np.abs(sampled).max(axis=0) < 1e-6).any())
        return replace(problem, severity="warning", what=f"{problem.what} The swatch shows it.") if is_seen else None
    if sampled is None or problem.domain is None:
        return problem
    seen = Interval(float(sampled.min()), float(sampled.max()))
    if leaves(problem.domain, seen):
        return replace(problem, severity="warning", what=f"{problem.what} The swatch reaches {span(seen)}.")
    return replace(problem, what=f"{problem.what} The swatch stays within {span(seen)}.")


@lru_cache(maxsize=4096)
def _asked_by(function: Function) -> frozenset[str]:
    return inputs_asked(function.results)


def inputs_asked(outputs: Iterable[Expr]) -> frozenset[str]:
    """The names of the surface inputs that some expressions need, those inside functions too."""
    found: set[str] = set()
    for expr in topological_order(outputs):
        if expr.operator is Structural.INPUT:
            found.add(expr.attributes[0])
        elif expr.operator is Structural.CALL:
            found |= _asked_by(expr.attributes[0])
    return frozenset(found)


# These are the same all over a swatch and still differ on the stage.
_UNSEEN_IN_SWATCHES = frozenset(
    {"is_front"} | {name for name in SURFACE_INPUTS if name.startswith(("form_", "instance_", "decal_", "spread_"))}
)


# What differs by less is one value.
_SAME = 1e-6
# Moments of the timeline, in seconds, that no usual loop brings back to one place.
_MOMENTS = (0.0, 0.6, 1.7, 2.9, 4.3, 7.1, 13.7, 23.3, 41.9, 53.1)


def _never_varies(expr: Expr, samples: SwatchPass) -> bool:
    """Whether a value is the same all over the square, at each moment where it changes with time."""
    seen = samples.arrays[expr]
    asked = inputs_asked([expr])
    if not np.isfinite(seen).all() or float(np.ptp(seen)) > _SAME or asked & _UNSEEN_IN_SWATCHES:
        return False
    return "time" not in asked or all(
        float(np.abs(samples.at_moment(expr, seconds) - seen).max()) <= _SAME for seconds in _MOMENTS
    )


def stored_directions(lowered: LoweredGraph, samples: SwatchPass) -> list[Problem]:
    """Colours, 0 to 1, wired to where directions of -1 to 1 are taken; those that were decoded go below 0."""
    problems = []
    for node in lowered.graph.nodes.values():
        for key, source in node.wires.items():
            declared, expr = node.kind.inputs[key], lowered.inputs.get((node.id, key))
            if declared.role != "direction" or not isinstance(expr, Expr):
                continue
            whole, given = lowered.types.get(source.whole), lowered.type_of(source)
            seen = samples.arrays.get(expr)
            if whole is not P_COLOUR or given is None or (seen is not None and float(seen.min()) < -_SAME):
                continue
            mends = conversions(lowered.graph, source, given.name, node.id, key, "direction")
            what = (
                f"{declared.name} takes directions of −1 to 1, and a colour of 0 to 1 is wired to it: decode it first."
            )
            where = f"{declared.name} of {node.name}"
            problems.append(Problem("stored-direction", "warning", node.id, key, what, where, mends))
    return problems


def _is_switched(graph: Graph, start: str, values: Mapping[tuple[str, str], Value]) -> bool:
    """Whether a parameter upstream is at an end of its range, as one that is switched off, or keyed from nothing, is."""
    upstream = set(graph.upstream([start]))
    return any(
        (p.node, p.input) in values and values[p.node, p.input] in ((p.low,), (p.high,))
        for p in graph.parameters
        if p.node in upstream
    )


def constant_masks(
    lowered: LoweredGraph, samples: SwatchPass, values: Mapping[tuple[str, str], Value]
) -> list[Problem]:
    """Masks that are wired to something that varies by its nature and yet is the same everywhere, unless that is chosen."""
    problems = []
    for node in lowered.graph.nodes.values():
        for key in node.wires:
            declared, expr = node.kind.inputs[key], lowered.inputs.get((node.id, key))
            if declared.role != "mask" or not isinstance(expr, Expr) or expr.rate <= Rate.DRAW:
                continue
            if expr not in samples.arrays or not _never_varies(expr, samples):
                continue
            if _is_switched(lowered.graph, node.wires[key].node, values):
                continue
            value = float(np.ravel(samples.arrays[expr])[0])
            problems.append(
                Problem(
                    "constant-mask",
                    "warning",
                    node=node.id,
                    input=key,
                    what=f"{declared.name} is {end(value)} everywhere: as a mask it does nothing.",
                    where=f"{declared.name} of {node.name}",
                    mends=(Mend("Remove the wire", Unwire(node.id, key)),),
                )
            )
    return problems
