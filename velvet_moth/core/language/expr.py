"""The typed expression DAG: immutable, hash-consed, so that equal expressions are one object.

An expression applies an *operator* to arguments. Operators are either declared **primitives** (see
``core/primitives``), which carry their own rules for every interpreter, or one of the eight
**structural** operators below, which each interpreter reads from its surroundings.
"""

import math
import threading
import weakref
from collections.abc import Callable, Collection, Hashable, Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from enum import IntEnum
from functools import lru_cache
from typing import Any, Union

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.base.errors import ExpressionError
from velvet_moth.core.language.dialects.base import Dialect
from velvet_moth.core.language.interval import Interval
from velvet_moth.core.language.types import BOOL, BUNDLE, NUMBER, TEXTURE, Type, float_of_width

Array = NDArray[Any]


class Rate(IntEnum):
    """How often a value can change: never, per draw, per vertex, per pixel."""

    CONSTANT = 0
    DRAW = 1
    VERTEX = 2
    PIXEL = 3


@dataclass(frozen=True)
class Domain:
    """A part of a primitive's arguments where its formula has no value, and what it gives there instead.

    Inside ``low``..``high`` all is well; ``excluded`` names one value inside that is not. A ``quiet``
    domain is worth a word only once samples show that it is left.
    """

    argument: int
    words: str
    low: float = -math.inf
    high: float = math.inf
    excluded: float | None = None
    quiet: bool = False


SpellRule = Callable[[Dialect, Sequence[Type], Sequence[str], tuple[Hashable, ...]], str]
# How much a value changes from one pixel to the next; None where it does not.
Change = Union["Expr", None]


@dataclass(frozen=True, eq=False)
class Primitive:
    """One operation with all its rules.

    - ``result(types, attributes)`` gives the type or raises ExpressionError.
    - ``spell(dialect, types, texts, attributes)`` spells it in a language; ``helper(dialect, types)`` is a function that it relies on.
    - ``numpy(arrays, attributes)`` computes it on float32 arrays shaped (rows, columns) for numbers and
      (components, rows, columns) for vectors; constants keep size 1 along rows and columns.
    - ``bound(intervals, attributes)`` encloses every value it can give.
    - ``simplify(args, type, attributes)`` may give a plainer expression of the same value.
    - ``plain(dialect, types, texts, attributes)`` spells it where every argument is proved to stay inside its domain.
    - ``change(args, changes, attributes)`` is the change of the result from one pixel to the next, jumps left out, by the
      changes of its arguments (the rules of differentiation); without it the pixels are compared.
    - ``jumps``: yes where the result may jump although no argument does, no where it never jumps; None passes on
      what the arguments do.
    - ``domains`` tell where the formula breaks down; ``operations`` and ``reads`` are its cost a component,
      ``operation_class`` the kind of operations they are (see ``interpreters/cost.py``).
    """

    name: str
    result: Callable[[Sequence[Type], tuple[Hashable, ...]], Type]
    spell: SpellRule
    numpy: Callable[[Sequence[Array], tuple[Hashable, ...]], Array]
    bound: Callable[[Sequence[Interval], tuple[Hashable, ...]], Interval]
    operations: int
    domains: tuple[Domain, ...]
    helper: Callable[[Dialect, Sequence[Type]], str] | None = None
    reads: int = 0
    rate: Rate = Rate.CONSTANT
    foldable: bool = True
    simplify: "Callable[[Sequence[Expr], Type, tuple[Hashable, ...]], Expr | None] | None" = None
    operation_class: str = "arithmetic"
    plain: SpellRule | None = None
    change: "Callable[[Sequence[Expr], Sequence[Change], tuple[Hashable, ...]], Change] | None" = None
    jumps: bool | None = None

    def __repr__(self) -> str:
        return self.name


PRIMITIVES: dict[str, Primitive] = {}


def declare(primitive: Primitive) -> Primitive:
    """Enter a primitive in the table; its dataclass has no defaults for the rules, so none can lack."""
    if primitive.name in PRIMITIVES:
        raise ExpressionError(f"The primitive {primitive.name} is declared twice.")
    PRIMITIVES[primitive.name] = primitive
    return primitive


class Structural(IntEnum):
    """Operators without rules of their own: each interpreter gives them meaning."""

    CONSTANT = 0
    UNIFORM = 1
    INPUT = 2
    SAMPLER = 3
    ARGUMENT = 4
    CALL = 5
    RESULT = 6
    BIASED = 7


Operator = Union[Primitive, Structural]
Operand = Union["Expr", float, int]


