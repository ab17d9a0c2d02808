"""Lowering: from the graph document to typed expressions, keeping for each node what came in and what goes out."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

from velvet_moth.core.catalogue.ports import Input
from velvet_moth.core.document.graph import Graph, Motif, Node, Source
from velvet_moth.core.document.values import Value, split_stops
from velvet_moth.core.language.expr import Expr, Function, Rate, call, constant, sampler, truth, uniform
from velvet_moth.core.language.inputs import surface
from velvet_moth.core.language.primitives import combine, less, splat
from velvet_moth.core.language.trace import is_better_in_place, is_small, trace
from velvet_moth.core.language.types import (
    BOOL,
    NUMBER,
    P_BOOL,
    P_FLEXIBLE,
    P_SURFACE,
    P_TEXTURE,
    PortType,
    can_carry,
    float_of_width,
    widest,
)
from velvet_moth.core.lighting.channels import Surface, default_surface
from velvet_moth.core.lowering.lowered import Lowered, LoweredGraph, Mismatch, PerPixelInVertexShader, upstream_first
from velvet_moth.core.nodes.surfaces import DOCK


def lower(
    graph: Graph,
    variant: str = "",
    muted: frozenset[str] = frozenset(),
    inside: str = "",
    before: LoweredGraph | None = None,
    folded: bool = False,
    switched: bool = False,
) -> LoweredGraph:
    """Every node's outputs as expressions. Values stay outside as uniforms, so editing one changes no shader.

    Only what shapes the shader is taken from ``variant``. A ``muted`` node passes its first fitting
    input through, or gives what an unwired input would carry. The values of the motif ``inside`` stay outside
    too, under ``motif/node``, so that they can be seen while they are dragged.

    A ``folded`` graph keeps outside only what its parameters open; every other value is a constant of the shader, so that
    what comes of it is worked out here. That is the shader for an engine. Where it is ``switched``, toggles that parameters open stay
    outside too, as yes or no.

    With ``before``, a plain lowering of an earlier state or another variant of the graph, only what is downstream of a
    difference is lowered again. The result is the same.
    """
    keyed = _keyed_toggles(graph, variant)
    made = _Lowering(graph.settled(variant), muted=muted, inside=inside, folded=folded, switched=switched, keyed=keyed)
    return made.from_nothing() if before is None or muted or inside or folded else made.after(before)


def _keyed_toggles(graph: Graph, variant: str) -> frozenset[tuple[str, str]]:
    """The toggles whose keys turn them while time runs, by (node, input): another shader each time would stop the picture."""
    tracks = graph.tracks_of(variant)
    opened = ((p.node, p.input) for p in graph.parameters if p.id in tracks)
    return frozenset(end for end in opened if graph.nodes[end[0]].kind.inputs[end[1]].type is P_BOOL)


def _changed(before: Graph, after: Graph) -> set[str]:
    """The nodes of ``after`` that are not the same as before, or whose inputs were opened or closed."""
    old = before.nodes
    found = {key for key, node in after.nodes.items() if old.get(key) is not node}
    opened = {(p.node, p.input) for p in before.parameters} ^ {(p.node, p.input) for p in after.parameters}
    found |= {node for node, _ in opened if node in after.nodes}
    if before.motifs is not after.motifs:
        found |= {key for key, node in after.nodes.items() if node.outline is not None}
    return found


def _downstream(graph: Graph, start: set[str]) -> list[Node]:
    """The nodes of ``start`` and all that read them, each after those it reads."""
    readers: dict[str, list[str]] = {}
    for node in graph.nodes.values():
        for source in node.wires.values():
            readers.setdefault(source.node, []).append(node.id)
    reached, todo = set(start), list(start)
    while todo:
        for reader in readers.get(todo.pop(), ()):
            if reader not in reached:
                reached.add(reader)
                todo.append(reader)
    return list(upstream_first(graph, reached))


@dataclass
class _Lowering:
    """``given`` are the values of motif inputs while a motif is lowered for its uses."""

    graph: Graph
    given: Mapping[str, Any] | None = None
    muted: frozenset[str] = frozenset()
    inside: str = ""
    folded: bool = False
    switched: bool = False
    keyed: frozenset[tuple[str, str]] = frozenset()

    def from_nothing(self) -> LoweredGraph:
        found, nothing = LoweredGraph(self.graph, keyed=self.keyed), LoweredGraph(self.graph)
        opened = {(p.node, p.input) for p in self.graph.parameters}
        for node in upstream_first(self.graph):
            self._lower_node(found, node, opened, nothing)
        return found

    def after(self, before: LoweredGraph) -> LoweredGraph:
        """Lowers only what is downstream of what differs from before, and stops where nothing comes of it."""
        graph, old = self.graph, before.graph
        changed = _changed(old, graph) | {node for node, _ in self.keyed ^ before.keyed if node in graph.nodes}
        stale = changed | (old.nodes.keys() - graph.nodes.keys())
        if len(changed) * 2 > len(graph.nodes):
            return self.from_nothing()
        found = LoweredGraph(
            graph,
            dict(before.outputs),
            dict(before.types),
            dict(before.inputs),
            dict(before.input_types),
            keyed=self.keyed,
        )
        for key in stale & old.nodes.keys():
            kind = old.nodes[key].kind
            kept = graph.nodes[key].kind.outputs if key in graph.nodes else {}
            # What stays keeps its place, so that the same graph gets the same text by whatever edits it came.
            for output in kind.outputs.keys() - kept.keys():
                del found.outputs[Source(key, output)], found.types[Source(key, output)]
            for name in kind.inputs:
                found.inputs.pop((key, name), None)
                found.input_types.pop((key, name), None)
        again: set[str] = set()
        moved, nothing = set(changed), LoweredGraph(graph)
        opened = {(p.node, p.input) for p in graph.parameters}
        for node in _downstream(graph, changed):
            if node.id in changed or any(s.node in moved for s in node.wires.values()):
                again.add(node.id)
                self._lower_node(found, node, opened, nothing if node.id in changed else before)
                is_same = all(
                    found.outputs[s] is before.outputs.get(s) and found.types[s] is before.types.get(s)
                    for s in node.sources.values()
                )
                moved.discard(node.id) if is_same else moved.add(node.id)
        gone = again | stale
        found.mismatches += [m for m in before.mismatches if m.node not in gone]
        found.per_pixel += [f for f in before.per_pixel if f.node not in gone]
        return found

    def _lower_node(self, found: LoweredGraph, node: Node, opened: set[tuple[str, str]], before: LoweredGraph) -> None:
        """Adds what one node gives; ``before`` holds what its unwired inputs carried, if it is the same node."""
        key_of, kind, wires = node.id, node.kind, node.wires
        agreed = _agreed(found, node)
        values: dict[str, Any] = {}
        for key, declared in kind.inputs.items():
            taken = agreed if declared.type is P_FLEXIBLE else declared.type
            place = (key_of, key)
            arrived = _arrived(found, node, declared, taken) if key in wires else None
            if arrived is not None:
                value: Any = _widened(arrived, declared)
            elif place in before.inputs and before.input_types[place] is taken and key not in wires:
                value = before.inputs[place]
            elif kind.filled_by in wires and declared.type is not P_SURFACE:
                found.input_types[place] = taken
                continue  # the whole surface brings this channel
            elif declared.idle_at_default and place not in opened and node.value(key) == declared.default:
                value = constant(*declared.default)
            else:
                value = self._unwired(node, declared, taken, self.folded and place not in opened)
            found.input_types[place] = taken
            values[key] = value
            if value.__class__ is Expr or value.__class__ is Surface:
                found.inputs[place] = value
        built = _muted(found, node) if node.muted or key_of in self.muted else self._built(found, node, values)
        for key, made in built.items():
            source = node.sources[key]
            declared_type = kind.outputs[key].type
            found.outputs[source] = made
            found.types[source] = agreed if declared_type is P_FLEXIBLE else declared_type

    def _built(self, found: LoweredGraph, node: Node, values: dict[str, Any]) -> dict[str, Any]:
        if self.given is not None and node.id in self.given:
            return dict.fromkeys(node.kind.outputs, self.given[node.id])
        motif = self.graph.motifs.get(node.type)
        if motif is not None:
            return built_motif(motif, node, values, self.inside)
        built = node.kind.build(values, node.settled)
        docked = built.get("surface") if node.id == DOCK else None
        if isinstance(docked, Surface) and docked["offset"].rate is Rate.PIXEL:
            found.per_pixel.append(PerPixelInVertexShader(DOCK, "surface", node.wires["surface"]))
            return {"surface": Surface({**docked.channels, "offset": default_surface()["offset"]})}
        return built

    def _unwired(self, node: Node, declared: Input, taken: PortType, is_folded: bool) -> Any:
        if (node.id, declared.key) in self.keyed:
            return less(0.5, uniform((node.id, declared.key), NUMBER))
        if self.switched and not is_folded and declared.type is P_BOOL and self.given is None:
            return uniform((node.id, declared.key), BOOL)
        if self.given is None:
            return folded_value(node, declared, taken) if is_folded else unwired(node, declared, taken)
        if declared.type is P_TEXTURE:
            return sampler((f"{self.graph.motif}/{node.id}", declared.key))
        if self.inside and self.graph.motif == self.inside:
            return unwired(replace(node, id=f"{self.inside}/{node.id}"), declared, taken)
        return folded_value(node, declared, taken)


def _agreed(found: LoweredGraph, node: Node) -> PortType:
    """The type a node's flexible ports resolve to."""
    inputs = node.kind.inputs
    flexible = [found.type_of(s) for k, s in node.wires.items() if inputs[k].type is P_FLEXIBLE]
    fitting = [t for t in flexible if t is not None and can_carry(t, P_FLEXIBLE)]
    resolved = widest(fitting)
    # Two and three numbers cannot meet: the first wired one settles it, the others are mismatches.
    return resolved if resolved is not None else fitting[0]


