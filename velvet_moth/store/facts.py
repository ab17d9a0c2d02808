"""What lists need to know of graphs, out of their documents, so that no document is read to draw a list."""

from collections.abc import Mapping
from typing import Any

from velvet_moth.core.catalogue.registry import CATALOGUE
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.files.graph_json import graph_to_json
from velvet_moth.core.nodes.surfaces import DOCK


def facts_of(graph: Graph) -> Mapping[str, Any]:
    """The columns that follow from a graph, its document among them."""
    own = {str(value) for node in graph.nodes.values() for value in node.values.values() if isinstance(value, str)}
    own |= {str(value) for v in graph.variants for value in v.values.values() if isinstance(value, str)}
    own |= graph.keyed_textures()
    return {
        "title": graph.title,
        "document": graph_to_json(graph),
        "nodes": sum(key != DOCK for key in graph.nodes),
        "variants": [[v.id, v.name] for v in graph.variants],
        "kind": graph.kind,
        "uses": sorted({n.type for n in graph.nodes.values() if n.type not in CATALOGUE}),
        "reads": sorted({*own, *graph.referred("texture")}),
        "backdrop_graphs": sorted(graph.referred("graph")),
        "mesh": graph.mesh,
        "tags": list(graph.tags),
        "trouble": "",
    }
