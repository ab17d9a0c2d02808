"""Every primitive and every node in the languages that are sent out: executed against NumPy, and accepted by the compilers of others."""

import unittest
from collections.abc import Callable, Hashable, Iterator, Sequence
from itertools import islice

import numpy as np

from tests.parity.test_parity import (
    ELEMENTARY,
    NODE_SHARE,
    NODE_TOLERANCE,
    PRIMITIVE_TOLERANCE,
    SEED,
)
from tests.support.cases import Case, node_cases, primitive_cases, random_arrays
from tests.support.executing import fine_differences
from tests.support.gpu import SIZE, grid_inputs, whole
from tests.support.native import EXECUTED, accepted, executed
from velvet_moth.core.base.plain_names import identifier
from velvet_moth.core.catalogue.registry import CATALOGUE
from velvet_moth.core.language.dialects import DIALECTS, Dialect
from velvet_moth.core.language.expr import Array, Expr, Structural, sampler, topological_order, uniform
from velvet_moth.core.language.inputs import Bindings
from velvet_moth.core.language.interpreters.evaluate import evaluate
from velvet_moth.core.language.interpreters.text.module import Computed, write_module
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.language.trace import substituted
from velvet_moth.core.lighting.stage_textures import STAGE_TEXTURES
from velvet_moth.core.render.tracing.scene import stage_textures

# A device has at least so many textures for one draw.
MOST_TEXTURES = 12


class Apart:
    """Several cases as one, each with names of its own for what comes from outside."""

    def __init__(self, is_executed: bool) -> None:
        self.is_executed = is_executed
        self.outputs: list[Expr] = []
        self.expected: list[np.ndarray] = []
        self.names: list[str] = []
        self.values: dict[Hashable, Array] = {}
        self.textures: dict[Hashable, Texture] = {}

    def add(self, case: Case) -> None:
        """All outputs of a case that are numbers, over random values."""
        number = len(self.names)
        arrays = random_arrays(case, np.random.default_rng(SEED), SIZE)
        outputs = [output for output in case.outputs if output.type.base == "float"]
        table: dict[Expr, Expr] = {}
        for leaf in topological_order(outputs):
            if leaf.operator is Structural.UNIFORM:
                key = (number, leaf.attributes[0])
                table[leaf] = uniform(key, leaf.type)
                self.values[key] = arrays[leaf.attributes[0]]
            elif leaf.operator is Structural.SAMPLER and leaf.attributes[0] not in STAGE_TEXTURES:
                key = (number, leaf.attributes[0])
                _, wrap_u, wrap_v, filter_, low, high = leaf.attributes
                table[leaf] = sampler(key, (wrap_u, wrap_v), low, high, filter_)
                self.textures[key] = case.textures[leaf.attributes[0]]
        # Those of the stage are read inside functions too, and are the same for all cases that give them.
        self.textures.update({key: one for key, one in case.textures.items() if key in STAGE_TEXTURES})
        self.outputs += substituted(outputs, table)
        self.names += [case.name] * len(outputs)
        if not self.is_executed:
            return
        with fine_differences():
            found = evaluate(outputs, Bindings(grid_inputs(), arrays, {**stage_textures(), **case.textures}))
        self.expected += [whole(one) for one in found]


def together(cases: Sequence[Case], most: int, is_executed: bool = True) -> Iterator[Apart]:
    """Cases as few modules: to build a pipeline takes most of the time."""
    todo = iter(cases)
    while part := list(islice(todo, most)):
        made = Apart(is_executed)
        for case in part:
            if is_executed and len(made.textures) + len(case.textures) > MOST_TEXTURES:
                yield made
                made = Apart(is_executed)
            made.add(case)
        yield made


def numbered(key: Hashable) -> str:
    return "value"


class Executed(unittest.TestCase):
    """On the software Vulkan of this machine."""

    def check(
        self, cases: Sequence[Case], dialect: Dialect, tolerance: Callable[[str], tuple[float, float]], share: float
    ) -> None:
        for made in together(cases, 12):
            if not made.outputs:
                continue
            textures = {**stage_textures(), **made.textures}
            found = executed(dialect, made.outputs, grid_inputs(), textures, made.values, SIZE)
            for name, one, expected in zip(made.names, found, made.expected, strict=True):
                near, relative = tolerance(name.split()[0])
                agrees = np.abs(one - expected) <= near + relative * np.abs(expected)
                worst = float(np.abs(one - expected).max())
                with self.subTest(name, dialect=dialect.key):
                    self.assertGreaterEqual(float(agrees.mean()), share, f"seed {SEED}: off by up to {worst:.2e}")

    def primitives(self, dialect: Dialect) -> None:
        self.check(primitive_cases(), dialect, lambda name: PRIMITIVE_TOLERANCE.get(name, ELEMENTARY), 1.0)

    def nodes(self, dialect: Dialect, groups: Sequence[str]) -> None:
        cases = [case for case in node_cases() if CATALOGUE[case.name.split()[0]].group in groups]
        if dialect is not EXECUTED[0]:
            # A second language once for each node: it is the same text but for its spelling.
            cases = list({case.name.split()[0]: case for case in cases}.values())
        self.check(cases, dialect, lambda name: NODE_TOLERANCE, NODE_SHARE)


class Compiled(unittest.TestCase):
    """By glslangValidator, and spirv-val after it."""

    def compiled(self, dialect: Dialect) -> None:
        for made in together([*primitive_cases(), *node_cases()], 60, is_executed=False):
            members = {f"o{n}": e for n, e in enumerate(made.outputs)}
            text = write_module(dialect, [Computed("all_of_it", "Found", "At", members)], numbered).text
            with self.subTest(made.names[0]):
                compiled_alone(dialect, text)


def compiled_alone(dialect: Dialect, text: str) -> None:
    """Accepts the text of a module, with an entry that calls nothing."""
    entry, more = ENTRIES[dialect.key]
    accepted(text + entry, more)


ENTRIES = {
    "glsl_es": ("void main() {}\n", ()),
    "glsl": ("void main() {}\n", ("-G", "--auto-map-locations", "--auto-map-bindings")),
    "hlsl": ("float4 main() : SV_Target { return float4(0, 0, 0, 0); }\n", ("-V", "-D", "-e", "main")),
}
_GROUPS = sorted({CATALOGUE[case.name.split()[0]].group for case in node_cases()})


def _compiled(dialect: Dialect) -> Callable[[Compiled], None]:
    return lambda case: case.compiled(dialect)


def _primitives(dialect: Dialect) -> Callable[[Executed], None]:
    return lambda case: case.primitives(dialect)


def _nodes(dialect: Dialect, groups: Sequence[str]) -> Callable[[Executed], None]:
    return lambda case: case.nodes(dialect, groups)


for _dialect in DIALECTS.values():
    if _dialect not in EXECUTED:
        setattr(Compiled, f"test_every_primitive_and_node_in_{_dialect.key}", _compiled(_dialect))
for _dialect in EXECUTED:
    setattr(Executed, f"test_primitives_in_{_dialect.key}", _primitives(_dialect))
    for _group in _GROUPS:
        setattr(Executed, f"test_{identifier(_group)}_in_{_dialect.key}", _nodes(_dialect, [_group]))
