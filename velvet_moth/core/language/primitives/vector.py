"""Vectors: putting together, taking apart, products, and the guarded unit vector."""

from collections.abc import Sequence

import numpy as np

from velvet_moth.core.base.errors import ExpressionError
from velvet_moth.core.language.expr import (
    PRIMITIVES,
    Array,
    Change,
    Domain,
    Expr,
    Operand,
    Primitive,
    apply,
    as_expr,
    declare,
)
from velvet_moth.core.language.interval import SIGNED_UNIT, Interval, point, product, total
from velvet_moth.core.language.primitives.rules import (
    Attributes,
    ChangeRule,
    defined,
    fixed,
    or_zero,
    own_function,
    total_change,
)
from velvet_moth.core.language.types import FLOATS, NUMBER, VEC3, Type, float_of_width


def _combine_type(types: Sequence[Type], _: Attributes) -> Type:
    width = sum(t.width for t in types)
    if any(t not in FLOATS for t in types) or not 2 <= width <= 4:
        raise ExpressionError(f"{tuple(types)} do not make a vector of 2 to 4 components.")
    return float_of_width(width)


def _combine_numpy(arrays: Sequence[Array], _: Attributes) -> Array:
    parts = [a[np.newaxis] if a.ndim != 3 else a for a in arrays]
    parts = [p.reshape(1, 1, 1) if p.ndim == 1 else p for p in parts]
    shape = np.broadcast_shapes(*(p.shape[1:] for p in parts))
    return np.concatenate([np.broadcast_to(p, (p.shape[0], *shape)) for p in parts])


def _letters(attributes: Attributes) -> list[int]:
    return [int(a) for a in attributes if isinstance(a, int)]


def _swizzle_type(types: Sequence[Type], attributes: Attributes) -> Type:
    wanted = _letters(attributes)
    if types[0] not in FLOATS or types[0] is NUMBER or max(wanted) >= types[0].width:
        raise ExpressionError(f"{types[0]} has no component number {max(wanted) + 1}.")
    return float_of_width(len(wanted))


def _swizzle_numpy(arrays: Sequence[Array], attributes: Attributes) -> Array:
    wanted = _letters(attributes)
    return arrays[0][wanted[0]] if len(wanted) == 1 else arrays[0][wanted]


def _same_vectors(types: Sequence[Type], _: Attributes) -> Type:
    if types[0] not in FLOATS or any(t is not types[0] for t in types) or types[0] is NUMBER:
        raise ExpressionError(f"Vectors of one width are needed here, not {tuple(types)}.")
    return types[0]


def _dot_type(types: Sequence[Type], attributes: Attributes) -> Type:
    _same_vectors(types, attributes)
    return NUMBER


def _dot_bound(args: Sequence[Interval], _: Attributes) -> Interval:
    # The hull hides the number of components: four is the most there can be.
    return product(product(args[0], args[1]).hull(point(0.0)), point(4.0))


def _cross_bound(args: Sequence[Interval], _: Attributes) -> Interval:
    one = product(args[0], args[1])
    return total(one, Interval(-one.high, -one.low))


def _cross_numpy(arrays: Sequence[Array], _: Attributes) -> Array:
    a, b = np.broadcast_arrays(*arrays)
    return np.stack(
        (a[1] * b[2] - b[1] * a[2], a[2] * b[0] - b[2] * a[0], a[0] * b[1] - b[0] * a[1]),
    )


def _normalise_numpy(arrays: Sequence[Array], _: Attributes) -> Array:
    squared = np.sum(arrays[0] * arrays[0], axis=0, dtype=np.float32)
    scale = np.float32(1) / np.sqrt(np.maximum(squared, np.float32(np.finfo(np.float32).tiny)))
    return np.asarray(arrays[0] * scale, dtype=np.float32)


def _combined_change(args: Sequence[Expr], changes: Sequence[Change], _: Attributes) -> Change:
    if all(c is None for c in changes):
        return None
    return apply("combine", *(or_zero(c, a) for c, a in zip(changes, args, strict=True)))


def _product_change(name: str) -> ChangeRule:
    def rule(args: Sequence[Expr], changes: Sequence[Change], _: Attributes) -> Change:
        first, second = changes
        return total_change(
            None if first is None else apply(name, first, args[1]),
            None if second is None else apply(name, args[0], second),
        )

    return rule


declare(
    Primitive(
        "combine",
        _combine_type,
        spell=lambda dialect, types, texts, _: (
            f"{dialect.types[float_of_width(sum(t.width for t in types))]}({', '.join(texts)})"
        ),
        numpy=_combine_numpy,
        bound=lambda r, _: Interval(min(i.low for i in r), max(i.high for i in r)),
        operations=0,
        domains=(),
        change=_combined_change,
    )
)


def _picked(args: Sequence[Expr], _: Type, attributes: Attributes) -> Expr | None:
    """One component of a vector just put together is the number it was put together from."""
    wanted, made = _letters(attributes), args[0]
    if len(wanted) != 1 or made.operator is not PRIMITIVES["combine"]:
        return None
    place = wanted[0]
    for part in made.args:
        if place < part.type.width:
            return part if part.type is NUMBER else apply("swizzle", part, attributes=(place,))
        place -= part.type.width
    return None


declare(
    Primitive(
        "swizzle",
        _swizzle_type,
        spell=lambda dialect, types, texts, attributes: (
            f"{texts[0]}.{''.join('xyzw'[i] for i in _letters(attributes))}"
        ),
        numpy=_swizzle_numpy,
        bound=lambda r, _: r[0],
        operations=0,
        domains=(),
        simplify=_picked,
        change=lambda a, d, attributes: None if d[0] is None else apply("swizzle", d[0], attributes=attributes),
    )
)
declare(
    Primitive(
        "dot",
        _dot_type,
        spell=lambda dialect, types, texts, _: f"dot({texts[0]}, {texts[1]})",
        numpy=lambda a, _: np.asarray(np.sum(a[0] * a[1], axis=0, dtype=np.float32)),
        bound=_dot_bound,
        operations=3,
        domains=(),
        change=_product_change("dot"),
    )
)
declare(
    Primitive(
        "cross",
        fixed(VEC3, VEC3, VEC3),
        spell=lambda dialect, types, texts, _: f"cross({texts[0]}, {texts[1]})",
        numpy=_cross_numpy,
        bound=_cross_bound,
        operations=3,
        domains=(),
        change=_product_change("cross"),
    )
)
declare(
    Primitive(
        "normalise",
        _same_vectors,
        spell=own_function("unit"),
        numpy=_normalise_numpy,
        bound=lambda r, _: SIGNED_UNIT if r[0].low < 0 else Interval(0.0, 1.0),
        operations=3,
        domains=(Domain(0, "a vector of length zero has no direction; it stays zero", excluded=0.0, quiet=True),),
        helper=defined(
            "unit", "v", lambda dialect, wide: f"v * {dialect.called('inversesqrt')}(max(dot(v, v), 1.1754944e-38))"
        ),
        operation_class="function",
    )
)


def combine(*parts: Operand) -> Expr:
    """A vector of all components of the parts, in order."""
    exprs = [as_expr(p) for p in parts]
    return exprs[0] if len(exprs) == 1 else apply("combine", *exprs)


def dot(a: Expr, b: Expr) -> Expr:
    """The scalar product of two vectors."""
    return apply("dot", a, b)


def cross(a: Expr, b: Expr) -> Expr:
    """The vector product of two vectors of three components."""
    return apply("cross", a, b)


def normalise(v: Expr) -> Expr:
    """v at length 1; zero stays zero."""
    return apply("normalise", v)
