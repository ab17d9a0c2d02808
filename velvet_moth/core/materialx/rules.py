"""What the rules of reading share: what a rule may ask of the reader, and sums of what nodes give."""

from collections.abc import Callable
from typing import Protocol

import MaterialX

from velvet_moth.core.materialx.graph_of import Got, GraphUnderWay, numbers


class Reading(Protocol):
    """What a rule may ask of the reader: the graph so far, the inputs of a node, and words about what is not as it was."""

    graph: GraphUnderWay

    def got(self, node: MaterialX.Node, name: str) -> Got: ...
    def text(self, node: MaterialX.Node, name: str) -> str: ...
    def declared(self, node: MaterialX.Node, name: str) -> MaterialX.Input | None: ...
    def picture(self, node: MaterialX.Node) -> Got: ...
    def say(self, words: str) -> None: ...


Rule = Callable[[Reading, MaterialX.Node], Got]


def each(r: Reading, width: int, make: Callable[[int], Got]) -> Got:
    """The same in every component."""
    return r.graph.together([make(at) for at in range(width)])


def is_even(got: Got) -> bool:
    """Whether it is one number in every component."""
    return got.width == 1 or (got.wire is None and len(set(got.numbers)) == 1)


def times(r: Reading, got: Got, factor: float) -> Got:
    """So many times as much."""
    return r.graph.made(got.width, "multiply", "result", a=got, b=numbers(factor))


def plus(r: Reading, got: Got, by: Got) -> Got:
    """A sum."""
    return r.graph.made(max(got.width, by.width), "add", "result", a=got, b=by)


def minus(r: Reading, a: Got, b: Got) -> Got:
    """A difference."""
    return r.graph.made(max(a.width, b.width), "subtract", "result", a=a, b=b)


def product(r: Reading, a: Got, b: Got) -> Got:
    """A product in each component."""
    return r.graph.made(max(a.width, b.width), "multiply", "result", a=a, b=b)


def mixed(r: Reading, a: Got, b: Got, amount: Got) -> Got:
    """From one to another by an amount, which may differ in each component."""
    width = max(a.width, b.width)
    if is_even(amount):
        return r.graph.made(width, "mix", "result", a=a, b=b, amount=r.graph.component(amount, 0))
    return plus(r, a, product(r, minus(r, b, a), amount))
