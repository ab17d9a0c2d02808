"""What the workbench shows of a graph: shader, values, problems, swatches; computes only what an edit changed."""

from collections.abc import Callable, Hashable
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.document.graph import Graph, Source
from velvet_moth.core.document.scene import BackdropMaterial
from velvet_moth.core.document.stand_ins import stand_ins
from velvet_moth.core.document.values import Value
from velvet_moth.core.forms import form
from velvet_moth.core.forms.mesh import Mesh
from velvet_moth.core.language.texture import Pixels, Texture
from velvet_moth.core.lighting.kinds import KINDS
from velvet_moth.core.lighting.shown import Appearance
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.lowering.lowered import LoweredGraph
from velvet_moth.core.pictures.library import missing_texture
from velvet_moth.core.render.shading import Drawing, drawing, shown_look
from velvet_moth.core.render.swatches import ON_DOME, Swatch, SwatchPass
from velvet_moth.core.render.tracing.reference import displayed, render
from velvet_moth.core.render.tracing.scene import PartSurface, Scene, Spurt, first_moment
from velvet_moth.core.scenery.backdrops import light_behind
from velvet_moth.core.workbench.carried import channels_not_carried, names_on_ports
from velvet_moth.core.workbench.problems import (
    Inspections,
    Problem,
    RangeMemory,
    missing_graphs,
    missing_mesh,
    seen_problems,
)

# Gives a texture by its id, or None where there is none.
TextureSource = Callable[[str], Texture | None]
# Gives a graph of the project by its key, with the source of its textures, or None where there is none.
GraphSource = Callable[[str], tuple[Graph, TextureSource] | None]

# Gives a mesh that was brought in by its id, or None where there is none.
MeshSource = Callable[[str], Mesh | None]


def no_graphs(key: str) -> None:
    """The source of a graph that stands by itself."""
    return None


def no_meshes(key: str) -> None:
    """The source of a graph that stands on a form."""
    return None


@dataclass(frozen=True)
class Shown:
    """One state of a graph as the workbench shows it. ``changed`` are the swatches that differ from before, ``names`` what

    outputs mean on the mesh it stands on.
    """

    graph: Graph
    lowered: LoweredGraph
    values: dict[tuple[str, str], Value]
    drawing: Drawing
    problems: list[Problem]
    changed: dict[Source, Swatch]
    swatches: dict[Source, Swatch]
    names: dict[Source, str]


def textures_of(
    graph: Graph, values: dict[tuple[str, str], Value], source: TextureSource
) -> tuple[dict[Hashable, Texture], dict[str, Texture]]:
    """Textures by sampler key, stand-ins where missing, and those that were found by id."""
    bound: dict[Hashable, Texture] = {}
    found: dict[str, Texture] = {}
    for key, stand_in in stand_ins(graph).items():
        chosen = str(values[key])
        loaded = source(chosen) if chosen else None
        if loaded is not None:
            found[chosen] = loaded
        bound[key] = loaded or missing_texture(stand_in)
    return bound, found


@dataclass
class Session:
    """The memory between two edits of one graph."""

    swatch_pass: SwatchPass = field(default_factory=SwatchPass)
    samples: SwatchPass = field(default_factory=SwatchPass)
    ranges: RangeMemory = field(default_factory=RangeMemory)
    lowered: LoweredGraph | None = None

    def show(
        self,
        graph: Graph,
        variant: str,
        shown: Source | None,
        textures: TextureSource,
        on: str = ON_DOME,
        inspections: Inspections = lambda key: None,
        graphs: GraphSource = no_graphs,
        meshes: MeshSource = no_meshes,
    ) -> Shown:
        """Everything the page needs after an edit, for the values of ``variant`` ("" for the defaults).

        ``on`` is the ground of the swatches; ``inspections`` give what is found out about textures, told where they
        are read the wrong way; ``graphs`` those that parts of the backdrop show, ``meshes`` the one it stands on.
        """
        lowered = self.lowered = lower(graph, variant, before=self.lowered)
        values = graph.uniform_values(variant)
        drawn = drawing(lowered, shown)
        bound, known = textures_of(graph, values, textures)
        brought = meshes(graph.mesh) if graph.mesh else None
        changed = self.swatch_pass.update(lowered, values, bound, on, None if on == ON_DOME else brought)
        # What is wrong with a graph must not hang on what its swatches are drawn on: the dome judges.
        judged = self.swatch_pass if on == ON_DOME else self.samples
        if judged is self.samples:
            judged.update(lowered, values, bound)
        problems = seen_problems(lowered, known, variant, judged, self.ranges, inspections)
        problems += missing_mesh(graph) if graph.mesh and brought is None else []
        carried = brought.carried if brought is not None else None
        problems += channels_not_carried(graph, carried)
        problems += missing_graphs(graph, {key for key in graph.referred("graph") if graphs(key) is None})
        return Shown(
            graph,
            lowered,
            values=values,
            drawing=drawn,
            problems=problems,
            changed=changed,
            swatches=self.swatch_pass.swatches,
            names=names_on_ports(graph, carried),
        )


