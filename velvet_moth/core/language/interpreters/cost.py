"""Cost: scalar operations by class and texture reads that an expression takes, for each pixel or vertex."""

from collections.abc import Collection, Iterable
from dataclasses import dataclass, field
from functools import lru_cache

from velvet_moth.core.language.expr import Expr, Function, Primitive, Rate, Structural, topological_order

OPERATION_CLASSES = ("arithmetic", "function", "choice", "hash", "derivative", "read")


@dataclass(frozen=True)
class Cost:
    """Scalar operations by class (see ``OPERATION_CLASSES``) and texture reads; what is the same for a whole draw is free."""

    classes: tuple[int, ...] = field(default=(0,) * len(OPERATION_CLASSES))
    reads: int = 0

    @property
    def operations(self) -> int:
        """Operations of all classes together."""
        return sum(self.classes)

    def __add__(self, other: "Cost") -> "Cost":
        return Cost(tuple(a + b for a, b in zip(self.classes, other.classes, strict=True)), self.reads + other.reads)

    def __sub__(self, other: "Cost") -> "Cost":
        return Cost(tuple(a - b for a, b in zip(self.classes, other.classes, strict=True)), self.reads - other.reads)

    @property
    def by_class(self) -> dict[str, int]:
        """Operations by the name of their class."""
        return dict(zip(OPERATION_CLASSES, self.classes, strict=True))


def of_class(operation_class: str, operations: int, reads: int = 0) -> Cost:
    """The cost of so many operations of one class, and so many texture reads."""
    return Cost(tuple(operations if s == operation_class else 0 for s in OPERATION_CLASSES), reads)


@lru_cache(maxsize=4096)
def _of_primitive(primitive: Primitive, width: int) -> Cost:
    return of_class(primitive.operation_class, primitive.operations * width, primitive.reads)


def cost(outputs: Iterable[Expr], known: Collection[Expr] = ()) -> Cost:
    """The cost of all outputs together, shared values counted once and ``known`` ones not at all."""
    classes, reads = [0] * len(OPERATION_CLASSES), 0
    varying: set[Expr] = set()
    for expr in topological_order(outputs, known):
        # Inside a function nobody knows yet what the arguments will be.
        is_varying = expr.rate > Rate.DRAW or expr.operator is Structural.ARGUMENT
        if not is_varying and varying.isdisjoint(expr.args):
            continue
        varying.add(expr)
        if expr in known:
            continue
        if isinstance(expr.operator, Primitive):
            spent = _of_primitive(expr.operator, max([expr.type.width, *(a.type.width for a in expr.args)]))
        elif expr.operator is Structural.CALL:
            spent = _of_function(expr.attributes[0])
        else:
            continue
        classes = [a + b for a, b in zip(classes, spent.classes, strict=True)]
        reads += spent.reads
    return Cost(tuple(classes), reads)


@lru_cache(maxsize=4096)
def _of_function(function: Function) -> Cost:
    return cost(function.results)
