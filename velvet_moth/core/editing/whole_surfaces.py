"""The surface of one graph in another: its cards are copied, and end in one that gives the whole surface."""

from collections.abc import Mapping
from dataclasses import replace

from velvet_moth.core.document.graph import Graph, Node, Parameter, Source
from velvet_moth.core.document.marks import Frame
from velvet_moth.core.document.values import Value, fresh_id
from velvet_moth.core.editing.copying import copies
from velvet_moth.core.editing.renaming import Renaming
from velvet_moth.core.files.cards_text import Cards
from velvet_moth.core.lighting.kinds import KINDS
from velvet_moth.core.nodes.surfaces import BACK, DOCK
from velvet_moth.core.operations import AddNode, AddParameter, Batch
from velvet_moth.core.operations.parameters import LONGEST_GROUP

_SURFACE, _FULL = "surface", "full"
_OUTLINE = ("opacity", "alpha_cutoff")


def with_surface_of(graph: Graph, other: Graph, variant: str = "") -> tuple[Graph, Source]:
    """A graph with the cards of another one, as a variant of that sets them, in a frame of its title; and what gives their surface.

    Its parameters come along under its title, with the keys that hold for the variant. What the dock of a two-sided one
    shows from behind is left out, and so is the opacity of a solid one, which makes no use of it.
    """
    nodes = _as_set(other, variant)
    dock = nodes.pop(DOCK)
    full = Node(fresh_id(_FULL, nodes), "number", values={"value": (1.0,)})
    final = _surface_of_dock(dock, fresh_id(_SURFACE, nodes), full if KINDS[other.kind].hides else None)
    is_full = final.wires.get("opacity") == Source(full.id, "value")
    cards = [*([full] if is_full else []), *nodes.values(), final]
    tracks = other.tracks_of(variant)
    opened = [_opened(one, final.id, other.title, tracks) for one in other.parameters]
    frame = Frame("frame", other.title, tuple(node.id for node in cards))
    parameters = tuple(one for one in opened if one.parameter.input in final.values or one.parameter.node != final.id)
    known = replace(graph, motifs={**graph.motifs, **other.used_motifs()})
    steps = copies(known, Cards(tuple(cards), parameters, (frame,)), Renaming(), keep_wires=False, shift=(0.0, 0.0))
    last = [step.node.id for step in steps if isinstance(step, AddNode)][-1]
    made: Graph = Batch(tuple(steps), f"brought in {other.title}").apply(known)[0]
    return made, Source(last, "surface")


def _as_set(graph: Graph, variant: str) -> dict[str, Node]:
    """The nodes of a graph with what a variant sets, laid out by themselves."""
    held = graph.set_by(variant)
    values: dict[str, dict[str, Value]] = {}
    for parameter in graph.parameters:
        if parameter.id in held:
            values.setdefault(parameter.node, {})[parameter.input] = held[parameter.id]
    return {
        key: replace(node, values={**node.values, **values.get(key, {})}, place=None)
        for key, node in graph.nodes.items()
    }


def _surface_of_dock(dock: Node, key: str, full: Node | None) -> Node:
    """A card that gives what a dock takes; where it makes no use of its opacity, that is the number ``full`` gives."""
    left_out = {BACK, *(_OUTLINE if full else ())}
    wires = {name: source for name, source in dock.wires.items() if name not in left_out}
    values = {name: value for name, value in dock.values.items() if name not in left_out}
    if full and "surface" in wires:
        # A whole surface may bring an opacity of its own.
        wires["opacity"] = Source(full.id, "value")
    return Node(key, _SURFACE, values=values, wires=wires)


def _opened(parameter: Parameter, final: str, title: str, tracks: Mapping[str, object]) -> AddParameter:
    """A parameter of another graph under that one's title; of its dock, it is one of the ``final`` card."""
    moved = replace(
        parameter,
        node=final if parameter.node == DOCK else parameter.node,
        group=title[:LONGEST_GROUP].strip(),
    )
    track = tracks.get(parameter.id)
    return AddParameter(moved, None, None, {"": track} if track is not None else None)  # type: ignore[dict-item]  # tracks by target
