"""The vertex shader moves the form as NumPy says, by every node that can stand in the vertex offset."""

import numpy as np

from tests.support.cases import node_cases
from tests.support.gpu import GpuCase, vertex_inputs
from velvet_moth.core.catalogue.registry import CATALOGUE
from velvet_moth.core.language.expr import Expr, Rate
from velvet_moth.core.language.inputs import Bindings, surface
from velvet_moth.core.language.interpreters.evaluate import evaluate
from velvet_moth.core.language.interpreters.glsl import emit
from velvet_moth.core.language.primitives import combine

CELLS = 6
SEED = 31


def _as_offset(outputs: list[Expr]) -> Expr:
    """Outputs of any width as one offset: their first three components."""
    parts = [e[i] if e.type.width > 1 else e for e in outputs for i in range(e.type.width)]
    return combine(*(parts * 3)[:3])


class Vertices(GpuCase):
    def test_every_node_that_moves_a_form(self) -> None:
        source = np.random.default_rng(SEED)
        tried: set[str] = set()
        inputs = vertex_inputs(CELLS)
        for case in node_cases():
            outputs = [e for e in case.outputs if e.type.base == "float" and e.rate <= Rate.VERTEX]
            if not outputs or max(e.rate for e in outputs) < Rate.DRAW:
                continue
            offset = _as_offset(outputs) * 0.1 + surface("position") * 0.0
            values = {
                key: source.uniform(low, high, type_.width).astype(np.float32)
                for key, (type_, low, high) in case.ranges.items()
            }
            shader = emit(surface("position"), offset=offset)
            packed = np.zeros(shader.floats, dtype=np.float32)
            for slot in shader.slots:
                packed[slot.offset : slot.offset + slot.width] = values[slot.key]
            arrays = {k: v.reshape(()) if v.size == 1 else v.reshape(-1, 1, 1) for k, v in values.items()}
            expected = inputs["position"] + np.broadcast_to(
                evaluate([offset], Bindings(inputs, arrays, case.textures))[0], inputs["position"].shape
            )
            found = self.moved(shader, case.textures, packed.tolist(), CELLS)
            with self.subTest(case.name):
                off = np.abs(found - expected) > 2e-3 + 2e-3 * np.abs(expected)
                self.assertLess(float(off.mean()), 0.02, f"seed {SEED}: off by {np.abs(found - expected).max():.2e}")
            tried.add(case.name.split()[0])
        moving = {k for k, n in CATALOGUE.items() if n.group == "Vertex offset"}
        self.assertLessEqual(moving, tried)
        self.assertGreater(len(tried), 90)
