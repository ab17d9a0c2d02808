"""The graph document: immutable records, changed only by the operations in ``operations/``."""

import re
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any, Union

from velvet_moth.core.catalogue.ports import Input
from velvet_moth.core.catalogue.registry import CATALOGUE, NodeType
from velvet_moth.core.document.marks import Mark
from velvet_moth.core.document.outline import Outline, outlined_kind
from velvet_moth.core.forms.view import SavedView
from velvet_moth.core.language.types import P_BOOL, P_FLEXIBLE, P_SURFACE, P_TEXTURE
from velvet_moth.core.lighting.decals import Decal
from velvet_moth.core.nodes.surfaces import DOCK

# Components of a number, vector, colour or toggle; or a texture's id.
Value = Union[tuple[float, ...], str]

ID_PATTERN = re.compile(r"[a-z][a-z0-9_]{0,31}")
# Every object of a script has something of this name: a table by ids would find it there.
NO_ID = "constructor"
LONGEST_NAME = 80
MOST_NODES = 4000
MOST_PARAMETERS = 1000
MOST_VARIANTS = 256
LARGEST_NUMBER = 1e6
MOST_STOPS = 8


def is_id(text: str) -> bool:
    """Whether a text can be the id of anything: a small letter, then up to 31 small letters, digits or _."""
    return ID_PATTERN.fullmatch(text) is not None and text != NO_ID


@dataclass(frozen=True)
class Source:
    """The far end of a wire: an output of a node, and which ``part`` of it the wire takes ("" for all of it)."""

    node: str
    output: str
    part: str = ""

    def __post_init__(self) -> None:
        # It is looked up far more often than made.
        object.__setattr__(self, "_hash", hash((self.node, self.output, self.part)))

    def __hash__(self) -> int:
        found: int = self._hash  # type: ignore[attr-defined] # set above
        return found

    @property
    def whole(self) -> "Source":
        """The output itself."""
        return Source(self.node, self.output) if self.part else self


@dataclass(frozen=True)
class Node:
    """One node: its values on unwired inputs, its settings, its incoming wires, and where its card lies.

    ``place`` is None while the card is laid out by itself; a hand-placed card keeps its place.
    ``outline`` tells the ports of a type the catalogue does not hold. A ``muted`` node does nothing: what
    comes in goes out.
    """

    id: str
    type: str
    values: Mapping[str, Value] = field(default_factory=dict)
    settings: Mapping[str, Any] = field(default_factory=dict)
    wires: Mapping[str, Source] = field(default_factory=dict)
    label: str = ""
    place: tuple[float, float] | None = None
    outline: Outline | None = None
    muted: bool = False

    @cached_property
    def kind(self) -> NodeType:
        return outlined_kind(self.type, self.outline) if self.outline else CATALOGUE[self.type]

    @cached_property
    def settled(self) -> tuple[tuple[str, Any], ...]:
        """Every setting with its choice, the node's own or the default."""
        return tuple((k, self.settings.get(k, s.default)) for k, s in self.kind.settings.items())

    @cached_property
    def sources(self) -> dict[str, Source]:
        """Its own outputs as the far ends of wires, by key."""
        return {key: Source(self.id, key) for key in self.kind.outputs}

    @cached_property
    def ends(self) -> tuple[tuple[str, str], ...]:
        """Its inputs as the near ends of wires, (node, input)."""
        return tuple((self.id, key) for key in self.kind.inputs)

    @cached_property
    def unwired(self) -> dict[tuple[str, str], Value]:
        """What its inputs carry by themselves, by (node, input); a list of stops is one value a stop."""
        values: dict[tuple[str, str], Value] = {}
        for key, declared in self.kind.inputs.items():
            values.update(_placed(self.id, declared, self.value(key)))
        return values

    @property
    def name(self) -> str:
        return self.label or self.kind.name

    def value(self, key: str) -> Value:
        """The value an unwired input carries."""
        declared = self.kind.inputs[key]
        return self.values.get(key, "" if declared.type is P_TEXTURE else declared.default)


@dataclass(frozen=True)
class Parameter:
    """A value opened for tuning: which input of which node, under what name, range and unit.

    ``group`` is the heading it stands under; ``help`` says what it does, to whoever tunes it.
    """

    id: str
    name: str
    node: str
    input: str
    low: float = 0.0
    high: float = 1.0
    step: float = 0.01
    unit: str = ""
    group: str = ""
    help: str = ""


