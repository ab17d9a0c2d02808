"""From what a page says of its eye and light to a scene of the core."""

from dataclasses import replace

from velvet_moth.core.document.graph import Graph
from velvet_moth.core.forms.view import Camera
from velvet_moth.core.lighting.rigs import rig_kind
from velvet_moth.core.render.tracing.scene import Scene, decals_of
from velvet_moth.core.workbench.session import GraphSource, MeshSource, TextureSource, surrounded
from velvet_moth.web.api.schemas import EyeRequest


def scene_of(
    asked: EyeRequest, graph: Graph, variant: str, textures: TextureSource, graphs: GraphSource, meshes: MeshSource
) -> Scene:
    """The form or mesh, eye, light and moment that are asked for, with the graph's decals and lamps as a variant keys them.

    FileRefused for an unknown rig.
    """
    target = (asked.target_x, asked.target_y, asked.target_z)
    camera = Camera(asked.turn, asked.tilt, asked.distance, asked.field, target)
    rig = replace(rig_kind(asked.rig).rig, turn=asked.light_turn, tilt=asked.light_tilt)
    if asked.exposure:
        rig = replace(rig, exposure=asked.exposure)
    decals, spread = decals_of(graph), graph.spread
    emitter = graph.emitter
    stood = Scene(asked.form, camera, rig, asked.time, asked.backdrop, decals, spread=spread, pose=graph.pose)
    if emitter.is_on:
        stood = replace(stood, emitter=emitter, sources=(emitter.own_source,))
    stood = stood.keyed(graph, variant, looks_on=True)
    return surrounded(stood, graph, textures, graphs, meshes, variant)
