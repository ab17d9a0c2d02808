"""Cost: scalar operations and texture reads an expression takes for each pixel."""

from collections.abc import Iterable
from dataclasses import dataclass
from functools import lru_cache

from velvet_moth.core.expr import Expr, Function, Primitive, Rate, Structural, in_order


@dataclass(frozen=True)
class Cost:
    """Scalar operations and texture reads; what is the same for a whole draw costs nothing."""

    operations: int = 0
    reads: int = 0

    def __add__(self, other: "Cost") -> "Cost":
        return Cost(self.operations + other.operations, self.reads + other.reads)


def cost(outputs: Iterable[Expr]) -> Cost:
    """The cost of all outputs together, shared values counted once."""
    spent = Cost()
    for expr in in_order(outputs):
        if isinstance(expr.operator, Primitive):
            if expr.rate > Rate.DRAW or any(a.operator is Structural.ARGUMENT for a in expr.args):
                wide = max([expr.type.width, *(a.type.width for a in expr.args)])
                spent += Cost(expr.operator.operations * wide, expr.operator.reads)
        elif expr.operator is Structural.CALL:
            spent += _function_cost(expr.attributes[0])
    return spent


@lru_cache(maxsize=4096)
def _function_cost(function: Function) -> Cost:
    return cost(function.results)