@dataclass(frozen=True)
class Variant:
    """A named set of parameter values over those of its ``base``, another variant, or ("") the graph's defaults."""

    id: str
    name: str
    values: Mapping[str, Value] = field(default_factory=dict)
    base: str = ""
    note: str = ""


@dataclass(frozen=True)
class Wear:
    """A part of a backdrop in another graph of the project, in one of its variants ("" for its defaults).

    ``part`` is named as ``backdrops.place_of`` has it; ``graph`` is the key it is kept by.
    """

    part: str
    graph: str
    variant: str = ""


@dataclass(frozen=True)
class Graph:
    """A whole graph. The dock is a node like any other, always there under the id ``dock``.

    ``form`` is the form it is judged on, ``rig`` the light, ``backdrop`` what lies
    behind ("" for the stage's grey). ``kind`` is how its surface meets that: one of ``lighting.kinds``. ``decals`` are
    where one of that kind is put down, the last on top; none for the backdrop's own places. ``wears`` dress parts of
    backdrops, each part once, in the order of their names. ``views`` are saved ones. ``surroundings`` is a texture of
    all directions that takes the place of the rig's own picture ("" for none). ``marks`` are frames, notes
    and bookmarks by their ids. ``motifs`` are those of the project, by the type of node that uses each; ``motif`` is the
    graph's own type where it is a motif itself. ``mended`` says what of the kept document could not be read as it stands. All three
    come from where the graph is kept and are no part of the document.
    """

    title: str
    nodes: Mapping[str, Node]
    parameters: tuple[Parameter, ...] = ()
    variants: tuple[Variant, ...] = ()
    form: str = "mooring"
    rig: str = "open_dock"
    kind: str = "solid"
    backdrop: str = ""
    decals: tuple[Decal, ...] = ()
    wears: tuple[Wear, ...] = ()
    views: tuple[SavedView, ...] = ()
    surroundings: str = ""
    marks: Mapping[str, Mark] = field(default_factory=dict)
    motifs: Mapping[str, "Motif"] = field(default_factory=dict, compare=False)
    motif: str = field(default="", compare=False)
    mended: tuple[str, ...] = field(default=(), compare=False)

    def with_node(self, node: Node) -> "Graph":
        return replace(self, nodes={**self.nodes, node.id: node})

    def noted(self, mended: tuple[str, ...]) -> "Graph":
        """The same graph, which says what of its document was mended."""
        return replace(self, mended=mended)

    def parameter(self, key: str) -> Parameter | None:
        return next((p for p in self.parameters if p.id == key), None)

    def parameter_at(self, node: str, key: str) -> Parameter | None:
        return next((p for p in self.parameters if (p.node, p.input) == (node, key)), None)

    def variant(self, key: str) -> Variant | None:
        return next((v for v in self.variants if v.id == key), None)

    def _chosen(self, variant: str) -> dict[tuple[str, str], Value]:
        """What a variant sets, by (node, input)."""
        held = self.set_by(variant)
        return {(p.node, p.input): held[p.id] for p in self.parameters if p.id in held}

    def set_by(self, variant: str) -> dict[str, Value]:
        """What a variant and those it is based on set, by parameter."""
        by_id = {v.id: v for v in self.variants}
        line: dict[str, Variant] = {}
        key = variant
        while key in by_id and key not in line:
            line[key] = by_id[key]
            key = by_id[key].base
        return {parameter: value for one in reversed(line.values()) for parameter, value in one.values.items()}

    def uniform_values(self, variant: str = "") -> dict[tuple[str, str], Value]:
        """Every unwired value by (node, input), with the variant's values in place of the defaults.

        A list of stops gives one value a stop, under ``input#number``; textures inside motifs stand
        under ``motif/node``.
        """
        values: dict[tuple[str, str], Value] = {}
        for n in self.nodes.values():
            values.update(n.unwired)
        for (node, key), value in self._chosen(variant).items():
            declared = self.nodes[node].kind.inputs[key]
            for old in _placed(node, declared, self.nodes[node].value(key)):
                del values[old]
            values.update(_placed(node, declared, value))
        for type_, motif in self.used_motifs().items():
            for (inner, key), _ in motif.graph.own_textures():
                values[f"{type_}/{inner}", key] = motif.graph.nodes[inner].value(key)
        return values

    def used_motifs(self) -> dict[str, "Motif"]:
        """The motifs this graph needs, those inside motifs included, by type."""
        found: dict[str, Motif] = {}
        todo = [self]
        while todo:
            types = {n.type for n in todo.pop().nodes.values() if n.outline is not None}
            for type_ in sorted(types & set(self.motifs) - set(found)):
                found[type_] = self.motifs[type_]
                todo.append(found[type_].graph)
        return found

    def texture_ids(self) -> set[str]:
        """The ids of all textures it reads, whatever the variant."""
        held: list[Mapping[Any, Value]] = [self.uniform_values(), *(v.values for v in self.variants)]
        held.append({"surroundings": self.surroundings})
        return {value for values in held for value in values.values() if isinstance(value, str) and value}

    def own_textures(self) -> list[tuple[tuple[str, str], Input]]:
        """Every (node, input) of this graph that holds a texture, with what it declares."""
        return [
            ((n.id, key), declared)
            for n in self.nodes.values()
            for key, declared in n.kind.inputs.items()
            if declared.type is P_TEXTURE
        ]

    def outputs_read(self) -> dict[str, set[str]]:
        """Which outputs of each node are wired to anything."""
        found: dict[str, set[str]] = {}
        for node in self.nodes.values():
            for source in node.wires.values():
                found.setdefault(source.node, set()).add(source.output)
        return found

    def settled(self, variant: str) -> "Graph":
        """The graph with a variant's values where they shape the shader: toggles and lists of stops."""
        chosen = self._chosen(variant) if variant else {}
        if not chosen:
            return self
        nodes = dict(self.nodes)
        for (key, name), value in chosen.items():
            if name in nodes[key].kind.inputs and nodes[key].kind.inputs[name].shapes_the_shader:
                nodes[key] = replace(nodes[key], values={**nodes[key].values, name: value})
        return replace(self, nodes=nodes)

    def readers(self, node: str) -> list[tuple[str, str, Source]]:
        """Every (node, input, source) whose wire comes from ``node``."""
        return [
            (other.id, key, source)
            for other in self.nodes.values()
            for key, source in other.wires.items()
            if source.node == node
        ]

    def reaches(self, start: str, goal: str) -> bool:
        """Whether ``goal`` is upstream of ``start``, or the same node."""
        seen, todo = set(), [start]
        while todo:
            current = todo.pop()
            if current == goal:
                return True
            if current not in seen:
                seen.add(current)
                todo.extend(s.node for s in self.nodes[current].wires.values())
        return False


