"""What can be kept of nodes that a graph does not take as they are, for documents that must open all the same."""

from collections.abc import Callable, Sequence
from dataclasses import replace

from velvet_moth.core.base.errors import MothError
from velvet_moth.core.catalogue.settings import spoken
from velvet_moth.core.document.checks import checked_name
from velvet_moth.core.document.graph import Graph, Node, Variant
from velvet_moth.core.document.outline import Outline, OutlinePort
from velvet_moth.core.document.tracks.track import checked_track
from velvet_moth.core.document.values import is_id
from velvet_moth.core.operations import Wire
from velvet_moth.core.operations.checks import check_value, checked_setting
from velvet_moth.core.operations.nodes import with_nodes
from velvet_moth.core.operations.outlines import check_settings, checked_outline
from velvet_moth.core.operations.parameters import check_override, parameter_of
from velvet_moth.core.operations.tracks import takes_of


def with_what_fits(graph: Graph, nodes: Sequence[Node], mended: list[MothError]) -> Graph:
    """The graph with as much of the nodes as it takes; what is left out is put on the list."""

    def fits(check: Callable[[], object]) -> bool:
        try:
            check()
        except MothError as error:
            mended.append(error)
            return False
        return True

    wires: list[Wire] = []
    for node in nodes:
        bare = _fitting(node, fits)
        try:
            graph = with_nodes(graph, [bare])
        except MothError as error:
            mended.append(error)
            continue
        wires += [Wire.of(node.id, key, source) for key, source in node.wires.items()]
    for wire in wires:
        try:
            graph, _ = wire.apply(graph)
        except MothError as error:
            mended.append(error)
    return graph


def _fitting(node: Node, fits: Callable[[Callable[[], object]], bool]) -> Node:
    """The node without wires and without the values, settings and names that it cannot have."""
    made = replace(node, wires={})
    if made.outline is not None and not fits(lambda: checked_outline(made.outline or Outline(""), f"node {node.id}")):
        made = replace(made, outline=_plain_outline(node))
    if made.label and not fits(lambda: checked_name(made.label, f"label of {node.id}")):
        made = replace(made, label="")
    values = {k: v for k, v in made.values.items() if fits(lambda k=k, v=v: check_value(made, k, v))}  # type: ignore[misc] # bound now
    if made.outline is not None:
        keeps = fits(lambda: check_settings(made.settings, f"node {node.id}"))
        return replace(made, values=values, settings=made.settings if keeps else {})
    settings = {k: v for k, v in made.settings.items() if fits(lambda k=k, v=v: checked_setting(made, k, v))}  # type: ignore[misc] # bound now
    return replace(made, values=values, settings=settings)


def fitting_variant(graph: Graph, variant: Variant, mended: list[MothError] | None) -> Variant:
    """The variant without values and keys that it cannot have, where that is forgiven; as it is where ``mended`` is None."""
    if mended is None:
        return variant
    values, tracks = {}, {}
    for target, track in variant.tracks.items():
        try:
            tracks[target] = checked_track(track, takes_of(graph, target))
        except MothError as error:
            mended.append(error)
    for key, value in variant.values.items():
        try:
            check_override(graph, parameter_of(graph, key), value)
            values[key] = value
        except MothError as error:
            mended.append(error)
    return replace(variant, values=values, tracks=tracks)


def _plain_outline(node: Node) -> Outline:
    """The ports that the wires of a node show, where its own cannot be read."""
    inputs = tuple(OutlinePort(k, spoken(k), "flexible", (0.5,)) for k in node.wires if is_id(k))
    outputs = node.outline.outputs if node.outline else ()
    kept = {p.key: OutlinePort(p.key, spoken(p.key), "number") for p in outputs if is_id(p.key)}
    return Outline(f"Unknown: {node.type}"[:80], inputs, tuple(kept.values()))
