"""Emitters as the stage draws them."""

import base64
from itertools import islice

import numpy as np

from velvet_moth.core.document.graph import Graph
from velvet_moth.core.emitting.emitter import Emitter, curves_texture
from velvet_moth.core.emitting.per_instance import INSTANCE_TEXTURES
from velvet_moth.core.forms.mesh import Mesh
from velvet_moth.core.render.shading import instance_shaders
from velvet_moth.core.render.tracing.scene import Scene, first_view_of, sun_half
from velvet_moth.web.api.emitter_answers import EmitterState, InstancePass


def _passes(emitter: Emitter) -> list[InstancePass]:
    textures = iter(INSTANCE_TEXTURES)
    return [
        {"vertex": s.vertex, "fragment": s.fragment, "textures": list(islice(textures, s.pictures))}
        for s in instance_shaders(emitter)
    ]


def emitter_state(graph: Graph, brought: Mesh | None = None) -> EmitterState | None:
    """What the stage draws of a graph's emitter; None where it is off."""
    emitter = graph.emitter
    if not emitter.is_on:
        return None
    level = curves_texture(emitter).levels[0]
    pixels = np.ascontiguousarray(level.transpose(1, 2, 0), dtype=np.float32)
    scene = Scene.of(graph.form, graph.rig).judging(graph, brought)
    return {
        "passes": _passes(emitter),
        "slots": emitter.slots,
        "inputs": {name: v.ravel().tolist() for name, v in emitter.inputs.items()},
        "curves": base64.b64encode(pixels.tobytes()).decode(),
        "width": level.shape[2],
        "height": level.shape[1],
        "sources": [emitter.own_source],
        "reach": sun_half(scene),
        "view": first_view_of(scene),
    }
