"""Operations drawn at random from their own types, for tests that must hold whatever is done."""

import random
import types
from collections.abc import Callable, Mapping
from dataclasses import MISSING, fields, is_dataclass
from typing import Annotated, Any, Literal, Union, get_args, get_origin, get_type_hints

import numpy as np

from velvet_moth.core.base.operation import DocumentOperation
from velvet_moth.core.base.records import OneOf
from velvet_moth.core.catalogue.registry import CATALOGUE, NodeType
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.document.tracks.targets import DECAL_PARTS, SCENE_TARGETS
from velvet_moth.core.document.values import RefersTo
from velvet_moth.core.forms.mesh import VERTEX_CHANNELS
from velvet_moth.core.making.recipe import SIZES
from velvet_moth.core.operations import Operation
from velvet_moth.core.stacks.operations import StackOperation
from velvet_moth.core.stacks.stack import Stack
from velvet_moth.core.stacks.step import Step
from velvet_moth.core.stacks.stroke import WIDTH, text_of

TEXTS = (
    *("", "x", "constructor", "__proto__", "a" * 33, "n" * 81, "s" * 201, "t" * 1001, "Zwölf", "два", "\n discard; //"),
    *("*/ void main() {", "a__b", "gl_Position", "bell\a", "zero\0", "\u202ereversed", "-1", "4294967296", " padded "),
)
NUMBERS = (0.0, 1.0, 0.5, -1.0, 2.5, 1e-30, 1e6, 1.0001e6, -1e7, 1e300, float("inf"), float("-inf"), float("nan"))
WHOLE = (0, 1, -1, 7, 2**31, -(2**40))
UNKNOWN = "from_tomorrow"


class Draws:
    """Draws values of a type; ``wild`` is the share of texts and numbers that are anything.

    What a text refers to is drawn by the method ``_a_`` and its name, for each kind of document by itself.
    """

    family: type[DocumentOperation[Any]]

    def __init__(self, draw: random.Random, wild: float = 0.0) -> None:
        self.draw, self.wild = draw, wild

    def operation(self) -> Any:
        """Any operation; of each kind as often."""
        return self.value(self.draw.choice(self.family.kinds))

    def value(self, hint: Any) -> Any:
        origin, inner = get_origin(hint), get_args(hint)
        if origin is Annotated:
            return self._annotated(hint, hint.__metadata__)
        if hint is self.family:
            return self.operation()
        if is_dataclass(hint) and isinstance(hint, type):
            return self._record(hint)
        if origin is Literal:
            return self.draw.choice(inner)
        if origin in (Union, types.UnionType):
            return self.value(self.draw.choice(inner))
        if origin is tuple and inner[1:] == (...,):
            return tuple(self.value(inner[0]) for _ in range(self.draw.choice((0, 1, 1, 2))))
        if origin is tuple:
            return tuple(self.value(one) for one in inner)
        if origin is not None and issubclass(origin, Mapping):
            return dict(self._entry(*inner) for _ in range(self.draw.choice((0, 1, 1, 2))))
        leaf: Callable[[], Any] = {
            str: lambda: self._text("some words"),
            float: lambda: self._number(self.draw.uniform(-2, 2)),
            int: lambda: self.draw.choice(WHOLE if self._is_wild() else range(4)),
            bool: lambda: self.draw.random() < 0.5,
            type(None): lambda: None,
        }.get(hint, self._choice)
        return leaf()

    def _record(self, record: type) -> Any:
        hints = get_type_hints(record, include_extras=True)
        made = {}
        for field in fields(record):
            has_default = field.default is not MISSING or field.default_factory is not MISSING
            if not (has_default and self.draw.random() < 0.7):
                made[field.name] = self.value(hints[field.name])
        return record(**made)

    def _entry(self, key: Any, value: Any) -> tuple[Any, Any]:
        return self.value(key), self.value(value)

    def _choice(self) -> Any:
        """What has no type of its own."""
        return self.draw.choice([*TEXTS, *NUMBERS, 3, None, True, [1, "two"]])

    def _annotated(self, hint: Any, metadata: tuple[Any, ...]) -> Any:
        for one in metadata:
            if isinstance(one, OneOf):
                return self._text(self.draw.choice(list(one.names)))
            if isinstance(one, RefersTo):
                return getattr(self, f"_a_{one.what}")()
        return self.value(get_args(hint)[0])

    def _is_wild(self) -> bool:
        return self.draw.random() < self.wild

    def _text(self, text: str) -> str:
        return self.draw.choice(TEXTS) if self._is_wild() else text

    def _number(self, number: float) -> float:
        return self.draw.choice(NUMBERS) if self._is_wild() else number

    def _one_of(self, texts: Any) -> str:
        return self._text(self.draw.choice([*texts] or ["none"]))

    def _a_name(self) -> str:
        return self._text(f"Name {self.draw.randrange(40)}")

    def _a_texture(self) -> str:
        return self._one_of(["", "rust", "moss"])

    def _a_rule(self) -> str:
        return self._one_of(["", "4", "7"])

    def _a_mesh(self) -> str:
        return self._one_of(["", "post", "board"])


