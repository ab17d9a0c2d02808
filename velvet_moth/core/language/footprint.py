"""The footprint of a pixel: how fast coordinates change from one pixel to the next, jumps left out.

The level of a texture follows from it. Where coordinates jump (each tile has its own, an angle begins again), a comparison
of two pixels gives a huge change, and one dotted line of the coarsest level. There the rules of differentiation are
applied to the expression, down to what does not jump: only that is compared.
"""

from velvet_moth.core.language.expr import Change, Expr, Primitive, Structural, apply
from velvet_moth.core.language.primitives.rules import widened
from velvet_moth.core.language.trace import in_place

_SAME_FOR_A_DRAW = (Structural.CONSTANT, Structural.UNIFORM)


def footprint(coordinates: Expr) -> tuple[Expr, Expr]:
    """The change of coordinates to the next pixel on the right, and to the next row, be it above or below; per pixel only."""
    return _changed(coordinates, "along_x"), _changed(coordinates, "between_rows")


def _changed(coordinates: Expr, along: str) -> Expr:
    """Iterative, since expressions run deeper than Python's stack; an expression waits for those it is made from."""
    found: dict[Expr, Change] = {}
    bodies: dict[Expr, list[Expr]] = {}
    stack = [coordinates]
    while stack:
        expr = stack[-1]
        if expr in found:
            stack.pop()
            continue
        needed = _made_from(expr, bodies) if expr.jumps else ()
        waiting = [e for e in needed if e not in found]
        if waiting:
            stack += waiting
            continue
        found[stack.pop()] = _change(expr, needed, found, along)
    change = found[coordinates]
    return coordinates * 0.0 if change is None else change


def _made_from(expr: Expr, bodies: dict[Expr, list[Expr]]) -> tuple[Expr, ...]:
    """What the change of an expression that jumps follows from; what a function gives follows from its body."""
    if isinstance(expr.operator, Primitive):
        return expr.args if expr.operator.change is not None else ()
    called = expr.args[0] if expr.operator is Structural.RESULT else expr
    if called.operator is not Structural.CALL:
        return ()
    if called not in bodies:
        bodies[called] = in_place(called.attributes[0], called.args)
    return (bodies[called][expr.attributes[0] if called is not expr else 0],)


def _change(expr: Expr, needed: tuple[Expr, ...], found: dict[Expr, Change], along: str) -> Change:
    if expr.operator in _SAME_FOR_A_DRAW:
        return None
    if not needed:
        return apply(along, expr)
    if not isinstance(expr.operator, Primitive):
        return found[needed[0]]
    rule = expr.operator.change
    assert rule is not None
    change = rule(expr.args, [found[a] for a in expr.args], expr.attributes)
    # A number that changes beside a vector that does not changes each component.
    return None if change is None else widened(change, expr.type)