def _arrived(found: LoweredGraph, node: Node, declared: Input, taken: PortType) -> Lowered | None:
    """What comes along an input's wire, unless it is what the input cannot take."""
    source = node.wires[declared.key]
    given = found.type_of(source)
    if given is None or not can_carry(given, taken):
        found.mismatches.append(Mismatch(node.id, declared.key, source, given or found.types[source.whole], taken))
        return None
    value = found.value_of(source)
    if declared.per_vertex and isinstance(value, Expr) and value.rate is Rate.PIXEL:
        found.per_pixel.append(PerPixelInVertexShader(node.id, declared.key, source))
        return None
    return value


def _muted(found: LoweredGraph, node: Node) -> dict[str, Any]:
    """The first wired input of the output's own type passes, or the first one; without any, a grey stands in."""
    passed: dict[str, Any] = {}
    wired_first = sorted(node.kind.inputs.items(), key=lambda item: item[0] not in node.wires)
    for key, output in node.kind.outputs.items():
        fitting = [
            found.inputs[node.id, k]
            for k, declared in wired_first
            if declared.type is output.type and (node.id, k) in found.inputs and not declared.reads
        ]
        width = output.type.value.width if output.type.value else 1
        grey: Lowered = truth(False) if output.type is P_BOOL else constant(*[0.5] * max(width, 1))
        passed[key] = fitting[0] if fitting else default_surface() if output.type is P_SURFACE else grey
    return passed


