"""The document of a graph as plain data: which fields it has, how each is written, read, and brought into a graph."""

import collections.abc
from collections.abc import Callable, Mapping, Sequence
from dataclasses import MISSING, dataclass, replace
from operator import attrgetter
from typing import Annotated, Any, get_origin, get_type_hints

from annotated_types import MaxLen
from pydantic import TypeAdapter

from velvet_moth.core.base.errors import FileRefused, MothError, OperationRefused
from velvet_moth.core.base.records import Mended, read
from velvet_moth.core.catalogue.registry import CATALOGUE
from velvet_moth.core.catalogue.settings import spoken
from velvet_moth.core.document.graph import (
    FIELD_TYPES,
    FIELDS,
    MOST_NODES,
    MOST_PARAMETERS,
    MOST_VARIANTS,
    Graph,
    Node,
    Parameter,
    Variant,
)
from velvet_moth.core.document.marks import MOST_MARKS, Mark
from velvet_moth.core.document.outline import Outline, OutlinePort
from velvet_moth.core.document.tracks.targets import Target
from velvet_moth.core.document.tracks.track import MOST_TRACKS, Track
from velvet_moth.core.files.mending import fitting_variant, with_what_fits
from velvet_moth.core.nodes.surfaces import DOCK
from velvet_moth.core.operations import AddParameter, Operation, PutMarks, SetTrack, SetValue, Wire, set_field
from velvet_moth.core.operations.nodes import with_nodes
from velvet_moth.core.operations.variants import adding

# The dock is one node more.
NODES: TypeAdapter[tuple[Node, ...]] = TypeAdapter(Annotated[tuple[Node, ...], MaxLen(MOST_NODES + 1)])
NODE: TypeAdapter[Node] = TypeAdapter(Node)
PARAMETERS: TypeAdapter[tuple[Parameter, ...]] = TypeAdapter(Annotated[tuple[Parameter, ...], MaxLen(MOST_PARAMETERS)])
VARIANTS: TypeAdapter[tuple[Variant, ...]] = TypeAdapter(Annotated[tuple[Variant, ...], MaxLen(MOST_VARIANTS)])
TRACKS: TypeAdapter[Mapping[str, Track]] = TypeAdapter(Annotated[Mapping[Target, Track], MaxLen(MOST_TRACKS)])
MARKS: TypeAdapter[tuple[Mark, ...]] = TypeAdapter(Annotated[tuple[Mark, ...], MaxLen(MOST_MARKS)])

# The fields of records that are tables: the order of their keys means nothing.
TABLES = {
    name
    for record in (Node, Variant, Graph)
    for name, hint in get_type_hints(record).items()
    if get_origin(hint) is collections.abc.Mapping
}

# Brings what was read into a graph; what does not fit is refused, or left out and put on the list.
Bring = Callable[[Graph, Any, str, "Mended | None"], Graph]


@dataclass(frozen=True)
class Part:
    """One field of the document: its record, how it is taken from a graph, and how it is brought into one."""

    record: TypeAdapter[Any]
    of: Callable[[Graph], Any]
    bring: Bring
    required: bool = False


def by_steps(steps: Callable[[Any], Sequence[Operation]]) -> Bring:
    """Brings a value in by operations, so that a file passes the very checks an edit passes."""

    def bring(graph: Graph, value: Any, where: str, mended: Mended | None) -> Graph:
        for step in steps(value):
            try:
                graph, _ = step.apply(graph)
            except MothError as error:
                refused = FileRefused(error.what, f"{where}, {error.where}", error.mend)
                if mended is None:
                    raise refused from error
                mended.append(refused)
        return graph

    return bring


def _bring_nodes(graph: Graph, nodes: tuple[Node, ...], where: str, mended: Mended | None) -> Graph:
    """The graph with the nodes, their wires, and what the file sets on the dock."""
    nodes = with_outlines(nodes)
    others = [node for node in nodes if node.id != DOCK]
    try:
        graph = with_nodes(graph, others)
    except MothError as error:
        if mended is None:
            raise FileRefused(error.what, f"{where}, {error.where}", error.mend) from error
        graph = with_what_fits(graph, others, mended)
    steps = [step for node in nodes if node.id == DOCK for step in _on_dock(node)]
    return by_steps(lambda _: steps)(graph, None, where, mended)


def _on_dock(node: Node) -> list[Operation]:
    values: list[Operation] = [SetValue(DOCK, key, value) for key, value in node.values.items()]
    return [*values, *(Wire.of(DOCK, key, source) for key, source in node.wires.items())]