def surrounded(
    scene: Scene,
    graph: Graph,
    textures: TextureSource,
    graphs: GraphSource = no_graphs,
    meshes: MeshSource = no_meshes,
    variant: str = "",
) -> Scene:
    """The scene with the mesh a graph stands on, the picture it has around it, its backdrop in the surfaces it names, and what spurts.

    The form, the rig's own surroundings and the backdrop's own surface stand in where there is none, or it is gone.
    """
    brought = meshes(graph.mesh) if graph.mesh else None
    around = textures(graph.environment) if graph.environment else None
    lamps = len(scene.rig.lamps)
    shown = (
        _part_surface(material, graphs, lamps)
        for material in graph.backdrop_materials
        if material.part.startswith(f"{scene.backdrop}.")
    )
    parts = tuple(one for one in shown if one)
    spurt = spurt_of(graph, variant, graphs) if KINDS[graph.kind].is_projected else None
    return replace(scene, brought=brought, environment_texture=around, part_surfaces=parts, spurt=spurt)


def spurting_graph(other: Graph, graph: Graph, variant: str) -> tuple[Graph, str]:
    """A graph as it spurts where another one is thrown: in that one's light, in its variant of the same id where it has one."""
    return replace(other, rig=graph.rig), variant if other.variant(variant) else ""


def spurt_of(graph: Graph, variant: str, graphs: GraphSource) -> Spurt | None:
    """What spurts where a graph's decals are thrown; None where it names nothing, or nothing that emits."""
    found = graphs(graph.spurt) if graph.spurt else None
    if found is None or not found[0].emitter.is_on or KINDS[found[0].kind].is_projected:
        return None
    other, of = spurting_graph(found[0], graph, variant)
    values = other.uniform_values(of)
    bound, _ = textures_of(other, values, found[1])
    return Spurt(shown_look(lower(other, of)), form(other.form), other.emitter, values, bound)


def _part_surface(material: BackdropMaterial, graphs: GraphSource, lamps: int) -> PartSurface | None:
    found = graphs(material.graph)
    if found is None:
        return None
    graph, source = found
    values = graph.uniform_values(material.variant)
    bound, _ = textures_of(graph, values, source)
    shown = lower(graph, material.variant).surface
    bare, under_decals = light_behind(shown, lamps), light_behind(shown, lamps, has_decals=True)
    return PartSurface(material.part, bare, under_decals, tuple(values.items()), tuple(bound.items()))


def picture(
    graph: Graph,
    size: tuple[int, int],
    textures: TextureSource,
    variant: str = "",
    scene: Scene | None = None,
    graphs: GraphSource = no_graphs,
    meshes: MeshSource = no_meshes,
) -> Pixels:
    """The reference picture of a graph's surface, (rows, columns, 4), row 0 at the bottom."""
    return render(*_pictured(graph, size, textures, variant, scene, graphs, meshes))


def picture_light(
    graph: Graph,
    size: tuple[int, int],
    textures: TextureSource,
    variant: str = "",
    scene: Scene | None = None,
    graphs: GraphSource = no_graphs,
    meshes: MeshSource = no_meshes,
) -> NDArray[np.float32]:
    """The reference picture before it is rounded: linear light as it is shown, with alpha, (rows, columns, 4), row 0 at the bottom.

    Encoded as sRGB (IEC 61966-2-1) and rounded to 8 bits it is ``picture``.
    """
    shown, is_there = displayed(*_pictured(graph, size, textures, variant, scene, graphs, meshes))
    light = np.where(shown <= 0.04045, shown / 12.92, ((shown + 0.055) / 1.055) ** 2.4)
    return np.concatenate((light, is_there[None]), dtype=np.float32).transpose(1, 2, 0)


def _pictured(
    graph: Graph,
    size: tuple[int, int],
    textures: TextureSource,
    variant: str,
    scene: Scene | None,
    graphs: GraphSource,
    meshes: MeshSource,
) -> tuple[Appearance, dict[tuple[str, str], Value], dict[Hashable, Texture], tuple[int, int], Scene]:
    """What the reference picture of a graph is made of."""
    brought = meshes(graph.mesh) if graph.mesh else None
    stood = scene or Scene.of_graph(graph, brought, variant, first_moment(graph))
    values = graph.uniform_values(variant, stood.time)
    bound, _ = textures_of(graph, values, textures)
    stood = surrounded(stood, graph, textures, graphs, meshes, variant)
    return shown_look(lower(graph, variant)), values, bound, size, stood