def motif_inputs(graph: Graph) -> list[Node]:
    """The nodes that are inputs of a motif, from top to bottom."""
    return sorted((n for n in graph.nodes.values() if n.kind.role == "motif input"), key=_from_top)


def motif_outputs(graph: Graph) -> list[Node]:
    """The nodes that are outputs of a motif, from top to bottom."""
    return sorted((n for n in graph.nodes.values() if n.kind.role == "motif output"), key=_from_top)


def _from_top(node: Node) -> tuple[float, str]:
    return (node.place[1] if node.place else 0.0, node.id)


def _lowered_motif(motif: Motif, values: Mapping[str, Any], inside: str = "") -> tuple[Any, ...]:
    found = _Lowering(motif.graph, values, inside=inside).from_nothing()
    return tuple(found.outputs[Source(n.id, next(iter(n.kind.outputs)))] for n in motif_outputs(motif.graph))


@lru_cache(maxsize=256)
def _motif_function(motif: Motif) -> Function | None:
    """The motif as one function of its inputs; None where it is better read in place."""
    ports = motif_inputs(motif.graph)
    types = [next(iter(n.kind.outputs.values())).type.value for n in ports]
    if any(next(iter(n.kind.outputs.values())).type is P_SURFACE for n in [*ports, *motif_outputs(motif.graph)]):
        return None
    if any(
        _reads_its_own_way(graph) for graph in (motif.graph, *(m.graph for m in motif.graph.used_motifs().values()))
    ):
        # A function gets a texture with its wrap and filter; it cannot change them.
        return None
    keys = [n.id for n in ports]
    made = trace(
        "motif",
        "Motif",
        [f"in_{i}" for i in range(len(ports))],
        lambda *args: _lowered_motif(motif, dict(zip(keys, args, strict=True))),
        [t for t in types if t is not None],
    )
    return None if is_small(made) else made