class GraphDraws(Draws):
    """Draws values that often fit a graph."""

    family = Operation

    def __init__(self, graph: Graph, draw: random.Random, wild: float = 0.0) -> None:
        super().__init__(draw, wild)
        self.graph = graph
        # What was drawn last: an input belongs to a node, a value to an input.
        self.kind: NodeType = CATALOGUE["mix"]
        self.input = self.setting = ""
        # How many numbers a key of the scene holds, where one was drawn; 0 for a parameter.
        self.numbers = 0

    def _entry(self, key: Any, value: Any) -> tuple[Any, Any]:
        kind = self.kind
        entry = super()._entry(key, value)
        # A wire's far end is another node.
        self.kind = kind
        return entry

    def _a_node(self) -> str:
        key = self.draw.choice(list(self.graph.nodes))
        self.numbers = 0
        self.kind = self.graph.nodes[key].kind
        return self._text(key)

    def _a_type(self) -> str:
        found = self.draw.choice([*CATALOGUE, UNKNOWN])
        self.kind = CATALOGUE.get(found, self.kind)
        return self._text(found)

    def _a_input(self) -> str:
        self.input = self.draw.choice([*self.kind.inputs] or ["none"])
        return self._text(self.input)

    def _a_output(self) -> str:
        return self._one_of(self.kind.outputs)

    def _a_setting(self) -> str:
        self.setting = self.draw.choice([*self.kind.settings] or ["none"])
        return self._text(self.setting)

    def _choice(self) -> Any:
        """A setting of a node, whose values have no type of their own."""
        declared = self.kind.settings.get(self.setting)
        if declared is None or self._is_wild():
            return super()._choice()
        return self.draw.choice(declared.choices) if declared.choices else declared.low

    _a_setting_value = _choice

    def _a_parameter(self) -> str:
        self.numbers = 0
        if not self.graph.parameters:
            return self._text("none")
        found = self.draw.choice(self.graph.parameters)
        self.kind, self.input = self.graph.nodes[found.node].kind, found.input
        return self._text(found.id)

    def _a_target(self) -> str:
        parts = [f"decal/{decal.id}/{part}" for decal in self.graph.decals for part in DECAL_PARTS]
        found = self.draw.choice([None, *SCENE_TARGETS, *parts])
        if found is None:
            self.numbers = 0
            return self._a_parameter()
        declared = SCENE_TARGETS[found] if found in SCENE_TARGETS else DECAL_PARTS[found.rpartition("/")[2]]
        self.numbers = len(declared.parts)
        return self._text(found)

    def _a_variant(self) -> str:
        return self._one_of(["", *(variant.id for variant in self.graph.variants)])

    def _a_mark(self) -> str:
        return self._one_of([*self.graph.marks, "f1", "f2"])

    def _a_graph(self) -> str:
        return self._one_of(["1", "2"])

    def _a_new(self) -> str:
        """An id of something new, or now and then of something that is there."""
        there = [[*self.graph.nodes], [p.id for p in self.graph.parameters], [v.id for v in self.graph.variants]]
        new = f"n{self.draw.randrange(40)}"
        return self._text(self.draw.choice(self.draw.choice(there) or [new]) if self.draw.random() < 0.5 else new)

    def _a_value(self) -> Any:
        declared = self.kind.inputs.get(self.input)
        if self.numbers and not self._is_wild():
            return tuple(self._number(self.draw.uniform(0.5, 1.0)) for _ in range(self.numbers))
        if declared is None or self._is_wild():
            return tuple(self._number(0.5) for _ in range(self.draw.choice((1, 2, 3))))
        if declared.default and not isinstance(declared.default, str):
            return tuple(self._number(self.draw.uniform(-2, 2)) for _ in declared.default)
        return self._a_texture()


