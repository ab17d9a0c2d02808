"""Tracing: a Python function over expressions becomes a Function, emitted once and called."""

import inspect
import threading
from collections.abc import Callable, Mapping, Sequence
from functools import lru_cache, wraps

from velvet_moth.core.base.plain_names import identifier
from velvet_moth.core.language.expr import (
    Expr,
    Function,
    Operand,
    Primitive,
    Structural,
    apply,
    argument,
    as_expr,
    biased,
    call,
    is_biased,
    topological_order,
    with_arguments,
)
from velvet_moth.core.language.types import NUMBER, Type

Body = Callable[..., Expr | tuple[Expr, ...]]

_named: dict[str, int] = {}
_lock = threading.Lock()

# A body of this many primitives is easier to read in place than behind a call.
INLINE_PRIMITIVES = 6


def trace(
    name: str, words: str, names: Sequence[str], body: Body, types: Sequence[Type], with_bias: Sequence[int] = ()
) -> Function:
    """Run ``body`` on stand-ins of the given types and keep what it built; ``names`` are its arguments'.

    The textures at the places ``with_bias`` have a bias of their own, which is one more argument after all others.
    """
    arguments = tuple(argument(i, t) for i, t in enumerate([*types, *[NUMBER] * len(with_bias)]))
    given = list(arguments[: len(types)])
    for at, bias in zip(with_bias, arguments[len(types) :], strict=True):
        given[at] = biased(given[at], bias)
    names = (*names, *(f"{names[at]}_bias" for at in with_bias))
    built = body(*given)
    results = built if isinstance(built, tuple) else (built,)
    stem = identifier(name)
    with _lock:
        number = _named[stem] = _named.get(stem, 0) + 1
    own = stem if number == 1 else f"{stem}_{number}"
    return Function(
        own, words, tuple(names), arguments, results, max(r.rate for r in results), _compares_pixels(results)
    )


def _compares_pixels(results: Sequence[Expr]) -> bool:
    return any(
        e.attributes[0].compares_pixels
        if e.operator is Structural.CALL
        else isinstance(e.operator, Primitive) and e.operator.operation_class == "derivative"
        for e in topological_order(results)
    )


def is_better_in_place(function: Function, args: Sequence[Expr]) -> bool:
    """Whether the body must see its arguments: it compares pixels, and they jump.

    How fast they change, jumps left out, can only be found from the expression (see ``footprint.py``).
    """
    return function.compares_pixels and any(a.jumps for a in args)


def substituted(outputs: Sequence[Expr], table: Mapping[Expr, Expr]) -> list[Expr]:
    """The expressions with some of what they are made from replaced, by expressions of the same types."""
    made: dict[Expr, Expr] = {}
    for expr in topological_order(outputs, table.keys()):
        given = [made[a] for a in expr.args] if expr not in table else []
        if expr in table:
            made[expr] = table[expr]
        elif isinstance(expr.operator, Primitive):
            made[expr] = apply(expr.operator.name, *given, attributes=expr.attributes)
        else:
            made[expr] = with_arguments(expr, given)
    return [made[e] for e in outputs]


def in_place(function: Function, args: Sequence[Expr]) -> list[Expr]:
    """The results of a function with its arguments put into its body."""
    return substituted(function.results, dict(zip(function.arguments, args, strict=True)))


def without_calls(outputs: Sequence[Expr]) -> list[Expr]:
    """The expressions with the bodies of all functions in the place of their calls; equal calls are one."""
    return _called_in_place(outputs, {}, {})


def _called_in_place(
    outputs: Sequence[Expr], table: Mapping[Expr, Expr], calls: dict[tuple[Function, tuple[Expr, ...]], list[Expr]]
) -> list[Expr]:
    found: dict[Expr, list[Expr]] = {}
    for expr in topological_order(outputs, table.keys()):
        if expr in table:
            found[expr] = [table[expr]]
        elif expr.operator is Structural.RESULT:
            found[expr] = [found[expr.args[0]][expr.attributes[0]]]
        elif expr.operator is Structural.CALL:
            function, args = expr.attributes[0], tuple(found[a][0] for a in expr.args)
            if (function, args) not in calls:
                given = dict(zip(function.arguments, args, strict=True))
                calls[function, args] = _called_in_place(function.results, given, calls)
            found[expr] = calls[function, args]
        elif isinstance(expr.operator, Primitive):
            found[expr] = [apply(expr.operator.name, *(found[a][0] for a in expr.args), attributes=expr.attributes)]
        else:
            found[expr] = [with_arguments(expr, [found[a][0] for a in expr.args])]
    return [found[e][0] for e in outputs]


def split_biases(args: Sequence[Expr]) -> tuple[list[Expr], tuple[int, ...]]:
    """Arguments as a call takes them, the biases of textures after all others; and which places had one."""
    with_bias = tuple(i for i, a in enumerate(args) if is_biased(a))
    plain = [a.args[0] if is_biased(a) else a for a in args]
    return [*plain, *(args[i].args[1] for i in with_bias)], with_bias


def is_small(function: Function) -> bool:
    """Whether the body should stand in place instead of behind a call."""
    order = topological_order(function.results)
    if any(e.operator is Structural.CALL for e in order):
        return False
    return sum(isinstance(e.operator, Primitive) for e in order) <= INLINE_PRIMITIVES


def emitted_function(words: str) -> Callable[[Callable[..., Expr]], Callable[..., Expr]]:
    """Decorator: calls of the Python function become calls of one emitted function per argument types.

    Arguments that are constants are settled inside the function, so that what follows from them is worked out once.
    """

    def decorate(body: Callable[..., Expr]) -> Callable[..., Expr]:
        names = tuple(inspect.signature(body).parameters)

        @lru_cache(maxsize=64)
        def traced(signature: tuple[Type | Expr, ...], with_bias: tuple[int, ...]) -> Function:
            free = [i for i, one in enumerate(signature) if not isinstance(one, Expr)]

            def with_constants(*args: Expr) -> Expr | tuple[Expr, ...]:
                given = dict(zip(free, args, strict=True))
                return body(*(one if isinstance(one, Expr) else given[i] for i, one in enumerate(signature)))

            types = [one for one in signature if not isinstance(one, Expr)]
            return trace(body.__name__, words, [names[i] for i in free], with_constants, types, with_bias)

        @wraps(body)
        def called(*operands: Operand, **named: Operand) -> Expr:
            given = [as_expr(o) for o in (*operands, *(named[name] for name in names[len(operands) :]))]
            is_settled = [a.operator is Structural.CONSTANT for a in given]
            if all(is_settled):
                return body(*given)
            args, with_bias = split_biases([a for a, settled in zip(given, is_settled, strict=True) if not settled])
            signature = tuple(a if settled else a.type for a, settled in zip(given, is_settled, strict=True))
            function = traced(signature, with_bias)
            (result,) = function.results
            if result.operator is Structural.CONSTANT:
                return result
            if is_better_in_place(function, args):
                return body(*given)
            return call(function, args)[0]

        return called

    return decorate
