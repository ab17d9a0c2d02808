"""Ramps, ranges, and the ways in which the standard lays one picture over another."""

from collections.abc import Callable, Mapping

import MaterialX

from velvet_moth.core.materialx.graph_of import Got, numbers
from velvet_moth.core.materialx.rules import Reading, Rule, each, is_even, minus, mixed, plus, product


def _complement(r: Reading, got: Got) -> Got:
    return minus(r, numbers(1.0), got)


def _over(blend: Callable[[Reading, Got, Got], Got]) -> Rule:
    """One laid over another by an amount; ``blend`` takes what is below and what is above."""

    def rule(r: Reading, node: MaterialX.Node) -> Got:
        below, above = r.got(node, "bg"), r.got(node, "fg")
        return mixed(r, below, blend(r, below, above), r.got(node, "mix"))

    return rule


def _difference(r: Reading, below: Got, above: Got) -> Got:
    return r.graph.made(below.width, "absolute", "result", value=minus(r, below, above))


def _screen(r: Reading, below: Got, above: Got) -> Got:
    return _complement(r, product(r, _complement(r, above), _complement(r, below)))


def _remapped(r: Reading, node: MaterialX.Node) -> Got:
    value, low, high, to_low, to_high = (r.got(node, name) for name in ("in", "inlow", "inhigh", "outlow", "outhigh"))
    share = r.graph.made(value.width, "divide", "result", a=minus(r, value, low), b=minus(r, high, low))
    return mixed(r, to_low, to_high, share)


def _smooth(r: Reading, node: MaterialX.Node) -> Got:
    value, low, high, graph = r.got(node, "in"), r.got(node, "low"), r.got(node, "high"), r.graph
    if is_even(low) and is_even(high):
        ends = {"low": graph.component(low, 0), "high": graph.component(high, 0)}
        return graph.made(value.width, "smooth_step", "result", value=value, **ends)
    return each(
        r,
        value.width,
        lambda at: graph.made(
            1,
            "smooth_step",
            "result",
            **{name: graph.component(got, at) for name, got in (("value", value), ("low", low), ("high", high))},
        ),
    )


def _along(axis: int, first: str, last: str, is_sharp: bool) -> Rule:
    """From one to another along the coordinates, evenly or at an edge."""

    def rule(r: Reading, node: MaterialX.Node) -> Got:
        place, graph = r.graph.component(r.got(node, "texcoord"), axis), r.graph
        if is_sharp:
            share = graph.made(1, "step", "value", value=place, edge=r.got(node, "center"))
        else:
            share = graph.made(1, "clamp", "result", value=place, low=numbers(0.0), high=numbers(1.0))
        return mixed(r, r.got(node, first), r.got(node, last), share)

    return rule


BLENDS: Mapping[str, Rule] = {
    "plus": _over(lambda r, below, above: plus(r, below, above)),
    "minus": _over(lambda r, below, above: minus(r, below, above)),
    "difference": _over(_difference),
    "screen": _over(_screen),
    "inside": lambda r, node: product(r, r.got(node, "in"), r.got(node, "mask")),
    "outside": lambda r, node: product(r, r.got(node, "in"), _complement(r, r.got(node, "mask"))),
    "remap": _remapped,
    "smoothstep": _smooth,
    "ramplr": _along(0, "valuel", "valuer", is_sharp=False),
    "ramptb": _along(1, "valueb", "valuet", is_sharp=False),
    "splitlr": _along(0, "valuel", "valuer", is_sharp=True),
    "splittb": _along(1, "valueb", "valuet", is_sharp=True),
}
