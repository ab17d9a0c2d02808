"""The vertex shader moves the form as NumPy says, by every node that can stand in the vertex offset."""

from collections.abc import Callable

import numpy as np

from tests.support.cases import Case, node_cases
from tests.support.gpu import GpuCase, vertex_inputs
from velvet_moth.core.base.plain_names import identifier
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


def moving_cases() -> list[tuple[Case, list[Expr]]]:
    """The cases of nodes with outputs that are known at vertices, with those outputs."""
    found = []
    for case in node_cases():
        outputs = [e for e in case.outputs if e.type.base == "float" and e.rate <= Rate.VERTEX]
        if outputs and max(e.rate for e in outputs) >= Rate.DRAW:
            found.append((case, outputs))
    return found


class Vertices(GpuCase):
    """What every such node moves a form by, group by group."""

    def test_every_node_that_moves_a_form_is_among_them(self) -> None:
        tried = {case.name.split()[0] for case, _ in moving_cases()}
        self.assertLessEqual({k for k, n in CATALOGUE.items() if n.group == "Vertex offset"}, tried)
        self.assertGreater(len(tried), 90)

    def check(self, group: str) -> None:
        source = np.random.default_rng(SEED)
        inputs = vertex_inputs(CELLS)
        for case, outputs in moving_cases():
            if CATALOGUE[case.name.split()[0]].group != group:
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


def _test_of(group: str) -> Callable[[Vertices], None]:
    return lambda case: case.check(group)


for _group in {CATALOGUE[case.name.split()[0]].group for case, _ in moving_cases()}:
    setattr(Vertices, f"test_{identifier(_group)}", _test_of(_group))