def _reads_its_own_way(graph: Graph) -> bool:
    return any(
        node.settings.get(key, setting.default) != setting.default
        for node in graph.nodes.values()
        for key, setting in node.kind.settings.items()
        if setting.reads
    )


def built_motif(motif: Motif, node: Node, values: Mapping[str, Any], inside: str = "") -> dict[str, Any]:
    """What a use of a motif gives, by output; ports the motif no longer has give grey.

    One whose values, or those of a motif in it, are to stay ``inside`` uniforms is read in place: a function
    takes nothing from outside but its arguments.
    """
    keys = [n.id for n in motif_inputs(motif.graph)]
    given = {key: values[key] for key in keys}
    outputs = [n.id for n in motif_outputs(motif.graph)]
    is_open = inside and (motif.type == inside or inside in motif.graph.used_motifs())
    function = _motif_function(motif) if outputs and not is_open else None
    args = list(given.values())
    is_called = function is not None and not is_better_in_place(function, args)
    made = call(function, args) if function and is_called else _lowered_motif(motif, given, inside)
    return {**node.kind.build(values, ()), **dict(zip(outputs, made, strict=True))}


def _widened(value: Lowered, declared: Input) -> Lowered:
    if isinstance(value, Surface) or declared.type.value is None or declared.type in (P_BOOL, P_TEXTURE):
        return value
    return splat(value, declared.type.value.width)


def unwired(node: Node, declared: Input, taken: PortType) -> Any:
    """What an input carries by itself: a surface input, uniforms, a sampler, or a settled yes/no."""
    if declared.source:
        return surface(declared.source)
    if declared.type is P_SURFACE:
        return default_surface()
    key = (node.id, declared.key)
    if declared.type is P_TEXTURE:
        return sampler(key)
    value = node.value(declared.key)
    if declared.type is P_BOOL:
        return truth(value == (1.0,))
    if declared.type.stop:
        assert not isinstance(value, str)
        count = len(value) // declared.type.stop
        return tuple(
            uniform((node.id, f"{declared.key}#{i}"), float_of_width(declared.type.stop)) for i in range(count)
        )
    return _fitted(_uniform(key, value), taken)


def folded_value(node: Node, declared: Input, taken: PortType) -> Any:
    """What an input carries by itself where no value is to stay outside: its numbers as constants."""
    value = node.value(declared.key)
    if declared.source or declared.type in (P_SURFACE, P_TEXTURE) or isinstance(value, str):
        return unwired(node, declared, taken)
    if declared.type.stop:
        return tuple(constant(*stop) for stop in split_stops(declared, value))
    return truth(value == (1.0,)) if declared.type is P_BOOL else _fitted(constant(*value), taken)


def _uniform(key: tuple[str, str], value: Value) -> Expr:
    return uniform(key, float_of_width(len(value)))


def _fitted(whole: Expr, taken: PortType) -> Expr:
    """A value at the width its input has now, kept from when it carried more or fewer components."""
    width = whole.type.width
    wanted = taken.value.width if taken.value else width
    if width in (1, wanted):
        return whole
    kept: Expr = getattr(whole, "xyzw"[: min(width, wanted)])
    return kept if wanted <= width else combine(kept, *[constant(0.0)] * (wanted - width))
