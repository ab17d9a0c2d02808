"""Copies of cards: pasted from a text, or a second branch beside the first."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Literal

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.document.graph import Graph, Node
from velvet_moth.core.document.marks import Frame
from velvet_moth.core.document.values import fresh_id, fresh_name
from velvet_moth.core.editing.renaming import Renaming
from velvet_moth.core.files.cards_text import Cards, read_cards
from velvet_moth.core.nodes.surfaces import DOCK
from velvet_moth.core.operations import AddNode, AddParameter, Batch, Operation, PutMarks, Wire
from velvet_moth.core.operations.parameters import restoring

# How far a hand-placed copy lies from what it was copied from, in the page's pixels at full size.
BESIDE = (36.0, 36.0)


def _noted(made: str, taken: set[str]) -> str:
    """Something new, which is taken from here on."""
    taken.add(made)
    return made


def copies(
    graph: Graph, cards: Cards, rename: Renaming, keep_wires: bool, shift: tuple[float, float]
) -> list[Operation]:
    """What puts copies of cards into a graph, with their wires, parameters and frames.

    Wires among the cards join the copies. Wires from outside go on to the same sources where ``keep_wires``
    says so, so that what is shared stays shared.
    """
    nodes = [n for n in cards.nodes if n.id != DOCK and not (n.kind.role and not graph.motif)]
    if not nodes:
        raise OperationRefused("There is no card to copy.", graph.title, "Select some cards first.")
    ids: dict[str, str] = {}
    taken = set(graph.nodes)
    for node in nodes:
        ids[node.id] = _noted(fresh_id(node.id, taken, 2), taken)
    steps: list[Operation] = [AddNode(_copied(node, ids, rename, shift)) for node in nodes]
    for node in nodes:
        for key, source in node.wires.items():
            if source.node in ids:
                steps.append(Wire.of(ids[node.id], key, replace(source, node=ids[source.node])))
            elif keep_wires and source.node in graph.nodes and source.output in graph.nodes[source.node].kind.outputs:
                steps.append(Wire.of(ids[node.id], key, source))
    names = {p.name for p in graph.parameters}
    parameter_ids = {p.id for p in graph.parameters}
    for opened in cards.parameters:
        if opened.parameter.node in ids:
            made = replace(
                opened.parameter,
                id=_noted(fresh_id(opened.parameter.id, parameter_ids, 2), parameter_ids),
                name=_noted(fresh_name(rename(opened.parameter.name), names), names),
                node=ids[opened.parameter.node],
            )
            known = {v.id for v in graph.variants}
            held = {v: x for v, x in (opened.overrides or {}).items() if v in known}
            tracks = {v: track for v, track in (opened.tracks or {}).items() if v in known or not v}
            steps.append(AddParameter(made, None, held, tracks))
    marks = set(graph.marks)
    for frame in cards.frames:
        members = tuple(ids[n] for n in frame.nodes if n in ids)
        if members:
            steps.append(
                PutMarks(
                    (
                        replace(
                            frame,
                            id=_noted(fresh_id(frame.id, marks, 2), marks),
                            title=rename(frame.title),
                            nodes=members,
                        ),
                    )
                )
            )
    return steps


def _copied(node: Node, ids: Mapping[str, str], rename: Renaming, shift: tuple[float, float]) -> Node:
    place = node.place and (node.place[0] + shift[0], node.place[1] + shift[1])
    return replace(node, id=ids[node.id], wires={}, label=rename(node.label), place=place)


@dataclass(frozen=True)
class Paste:
    """Puts cards from a copied text into the graph; ``keep_wires`` where they come from this very graph."""

    text: str
    keep_wires: bool = False
    shift: tuple[float, float] = BESIDE
    craft: Literal["paste"] = "paste"

    def batch(self, graph: Graph) -> Batch:
        cards = read_cards(self.text)
        steps = copies(graph, cards, Renaming(), self.keep_wires, self.shift)
        return Batch(tuple(steps), _words("pasted", cards))


@dataclass(frozen=True)
class Duplicate:
    """A second branch: chosen nodes with their parameters, what variants set, and names changed by find and replace."""

    nodes: tuple[str, ...]
    find: str = ""
    replace_with: str = ""
    keep_wires: bool = True
    craft: Literal["duplicate"] = "duplicate"

    def batch(self, graph: Graph) -> Batch:
        keys = set(self.nodes)
        cards = Cards(
            tuple(n for k, n in graph.nodes.items() if k in keys),
            tuple(restoring(graph, p) for p in graph.parameters if p.node in keys),
            tuple(m for m in graph.marks.values() if isinstance(m, Frame) and keys.issuperset(m.nodes)),
        )
        steps = copies(graph, cards, Renaming(self.find, self.replace_with), self.keep_wires, BESIDE)
        return Batch(tuple(steps), _words("duplicated", cards))


def _words(verb: str, cards: Cards) -> str:
    return f"{verb} {cards.nodes[0].name}" if len(cards.nodes) == 1 else f"{verb} {len(cards.nodes)} cards"