class StackDraws(Draws):
    """Draws values that often fit a stack of steps."""

    family = StackOperation

    def __init__(self, stack: Stack, draw: random.Random, wild: float = 0.0) -> None:
        super().__init__(draw, wild)
        self.stack = stack
        self.kind: Step = next(iter(stack.family.steps.values()))
        self.setting = ""

    def _a_step(self) -> str:
        if not self.stack.steps:
            return self._text("none")
        found = self.draw.choice(self.stack.steps)
        self.kind = found.kind
        return self._text(found.id)

    def _a_step_kind(self) -> str:
        return self._one_of([*self.stack.family.steps, UNKNOWN])

    def _a_step_setting(self) -> str:
        self.setting = self.draw.choice([*self.kind.settings] or ["none"])
        return self._text(self.setting)

    def _a_stroke(self) -> int:
        return self.draw.choice(WHOLE if self._is_wild() else range(2))

    def _a_points(self) -> str:
        rows = [
            [self._number(self.draw.uniform(0.01, 1)) for _ in range(WIDTH)] for _ in range(self.draw.randint(1, 3))
        ]
        with np.errstate(over="ignore"):
            return self._text(text_of(np.array(rows, dtype=np.float32)))

    def _a_side(self) -> int:
        return self.draw.choice(WHOLE if self._is_wild() else SIZES)

    def _a_depth(self) -> str:
        return self._one_of(self.stack.family.depths)

    def _a_layer(self) -> str:
        return self._one_of(self.kind.layers)

    def _a_vertex_channel(self) -> str:
        return self._one_of(VERTEX_CHANNELS)

    def _a_stack_output(self) -> str:
        return self._one_of([output.id for output in self.stack.outputs])

    def _picture(self) -> dict[str, str]:
        step = self.draw.choice(self.stack.steps)
        return self.draw.choice(
            [{"step": self._text(step.id), "layer": self.draw.choice(step.kind.layers)}, {"texture": self._a_texture()}]
        )

    def _values(self) -> dict[str, str]:
        return {"step": self._text(self.draw.choice(self.stack.steps).id)}

    def _choice(self) -> Any:
        declared = self.kind.settings.get(self.setting)
        if declared is None or self._is_wild():
            return super()._choice()
        drawn: dict[str, Callable[[], Any]] = {
            "number": lambda: self._number(self.draw.uniform(declared.low, declared.high)),
            "whole": lambda: self.draw.randint(int(declared.low), int(declared.high)),
            "choice": lambda: self.draw.choice(declared.choices),
            "colour": lambda: [self._number(self.draw.random()) for _ in range(3)],
            "stops": lambda: [0.0, 0.1, 0.2, 0.3, 1.0, 0.9, 0.8, self._number(0.7)],
            "picture": self._picture,
            "values": self._values,
            "directions": self._values,
            "texture": lambda: {"texture": self._a_texture()},
            "part": self._a_name,
            "text": self._a_name,
            "strokes": lambda: [{"points": self._a_points(), "touches": ["red"]} for _ in range(2)],
            "tiles": lambda: [
                {"name": self._a_name(), "maps": {m.key: self._picture() for m in declared.maps}} for _ in range(2)
            ],
        }
        return drawn[declared.kind]()


def random_operation(graph: Graph, draw: random.Random, wild: float = 0.0) -> Operation:
    """Some operation that may or may not fit."""
    return GraphDraws(graph, draw, wild).operation()
