"""Motifs: the ports a graph gives as one node, and keeping its uses up to date."""

from collections.abc import Collection, Mapping
from dataclasses import replace
from functools import lru_cache

from velvet_moth.core.document.graph import Graph, Motif, Source
from velvet_moth.core.document.outline import Outline, OutlinePort
from velvet_moth.core.document.tracks.track import Track
from velvet_moth.core.document.values import fits
from velvet_moth.core.lowering.lower import lower, motif_inputs, motif_outputs

# So many motifs may stand one in another.
MOST_NESTED = 16


@lru_cache(maxsize=1024)
def outline_of(motif: Motif) -> Outline:
    """The ports of a motif, in the order their cards lie from top to bottom."""
    lowered = lower(motif.graph)
    inputs = []
    for node in motif_inputs(motif.graph):
        declared = next(iter(node.kind.outputs.values()))
        value = next(iter(node.kind.inputs.values()), None)
        default = node.value(value.key) if value and value.type.name != "texture" else ()
        low, high = (value.low, value.high) if value else (0.0, 1.0)
        held = () if isinstance(default, str) else default
        inputs.append(OutlinePort(node.id, node.name, declared.type.name, held, low, high))
    outputs = [
        OutlinePort(n.id, n.name, lowered.types[Source(n.id, next(iter(n.kind.outputs)))].name)
        for n in motif_outputs(motif.graph)
    ]
    count = sum(n.kind.role == "" for n in motif.graph.nodes.values()) - 1
    sentence = f"A motif of {count} node{'' if count == 1 else 's'}; edited once, it changes wherever it is used."
    return Outline(motif.graph.title, tuple(inputs), tuple(outputs), sentence)


def refreshed(graph: Graph, motifs: Mapping[str, Motif]) -> Graph:
    """The graph with its uses of motifs brought up to date; a port that is gone stays while it is wired."""
    nodes = dict(graph.nodes)
    used = [n for n in nodes.values() if n.outline is not None and n.type in motifs]
    read = graph.outputs_read() if used else {}
    opened = {(p.node, p.input) for p in graph.parameters} if used else set()
    for node in used:
        assert node.outline is not None
        fresh = outline_of(motifs[node.type])
        has = {p.key for p in (*fresh.inputs, *fresh.outputs)}
        held = {p.key for p in node.outline.inputs if p.key in node.wires or (node.id, p.key) in opened}
        gone_in = tuple(p for p in node.outline.inputs if p.key in held and p.key not in has)
        gone_out = tuple(p for p in node.outline.outputs if p.key in read.get(node.id, ()) and p.key not in has)
        whole = replace(fresh, inputs=(*fresh.inputs, *gone_in), outputs=(*fresh.outputs, *gone_out))
        if whole != node.outline:
            made = replace(node, outline=whole)
            values = {k: v for k, v in node.values.items() if k in made.kind.inputs and fits(made.kind.inputs[k], v)}
            nodes[node.id] = replace(made, values=values)
    changed = {n.id for n in used if nodes[n.id] is not n}
    made_graph = replace(graph, nodes=nodes, motifs=motifs)
    return _with_fitting_parameters(made_graph) if changed and opened else made_graph


def _with_fitting_parameters(graph: Graph) -> Graph:
    """Without parameters, and values of variants, that an input no longer takes since its motif gave it another type."""
    inputs = {p.id: graph.nodes[p.node].kind.inputs[p.input] for p in graph.parameters}
    parameters = tuple(p for p in graph.parameters if fits(inputs[p.id], graph.nodes[p.node].value(p.input)))
    kept = {p.id for p in parameters}

    def fitting(tracks: Mapping[str, Track]) -> Mapping[str, Track]:
        return {
            target: track
            for target, track in tracks.items()
            if target not in inputs or (target in kept and all(fits(inputs[target], key.value) for key in track.keys))
        }

    variants = tuple(
        replace(
            v,
            values={k: x for k, x in v.values.items() if k in kept and fits(inputs[k], x)},
            tracks=fitting(v.tracks),
        )
        for v in graph.variants
    )
    return replace(graph, parameters=parameters, variants=variants, tracks=fitting(graph.tracks))


def uses(graph: Graph, type_: str) -> list[str]:
    """The nodes that are uses of a motif."""
    return [n.id for n in graph.nodes.values() if n.type == type_]


def reaches(motifs: Mapping[str, Motif], start: str, goal: str) -> bool:
    """Whether the motif ``start`` uses ``goal`` somewhere inside, or is it."""
    seen, todo = {start}, [start]
    while todo:
        current = todo.pop()
        if current == goal:
            return True
        fresh = motifs_in(motifs[current].graph, motifs) - seen if current in motifs else set()
        seen |= fresh
        todo.extend(fresh)
    return False


def motifs_in(graph: Graph, motifs: Collection[str]) -> set[str]:
    """The motifs that a graph uses itself."""
    return {n.type for n in graph.nodes.values() if n.outline is not None and n.type in motifs}


def _longest(start: str, nearer: Mapping[str, Collection[str]]) -> int:
    """The longest way from ``start`` along ``nearer``, in steps; what would close a circle is left out."""
    lengths: dict[str, int] = {}

    def measure(key: str, above: frozenset[str]) -> int:
        if key not in lengths:
            # Beyond the most that is allowed it no longer matters by how much.
            steps = (
                measure(k, above | {key}) for k in nearer.get(key, ()) if k not in above and len(above) <= MOST_NESTED
            )
            lengths[key] = 1 + max(steps, default=-1)
        return lengths[key]

    return measure(start, frozenset())


def depth_of(motifs: Mapping[str, Motif], type_: str) -> int:
    """How many motifs stand one in another inside this one."""
    return _longest(type_, {key: motifs_in(motif.graph, motifs) for key, motif in motifs.items()})


def height_of(motifs: Mapping[str, Motif], type_: str) -> int:
    """In how many motifs, one in another, this one stands."""
    users: dict[str, set[str]] = {}
    for key, motif in motifs.items():
        for used in motifs_in(motif.graph, motifs):
            users.setdefault(used, set()).add(key)
    return _longest(type_, users)


def resolved(graphs: Mapping[str, Graph]) -> dict[str, Motif]:
    """The motifs of a project from their graphs as they were kept, by type; each knows those inside it."""
    done: dict[str, Motif] = {}

    def resolve(type_: str, above: frozenset[str]) -> None:
        graph = graphs[type_]
        for inner in sorted(motifs_in(graph, graphs) - set(done)):
            # Files and edits bring no circle and are not nested deeper; what was kept before is cut and shows as unknown.
            if inner not in above and len(above) <= MOST_NESTED:
                resolve(inner, above | {inner})
        done[type_] = Motif(type_, replace(refreshed(graph, dict(done)), motif=type_))

    for type_ in sorted(graphs):
        if type_ not in done:
            resolve(type_, frozenset({type_}))
    return done
