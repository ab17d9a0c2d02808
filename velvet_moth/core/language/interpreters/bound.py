"""Range analysis: an interval that encloses every value an expression can take, and where domains are left."""

from collections.abc import Callable, Hashable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import lru_cache

from velvet_moth.core.base.errors import ExpressionError
from velvet_moth.core.language.expr import Domain, Expr, Function, Primitive, Structural, topological_order
from velvet_moth.core.language.inputs import SURFACE_INPUTS
from velvet_moth.core.language.interval import Interval, spanning
from velvet_moth.core.language.types import BOOL


@dataclass(frozen=True)
class Breach:
    """An argument that may leave a primitive's domain."""

    domain: Domain
    argument: Expr
    interval: Interval


def _argument_interval(expr: Expr, arguments: Sequence[Interval]) -> Interval:
    found: Interval = arguments[expr.attributes[0]]
    return found


@dataclass
class Bounds:
    """Intervals by expression, extended on demand. ``uniforms`` gives the range of a value set from outside."""

    uniforms: Callable[[Hashable], Interval]
    arguments: Sequence[Interval] = ()
    found: dict[Expr, Interval] = field(default_factory=dict)
    _results: dict[Expr, tuple[Interval, ...]] = field(default_factory=dict)

    def of(self, outputs: Iterable[Expr]) -> list[Interval]:
        """The range of each expression, those of before remembered."""
        wanted = list(outputs)
        missing = [e for e in wanted if e not in self.found]
        for expr in topological_order(missing, self.found) if missing else ():
            if expr not in self.found:
                self.found[expr] = self._interval(expr)
        return [self.found[e] for e in wanted]

    def _interval(self, expr: Expr) -> Interval:
        if isinstance(expr.operator, Primitive):
            return expr.operator.bound([self.found[a] for a in expr.args], expr.attributes).single
        return _STRUCTURAL[expr.operator](self, expr)

    def _call(self, expr: Expr) -> Interval:
        function: Function = expr.attributes[0]
        results = _function_bounds(function, tuple(self.found[a] for a in expr.args))
        self._results[expr] = results
        return results[0]

    def breaches(self, outputs: Iterable[Expr], inside: frozenset[Expr] = frozenset()) -> list[Breach]:
        """Arguments that may leave a domain, looking no further back than the expressions ``inside``."""
        wanted = list(outputs)
        self.of(wanted)
        found: list[Breach] = []
        for expr in topological_order(wanted, inside):
            if expr in inside:
                continue
            if isinstance(expr.operator, Primitive):
                for domain in expr.operator.domains:
                    argument = expr.args[domain.argument]
                    if leaves(domain, self.found[argument]):
                        found.append(Breach(domain, argument, self.found[argument]))
            elif expr.operator is Structural.CALL:
                found += self._breaches_of_call(expr)
        return found

    def _breaches_of_call(self, expr: Expr) -> list[Breach]:
        """Those inside a function, told of the caller's argument where one is passed on as it is."""
        inside = _function_breaches(expr.attributes[0], tuple(self.found[a] for a in expr.args))
        return [
            replace(b, argument=expr.args[b.argument.attributes[0]])
            if b.argument.operator is Structural.ARGUMENT
            else b
            for b in inside
        ]


def leaves(domain: Domain, interval: Interval) -> bool:
    """Whether some of the interval lies outside the domain, by more than rounding."""
    if not interval.within(domain.low, domain.high, 1e-5):
        return True
    return domain.excluded is not None and interval.low <= domain.excluded <= interval.high


def _constant(_: Bounds, expr: Expr) -> Interval:
    return Interval(0.0, 1.0) if expr.type is BOOL else spanning(expr.attributes)


_STRUCTURAL: Mapping[Structural, Callable[[Bounds, Expr], Interval]] = {
    Structural.CONSTANT: _constant,
    Structural.UNIFORM: lambda b, e: b.uniforms(e.attributes[0]),
    Structural.INPUT: lambda b, e: SURFACE_INPUTS[e.attributes[0]].bound,
    Structural.SAMPLER: lambda b, e: Interval(e.attributes[4], e.attributes[5]),
    Structural.ARGUMENT: lambda b, e: _argument_interval(e, b.arguments),
    Structural.CALL: Bounds._call,
    Structural.RESULT: lambda b, e: b._results[e.args[0]][e.attributes[0]],
}


def _none_inside(key: Hashable) -> Interval:
    raise ExpressionError(f"A function reads the value {key!r} from outside instead of taking it as an argument.")


@lru_cache(maxsize=2048)
def _inside(function: Function, arguments: tuple[Interval, ...]) -> Bounds:
    """The ranges of all that a function computes, for its results and for what may leave a domain in it."""
    return Bounds(_none_inside, arguments)


@lru_cache(maxsize=8192)
def _function_bounds(function: Function, arguments: tuple[Interval, ...]) -> tuple[Interval, ...]:
    return tuple(_inside(function, arguments).of(function.results))


@lru_cache(maxsize=8192)
def _function_breaches(function: Function, arguments: tuple[Interval, ...]) -> tuple[Breach, ...]:
    return tuple(_inside(function, arguments).breaches(function.results))
