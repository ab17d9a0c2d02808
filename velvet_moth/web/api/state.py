"""The state of a graph as the workbench takes it."""

import hashlib
import operator
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from typing import Any, cast

from flask import current_app

from velvet_moth.core.document.graph import Graph, Source
from velvet_moth.core.document.stand_ins import stand_ins
from velvet_moth.core.document.tracks.pieces import HUE_PARTS, pieces_for
from velvet_moth.core.document.values import Value
from velvet_moth.core.editing.mends import Mend
from velvet_moth.core.emitting.spurting import sources_of
from velvet_moth.core.files.graph_json import graph_to_json, node_to_json
from velvet_moth.core.forms import is_form
from velvet_moth.core.language.expr import Expr
from velvet_moth.core.language.interpreters.cost import Cost
from velvet_moth.core.language.interpreters.glsl import Shader
from velvet_moth.core.lighting.kinds import KINDS
from velvet_moth.core.pictures.reading import ROLES
from velvet_moth.core.render.looks import look_at
from velvet_moth.core.render.shading import bound_textures, values_array
from velvet_moth.core.render.swatches import ON_DOME, Swatch
from velvet_moth.core.render.tracing.scene import decals_of, first_moment
from velvet_moth.core.workbench.problems import Problem
from velvet_moth.core.workbench.session import Shown
from velvet_moth.store.codec import operation_to_json
from velvet_moth.store.graphs import StoredGraph
from velvet_moth.store.textures import TextureState
from velvet_moth.web.api import answers
from velvet_moth.web.api.answers import (
    Gone,
    GraphDocument,
    GraphState,
    ShaderState,
    ShaderWithValues,
    TextureRead,
    TrackState,
)
from velvet_moth.web.api.catalogue import described
from velvet_moth.web.api.emitter_answers import SpurtRead
from velvet_moth.web.api.emitter_state import emitter_state
from velvet_moth.web.api.mesh_read import mesh_read
from velvet_moth.web.api.schemas import ViewRequest
from velvet_moth.web.sessions import GraphSessions


def sessions() -> GraphSessions:
    found: GraphSessions = current_app.extensions["graph_sessions"]
    return found


def source_from(text: str) -> Source | None:
    return Source(*text.split(".")) if text else None


@dataclass(frozen=True)
class Table:
    """A part of the state that is kept by key: what it holds, how an entry is written, and which is still the same."""

    entries: Callable[[Shown], Mapping[Any, Any]]
    written: Callable[[Any], Any]
    is_same: Callable[[Any, Any], bool] = operator.is_

    def fresh(self, shown: Shown, before: Shown | None) -> dict[str, Any]:
        """The entries that are not those of before."""
        old = self.entries(before) if before else {}
        return {
            _text(k): self.written(v)
            for k, v in self.entries(shown).items()
            if old.get(k) is not v and not (k in old and self.is_same(old[k], v))
        }

    def gone(self, shown: Shown, before: Shown) -> list[str]:
        return [_text(key) for key in self.entries(before).keys() - self.entries(shown).keys()]


def _text(key: str | Source | tuple[str, str]) -> str:
    if isinstance(key, str):
        return key
    return f"{key.node}.{key.output}" if isinstance(key, Source) else ".".join(key)


def shader_state(
    shader: Shader,
    graph: Graph,
    values: Mapping[tuple[str, str], Value],
    known: str,
    textures: Mapping[str, TextureState],
    adds: bool = False,
) -> ShaderState:
    """A shader with where its values and textures go; its text only where it is not the ``known`` one.

    ``textures`` by id tell the revision of each: a changed one is fetched anew.
    """
    read, missing = bound_textures(graph, shader, values), stand_ins(graph)
    digest = hashlib.sha256((shader.vertex + shader.fragment).encode()).hexdigest()[:24]
    out: ShaderState = {
        "hash": digest,
        "casts": KINDS[graph.kind].casts,
        "adds": adds,
        "projected": KINDS[graph.kind].is_projected,
        "buffered": shader.pictures > 1,
        "floats": shader.floats,
        "slots": [(*s.key, s.offset, s.width) for s in shader.slots if isinstance(s.key, tuple)],
        "samplers": [
            {
                "name": s.name,
                "texture": read[s.name],
                "missing": missing.get(s.key, "") if isinstance(s.key, tuple) else "",
                "revision": textures[read[s.name]].revision if read[s.name] in textures else 0,
                "key": list(s.key) if isinstance(s.key, tuple) else [],
                "wrap": list(s.wrap),
                "filter": s.filter,
            }
            for s in shader.samplers
        ],
    }
    if digest != known:
        out["fragment"], out["vertex"] = shader.fragment, shader.vertex
    return out


