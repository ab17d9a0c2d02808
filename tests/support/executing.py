"""Whole graphs on the software Vulkan of this machine, against NumPy."""

from collections.abc import Iterator, Sequence
from contextlib import contextmanager

import numpy as np

from tests.support.cases import smooth_texture
from tests.support.gpu import SIZE, grid_inputs, whole
from tests.support.graphs import TEXTURES
from tests.support.native import executed
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.document.stand_ins import stand_ins
from velvet_moth.core.language.dialects import Dialect
from velvet_moth.core.language.expr import PRIMITIVES, Array
from velvet_moth.core.language.inputs import Bindings
from velvet_moth.core.language.interpreters.evaluate import evaluate, plan_of_function
from velvet_moth.core.language.primitives.rules import NumpyRule
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.render.tracing.scene import stage_textures
from velvet_moth.core.render.tracing.staged import uniform_arrays

# What is seen in a picture of 8 bits, with half a step for rounding.
VISIBLE = 1.5 / 255


def _fine(axis: int) -> NumpyRule:
    """The difference in a pixel's own row or column of its four."""

    def rule(arrays: Sequence[Array], _: object) -> Array:
        a = arrays[0]
        if a.ndim < 2 or a.shape[axis] == 1:
            return np.zeros_like(a)
        first = np.arange(a.shape[axis]) // 2 * 2
        return np.asarray(np.take(a, first + 1, axis=axis) - np.take(a, first, axis=axis))

    return rule


@contextmanager
def fine_differences() -> Iterator[None]:
    """NumPy takes differences as the software Vulkan does: languages leave it to the device, where in four pixels they are taken."""
    primitives = [PRIMITIVES[name] for name in ("along_x", "along_y", "between_rows")]
    before = [one.numpy for one in primitives]
    for one, rule in zip(primitives, (_fine(-1), _fine(-2), _fine(-2)), strict=True):
        object.__setattr__(one, "numpy", rule)
    plan_of_function.cache_clear()
    try:
        yield
    finally:
        for one, rule in zip(primitives, before, strict=True):
            object.__setattr__(one, "numpy", rule)
        plan_of_function.cache_clear()


def bindings(graph: Graph) -> Bindings:
    """All that a graph reads at the pixels of a square."""
    textures = {**stage_textures(), **dict.fromkeys(stand_ins(graph), smooth_texture())}
    for place, _ in graph.own_textures():
        textures[place] = TEXTURES.get(str(graph.nodes[place[0]].value(place[1])), smooth_texture())
    return Bindings(grid_inputs(), uniform_arrays(graph.uniform_values()), textures)


def differences(graph: Graph, dialect: Dialect) -> dict[str, np.ndarray]:
    """How far each channel that a graph sets is off NumPy at each pixel, as a share where values are above 1."""
    surface = lower(graph).surface
    keys = [key for key in surface.channels if not surface.is_default(key)]
    outputs, around = [surface[key] for key in keys], bindings(graph)
    if not outputs:
        return {}
    with fine_differences():
        expected = evaluate(outputs, around)
    found = executed(dialect, outputs, around.inputs, around.textures, around.uniforms, SIZE)
    return {
        key: np.abs(one - whole(wanted)) / np.maximum(1.0, np.abs(whole(wanted)))
        for key, one, wanted in zip(keys, found, expected, strict=True)
    }
