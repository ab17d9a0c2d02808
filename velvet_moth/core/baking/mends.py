"""Steps that mend what was found wrong with a mesh, by the key of the verdict."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from velvet_moth.core.baking.stack import MeshStack
from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.meshes.facts import Verdict
from velvet_moth.core.stacks.operations import AddOutput, AddStep, RemoveOutput, StackBatch, StackOperation

# The blur that takes the steps out of 8 bits, as a share of the size of a mesh.
_SOFT = 0.004
Values = Mapping[str, Any]


@dataclass(frozen=True)
class MeshMend:
    """What a mend is called, and the steps it adds, each with its values: of the verdict and the mesh's size in metres."""

    words: str
    steps: Callable[[Verdict, float], tuple[tuple[str, Values], ...]]
    to_channel: bool = False


def _step(key: str, **values: Any) -> Callable[[Verdict, float], tuple[tuple[str, Values], ...]]:
    return lambda verdict, size: ((key, values),)


MENDS: Mapping[str, MeshMend] = {
    "no-uvs": MeshMend("Unwrap it", _step("unwrap")),
    "no-area": MeshMend("Take them away", _step("clean")),
    "crowded-edges": MeshMend("Take doubled faces away", _step("clean")),
    "doubled": MeshMend("Weld them", _step("weld", within=0.0)),
    "cracks": MeshMend("Close them", lambda verdict, size: (("weld", {"within": min(size * 3e-4, 0.1)}),)),
    "reversed": MeshMend("Turn it inside out", _step("turn_inside_out")),
    "mixed-winding": MeshMend(
        "Turn those faces over",
        lambda verdict, size: (("turn_inside_out", {"what": "faces against their neighbours"}), ("normals", {})),
    ),
    "normals-against": MeshMend("Make normals", _step("normals")),
    "large": MeshMend("Make it a hundredth as large", _step("scale_and_turn", scale=0.01)),
    "small": MeshMend("Make it a hundred times as large", _step("scale_and_turn", scale=100.0)),
    "uvs-outside": MeshMend("Fit them into 0 to 1", _step("fit_uvs")),
    "coarse-channel": MeshMend(
        "Soften it",
        lambda verdict, size: (
            ("file_colours", {"channel": verdict.channel}),
            ("blur", {"radius": max(size * _SOFT, 1e-4)}),
        ),
        to_channel=True,
    ),
}


def softened(stack: MeshStack, channel: str, radius: float) -> StackBatch:
    """The operations that blur what a channel gets, so that less of it is lost in levels of detail."""
    output = stack.output(channel)
    made: list[StackOperation] = []
    if output is None:
        made += [AddStep("file_colours", values={"channel": channel}), AddStep("blur", values={"radius": radius})]
    else:
        given = {"step": output.step, "layer": output.layer}
        made += [RemoveOutput(channel), AddStep("blur", values={"given": given, "radius": radius})]
    now: Any = stack
    for one in made:
        now, _ = one.apply(now)
    made.append(AddOutput(now.steps[-1].id, now.steps[-1].kind.layers[0], channel, output.name if output else channel))
    return StackBatch(tuple(made), f"softened {output.name if output else channel}")


def mended(stack: MeshStack, verdict: Verdict, size: float) -> StackBatch:
    """The operations that mend a verdict; OperationRefused where nothing does."""
    mend = MENDS.get(verdict.key)
    if mend is None:
        raise OperationRefused("Nothing mends this by itself.", verdict.words, "Mend it where the mesh was made.")
    made: list[StackOperation] = []
    now: Any = stack
    for key, values in mend.steps(verdict, size):
        made.append(AddStep(key, values=values))
        now, _ = made[-1].apply(now)
    if mend.to_channel:
        made.append(AddOutput(now.steps[-1].id, now.steps[-1].kind.layers[0], verdict.channel, verdict.channel))
    return StackBatch(tuple(made), f"mended: {mend.words.lower()}")
