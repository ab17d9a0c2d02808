"""The patterns and noises of the nodes, at the vertices: the very same functions, so the very same numbers.

Every node of their group is a step here that needs the place on the form or its UVs and numbers alone, and is known at vertices.
"""

from collections.abc import Callable
from typing import Any

import numpy as np

import velvet_moth.core.nodes  # noqa: F401 - fills the catalogue
from velvet_moth.core.baking.step import MESHES, OnMesh
from velvet_moth.core.catalogue.ports import Input
from velvet_moth.core.catalogue.registry import CATALOGUE, NodeType
from velvet_moth.core.catalogue.settings import Setting
from velvet_moth.core.forms.mesh import Floats
from velvet_moth.core.language.expr import Expr, Rate, constant
from velvet_moth.core.language.inputs import SURFACE_INPUTS, Bindings
from velvet_moth.core.language.interpreters.evaluate import evaluate
from velvet_moth.core.language.types import P_NUMBER
from velvet_moth.core.stacks.step import Step

GROUP = "Patterns"
_AT_VERTEX: dict[str, Callable[[OnMesh], Floats]] = {
    "object_position": lambda on: on.mesh.positions,
    "uv": lambda on: on.mesh.uvs,
}


def _setting(port: Input) -> Setting:
    return Setting("number", port.words, port.low, port.high, port.unit, default=port.default[0]).named(port.key)


def _built(kind: NodeType, chosen: dict[str, Any]) -> list[Expr]:
    """The first outputs of a node that are numbers, of the surface point and of what is set."""
    given = {
        key: SURFACE_INPUTS[port.source].expr if port.source else constant(float(chosen[key]))
        for key, port in kind.inputs.items()
    }
    settings = tuple((key, chosen[key]) for key in kind.settings)
    built = kind.build(given, settings)
    return [built[key] for key, output in kind.outputs.items() if output.type is P_NUMBER]


def _step_of(kind: NodeType) -> Step | None:
    """A node as a step; None where it needs more than the place and numbers, or is known at pixels only."""
    ports = kind.inputs.values()
    if kind.group != GROUP or not all(p.source in _AT_VERTEX or (not p.source and p.type is P_NUMBER) for p in ports):
        return None
    plain = {key: _setting(port) for key, port in kind.inputs.items() if not port.source}
    settings = {**plain, **kind.settings}
    results = _built(kind, {key: s.default for key, s in settings.items()})
    if not results or any(result.rate is Rate.PIXEL for result in results):
        return None
    names = tuple(key for key, output in kind.outputs.items() if output.type is P_NUMBER)

    def run(on: OnMesh, /, **chosen: Any) -> tuple[Floats, ...]:
        inputs = {name: np.ascontiguousarray(take(on).T[:, None]) for name, take in _AT_VERTEX.items()}
        made = evaluate(_built(kind, chosen), Bindings(inputs, {}, {}))
        return tuple(np.broadcast_to(values, (1, on.count))[0] for values in made)

    return Step(kind.key, kind.name, GROUP, kind.help.sentence, settings, dict.fromkeys(names, MESHES.layer), run=run)


MESHES.steps.update({step.key: step for kind in CATALOGUE.values() if (step := _step_of(kind)) is not None})
