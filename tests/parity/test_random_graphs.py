"""Whole graphs, drawn at random, shrunk where they fail, and kept: NumPy and WebGL2 paint the same pixels."""

import json
import os
from pathlib import Path

import numpy as np
from hypothesis import HealthCheck, Phase, given, note, seed, settings

from tests.support.cases import smooth_texture
from tests.support.gpu import GpuCase
from tests.support.random_graphs import graphs
from velvet_moth.core.document.graph import Graph, Source
from velvet_moth.core.document.stand_ins import stand_ins
from velvet_moth.core.files.graph_json import graph_from_json, graph_to_json
from velvet_moth.core.language.expr import Expr
from velvet_moth.core.language.interpreters.bound import Bounds
from velvet_moth.core.language.interpreters.glsl import emit
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.render.shading import values_array
from velvet_moth.core.render.tracing.scene import stage_textures
from velvet_moth.core.render.tracing.staged import uniform_arrays
from velvet_moth.core.workbench.problems.ranges import uniform_bounds

CASES = Path(__file__).with_name("failed_graphs")
# Another seed explores other graphs: MOTH_SEED=7 ./moth test tests.parity.test_random_graphs
SEED = int(os.environ.get("MOTH_SEED", "3"))
# Errors of a step or a noise grow through a graph: judged by how many pixels differ visibly, never by the worst.
VISIBLE, MOST_VISIBLE = 1.5 / 255, 0.03


class RandomGraphs(GpuCase):
    def check(self, graph: Graph) -> None:
        lowered = lower(graph)
        values = graph.uniform_values()
        textures = {**stage_textures(), **dict.fromkeys(stand_ins(graph), smooth_texture())}
        last = list(graph.nodes)[-1]
        bounds = Bounds(uniform_bounds(graph, values))
        for key in graph.nodes[last].kind.outputs:
            output = lowered.outputs[Source(last, key)]
            if not isinstance(output, Expr) or output.type.base != "float":
                continue
            expected = self.in_numpy(output, uniform_arrays(values), textures)
            self.assertTrue(np.isfinite(expected).all(), "no NaN is born")
            proved = bounds.of([output])[0]
            slack = 1e-3 * max(1.0, float(np.abs(expected).max()))
            self.assertGreaterEqual(float(expected.min()), proved.low - slack, "the proved range encloses it")
            self.assertLessEqual(float(expected.max()), proved.high + slack, "the proved range encloses it")
            shader = emit(output)
            found = self.drawn(shader, textures, values_array(shader, values))[: expected.shape[0]]
            self.assertTrue(np.isfinite(found).all(), "no NaN is born")
            # As the eye sees it: relative where values are large.
            scale = np.maximum(1.0, np.abs(expected))
            visible = np.abs(found - expected) / scale > VISIBLE
            self.assertLess(float(visible.mean()), MOST_VISIBLE, f"output {key} of {graph.nodes[last].type}")

    def test_random_graphs(self) -> None:
        @seed(SEED)
        @settings(
            max_examples=int(os.environ.get("MOTH_EXAMPLES", "40")),
            database=None,
            deadline=None,
            suppress_health_check=list(HealthCheck),
            phases=(Phase.generate, Phase.shrink),
        )
        @given(graphs())
        def every(graph: Graph) -> None:
            note(f"seed {SEED}")
            try:
                self.check(graph)
            except AssertionError:
                # The last one written is the smallest that fails.
                CASES.mkdir(exist_ok=True)
                text = json.dumps(graph_to_json(graph), indent=1)
                CASES.joinpath(f"seed_{SEED}.json").write_text(text + "\n")
                raise

        every()

    def test_graphs_that_failed_once(self) -> None:
        found = sorted(CASES.glob("*.json"))
        for path in found:
            with self.subTest(path.name):
                self.check(graph_from_json(json.loads(path.read_text()), path.name))