@dataclass(frozen=True, eq=False)
class Motif:
    """A graph kept as one node of others; its motif inputs and outputs are that node's ports."""

    type: str
    graph: Graph


def _placed(node: str, declared: Input, value: Value) -> dict[tuple[str, str], Value]:
    """Where the value of one unwired input stands among the values of a graph."""
    if declared.type.stop and not isinstance(value, str):
        return {(node, f"{declared.key}#{i}"): stop for i, stop in enumerate(split_stops(declared, value))}
    return {} if declared.type is P_SURFACE or declared.source else {(node, declared.key): value}


def split_stops(declared: Input, value: tuple[float, ...]) -> list[tuple[float, ...]]:
    width = declared.type.stop
    return [value[i : i + width] for i in range(0, len(value), width)]


def empty_graph(title: str) -> Graph:
    return Graph(title, {DOCK: Node(DOCK, DOCK)})


def fits(declared: Input, value: Any) -> bool:
    """Whether a value can stand on an unwired input: its number of components, their size, or a texture's id."""
    if declared.type is P_TEXTURE:
        return isinstance(value, str) and len(value) <= 64 and value.isprintable()
    if declared.type is P_SURFACE or declared.source or not isinstance(value, tuple):
        return False
    if declared.type is P_BOOL:
        return value in ((0.0,), (1.0,))
    if not all(isinstance(c, float) and abs(c) <= LARGEST_NUMBER for c in value):
        return False
    if declared.type.stop:
        places = value[:: declared.type.stop]
        is_whole = len(value) % declared.type.stop == 0 and 2 <= len(places) <= MOST_STOPS
        return is_whole and places[0] >= 0.0 and places[-1] <= 1.0 and list(places) == sorted(places)
    if declared.type is P_FLEXIBLE:
        return 1 <= len(value) <= 4
    return len(value) == len(declared.default)
