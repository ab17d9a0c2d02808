"""Problems of the scene: a surface that makes no use of what it is told, a backdrop that is wanted or lacks a dress."""

from collections.abc import Collection

from velvet_moth.core.catalogue.settings import spoken
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.editing.mends import Mend
from velvet_moth.core.language.expr import Structural
from velvet_moth.core.lighting.channels import CHANNELS
from velvet_moth.core.lighting.kinds import KINDS
from velvet_moth.core.lowering.lowered import LoweredGraph
from velvet_moth.core.nodes.surfaces import BACK, DOCK
from velvet_moth.core.operations import set_field
from velvet_moth.core.scenery.backdrops import BACKDROPS
from velvet_moth.core.workbench.problems.record import Problem


def idle_opacity(lowered: LoweredGraph) -> list[Problem]:
    """An opacity that varies on a surface of a kind that hides everything behind it."""
    graph = lowered.graph
    if not KINDS[graph.kind].hides or lowered.surface["opacity"].operator is Structural.CONSTANT or graph.motif:
        return []
    what = "The surface is solid: its opacity has no effect."
    mends = (
        Mend("Cut it out by its opacity", set_field("kind", "cut_out")),
        Mend("Let it show through", set_field("kind", "see_through")),
    )
    return [
        Problem(
            "idle-opacity", "warning", node=DOCK, input="opacity", what=what, where="Opacity of the dock", mends=mends
        )
    ]


def idle_back(lowered: LoweredGraph) -> list[Problem]:
    """A back that is wired on a surface whose sides are the same."""
    graph = lowered.graph
    if lowered.back is None or KINDS[graph.kind].has_back or graph.motif:
        return []
    what = f"Of a {KINDS[graph.kind].name.lower()} surface both sides are the same: what is wired to its back is not shown."
    mend = Mend("Make it two-sided", set_field("kind", "two_sided"))
    return [Problem("idle-back", "warning", node=DOCK, input=BACK, what=what, where="Back of the dock", mends=(mend,))]


def idle_channels(lowered: LoweredGraph) -> list[Problem]:
    """Channels that are wired or set, of which a surface of this kind makes no use."""
    graph, kind = lowered.graph, KINDS[lowered.graph.kind]
    if graph.motif:
        return []
    found = []
    for key in (key for key in CHANNELS if key in kind.idle and _is_used(lowered, key)):
        name = CHANNELS[key].name
        what = f"{name} has no effect on a surface of the kind {kind.name}."
        using = (other for other in KINDS.values() if key not in other.idle)
        mends = tuple(Mend(f"Make it {other.name.lower()}", set_field("kind", other.key)) for other in using)
        where = f"{name} of the dock"
        found.append(Problem(f"idle-{key}", "warning", node=DOCK, input=key, what=what, where=where, mends=mends[:3]))
    return found


def _is_used(lowered: LoweredGraph, key: str) -> bool:
    if CHANNELS[key].idle_at_default:
        return not lowered.surface.is_default(key)
    return key in lowered.graph.nodes[DOCK].wires


def decal_on_nothing(lowered: LoweredGraph) -> list[Problem]:
    """A decal without anything behind it that it could fall on."""
    graph = lowered.graph
    if not KINDS[graph.kind].is_projected or graph.motif or graph.backdrop:
        return []
    what = "A decal is painted onto what lies behind, and there is no backdrop: nothing is seen."
    mends = (
        Mend("Put the wall and floor behind it", set_field("backdrop", "wall_and_floor")),
        Mend("Make it solid", set_field("kind", "solid")),
    )
    return [
        Problem("decal-on-nothing", "warning", node=DOCK, input="opacity", what=what, where="The stage", mends=mends)
    ]


def missing_mesh(graph: Graph) -> list[Problem]:
    """A graph whose mesh is gone."""
    what = "The mesh that this graph stands on is gone; a form stands in."
    mend = Mend("Leave it on the form", set_field("mesh", ""))
    return [Problem("missing-mesh", "warning", node=DOCK, input="", what=what, where="The stage", mends=(mend,))]


def missing_graphs(graph: Graph, gone: Collection[str]) -> list[Problem]:
    """Parts of the backdrop whose graphs are ``gone``."""
    found = []
    for material in graph.backdrop_materials:
        if material.graph in gone:
            key, _, part = material.part.partition(".")
            what = f"The graph chosen for {spoken(part)} of {BACKDROPS[key].name} is gone; its own surface stands in."
            left = tuple(other for other in graph.backdrop_materials if other is not material)
            mend = Mend("Leave it as it is by itself", set_field("backdrop_materials", left))
            found.append(
                Problem("missing-graph", "warning", node=DOCK, input="", what=what, where="The stage", mends=(mend,))
            )
    return found
