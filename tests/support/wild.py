"""Values that fit a type and little else, for tests that must hold whatever is sent; derived from the types themselves."""

import random
import types
from collections.abc import Mapping, Sequence
from dataclasses import fields, is_dataclass, replace
from functools import cache
from typing import Any, Literal, Union, get_args, get_origin, get_type_hints

from hypothesis import strategies as st

from tests.support.edits import random_operation
from velvet_moth.core.catalogue.registry import CATALOGUE
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.language.types import PORT_TYPES
from velvet_moth.core.operations import SINGLE_OPERATIONS, Batch, Operation

TEXTS = (
    *("", "x", "constructor", "__proto__", "a" * 33, "n" * 81, "s" * 201, "t" * 1001, "Zwölf", "два", "\n discard; //"),
    *("*/ void main() {", "a__b", "gl_Position", "bell\a", "zero\0", "\u202ereversed", "-1", "4294967296", " padded "),
)
NUMBERS = (0.0, 1.0, 0.5, -1.0, 2.5, 1e-30, 1e6, 1.0001e6, -1e7, 1e300, float("inf"), float("-inf"), float("nan"))
WHOLE = (0, 1, -1, 7, 2**31, -(2**40))


def known_texts(graph: Graph) -> list[str]:
    """What a text of an operation most likely names, so that many operations fit."""
    nodes = graph.nodes.values()
    found = [*graph.nodes, *graph.marks, *(v.id for v in graph.variants), *(p.id for p in graph.parameters)]
    found += [key for n in nodes for key in (*n.kind.inputs, *n.kind.outputs, *n.kind.settings)]
    return [*sorted({*found, "dock", "new_one"}), *list(CATALOGUE)[::9], *PORT_TYPES]


@cache
def _texts(known: tuple[str, ...]) -> st.SearchStrategy[str]:
    return st.one_of(st.sampled_from(known), st.sampled_from(known), st.sampled_from(TEXTS), st.text(max_size=12))


def fitting(hint: Any, known: tuple[str, ...]) -> st.SearchStrategy[Any]:
    """Values of a type: texts often ``known`` ones, numbers often ordinary, both sometimes wild."""
    origin, inner = get_origin(hint), get_args(hint)
    if is_dataclass(hint) and isinstance(hint, type):
        hints = get_type_hints(hint)
        return st.builds(hint, **{f.name: fitting(hints[f.name], known) for f in fields(hint) if f.init})
    if origin is Literal:
        return st.sampled_from(inner)
    if origin in (Union, types.UnionType):
        return st.one_of(*(fitting(i, known) for i in inner))
    if origin is tuple and inner[1:] == (...,):
        return st.lists(fitting(inner[0], known), max_size=4).map(tuple)
    if origin is tuple:
        return st.tuples(*(fitting(i, known) for i in inner))
    if origin is not None and issubclass(origin, Mapping):
        return st.dictionaries(fitting(inner[0], known), fitting(inner[1], known), max_size=3)
    leaves = {
        str: _texts(known),
        float: st.one_of(st.floats(-2.0, 2.0, width=16), st.sampled_from(NUMBERS)),
        int: st.one_of(st.integers(0, 5), st.sampled_from(WHOLE)),
        bool: st.booleans(),
        type(None): st.none(),
    }
    return leaves[hint] if hint in leaves else st.one_of(*leaves.values())


def changed(value: Any, draw: random.Random, known: Sequence[str], chance: float = 0.15) -> Any:
    """The same value with some of its texts and numbers replaced by wild ones."""
    if is_dataclass(value) and not isinstance(value, type):
        hints = get_type_hints(type(value))
        free = [f.name for f in fields(value) if f.init and get_origin(hints[f.name]) is not Literal]
        parts = {name: getattr(value, name) for name in free}
        return replace(value, **{k: changed(v, draw, known, chance) for k, v in parts.items()})
    if isinstance(value, tuple):
        return tuple(changed(v, draw, known, chance) for v in value)
    if isinstance(value, Mapping):
        return {changed(k, draw, known, chance / 3): changed(v, draw, known, chance) for k, v in value.items()}
    if draw.random() < chance and isinstance(value, str):
        return draw.choice([*TEXTS, draw.choice(known)])
    if draw.random() < chance and isinstance(value, (int, float)) and not isinstance(value, bool):
        return draw.choice(NUMBERS if isinstance(value, float) else WHOLE)
    return value


def wild_operations(graph: Graph) -> st.SearchStrategy[Operation]:
    """Any operation: made of its types alone, or one that likely fits with a few wild values in it."""
    known = tuple(known_texts(graph))
    one = st.sampled_from(SINGLE_OPERATIONS).flatmap(lambda kind: fitting(kind, known))

    def nearly(seed: int) -> Operation:
        draw = random.Random(seed)
        found: Operation = changed(random_operation(graph, draw), draw, known)
        return found

    likely = st.integers(0, 2**40).map(nearly)
    batches = st.builds(Batch, st.lists(st.one_of(one, likely), max_size=3).map(tuple), _texts(known))
    return st.one_of(one, likely, likely, likely, batches)
