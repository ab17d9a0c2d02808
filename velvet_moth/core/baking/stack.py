"""The stack of a mesh: steps that change its form, steps that make numbers, and the channels these go to."""

from collections.abc import Hashable, Mapping
from dataclasses import dataclass, field, replace
from typing import Annotated, Any, ClassVar

import numpy as np
from annotated_types import Ge, Le, MaxLen
from pydantic import TypeAdapter

from velvet_moth.core.baking import steps
from velvet_moth.core.baking.levels import MOST_LEVELS, LevelWanted, wrong_levels
from velvet_moth.core.baking.step import MESHES, BakingContext, Made, OnMesh
from velvet_moth.core.base.errors import FileRefused, OperationRefused
from velvet_moth.core.base.records import Number, Text, read
from velvet_moth.core.forms.mesh import VERTEX_CHANNELS, Floats, Mesh
from velvet_moth.core.stacks.computing import computed
from velvet_moth.core.stacks.plain import StackRecord, stack_of, stack_to_json
from velvet_moth.core.stacks.stack import Stack
from velvet_moth.core.stacks.step import Family

assert steps, "every step has entered itself"


@dataclass(frozen=True)
class MeshStack(Stack):
    """A stack of steps on a mesh. Its outputs are channels: their ids are ``VERTEX_CHANNELS``, their names what they mean.

    ``levels`` are simpler meshes for larger distances; ``weights`` say how much channels count there; without one a channel counts 1.
    """

    family: ClassVar[Family] = MESHES

    levels: tuple[LevelWanted, ...] = ()
    weights: Mapping[str, float] = field(default_factory=dict)


EMPTY = MeshStack("Steps")


@dataclass(frozen=True, kw_only=True)
class _Record(StackRecord):
    levels: Annotated[tuple[LevelWanted, ...], MaxLen(MOST_LEVELS)] = ()
    weights: Mapping[Text, Annotated[Number, Ge(0), Le(100)]] = field(default_factory=dict)


_RECORD: TypeAdapter[_Record] = TypeAdapter(_Record)


def mesh_stack_to_json(stack: MeshStack) -> dict[str, Any]:
    """A stack as plain data, which ``mesh_stack_from_json`` reads."""
    levels = [{"share": level.share, "screen": level.screen} for level in stack.levels]
    return {**stack_to_json(stack), "levels": levels, "weights": dict(sorted(stack.weights.items()))}


def mesh_stack_from_json(data: Any, where: str = "stack") -> MeshStack:
    """The stack in plain data; FileRefused names the first thing that is wrong and its place."""
    found = read(_RECORD, data, where)
    if wrong := wrong_levels(found.levels):
        raise FileRefused(wrong, f"{where}/levels", "Choose other shares.")
    weights = {channel: weight for channel, weight in found.weights.items() if channel in VERTEX_CHANNELS}
    return stack_of(MeshStack, found, where, levels=found.levels, weights=weights)


def evaluate(
    stack: MeshStack, mesh: Mesh, mark: Hashable, context: BakingContext, wanted: set[str] | None = None
) -> tuple[dict[str, Made], OnMesh]:
    """What each step makes (or those ``wanted`` and what they need), by the step's id; and the mesh as the form steps leave it.

    ``mark`` tells the mesh apart. Raises OperationRefused with what is wrong and at which step.
    """
    made, ground = computed(stack, OnMesh(mesh, mark, context), wanted, context.remember)
    assert isinstance(ground, OnMesh), "a step gives the kind of ground that it stood on"
    return made, ground


def directions_of(stack: MeshStack, step: str) -> str:
    """The layer of a step that gives directions; OperationRefused where it gives none."""
    use = stack.use(step)
    layer = next((name for name, kind in use.kind.gives.items() if kind == "directions"), "") if use else ""
    if not layer:
        raise OperationRefused(
            "This step gives no directions.", f"step {step[:40]}", "Choose a step of directions, such as Comb."
        )
    return layer


def baked(stack: MeshStack, mesh: Mesh, mark: Hashable, context: BakingContext) -> Mesh:
    """The mesh as its stack makes it: its form, and its channels in the places they go to.

    A channel that nothing is made for keeps what came with the file.
    """
    made, ground = evaluate(stack, mesh, mark, context, {output.step for output in stack.outputs})
    found = with_channels(ground.mesh, {o.id: made[o.step][o.layer] for o in stack.outputs})
    return replace(found, carried={**(mesh.carried or {}), **{o.id: o.name for o in stack.outputs}})


def with_channels(mesh: Mesh, channels: dict[str, Floats]) -> Mesh:
    """A mesh with numbers in some of its channels, by their places; what is beyond 0..1 stops there, as shaders are promised."""
    data = mesh.data
    for place, values in channels.items():
        data[:, VERTEX_CHANNELS.index(place)] = np.clip(values, 0.0, 1.0)
    has_second = mesh.second_colours is not None or any(place in VERTEX_CHANNELS[4:] for place in channels)
    return replace(mesh, colours=data[:, :4].copy(), second_colours=data[:, 4:].copy() if has_second else None)
