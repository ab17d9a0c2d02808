"""Which values may be held with fewer bits, by their ranges, and how far results can be off for it.

A device may keep such a value as the medium precision of GLSL ES 3.00 (section 4.5.1): up to 2^14 in size, to one part in 2^10.
Each rounding moves a result by no more than the rounding times the largest derivative of the result by that value (the mean value
theorem). Derivatives follow from the rules of differentiation that primitives have, and are bounded by range analysis over ranges a
little wider than the exact ones, so that they hold for the rounded values too.
"""

import math
from collections import Counter
from collections.abc import Callable, Collection, Hashable, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import chain

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.language.expr import Change, Expr, Primitive, Structural, apply, topological_order, uniform
from velvet_moth.core.language.interpreters.bound import Bounds
from velvet_moth.core.language.interval import UNIT, Interval, spanning
from velvet_moth.core.language.primitives.rules import widened
from velvet_moth.core.language.trace import in_place, without_calls
from velvet_moth.core.language.types import BOOL, FLOATS, TEXTURE

LARGEST, SMALLEST, RELATIVE = 2.0**14, 2.0**-14, 2.0**-10
# So much further than their exact ranges the rounded values may go, as a share and at least.
_WIDER, _AT_LEAST = 2.0**-7, 2.0**-7
_ANY_CHANGE = Interval(-1.0, 1.0)
_VALUES = (*FLOATS, BOOL)


@dataclass(frozen=True)
class Reduced:
    """The expressions that may be held with fewer bits, and how far each output can be off for it, in its own unit."""

    values: frozenset[Expr] = frozenset()
    errors: Mapping[str, float] = field(default_factory=dict)

    @property
    def worst(self) -> tuple[str, float]:
        """The output that can be furthest off, and how far; an empty name where nothing is reduced."""
        return max(self.errors.items(), key=lambda one: one[1], default=("", 0.0))


def reduced(outputs: Mapping[str, Expr], names: Collection[Expr], bounds: Bounds, tolerance: float) -> Reduced:
    """The values that may be held with fewer bits so that no output is further off than ``tolerance``.

    Only values that a text names come into question: those among ``names``, and those that are read more than once.
    """
    order = topological_order(outputs.values())
    uses = Counter(chain.from_iterable(_made_of(e) for e in order))
    uses.update(outputs.values())
    named = [e for e in order if e.args and e.type in FLOATS and (uses[e] > 1 or e in names)]
    effects = _Effects(outputs, order, bounds)
    while tolerance > SMALLEST:
        found = effects.chosen(named, tolerance)
        errors = effects.errors(found)
        if errors is not None:
            return Reduced(frozenset(found), errors) if found else Reduced()
        tolerance /= 2
    return Reduced()


def rounding(interval: Interval) -> float:
    """How far a value of that range is off at most once it is held with fewer bits; infinite where it may not fit."""
    far = max(abs(interval.low), abs(interval.high))
    return far * RELATIVE + SMALLEST if far <= LARGEST else math.inf


def _made_of(expr: Expr) -> Sequence[Expr]:
    """What a value is made of; the results of a call are made of its arguments."""
    return expr.args[0].args if expr.operator is Structural.RESULT else expr.args


def _wider(interval: Interval) -> float:
    return max(abs(interval.low), abs(interval.high)) * _WIDER + _AT_LEAST


