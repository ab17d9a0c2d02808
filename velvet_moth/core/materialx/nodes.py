"""Nodes of a document as they are written: typed, each known by what it was made of and made once."""

from collections.abc import Hashable, Mapping, Sequence
from dataclasses import dataclass, field

import MaterialX

# The standard's types of numbers by how many there are.
TYPES = {1: "float", 2: "vector2", 3: "vector3", 4: "vector4"}


@dataclass(frozen=True)
class Value:
    """What an input takes: ``numbers`` as they stand, or what a ``node`` or an input of the whole graph (``opened``) gives.

    ``colour``: the standard's type of colour that it has, where it is one.
    """

    width: int
    numbers: tuple[float, ...] = ()
    node: str = ""
    opened: str = ""
    colour: str = ""

    @property
    def kind(self) -> str:
        """Its type in the standard."""
        return self.colour or TYPES[self.width]


@dataclass(frozen=True)
class Path:
    """Where a picture is: ``text`` by itself, or an input of the whole graph (``opened``); ``space`` is that of its colours."""

    text: str = ""
    opened: str = ""
    space: str = ""

    def put(self, end: MaterialX.Input) -> None:
        """Gives an input of a node its picture."""
        if self.opened:
            end.setInterfaceName(self.opened)
            return
        end.setValueString(self.text)
        if self.space:
            end.setColorSpace(self.space)


def plain(*numbers: float) -> Value:
    """Numbers as they stand."""
    return Value(len(numbers), tuple(float(n) for n in numbers))


def text_of(numbers: Sequence[float]) -> str:
    """Numbers as the standard writes them; every float32 comes back as it is."""
    return ", ".join(f"{n:.9g}" for n in numbers)


@dataclass(eq=False)
class Nodes:
    """The nodes of one graph of a document; ``words`` are sentences about what the standard cannot say."""

    graph: MaterialX.NodeGraph
    words: dict[str, None] = field(default_factory=dict)
    _made: dict[Hashable, Value] = field(default_factory=dict)
    _counts: dict[str, int] = field(default_factory=dict)

    def add(self, category: str, width: int, inputs: Mapping[str, Value], kind: str = "", **texts: str) -> Value:
        """A node that gives so many numbers, or a ``kind`` of the standard's own; ``texts`` are inputs that choose a way.

        Inputs are of the type of their width.
        """
        kind = kind or TYPES[width]
        key = (category, kind, tuple(sorted(inputs.items(), key=lambda item: item[0])), tuple(sorted(texts.items())))
        if key in self._made:
            return self._made[key]
        number = self._counts[category] = self._counts.get(category, 0) + 1
        node = self.graph.addNode(category, f"{category}_{number}", kind)
        for name, value in inputs.items():
            self.put(node, name, value.kind, value)
        for name, text in texts.items():
            node.addInput(name, "string").setValueString(text)
        made = self._made[key] = Value(width, node=node.getName(), colour=kind if kind.startswith("color") else "")
        return made

    @staticmethod
    def put(element: MaterialX.Node, name: str, kind: str, value: Value) -> None:
        """Gives an input of a node its value."""
        made = element.addInput(name, kind)
        if value.numbers:
            made.setValueString(text_of(value.numbers))
        elif value.opened:
            made.setInterfaceName(value.opened)
        else:
            made.setNodeName(value.node)

    def widened(self, value: Value, width: int) -> Value:
        """One number in every component."""
        if value.width == width:
            return value
        if value.numbers:
            return plain(*value.numbers * width)
        return self.add("convert", width, {"in": value})

    def indexed(self, category: str, width: int, number: int, kind: str = "") -> Value:
        """A node for one of several sets that a mesh may carry."""
        key = (category, number, kind)
        if key not in self._made:
            node = self.graph.addNode(category, f"{category}_{number}", kind or TYPES[width])
            node.addInput("index", "integer").setValueString(str(number))
            self._made[key] = Value(width, node=node.getName(), colour=kind)
        return self._made[key]

    def picture(self, kind: str, file: Path, uv: Value, ways: Mapping[str, str]) -> Value:
        """A picture read at coordinates."""
        key = ("image", kind, file, uv, tuple(sorted(ways.items())))
        if key not in self._made:
            number = self._counts["image"] = self._counts.get("image", 0) + 1
            node = self.graph.addNode("image", f"image_{number}", kind)
            file.put(node.addInput("file", "filename"))
            self.put(node, "texcoord", "vector2", uv)
            for name, way in ways.items():
                node.addInput(name, "string").setValueString(way)
            self._made[key] = Value(4, node=node.getName(), colour=kind if kind == "color4" else "")
        return self._made[key]

    def component(self, value: Value, at: int) -> Value:
        """One number of several."""
        if value.width == 1:
            return value
        if value.numbers:
            return plain(value.numbers[at])
        key = ("extract", value, at)
        if key not in self._made:
            number = self._counts["extract"] = self._counts.get("extract", 0) + 1
            node = self.graph.addNode("extract", f"extract_{number}", "float")
            self.put(node, "in", TYPES[value.width], value)
            node.addInput("index", "integer").setValueString(str(at))
            self._made[key] = Value(1, node=node.getName())
        return self._made[key]

    def together(self, parts: Sequence[Value]) -> Value:
        """A vector of all components of the parts, in order."""
        every = [self.component(part, at) for part in parts for at in range(part.width)]
        if len(every) == 1:
            return every[0]
        if all(one.numbers for one in every):
            return plain(*(one.numbers[0] for one in every))
        return self.add(f"combine{len(every)}", len(every), {f"in{i}": one for i, one in enumerate(every, 1)})

    def as_kind(self, value: Value, kind: str) -> Value:
        """Numbers as a colour of the standard, or the other way round."""
        if value.kind == kind or value.numbers:
            return value
        return self.add("convert", value.width, {"in": value}, kind)