class Expr:
    """One value of the DAG. Build with the functions of this module; compare with ``is``."""

    __slots__ = ("__weakref__", "args", "attributes", "jumps", "operator", "rate", "spelling", "type")

    operator: Operator
    args: tuple["Expr", ...]
    attributes: tuple[Any, ...]
    type: Type
    rate: Rate
    # Whether it may jump between two pixels although the surface goes on.
    jumps: bool
    # How the text interpreter spells the operation, kept from one text to the next.
    spelling: Any

    def __add__(self, other: Operand) -> "Expr":
        return apply("add", self, other)

    def __radd__(self, other: Operand) -> "Expr":
        return apply("add", other, self)

    def __sub__(self, other: Operand) -> "Expr":
        return apply("subtract", self, other)

    def __rsub__(self, other: Operand) -> "Expr":
        return apply("subtract", other, self)

    def __mul__(self, other: Operand) -> "Expr":
        return apply("multiply", self, other)

    def __rmul__(self, other: Operand) -> "Expr":
        return apply("multiply", other, self)

    def __truediv__(self, other: Operand) -> "Expr":
        return apply("divide", self, other)

    def __rtruediv__(self, other: Operand) -> "Expr":
        return apply("divide", other, self)

    def __neg__(self) -> "Expr":
        return apply("negate", self)

    def __getitem__(self, component: int) -> "Expr":
        """One component of a vector by its number."""
        return apply("swizzle", self, attributes=(component,))

    def __getattr__(self, name: str) -> "Expr":
        """Components by GLSL letters: ``v.x``, ``v.xyz``, ``colour.rgb``."""
        letters = name.translate(_TO_XYZW)
        if len(name) > 4 or set(letters) - set("xyzw"):
            raise AttributeError(name)
        return apply("swizzle", self, attributes=("xyzw".index(c) for c in letters))

    def __repr__(self) -> str:
        shown = [repr(a) for a in self.args] + [repr(a) for a in self.attributes]
        name = self.operator.name
        return f"{name.lower()}({', '.join(shown)})"


_TO_XYZW = str.maketrans("rgba", "xyzw")
_interned: "weakref.WeakValueDictionary[tuple[Any, ...], Expr]" = weakref.WeakValueDictionary()
_lock = threading.Lock()


def _jumps(operator: Operator, args: tuple[Expr, ...], attributes: tuple[Any, ...]) -> bool:
    if isinstance(operator, Primitive) and operator.jumps is not None:
        return operator.jumps
    if operator is Structural.CALL and any(r.jumps for r in attributes[0].results):
        return True
    if operator is Structural.RESULT:
        (bundle,) = args
        return bundle.attributes[0].results[attributes[0]].jumps or any(a.jumps for a in bundle.args)
    return any(a.jumps for a in args)


def _make(operator: Operator, args: tuple[Expr, ...], attributes: tuple[Any, ...], type_: Type, rate: Rate) -> Expr:
    name: Any = operator.name if isinstance(operator, Primitive) else operator
    key = (name, args, attributes, type_)
    with _lock:
        found = _interned.get(key)
        if found is None:
            found = Expr()
            found.operator = operator
            found.args = args
            found.attributes = attributes
            found.type = type_
            found.rate = rate
            found.jumps = _jumps(operator, args, attributes)
            found.spelling = None
            _interned[key] = found
    return found


def as_expr(value: Operand) -> Expr:
    """A number as a constant; an expression as it is."""
    return value if isinstance(value, Expr) else constant(float(value))


@lru_cache(maxsize=4096)
def constant(*components: float) -> Expr:
    """A constant of 1 to 4 components, rounded to float32; refuses what is not finite."""
    rounded = tuple(float(np.float32(c)) for c in components)
    if not all(map(math.isfinite, rounded)):
        raise ExpressionError(f"The constant {components} is not finite.")
    return _make(Structural.CONSTANT, (), rounded, float_of_width(len(rounded)), Rate.CONSTANT)


def truth(value: bool) -> Expr:
    """The constant yes or no."""
    return _make(Structural.CONSTANT, (), (bool(value),), BOOL, Rate.CONSTANT)


def uniform(key: Hashable, type_: Type) -> Expr:
    """A value set from outside at every draw; ``key`` finds it in the surroundings."""
    return _make(Structural.UNIFORM, (), (key,), type_, Rate.DRAW)


def sampler(
    key: Hashable,
    wrap: tuple[str, str] = ("repeat", "repeat"),
    low: float = 0.0,
    high: float = 1.0,
    filter: str = "smooth",
) -> Expr:
    """A texture bound from outside. ``wrap`` along u and v is ``repeat``, ``clamp`` or ``mirror``, ``filter``
    ``smooth`` or ``pixels``; low..high is the range of its values.
    """
    return _make(Structural.SAMPLER, (), (key, *wrap, filter, low, high), TEXTURE, Rate.DRAW)


def biased(texture: Expr, bias: Expr) -> Expr:
    """A texture whose readings are ``bias`` levels coarser. No interpreter meets it: reading takes it apart."""
    return _make(Structural.BIASED, (texture, bias), (), TEXTURE, max(texture.rate, bias.rate))