def shader_by_itself(
    shader: Shader, graph: Graph, values: Mapping[tuple[str, str], Value], kept: StoredGraph
) -> ShaderWithValues:
    """A shader with the values it is drawn with, for who does not follow the graph."""
    return {"shader": shader_state(shader, graph, values, "", kept.textures), "values": values_array(shader, values)}


def _texture(texture: TextureState) -> TextureRead:
    return {
        "name": texture.name,
        "revision": texture.revision,
        "role": texture.reading.role,
        "green": texture.reading.green,
        "signed": ROLES[texture.reading.role].is_signed,
        "width": texture.width,
        "height": texture.height,
    }


def cost_state(cost: Cost) -> answers.Cost:
    return {"operations": cost.operations, "reads": cost.reads, "classes": cost.by_class}


def _swatch(swatch: Swatch) -> answers.Swatch:
    return {
        "png": swatch.png,
        "mean": list(swatch.mean),
        "value": list(swatch.value),
        "low": swatch.low,
        "high": swatch.high,
    }


def _mend(mend: Mend) -> answers.Mend:
    if mend.operation is not None:
        return {"words": mend.words, "operation": operation_to_json(mend.operation)}
    made: answers.Mend = {"words": mend.words, "texture": mend.texture}
    if mend.reading is not None:
        made["reading"] = mend.reading
    return made


def _by_node(problems: list[Problem]) -> dict[str, list[Problem]]:
    found: dict[str, list[Problem]] = {}
    for problem in problems:
        found.setdefault(problem.node, []).append(problem)
    return found


def _problems(problems: list[Problem]) -> list[answers.Problem]:
    return [
        {
            "code": problem.code,
            "severity": problem.severity,
            "node": problem.node,
            "input": problem.input,
            "what": problem.what,
            "where": problem.where,
            "mends": [_mend(mend) for mend in problem.mends],
        }
        for problem in problems
    ]


# By the name that the page knows them by.
TABLES: Mapping[str, Table] = {
    "nodes": Table(lambda s: s.graph.nodes, node_to_json),
    "types": Table(lambda s: s.lowered.types, lambda type_: type_.name),
    "input_types": Table(lambda s: s.lowered.input_types, lambda type_: type_.name),
    "rates": Table(
        lambda s: {k: e for k, e in s.lowered.outputs.items() if isinstance(e, Expr)}, lambda made: int(made.rate)
    ),
    "kinds": Table(lambda s: {n.id: n.kind for n in s.graph.nodes.values() if n.outline is not None}, described),
    "problems": Table(lambda s: _by_node(s.problems), _problems, operator.eq),
    "swatches": Table(lambda s: s.swatches, _swatch),
    "names": Table(lambda s: s.names, str),
}