class _Effects:
    """How errors of values reach the outputs."""

    def __init__(self, outputs: Mapping[str, Expr], order: Sequence[Expr], bounds: Bounds) -> None:
        self.outputs = outputs
        self.order = [e for e in order if e.type in _VALUES and e.args]
        bounds.of(e for e in order if e.type in _VALUES)
        self.ranges = bounds.found
        self.slopes = {e: _slopes(e, self.ranges) for e in self.order}
        self.gains = self._gains()
        self._roundings: dict[Expr, float] = {}

    def _gains(self) -> dict[Expr, NDArray[np.float64]]:
        """How far each output moves at most for each unit that a value is off."""
        count = len(self.outputs)
        found: dict[Expr, NDArray[np.float64]] = {}
        for number, expr in enumerate(self.outputs.values()):
            found.setdefault(expr, np.zeros(count))[number] += 1
        for expr in reversed(self.order):
            gain = found.get(expr)
            if gain is None or not gain.any():
                continue
            for made, slope in zip(_made_of(expr), self.slopes[expr], strict=True):
                if slope:
                    found[made] = found.get(made, 0.0) + _times(slope, gain)
        return found

    def chosen(self, named: Sequence[Expr], tolerance: float) -> set[Expr]:
        """As many of the values as fit, those that matter least first."""
        own = {e: _times(rounding(self.ranges[e]), self.gains[e]) for e in named if e in self.gains}
        found = set[Expr]()
        for expr in sorted((e for e in own if own[e].max() <= tolerance), key=lambda e: float(own[e].max())):
            held = {*found, expr}
            spent = sum((own[e] for e in held), np.zeros(len(self.outputs)))
            for one in self._operations(held):
                spent = spent + _times(self._rounded(one), self.gains[one]) if one in self.gains else spent
            if float(spent.max()) <= tolerance:
                found = held
        return found

    def _operations(self, values: set[Expr]) -> set[Expr]:
        """What is worked out with fewer bits once some values are held so: operations all of whose numbers are.

        A function of our own takes and gives its numbers whole.
        """
        narrow, found = {*values}, set[Expr]()
        for expr in self.order:
            if isinstance(expr.operator, Primitive) and expr.operator.helper is None:
                numbers = [a for a in expr.args if a.type in FLOATS and a.operator is not Structural.CONSTANT]
                if numbers and narrow.issuperset(numbers):
                    narrow.add(expr)
                    found.add(expr)
        return found

    def errors(self, values: set[Expr]) -> dict[str, float] | None:
        """How far each output is off at most; None where a value is further off than the ranges were widened by."""
        off: dict[Expr, float] = {}
        operations = self._operations(values)
        for expr in self.order:
            made = _made_of(expr)
            found = sum(s * off[a] for a, s in zip(made, self.slopes[expr], strict=True) if off.get(a))
            found += self._rounded(expr) if expr in operations else 0.0
            found += rounding(self.ranges[expr]) if expr in values else 0.0
            if found > _wider(self.ranges[expr]) and expr in self.gains:
                return None
            off[expr] = found
        return {key: off.get(e, 0.0) for key, e in self.outputs.items()}

    def _rounded(self, expr: Expr) -> float:
        """How far one operation with fewer bits is off, with its constants; what is more than one is not known."""
        if expr not in self._roundings:
            self._roundings[expr] = self._rounding_of(expr)
        return self._roundings[expr]

    def _rounding_of(self, expr: Expr) -> float:
        assert isinstance(expr.operator, Primitive)
        if expr.operator.operations > 1:
            return math.inf
        found = rounding(self.ranges[expr]) * expr.operator.operations
        off = [_off_in_half(a) for a in expr.args]
        if any(off):
            slopes = _slopes(expr, self.ranges, are_constants_free=True)
            found += sum(one * slope for one, slope in zip(off, slopes, strict=True) if one)
        return found


def _times(off: float, gain: NDArray[np.float64]) -> NDArray[np.float64]:
    """How far outputs move; what does not reach one at all does not move it, however far it is off."""
    return gain * np.where(gain > 0, off, 0.0) if off else np.zeros_like(gain)


def _off_in_half(expr: Expr) -> float:
    """How far a constant is off once it is written beside values with fewer bits; anything else is none."""
    if expr.operator is not Structural.CONSTANT or expr.type not in FLOATS:
        return 0.0
    return max(abs(float(c) - float(np.float16(c))) for c in expr.attributes)


def _slopes(expr: Expr, ranges: Mapping[Expr, Interval], are_constants_free: bool = False) -> list[float]:
    """Bounds of the derivatives of a value by each of its arguments; by its constants too, where those are free."""
    made = _made_of(expr)
    if expr.type is BOOL:
        # A comparison that falls the other way changes everything.
        return [0.0 if a.operator is Structural.CONSTANT else math.inf for a in made]
    if all(a.operator is Structural.CONSTANT or a.type is TEXTURE for a in made):
        return [0.0] * len(made)
    leaves, outside = list[Expr](), dict[Hashable, Interval]()
    for number, one in enumerate(made):
        is_constant = one.operator is Structural.CONSTANT
        if one.type is TEXTURE or (is_constant and not (are_constants_free and one.type in FLOATS)):
            leaves.append(one)
            continue
        leaves.append(uniform(("of it", number), one.type))
        if one.type in FLOATS:
            found = spanning(one.attributes) if is_constant else ranges[one]
            outside[number] = Interval(found.low - _wider(found), found.high + _wider(found))
        else:
            outside[number] = UNIT
    if isinstance(expr.operator, Primitive):
        whole = apply(expr.operator.name, *leaves, attributes=expr.attributes)
    else:
        call = expr.args[0] if expr.operator is Structural.RESULT else expr
        whole = in_place(call.attributes[0], leaves)[expr.attributes[0] if call is not expr else 0]
        (whole,) = without_calls([whole])
    bounds = Bounds(_outside(outside))
    return [_slope(whole, leaf, bounds) if leaf.operator is Structural.UNIFORM else 0.0 for leaf in leaves]


def _outside(ranges: Mapping[Hashable, Interval]) -> Callable[[Hashable], Interval]:
    def of(key: Hashable) -> Interval:
        assert isinstance(key, tuple)
        return _ANY_CHANGE if key[0] == "change" else ranges[key[1]]

    return of


def _slope(whole: Expr, leaf: Expr, bounds: Bounds) -> float:
    if leaf.type is BOOL:
        return math.inf
    changes: dict[Expr, Change] = {leaf: uniform(("change", leaf.attributes[0]), leaf.type)}
    for expr in topological_order([whole]):
        if expr in changes:
            continue
        given = [changes[a] for a in expr.args]
        if not isinstance(expr.operator, Primitive) or all(one is None for one in given):
            changes[expr] = None
        elif expr.operator.change is None or expr.operator.jumps:
            return math.inf
        else:
            change = expr.operator.change(expr.args, given, expr.attributes)
            changes[expr] = None if change is None else widened(change, expr.type)
    change = changes[whole]
    if change is None:
        return 0.0
    (found,) = bounds.of([change])
    return max(abs(found.low), abs(found.high))