def is_biased(texture: Expr) -> bool:
    """Whether a texture is read at coarser levels."""
    return texture.operator is Structural.BIASED


def surface_input(name: str, type_: Type, rate: Rate) -> Expr:
    """What the surroundings know of the surface point, declared in ``core/language/inputs.py``."""
    return _make(Structural.INPUT, (), (name,), type_, rate)


@dataclass(frozen=True, eq=False)
class Function:
    """A traced piece of graph, emitted once and called: arguments by position, one or more results.

    No two functions of a process share a name, so that their texts can be kept and put together freely.
    """

    name: str
    words: str
    argument_names: tuple[str, ...]
    arguments: tuple[Expr, ...]
    results: tuple[Expr, ...]
    rate: Rate = field(default=Rate.CONSTANT)
    # Whether it compares neighbouring pixels, here or in a function it calls.
    compares_pixels: bool = False


def argument(position: int, type_: Type) -> Expr:
    """A function's parameter while its body is traced."""
    return _make(Structural.ARGUMENT, (), (position,), type_, Rate.CONSTANT)


def call(function: Function, args: Sequence[Expr]) -> tuple[Expr, ...]:
    """All results of a function applied to ``args``."""
    rate = max([function.rate, *(a.rate for a in args)])
    if len(function.results) == 1:
        return (_make(Structural.CALL, tuple(args), (function,), function.results[0].type, rate),)
    bundle = _make(Structural.CALL, tuple(args), (function,), BUNDLE, rate)
    return tuple(
        _make(Structural.RESULT, (bundle,), (index,), result.type, rate)
        for index, result in enumerate(function.results)
    )


def with_arguments(expr: Expr, args: Sequence[Expr]) -> Expr:
    """The same structural operator on other arguments of the same types."""
    rate = max([expr.rate, *(a.rate for a in args)])
    return _make(expr.operator, tuple(args), expr.attributes, expr.type, rate) if args else expr


@lru_cache(maxsize=8192)
def _result_type(name: str, attributes: tuple[Hashable, ...], types: tuple[Type, ...]) -> Type:
    return PRIMITIVES[name].result(types, attributes)


def apply(name: str, *operands: Operand, attributes: Iterable[Hashable] = ()) -> Expr:
    """A primitive applied to expressions or plain numbers; folds to a constant where all are constant."""
    primitive = PRIMITIVES[name]
    args = tuple(as_expr(o) for o in operands)
    settled = tuple(attributes)
    type_ = _result_type(name, settled, tuple([a.type for a in args]))
    rate = primitive.rate
    is_constant = primitive.foldable
    for a in args:
        if a.rate > rate:
            rate = a.rate
        is_constant = is_constant and a.operator is Structural.CONSTANT
    if is_constant:
        value = np.broadcast_to(primitive.numpy([constant_array(a) for a in args], settled).ravel(), type_.width)
        if type_ is BOOL:
            return truth(bool(value[0]))
        if np.isfinite(value).all():
            return constant(*value.tolist())
    if primitive.simplify is not None:
        plainer = primitive.simplify(args, type_, settled)
        if plainer is not None:
            return plainer
    return _make(primitive, args, settled, type_, rate)


def constant_array(expr: Expr) -> Array:
    """A constant as an array: () for a number or yes/no, (components, 1, 1) for a vector."""
    if expr.type is BOOL:
        return np.array(expr.attributes[0], dtype=bool)
    values = np.array(expr.attributes, dtype=np.float32)
    return values.reshape(()) if expr.type is NUMBER else values.reshape(-1, 1, 1)


def topological_order(outputs: Iterable[Expr], known: Collection[Expr] = ()) -> list[Expr]:
    """Every expression the outputs need, each after its arguments; does not look behind ``known`` ones.

    Iterative, since graphs run deeper than Python's stack.
    """
    seen: set[Expr] = set()
    order: list[Expr] = []
    stack = list(outputs)
    stack.reverse()
    while stack:
        expr = stack[-1]
        if expr in seen:
            stack.pop()
            continue
        waiting = [a for a in expr.args if a not in seen] if expr.args and expr not in known else None
        if waiting:
            waiting.reverse()
            stack += waiting
        else:
            stack.pop()
            seen.add(expr)
            order.append(expr)
    return order


def reached(outputs: Iterable[Expr]) -> Iterator[Expr]:
    """Every expression that the outputs are made of, be it inside of functions."""
    seen: set[Function] = set()
    todo = [list(outputs)]
    while todo:
        for expr in topological_order(todo.pop()):
            yield expr
            if expr.operator is Structural.CALL and expr.attributes[0] not in seen:
                seen.add(expr.attributes[0])
                todo.append(list(expr.attributes[0].results))


def inputs_of(outputs: Iterable[Expr]) -> set[str]:
    """The names of all surface inputs that the outputs read, be it inside of functions."""
    return {expr.attributes[0] for expr in reached(outputs) if expr.operator is Structural.INPUT}
