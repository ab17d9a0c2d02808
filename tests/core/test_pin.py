"""The pin: at one pixel it tells what the whole picture has there, for every graph of the demo."""

import unittest
from collections.abc import Callable

import numpy as np

from tests.support.graphs import TEXTURES, demo_graphs
from velvet_moth.core.base.plain_names import identifier
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.language.expr import Expr
from velvet_moth.core.language.interpreters.cost import cost
from velvet_moth.core.language.types import FLOATS
from velvet_moth.core.lighting.shown import appearance
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.render.tracing.pin import pinned
from velvet_moth.core.render.tracing.reference import points_of, render
from velvet_moth.core.render.tracing.scene import Scene
from velvet_moth.core.workbench.session import textures_of

# So fine that most quads of pixels lie in one triangle.
SIZE = (320, 256)


class Pins(unittest.TestCase):
    def check(self, graph: Graph) -> None:
        lowered, values = lower(graph), graph.uniform_values()
        textures, _ = textures_of(graph, values, TEXTURES.get)
        shown = appearance(lowered.surface, None, graph.kind)
        # A backdrop would hide some of a form; a decal is nowhere without one.
        scene = Scene.of(graph.form, graph.rig) if not shown.is_projected else Scene.of_graph(graph)
        stage = points_of(scene, shown, values, textures, SIZE)
        sources = [s for s, e in lowered.outputs.items() if isinstance(e, Expr) and e.type in FLOATS]
        own = [lowered.outputs[s] for s in sources]
        if shown.is_projected:
            rendered = render(shown, values, textures, SIZE, scene)[..., :3].transpose(2, 0, 1) / 255
            whole = [rendered, *stage.evaluate(own)]
        else:
            whole = stage.evaluate([shown.picture, *own])
        # Where the first sheet is cut away the pin tells of the one behind.
        stays = stage.hit if shown.opacity is None else stage.hit & (stage.evaluate([shown.opacity])[0] > 0.6)
        rows, columns = np.nonzero(stays)
        random = np.random.default_rng(len(graph.nodes))
        off: list[float] = []
        for at in random.integers(0, len(rows), 5):
            row, column = int(rows[at]), int(columns[at])
            found = pinned(lowered, scene, (column, row), SIZE, values, textures)
            assert found is not None
            expected = [np.atleast_1d(part[..., row, column]) for part in whole]
            off += [
                float(np.abs(np.subtract(a, b)).max())
                for a, b in zip((found.shown, *(found.values[s] for s in sources)), expected, strict=True)
            ]
        # Where two triangles meet inside a quad, the GPU and the pin take a difference over the pixel's own one.
        least = 0.75 if cost([lowered.outputs[s] for s in sources]).by_class["derivative"] else 0.99
        self.assertGreater(np.mean(np.array(off) < 5e-3), least, f"off by up to {max(off):.2e}")

    def test_beside_the_form_there_is_nothing(self) -> None:
        graph = demo_graphs()[0]
        textures, _ = textures_of(graph, graph.uniform_values(), TEXTURES.get)
        found = pinned(lower(graph), Scene.of(graph.form), (0, 0), SIZE, graph.uniform_values(), textures)
        self.assertIsNone(found)


def _test_of(graph: Graph) -> Callable[[Pins], None]:
    return lambda case: case.check(graph)


for _graph in demo_graphs():
    setattr(Pins, f"test_every_output_of_{identifier(_graph.title)}", _test_of(_graph))
