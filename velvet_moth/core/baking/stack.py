"""The stack of a mesh: steps that change its form, steps that make numbers, and the channels these go to."""

from collections.abc import Hashable
from dataclasses import dataclass, replace
from typing import Any, ClassVar

import numpy as np
from pydantic import TypeAdapter

from velvet_moth.core.baking import steps
from velvet_moth.core.baking.step import MESHES, BakingContext, Made, OnMesh
from velvet_moth.core.base.records import read
from velvet_moth.core.forms.mesh import VERTEX_CHANNELS, Floats, Mesh
from velvet_moth.core.stacks.computing import computed
from velvet_moth.core.stacks.plain import StackRecord, stack_of, stack_to_json
from velvet_moth.core.stacks.stack import Stack
from velvet_moth.core.stacks.step import Family

assert steps, "every step has entered itself"


@dataclass(frozen=True)
class MeshStack(Stack):
    """A stack of steps on a mesh. Its outputs are channels: their ids are ``VERTEX_CHANNELS``, their names what they mean."""

    family: ClassVar[Family] = MESHES


EMPTY = MeshStack("Steps")
_RECORD: TypeAdapter[StackRecord] = TypeAdapter(StackRecord)

mesh_stack_to_json = stack_to_json


def mesh_stack_from_json(data: Any, where: str = "stack") -> MeshStack:
    """The stack in plain data; FileRefused names the first thing that is wrong and its place."""
    return stack_of(MeshStack, read(_RECORD, data, where), where)


def evaluate(
    stack: MeshStack, mesh: Mesh, mark: Hashable, context: BakingContext, wanted: set[str] | None = None
) -> tuple[dict[str, Made], OnMesh]:
    """What each step makes (or those ``wanted`` and what they need), by the step's id; and the mesh as the form steps leave it.

    ``mark`` tells the mesh apart. Raises OperationRefused with what is wrong and at which step.
    """
    made, ground = computed(stack, OnMesh(mesh, mark, context), wanted, context.remember)
    assert isinstance(ground, OnMesh), "a step gives the kind of ground that it stood on"
    return made, ground


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
