"""Evaluation on NumPy float32 arrays: a flat list of steps that frees each value after its last use."""

from collections.abc import Callable, Hashable, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

import numpy as np

from velvet_moth.core.language.expr import (
    Array,
    Expr,
    Function,
    Primitive,
    Structural,
    constant_array,
    topological_order,
)
from velvet_moth.core.language.inputs import Bindings

Rule = Callable[[Sequence[Any], tuple[Any, ...], Bindings, Sequence[Array]], Any]


@dataclass(frozen=True)
class _Step:
    rule: Rule
    attributes: tuple[Any, ...]
    arguments: tuple[int, ...]
    freed: tuple[int, ...]


@dataclass(frozen=True)
class Plan:
    """Steps in order; each leaves its value in the slot of its own number. ``known`` slots are given."""

    steps: tuple[_Step, ...]
    known: tuple[Expr, ...]
    outputs: tuple[int, ...]

    def run(
        self, bindings: Bindings, arguments: Sequence[Array] = (), known: Mapping[Expr, Array] | None = None
    ) -> list[Array]:
        """The value of each result, as float32 arrays (see the architecture's conventions)."""
        slots: list[Any] = [(known or {})[e] for e in self.known]
        for step in self.steps:
            slots.append(step.rule([slots[i] for i in step.arguments], step.attributes, bindings, arguments))
            for index in step.freed:
                slots[index] = None
        return [slots[i] for i in self.outputs]


def _lookup(table: Mapping[Any, Any], key: Hashable, kind: str) -> Any:
    if key not in table:
        raise KeyError(f"nothing is bound to the {kind} {key!r}")
    return table[key]


def _call(args: Sequence[Any], attributes: tuple[Any, ...], bindings: Bindings, _: Sequence[Array]) -> Any:
    if bindings.calls is None:
        return _called(args, attributes, bindings)
    # The very same arrays give the very same result; they are kept with it, so that no other takes their place.
    key = (attributes[0], *map(id, args))
    if key not in bindings.calls:
        bindings.calls[key] = (args, _called(args, attributes, bindings))
    return bindings.calls[key][1]


def _called(args: Sequence[Any], attributes: tuple[Any, ...], bindings: Bindings) -> Any:
    results = plan_of_function(attributes[0]).run(bindings, args)
    return results[0] if len(results) == 1 else results


_STRUCTURAL: dict[Structural, Rule] = {
    Structural.UNIFORM: lambda args, attributes, s, _: _lookup(s.uniforms, attributes[0], "value"),
    Structural.INPUT: lambda args, attributes, s, _: _lookup(s.inputs, attributes[0], "input"),
    Structural.SAMPLER: lambda args, attributes, s, _: _lookup(s.textures, attributes[0], "texture").read_by(
        attributes[1:3], attributes[3]
    ),
    Structural.ARGUMENT: lambda args, attributes, s, arguments: arguments[attributes[0]],
    Structural.CALL: _call,
    Structural.RESULT: lambda args, attributes, s, _: args[0][attributes[0]],
}


def _constant_rule(expr: Expr) -> Rule:
    value = constant_array(expr)
    return lambda args, attributes, s, _: value


def _primitive_rule(primitive: Primitive) -> Rule:
    compute = primitive.numpy
    return lambda args, attributes, s, _: compute(args, attributes)


def plan(outputs: Sequence[Expr], known: frozenset[Expr] = frozenset()) -> Plan:
    """The steps that give ``outputs``, starting from the values of ``known`` expressions."""
    order = topological_order(outputs, known)
    given = [e for e in order if e in known]
    slot = {e: i for i, e in enumerate(given)}
    todo = [e for e in order if e not in known]
    slot.update((e, len(given) + i) for i, e in enumerate(todo))
    last_use: dict[int, int] = {}
    for position, expr in enumerate(todo):
        for a in expr.args:
            last_use[slot[a]] = position
    kept = {slot[e] for e in outputs}
    freed: list[list[int]] = [[] for _ in todo]
    for index, position in last_use.items():
        if index not in kept:
            freed[position].append(index)
    steps = []
    for position, expr in enumerate(todo):
        if isinstance(expr.operator, Primitive):
            rule = _primitive_rule(expr.operator)
        elif expr.operator is Structural.CONSTANT:
            rule = _constant_rule(expr)
        else:
            rule = _STRUCTURAL[expr.operator]
        steps.append(_Step(rule, expr.attributes, tuple(slot[a] for a in expr.args), tuple(freed[position])))
    return Plan(tuple(steps), tuple(given), tuple(slot[e] for e in outputs))


@lru_cache(maxsize=4096)
def plan_of_function(function: Function) -> Plan:
    """The plan of a function's results; its arguments are given to ``run``."""
    return plan(function.results)


def _with_given(outputs: Sequence[Expr], bindings: Bindings) -> Bindings:
    """The bindings with what is given and read worked out."""
    if bindings.given is None:
        return bindings
    around, names = replace(bindings, given=None), bindings.given.read_by(outputs)
    values = evaluate([bindings.given.inputs[name] for name in names], around) if names else []
    return around.at(dict(zip(names, values, strict=True)))


def evaluate(outputs: Sequence[Expr], bindings: Bindings, known: Mapping[Expr, Array] | None = None) -> list[Array]:
    """The outputs' values: float32 (rows, columns) for numbers, (components, rows, columns) for vectors.

    Constant values keep size 1 along rows and columns. ``known`` are values computed before.
    """
    with np.errstate(over="ignore", invalid="ignore", under="ignore"):
        return plan(outputs, frozenset(known or ())).run(_with_given(outputs, bindings), (), known)


TILE = 256
_THREADS = 2


def _window(value: Array, rows: slice, columns: slice) -> Array:
    """The part of an array in a window; what is of size 1 along an axis stays whole there."""
    if value.ndim < 2:
        return value
    r = rows if value.shape[-2] > 1 else slice(None)
    c = columns if value.shape[-1] > 1 else slice(None)
    return value[..., r, c]


def evaluate_in_tiles(outputs: Sequence[Expr], bindings: Bindings, size: tuple[int, int]) -> list[Array]:
    """As ``evaluate``, for pictures of (height, width) whole: in tiles, so that little memory is held at a time.

    Tiles begin at even places, so that differences over 2x2 pixels are the same.
    """
    height, width = size
    found = [
        np.empty((height, width) if e.type.width == 1 else (e.type.width, height, width), np.float32) for e in outputs
    ]
    windows = [
        (slice(top, min(top + TILE, height)), slice(left, min(left + TILE, width)))
        for top in range(0, height, TILE)
        for left in range(0, width, TILE)
    ]
    made = plan(outputs)

    def fill(window: tuple[slice, slice]) -> None:
        inputs = {name: _window(value, *window) for name, value in bindings.inputs.items()}
        uniforms = {key: _window(value, *window) for key, value in bindings.uniforms.items()}
        with np.errstate(over="ignore", invalid="ignore", under="ignore"):
            here = replace(bindings, inputs=inputs, uniforms=uniforms)
            values = made.run(_with_given(outputs, here))
        for whole, value in zip(found, values, strict=True):
            whole[..., window[0], window[1]] = value

    with ThreadPoolExecutor(_THREADS) as pool:
        list(pool.map(fill, windows))
    return found