def state(kept: StoredGraph, view: ViewRequest, made: list[str] | int | None = None) -> GraphState:
    """Everything the page shows, of each table only what differs from the state the page has, where that is known.

    ``made`` is what the edit before it brought.
    """
    variant = view.variant if kept.graph.variant(view.variant) else ""
    shown_source = source_from(view.shown)
    if shown_source is not None and not _exists(kept, shown_source):
        shown_source = None
    on = _ground(view, kept.graph)
    mark = f"{kept.stamp} {variant} {on}"
    shown, before = sessions().show(kept, variant, shown_source, on, mark, view.seen)
    tables = {name: table.fresh(shown, before) for name, table in TABLES.items()}
    nodes, behind = tables.pop("nodes"), kept.backdrop_graphs
    document = {**graph_to_json(kept.graph, with_nodes=False), "nodes": [nodes[key] for key in sorted(nodes)]}
    found: GraphState = {
        "types": tables["types"],
        "input_types": tables["input_types"],
        "rates": tables["rates"],
        "kinds": tables["kinds"],
        "problems": tables["problems"],
        "swatches": tables["swatches"],
        "names": tables["names"],
        "seen": mark,
        "textures": {key: _texture(texture) for key, texture in kept.textures.items()},
        "gone": _gone(shown, before) if before else None,
        "id": kept.id,
        "revision": kept.revision,
        "variant": variant,
        "shown": f"{shown_source.node}.{shown_source.output}" if shown_source else "",
        "undo": kept.undo.words,
        "redo": kept.redo.words,
        "undo_edit": kept.undo.number,
        "redo_edit": kept.redo.number,
        "changed": kept.changed.isoformat(),
        "document": cast(GraphDocument, document),
        "inherited": {v.id: kept.graph.set_by(v.base) for v in kept.graph.variants if v.base},
        "tracks": list(_tracks(kept.graph)),
        "track_owners": _track_owners(kept.graph),
        "shader": shader_state(
            shown.drawing.shader, shown.lowered.graph, shown.values, view.shader, kept.textures, _adds(shown_source)
        ),
        "part_surfaces": [
            {
                "part": material.part,
                "graph": material.graph,
                "variant": material.variant,
                "title": behind[material.graph].graph.title,
                "stamp": behind[material.graph].stamp,
            }
            for material in kept.graph.backdrop_materials
            if material.graph in behind
        ],
        "mesh": mesh_read(kept.mesh) if kept.mesh else None,
        "decals": list(decals_of(kept.graph)),
        "spread_inputs": {name: v.ravel().tolist() for name, v in kept.graph.spread.inputs.items()},
        "emitter": emitter_state(kept.graph),
        "sources": list(sources_of(decals_of(kept.graph))),
        "spurt": _spurt(kept),
        "first_moment": first_moment(kept.graph),
        "cost": cost_state(shown.drawing.cost),
        "motif": kept.motif,
        "stamp": kept.stamp,
    }
    if made is not None:
        found["made"] = made
    return found


def _spurt(kept: StoredGraph) -> SpurtRead | None:
    """The graph that spurts; None where it names none, or one that emits nothing."""
    other = kept.backdrop_graphs.get(kept.graph.spurt)
    if other is None or not other.graph.emitter.is_on:
        return None
    return {"graph": kept.graph.spurt, "title": other.graph.title, "stamp": other.stamp}


def _gone(shown: Shown, before: Shown) -> Gone:
    gone: Any = {name: table.gone(shown, before) for name, table in TABLES.items()}
    found: Gone = gone
    return found


def _tracks(graph: Graph) -> Iterator[TrackState]:
    for variant, target, track in graph.every_track():
        takes = graph.takes(target)
        if takes is not None:
            yield {
                "variant": variant,
                "target": target,
                "name": takes.name,
                "parts": list(HUE_PARTS if track.path == "hue" else takes.parts),
                "in_steps": takes.in_steps,
                "is_colour": takes.is_colour,
                "pieces": pieces_for(track, takes),
            }


def _track_owners(graph: Graph) -> dict[str, dict[str, str]]:
    own = {"": graph.track_owners()}
    others = ((v.id, graph.track_owners(v.id)) for v in graph.variants)
    return own | {key: owners for key, owners in others if owners != own[""]}


def _adds(source: Source | None) -> bool:
    way = look_at(source) if source else None
    return way is not None and way.adds


def _ground(view: ViewRequest, graph: Graph) -> str:
    if view.swatch != "form":
        return view.swatch
    return graph.form if is_form(graph.form) else ON_DOME


def _exists(kept: StoredGraph, source: Source) -> bool:
    if look_at(source) is not None:
        return True
    node = kept.graph.nodes.get(source.node)
    return node is not None and (
        source.output in node.kind.outputs or (node.kind.hidden and source.output in node.kind.inputs)
    )
