"""A graph as a GLB: its form with a baked material for each of its variants, and how far that differs."""

from collections.abc import Callable
from dataclasses import dataclass, replace

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.emitting.emitter import NO_EMITTER
from velvet_moth.core.exporting.baked.difference import Difference, difference
from velvet_moth.core.exporting.baked.layout import layout_of, spots_of
from velvet_moth.core.exporting.baked.material import Pictures, material_of
from velvet_moth.core.exporting.baked.surface import bake_surface, baked_form
from velvet_moth.core.exporting.exported import lowered_for_export
from velvet_moth.core.language.expr import inputs_of
from velvet_moth.core.language.inputs import SURFACE_INPUTS
from velvet_moth.core.lighting.kinds import KINDS
from velvet_moth.core.lighting.rigs import lamps_of
from velvet_moth.core.lowering.lowered import LoweredGraph
from velvet_moth.core.meshes.formats.gltf_writer import write_glb
from velvet_moth.core.meshes.intake import as_source
from velvet_moth.core.meshes.source import Materials
from velvet_moth.core.render.shading import shown_look
from velvet_moth.core.render.tracing.scene import Scene, first_moment
from velvet_moth.core.workbench.session import MeshSource, TextureSource, no_meshes, textures_of

SIZES = (128, 256, 512, 1024, 2048)
MOST_PADDING = 64


@dataclass(frozen=True)
class BakeChoices:
    """Pixels a side of the textures, pixels between islands, the moment (s; None for the first with something to see), the variant that is

    the first material, whether the other variants go along, and pixels a side of the pictures that are compared.
    """

    size: int = 1024
    padding: int = 8
    moment: float | None = None
    variant: str = ""
    has_variants: bool = True
    compared: int = 192


@dataclass(frozen=True, eq=False)
class BakedFile:
    """A GLB, what it cannot say as sentences, how many pictures it holds, and how far it differs."""

    data: bytes
    words: tuple[str, ...]
    pictures: int
    difference: Difference


def checked_bake(graph: Graph, choices: BakeChoices) -> BakeChoices:
    """The choices; OperationRefused where they cannot be, or where the graph has no form of its own to bake on."""
    if KINDS[graph.kind].is_projected:
        what = "A decal has no form of its own: it is painted onto what is behind."
        raise OperationRefused(what, graph.title, "Export its text, or bake the graph of the surface it lies on.")
    if choices.size not in SIZES:
        known = ", ".join(map(str, SIZES))
        raise OperationRefused("There is no such size of textures.", "size", f"Choose one of {known}.")
    if not 0 <= choices.padding <= MOST_PADDING:
        raise OperationRefused(f"0 to {MOST_PADDING} pixels lie between islands.", "padding", "Type another number.")
    if choices.variant and choices.variant not in {v.id for v in graph.variants}:
        raise OperationRefused("The graph has no such variant.", "variant", "Choose one of its variants.")
    return choices


def _part_of(hears: Callable[[float], None], share: float, number: int) -> Callable[[float], None]:
    """Hears how much is done of one of several pieces of work, each such a share of the whole."""
    return lambda done: hears(share * (number + done))


def baked_glb(
    graph: Graph,
    choices: BakeChoices,
    textures: TextureSource,
    meshes: MeshSource = no_meshes,
    hears: Callable[[float], None] = lambda share: None,
) -> BakedFile:
    """A graph baked over the UVs of its form; ``hears`` is given the share that is done. As ``checked_bake`` where it cannot be."""
    checked_bake(graph, choices)
    words = dict.fromkeys(_of_the_graph(graph))
    graph = replace(graph, emitter=NO_EMITTER, backdrop="")
    moment = first_moment(graph) if choices.moment is None else choices.moment
    brought = meshes(graph.mesh) if graph.mesh else None
    scene = Scene.of_graph(graph, brought, choices.variant, moment)
    variants = [choices.variant]
    if choices.has_variants:
        variants += [key for key in ("", *(v.id for v in graph.variants)) if key != choices.variant]
    lowered_by = {variant: lowered_for_export(graph, variant) for variant in variants}
    layout = layout_of(scene.mesh, choices.padding, choices.size, all(map(_goes_by_uvs, lowered_by.values())))
    spots = spots_of(layout, choices.size)
    names = {"": "Defaults", **{v.id: v.name for v in graph.variants}}
    share = 0.85 / len(variants)
    pictures, made = Pictures(), []
    form = None
    for at, variant in enumerate(variants):
        lowered, values = lowered_by[variant], graph.uniform_values(variant, moment)
        bound, _ = textures_of(graph, values, textures)
        own = scene.keyed(graph, variant, looks_on=True)
        if form is None:
            form = baked_form(layout, lowered.surface, own, values, bound)
        baked = bake_surface(lowered, form, spots, own, values, bound, _part_of(hears, share, at))
        material = material_of(names[variant], graph.kind, baked, pictures)
        made.append(material.material)
        words |= dict.fromkeys((*baked.words, *material.words))
    assert form is not None
    numbered = tuple((names[variant], number) for number, variant in enumerate(variants)) if len(variants) > 1 else ()
    looks = Materials(tuple(made), tuple(pictures.files), numbered, has_levels=True)
    values = graph.uniform_values(choices.variant, moment)
    bound, _ = textures_of(graph, values, textures)
    look = shown_look(lowered_by[choices.variant])
    differs = difference(
        look, values, bound, scene, form.sent, looks, graph.kind, lamps_of(graph.rig), choices.compared
    )
    hears(0.97)
    data = write_glb(replace(as_source(form.sent), looks=looks))
    words |= {} if layout.is_own else {_UNWRAPPED: None}
    return BakedFile(data, tuple(words), len(pictures.files), differs)


def _goes_by_uvs(lowered: LoweredGraph) -> bool:
    """Whether places with the same UVs have the same surface."""
    channels = lowered.surface.channels
    read = inputs_of(channels.values())
    at_places = {name for name in read if not SURFACE_INPUTS[name].is_per_draw}
    return at_places <= {"uv"} and lowered.surface.is_default("offset")


_UNWRAPPED = "The form's UVs overlap or reach beyond 0 to 1, so it is unwrapped and has other ones in the file."


def _of_the_graph(graph: Graph) -> list[str]:
    found = []
    if graph.emitter.is_on:
        found.append("The emitter is not carried: the form stands there once.")
    if KINDS[graph.kind].has_back:
        found.append("Its back shows the front's material: the standard has one for both sides.")
    if graph.backdrop:
        found.append("What is behind is not carried.")
    return found
