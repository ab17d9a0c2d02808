"""Tracing: a Python function over expressions becomes a Function, emitted once and called."""

import inspect
import threading
from collections.abc import Callable, Sequence
from functools import lru_cache, wraps

from velvet_moth.core.expr import Expr, Function, Operand, Primitive, Structural, argument, as_expr, call, in_order
from velvet_moth.core.types import Type

Body = Callable[..., Expr | tuple[Expr, ...]]

_named: dict[str, int] = {}
_lock = threading.Lock()

# A body of this many primitives is easier to read in place than behind a call.
INLINE_PRIMITIVES = 6


def trace(name: str, words: str, names: Sequence[str], body: Body, types: Sequence[Type]) -> Function:
    """Run ``body`` on stand-ins of the given types and keep what it built; ``names`` are its arguments'."""
    arguments = tuple(argument(i, t) for i, t in enumerate(types))
    built = body(*arguments)
    results = built if isinstance(built, tuple) else (built,)
    with _lock:
        number = _named[name] = _named.get(name, 0) + 1
    own = name if number == 1 else f"{name}_{number}"
    return Function(own, words, tuple(names), arguments, results, max(r.rate for r in results))


def is_small(function: Function) -> bool:
    """Whether the body should stand in place instead of behind a call."""
    order = in_order(function.results)
    if any(e.operator is Structural.CALL for e in order):
        return False
    return sum(isinstance(e.operator, Primitive) for e in order) <= INLINE_PRIMITIVES


def emitted_function(words: str) -> Callable[[Callable[..., Expr]], Callable[..., Expr]]:
    """Decorator: calls of the Python function become calls of one emitted function per argument types."""

    def decorate(body: Callable[..., Expr]) -> Callable[..., Expr]:
        names = tuple(inspect.signature(body).parameters)

        @lru_cache(maxsize=64)
        def traced(types: tuple[Type, ...]) -> Function:
            return trace(body.__name__, words, names, body, types)

        @wraps(body)
        def called(*operands: Operand) -> Expr:
            args = [as_expr(o) for o in operands]
            return call(traced(tuple(a.type for a in args)), args)[0]

        return called

    return decorate
