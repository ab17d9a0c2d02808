"""Type rules and spellings that several primitives share."""

from collections.abc import Callable, Hashable, Sequence

import numpy as np

from velvet_moth.core.base.errors import ExpressionError
from velvet_moth.core.language.dialects.base import Dialect
from velvet_moth.core.language.expr import (
    Array,
    Change,
    Expr,
    Primitive,
    SpellRule,
    Structural,
    apply,
    constant,
    declare,
)
from velvet_moth.core.language.interval import Interval
from velvet_moth.core.language.types import FLOATS, NUMBER, Type

Attributes = tuple[Hashable, ...]
NumpyRule = Callable[[Sequence[Array], Attributes], Array]
ChangeRule = Callable[[Sequence[Expr], Sequence[Change], Attributes], Change]
BoundRule = Callable[[Sequence[Interval], Attributes], Interval]

ZERO = np.float32(0.0)


def widest_float(types: Sequence[Type], _: Attributes = ()) -> Type:
    """Component by component: floats of one width, or numbers among them."""
    best: Type = NUMBER
    for found in types:
        if found not in FLOATS:
            raise ExpressionError(f"Numbers are needed here, not {found}.")
        if found is not NUMBER:
            if best is not NUMBER and best is not found:
                raise ExpressionError(f"{best} and {found} do not combine component by component.")
            best = found
    return best


def fixed(result: Type, *arguments: Type) -> Callable[[Sequence[Type], Attributes], Type]:
    """Exactly these argument types."""

    def rule(types: Sequence[Type], _: Attributes) -> Type:
        if tuple(types) != arguments:
            raise ExpressionError(f"{arguments} are needed here, not {tuple(types)}.")
        return result

    return rule


def is_all(expr: Expr, value: float) -> bool:
    """Whether an expression is a constant of this value in every component."""
    return expr.operator is Structural.CONSTANT and set(expr.attributes) == {value}


def widened(expr: Expr, type_: Type) -> Expr:
    """A number in every component of a type; what has that type as it is."""
    return expr if expr.type is type_ else apply("combine", *[expr] * type_.width)


def scaled(change: Change, factor: Expr) -> Change:
    """A change times a factor."""
    return None if change is None else change * factor


def total_change(*changes: Change) -> Change:
    """Changes that add up."""
    found = [c for c in changes if c is not None]
    return sum(found[1:], found[0]) if found else None


def or_zero(change: Change, like: Expr) -> Expr:
    """A change as an expression, 0 in each component where there is none."""
    return constant(*[0.0] * like.type.width) if change is None else change


def no_change(*_: object) -> Change:
    """Of what stays the same between its jumps."""
    return None


def infix(symbol: str) -> SpellRule:
    """Operators take a number beside a vector as they are."""
    return lambda _dialect, _types, texts, _attributes: f"({texts[0]} {symbol} {texts[1]})"


def widened_texts(dialect: Dialect, types: Sequence[Type], texts: Sequence[str]) -> list[str]:
    """Arguments of the widest type among them, and numbers widened to it."""
    wide = widest_float(types)
    return [dialect.widened(text, found, wide) for found, text in zip(types, texts, strict=True)]


def function(name: str) -> SpellRule:
    """A built-in function over equal types, by GLSL's name."""
    return lambda dialect, types, texts, _: f"{dialect.called(name)}({', '.join(widened_texts(dialect, types, texts))})"


def own_function(name: str) -> SpellRule:
    """A function of our own over equal types (see ``defined``)."""
    return lambda dialect, types, texts, _: (
        f"{dialect.helper(name, widest_float(types))}({', '.join(widened_texts(dialect, types, texts))})"
    )


def defined(name: str, names: str, text: Callable[[Dialect, Type], str]) -> Callable[[Dialect, Sequence[Type]], str]:
    """A function of our own for the width that is needed; ``names`` are those of its arguments, a letter each."""

    def rule(dialect: Dialect, types: Sequence[Type]) -> str:
        wide = widest_float(types)
        return dialect.defined(wide, dialect.helper(name, wide), dict.fromkeys(names, wide), text(dialect, wide))

    return rule


def nothing(dialect: Dialect, wide: Type) -> str:
    """0 in every component."""
    return dialect.widened("0.0", NUMBER, wide)


def simple(
    name: str,
    called: str,
    compute: Callable[[Array], Array],
    bound: BoundRule,
    operations: int = 1,
    change: ChangeRule | None = None,
    jumps: bool | None = None,
) -> None:
    """A total function of one argument, built into every language; ``called`` is GLSL's name of it."""

    def numpy_rule(arrays: Sequence[Array], _: Attributes) -> Array:
        return compute(arrays[0])

    operation_class = "arithmetic" if operations == 1 else "function"
    declare(
        Primitive(
            name,
            widest_float,
            spell=function(called),
            numpy=numpy_rule,
            bound=bound,
            operations=operations,
            domains=(),
            operation_class=operation_class,
            change=change,
            jumps=jumps,
        )
    )
