"""A graph under way while a document is read: nodes of the catalogue, added one by one, and what each gives."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from velvet_moth.core.catalogue.registry import CATALOGUE
from velvet_moth.core.document.graph import Node, Source
from velvet_moth.core.document.outline import Outline
from velvet_moth.core.document.values import Value
from velvet_moth.core.language.types import P_FLEXIBLE

_COMBINE = {2: "combine_two", 3: "combine_three", 4: "combine_four"}
_SPLIT = {2: "split_two", 3: "split_three", 4: "split_four"}
_LETTERS = "xyzw"
# The nodes that hold so many numbers, and what gives them.
VALUES = {1: ("number", "value"), 2: ("pair", "vector"), 3: ("triple", "vector"), 4: ("quad", "vector")}


@dataclass(frozen=True)
class Got:
    """What a node gives: so many numbers as they stand, or by a wire; or a yes or no."""

    width: int
    numbers: tuple[float, ...] = ()
    wire: Source | None = None
    is_bool: bool = False


def numbers(*held: float) -> Got:
    """Numbers as they stand."""
    return Got(len(held), tuple(float(v) for v in held))


@dataclass(eq=False)
class GraphUnderWay:
    """Nodes by their ids."""

    nodes: dict[str, Node] = field(default_factory=dict)
    _counts: dict[str, int] = field(default_factory=dict)
    _parts: dict[Source, list[Got]] = field(default_factory=dict)

    def add(
        self,
        type_: str,
        inputs: Mapping[str, Got | str],
        settings: Mapping[str, object] | None = None,
        outline: Outline | None = None,
        label: str = "",
    ) -> str:
        """A node; the id of it. An input is what another gives, or the id of a texture."""
        inputs = self._kept_wide(type_, inputs)
        number = self._counts[type_] = self._counts.get(type_, 0) + 1
        key = f"{type_[:24]}_{number}"
        wires = {name: got.wire for name, got in inputs.items() if isinstance(got, Got) and got.wire is not None}
        values: dict[str, Value] = {
            name: got if isinstance(got, str) else got.numbers for name, got in inputs.items() if name not in wires
        }
        self.nodes[key] = Node(key, type_, values, settings or {}, wires, label, outline=outline)
        return key

    def _kept_wide(self, type_: str, inputs: Mapping[str, Got | str]) -> Mapping[str, Got | str]:
        """Numbers that an input cannot hold come by a wire of their own: those of an input that reads the surface where nothing is

        wired, and of a flexible one, which is as wide as what is wired to its node.
        """
        kind = CATALOGUE.get(type_)
        for name, got in inputs.items():
            if kind is not None and kind.inputs[name].source and isinstance(got, Got) and got.wire is None:
                inputs = {**inputs, name: self._held(got)}
        flexible = {
            name: got
            for name, got in inputs.items()
            if isinstance(got, Got) and kind is not None and kind.inputs[name].type is P_FLEXIBLE
        }
        wired = max((got.width for got in flexible.values() if got.wire is not None), default=1)
        widest = max(flexible.values(), key=lambda got: got.width, default=numbers(0.0))
        if widest.width <= wired or widest.wire is not None:
            return inputs
        name = next(name for name, got in flexible.items() if got is widest)
        return {**inputs, name: self._held(widest)}

    def _held(self, got: Got) -> Got:
        """Numbers in a node of their own."""
        node, output = VALUES[got.width]
        return Got(got.width, wire=Source(self.add(node, {"value": got}), output))

    def made(
        self, width: int, type_: str, output: str, settings: Mapping[str, object] | None = None, /, **inputs: Got
    ) -> Got:
        """What one output of a new node gives."""
        return Got(width, wire=Source(self.add(type_, inputs, settings), output))

    def component(self, got: Got, at: int) -> Got:
        """One number of several."""
        if got.width == 1:
            return self.as_number(got)
        if got.wire is None:
            return numbers(got.numbers[at])
        if got.wire not in self._parts:
            key = self.add(_SPLIT[got.width], {"vector": got})
            self._parts[got.wire] = [Got(1, wire=Source(key, letter)) for letter in _LETTERS[: got.width]]
        return self._parts[got.wire][at]

    def together(self, parts: Sequence[Got]) -> Got:
        """A vector of all components of the parts, in order."""
        every = [self.component(part, at) for part in parts for at in range(part.width)]
        if len(every) == 1:
            return every[0]
        if all(one.wire is None for one in every):
            return numbers(*(one.numbers[0] for one in every))
        return self.made(len(every), _COMBINE[len(every)], "vector", **dict(zip(_LETTERS, every, strict=False)))

    def widened(self, got: Got, width: int) -> Got:
        """As many numbers as are asked for: one in every component, or the first of several; what is missing is 0, a fourth 1."""
        if got.width == width:
            return got
        if got.width == 1:
            return self.together([got] * width)
        kept = [self.component(got, at) for at in range(min(width, got.width))]
        return self.together(
            [*kept, *(numbers(1.0 if at == len(_LETTERS) - 1 else 0.0) for at in range(got.width, width))]
        )

    def as_number(self, got: Got) -> Got:
        """A yes or no as 1 or 0."""
        if not got.is_bool:
            return got
        return self.made(1, "choose", "result", condition=got, yes=numbers(1.0), no=numbers(0.0))

    def as_answer(self, got: Got) -> Got:
        """A number as yes or no: yes above a half."""
        return got if got.is_bool else self.asked(got, numbers(0.5), "above")

    def asked(self, a: Got, b: Got, asks: str, margin: float = 0.0) -> Got:
        """A comparison of two numbers."""
        wire = Source(self.add("compare", {"a": a, "b": b, "margin": numbers(margin)}, {"asks": asks}), "answer")
        return Got(1, wire=wire, is_bool=True)
