"""Comparison, choice, logic, and proved ranges."""

from collections.abc import Sequence
from typing import Any

import numpy as np

from velvet_moth.core.base.errors import ExpressionError
from velvet_moth.core.language.dialects.base import Dialect
from velvet_moth.core.language.expr import Array, Change, Expr, Operand, Primitive, Structural, apply, declare
from velvet_moth.core.language.interval import Interval
from velvet_moth.core.language.primitives.rules import (
    Attributes,
    fixed,
    no_change,
    or_zero,
    widened,
    widened_texts,
    widest_float,
)
from velvet_moth.core.language.types import BOOL, NUMBER, Type


def _select_type(types: Sequence[Type], attributes: Attributes) -> Type:
    if types[0] is not BOOL:
        raise ExpressionError("A choice needs a yes or no first.")
    return widest_float(types[1:], attributes)


def _select_text(dialect: Dialect, types: Sequence[Type], texts: Sequence[str], _: Attributes) -> str:
    wide = widest_float(types[1:])
    yes, no = widened_texts(dialect, types[1:], texts[1:])
    return dialect.chosen(wide.width, texts[0], yes, no)


def _settled_choice(args: Sequence[Expr], type_: Type, _: Attributes) -> Expr | None:
    """A yes or no known at build leaves one branch; the other costs nothing."""
    condition, yes, no = args
    if condition.operator is not Structural.CONSTANT:
        return yes if yes is no else None
    kept = yes if condition.attributes[0] else no
    return widened(kept, type_)


def _settled_comparison(args: Sequence[Expr], type_: Type, _: Attributes) -> Expr | None:
    """Two constants that compare alike in every component leave one branch."""
    a, b, yes, no = args
    if a.operator is not Structural.CONSTANT or b.operator is not Structural.CONSTANT:
        return None
    answers = set(np.atleast_1d(np.less(a.attributes, b.attributes)).tolist())
    if len(answers) > 1:
        return None
    kept = yes if answers == {True} else no
    return widened(kept, type_)


def _where_less_text(dialect: Dialect, types: Sequence[Type], texts: Sequence[str], _: Attributes) -> str:
    a, b, yes, no = widened_texts(dialect, types, texts)
    return dialect.where(widest_float(types).width, "<", a, b, yes, no)


def _truth(*_: object) -> Interval:
    return Interval(0.0, 1.0)


def _logic(name: str, symbol: str, compute: np.ufunc) -> None:
    declare(
        Primitive(
            name,
            fixed(BOOL, BOOL, BOOL),
            spell=lambda dialect, types, texts, _: f"({texts[0]} {symbol} {texts[1]})",
            numpy=lambda a, _: np.asarray(compute(a[0], a[1])),
            bound=_truth,
            operations=1,
            domains=(),
            operation_class="choice",
            change=no_change,
            jumps=True,
        )
    )


def _chosen_change(args: Sequence[Expr], changes: Sequence[Change], _: Attributes) -> Change:
    """Of one of the last two, by the name of the choice."""
    name = "select" if args[0].type is BOOL else "where_less"
    if changes[-1] is None and changes[-2] is None:
        return None
    return apply(name, *args[:-2], *(or_zero(c, a) for c, a in zip(changes[-2:], args[-2:], strict=True)))


def _assume_numpy(arrays: Sequence[Array], _: Attributes) -> Array:
    return arrays[0]


def _assume_bound(args: Sequence[Interval], attributes: Attributes) -> Interval:
    limits_of_all: Any = attributes
    low, high, *limits = limits_of_all
    value, *conditions = args
    holds = all(c.within(limits[2 * i], limits[2 * i + 1]) for i, c in enumerate(conditions))
    return value.meet(low, high) if holds else value


declare(
    Primitive(
        "less",
        fixed(BOOL, NUMBER, NUMBER),
        spell=lambda dialect, types, texts, _: f"({texts[0]} < {texts[1]})",
        numpy=lambda a, _: np.asarray(a[0] < a[1]),
        bound=_truth,
        operations=1,
        domains=(),
        operation_class="choice",
        change=no_change,
        jumps=True,
    )
)
declare(
    Primitive(
        "select",
        _select_type,
        spell=_select_text,
        numpy=lambda a, _: np.where(a[0], a[1], a[2]),
        bound=lambda r, _: r[1].hull(r[2]),
        operations=1,
        domains=(),
        simplify=_settled_choice,
        operation_class="choice",
        change=_chosen_change,
        jumps=True,
    )
)
declare(
    Primitive(
        "where_less",
        widest_float,
        spell=_where_less_text,
        numpy=lambda a, _: np.where(a[0] < a[1], a[2], a[3]).astype(np.float32),
        bound=lambda r, _: r[2].hull(r[3]),
        operations=2,
        domains=(),
        simplify=_settled_comparison,
        operation_class="choice",
        change=_chosen_change,
        jumps=True,
    )
)
_logic("logical_and", "&&", np.logical_and)
_logic("logical_or", "||", np.logical_or)
declare(
    Primitive(
        "logical_not",
        fixed(BOOL, BOOL),
        spell=lambda dialect, types, texts, _: f"(!{texts[0]})",
        numpy=lambda a, _: np.asarray(np.logical_not(a[0])),
        change=no_change,
        bound=_truth,
        operations=1,
        domains=(),
        operation_class="choice",
    )
)
declare(
    Primitive(
        "assume",
        lambda types, attributes: types[0],
        spell=lambda dialect, types, texts, _: texts[0],
        numpy=_assume_numpy,
        bound=_assume_bound,
        operations=0,
        domains=(),
        change=lambda a, d, _: d[0],
    )
)
declare(
    Primitive(
        "continuous",
        lambda types, attributes: types[0],
        spell=lambda dialect, types, texts, _: texts[0],
        numpy=_assume_numpy,
        bound=lambda r, _: r[0],
        operations=0,
        domains=(),
        jumps=False,
    )
)


def less(a: Operand, b: Operand) -> Expr:
    """Yes where number a is below number b."""
    return apply("less", a, b)


def where_less(a: Operand, b: Operand, yes: Operand, no: Operand) -> Expr:
    """``yes`` in the components where a is below b, ``no`` in the others."""
    return apply("where_less", a, b, yes, no)


def select(condition: Expr, yes: Operand, no: Operand) -> Expr:
    """``yes`` where the condition holds, else ``no``; both are computed."""
    return apply("select", condition, yes, no)


def logical_and(a: Expr, b: Expr) -> Expr:
    """Whether both are so."""
    return apply("logical_and", a, b)


def logical_or(a: Expr, b: Expr) -> Expr:
    """Whether one of them is so."""
    return apply("logical_or", a, b)


def logical_not(a: Expr) -> Expr:
    """Whether it is not so."""
    return apply("logical_not", a)


def continuous(value: Expr) -> Expr:
    """The same value, of which its author says that it never jumps, although parts of its formula do."""
    return apply("continuous", value)


def assume(value: Expr, low: float, high: float, *where: tuple[Expr, float, float]) -> Expr:
    """The same value with a range its author has proved; the tests fuzz the proof, far outside all sliders too.

    ``where`` are the inputs that the proof needs, each with the range in which it holds: outside, nothing is assumed.
    """
    limits = [limit for _, least, most in where for limit in (least, most)]
    return apply("assume", value, *(of for of, _, _ in where), attributes=(low, high, *map(float, limits)))