def _bring_variants(graph: Graph, variants: tuple[Variant, ...], where: str, mended: Mended | None) -> Graph:
    if mended is not None:
        variants = tuple(fitting_variant(graph, variant, mended) for variant in variants)
    return by_steps(adding)(graph, variants, where, mended)


def with_outlines(nodes: Sequence[Node]) -> tuple[Node, ...]:
    """The nodes with ports for every type that the catalogue does not hold: those they bring, or those wiring shows."""
    taken = _outputs_read(nodes)

    def outlined(node: Node) -> Node:
        if node.type in CATALOGUE:
            return replace(node, outline=None) if node.outline else node
        return node if node.outline else replace(node, outline=_shown_outline(node, taken.get(node.id, {})))

    return tuple(outlined(node) for node in nodes)


def _shown_outline(node: Node, outputs: Mapping[str, str]) -> Outline:
    inputs = dict.fromkeys([*node.wires, *node.values])
    return Outline(
        f"Unknown: {node.type}"[:80],
        tuple(OutlinePort(key, spoken(key), "flexible", (0.5,)) for key in inputs),
        tuple(OutlinePort(key, spoken(key), type_) for key, type_ in outputs.items()),
    )


def _outputs_read(nodes: Sequence[Node]) -> dict[str, dict[str, str]]:
    """For each node the outputs that wires read, with the type of an input that reads it."""
    found: dict[str, dict[str, str]] = {}
    for node in nodes:
        kind = CATALOGUE.get(node.type)
        for key, source in node.wires.items():
            taken = kind.inputs[key].type.name if kind and key in kind.inputs else "number"
            outputs = found.setdefault(source.node, {})
            # An input that takes anything says nothing of the type.
            known = outputs.get(source.output, "number")
            outputs[source.output] = known if taken in ("flexible", "number") else taken
    return found


def _whole(name: str) -> Part:
    """A field that one operation sets."""
    return Part(
        TypeAdapter(FIELD_TYPES[name]),
        attrgetter(name),
        by_steps(lambda value: [set_field(name, value)]),
        required=Graph.__dataclass_fields__[name].default is MISSING,
    )


# In the order of a file, in which one needs what is before it.
PARTS: Mapping[str, Part] = {
    **{name: _whole(name) for name in FIELDS},
    "nodes": Part(
        NODES, lambda graph: tuple(node for _, node in sorted(graph.nodes.items())), _bring_nodes, required=True
    ),
    "parameters": Part(
        PARAMETERS, attrgetter("parameters"), by_steps(lambda found: [AddParameter(one) for one in found])
    ),
    "tracks": Part(
        TRACKS,
        attrgetter("tracks"),
        by_steps(lambda found: [SetTrack(target, track) for target, track in sorted(found.items())]),
    ),
    "variants": Part(VARIANTS, attrgetter("variants"), _bring_variants),
    "marks": Part(
        MARKS,
        lambda graph: tuple(mark for _, mark in sorted(graph.marks.items())),
        by_steps(lambda found: [PutMarks((one,)) for one in found]),
    ),
}


def bring_all(graph: Graph, data: Mapping[str, Any], where: str, mended: Mended | None) -> Graph:
    """The graph with every field that the data has; FileRefused names the first thing that is wrong."""
    for name, part in PARTS.items():
        place = f"{where}/{name}"
        try:
            if name in data:
                graph = part.bring(graph, read(part.record, data[name], place, mended), place, mended)
            elif part.required:
                raise FileRefused(f"The field {name!r} is missing.", where, "Choose a file exported from a graph page.")
        except MothError as error:
            if mended is None:
                raise
            mended.append(error)
    return graph


def check_readable(before: Graph, after: Graph) -> None:
    """Whether everything that differs from ``before`` would be read back from a file; OperationRefused where not."""
    for name, part in PARTS.items():
        if getattr(before, name) is not getattr(after, name):
            _check_part(name, part, before, after)


def _check_part(name: str, part: Part, before: Graph, after: Graph) -> None:
    value = part.of(after)
    if isinstance(value, tuple):
        held = set(map(id, part.of(before)))
        value = tuple(one for one in value if id(one) not in held)
    try:
        same = read(part.record, part.record.dump_python(value, mode="json"), f"{after.title}/{name}") == value
    except FileRefused as error:
        raise OperationRefused(error.what, error.where, "Choose a shorter text or a nearer number.") from error
    if not same:
        raise OperationRefused("This could not be read back once it is kept.", after.title, "Choose another value.")
