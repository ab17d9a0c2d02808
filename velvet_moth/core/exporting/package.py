"""The files of an export: the text, what is bound to it, the textures, and a page that says what is asked of the engine."""

import json
from collections.abc import Mapping
from dataclasses import dataclass

from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.base.plain_names import identifier
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.exporting.bound import BOUND
from velvet_moth.core.exporting.choices import Choices
from velvet_moth.core.exporting.exported import Exported, exported
from velvet_moth.core.exporting.packing import NO_PACKING, packing_of, put_in_place
from velvet_moth.core.exporting.proof import proofs
from velvet_moth.core.exporting.shapes import SHAPES
from velvet_moth.core.forms.mesh import Mesh
from velvet_moth.core.lighting.channels import CHANNELS
from velvet_moth.core.lighting.kinds import KINDS
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.meshes.formats.gltf_writer import write_glb
from velvet_moth.core.meshes.intake import as_source
from velvet_moth.core.pictures.convert import as_files, within
from velvet_moth.core.pictures.library import NamedPicture
from velvet_moth.core.render.binding_list import ReadTexture
from velvet_moth.core.render.shading import drawing
from velvet_moth.core.render.tracing.scene import Scene
from velvet_moth.core.workbench.analysis import Box, proved_box
from velvet_moth.core.workbench.problems import find_problems

NAMES = "{name}_{role}"
# Pixels a side that textures may be kept within.
SIDES = (256, 512, 1024, 2048, 4096)
LICENCE = "The text of the shader and this page are yours to use as you like; the textures are as free as their makers made them."


def stem(graph: Graph) -> str:
    """What the files of a graph are called, before their suffixes."""
    return identifier(graph.title) or "graph"


@dataclass(frozen=True, eq=False)
class Beside:
    """What goes with a text: the ``textures`` of a graph by id, and the mesh that was ``brought`` for it.

    Pictures have a ``format``, no side longer than ``most`` pixels (0 for any), and names by the pattern ``names``. The form or mesh
    may go along as a GLB.
    """

    textures: Mapping[str, NamedPicture]
    format: str = "png"
    most: int = 0
    names: str = NAMES
    brought: Mesh | None = None
    has_mesh: bool = False


def packaged(graph: Graph, choices: Choices, beside: Beside) -> dict[str, bytes]:
    """The files of an export by name.

    FileRefused where the graph has an error, or names of files have a pattern that cannot be; OperationRefused where the choices
    cannot be.
    """
    lowered = lower(graph, choices.variant)
    for problem in find_problems(lowered, {}, choices.variant):
        if problem.severity == "error":
            raise FileRefused(problem.what, problem.where, "Open the graph on its page and mend it.")
    packing = packing_of(graph, beside.textures) if choices.packed else NO_PACKING
    textures = {**beside.textures, **packing.pictures}
    made = exported(
        graph, choices, {key: ReadTexture(one.name, one.reading) for key, one in textures.items()}, packing=packing
    )
    ids = [*(one["texture"] for one in made.bound["textures"]), *sorted(put_in_place(graph))]
    carried = [key for key in dict.fromkeys(ids) if key in textures]
    small = [within(textures[key], beside.most) for key in carried]
    pictures = dict(zip(carried, as_files(small, beside.format, beside.names), strict=True))
    files = {key: file for key, (file, _) in pictures.items()}
    scene = Scene.of_graph(graph, beside.brought, choices.variant)
    box = proved_box(lowered, choices.variant, scene)
    bound = {
        **made.bound,
        "textures": [{**one, "file": files.get(one["texture"])} for one in made.bound["textures"]],
        "files": files,
        "bounds": {"low": [*box.low], "high": [*box.high]},
    }
    meshes = {f"{stem(graph)}.glb": write_glb(as_source(scene.mesh))} if beside.has_mesh else {}
    return {
        f"{stem(graph)}{choices.dialect.suffix}": made.text.encode(),
        "parameters.json": json.dumps(BOUND.dump_python(BOUND.validate_python(bound), mode="json"), indent=1).encode()
        + b"\n",
        "parameters.schema.json": json.dumps(BOUND.json_schema(), indent=1).encode() + b"\n",
        "readme.txt": _page(graph, choices, made, box, bool(meshes), drawing(lowered).cost.operations).encode(),
        **{f"textures/{file}": data for file, data in pictures.values()},
        **meshes,
    }


def _page(graph: Graph, choices: Choices, made: Exported, box: Box, has_mesh: bool, operations: int) -> str:
    """What is asked of the engine, what the channels are, what it costs, and what could not be carried."""
    lines = [
        f"{graph.title}",
        "",
        f"{choices.dialect.name}. {SHAPES[choices.shape].name}: {SHAPES[choices.shape].words}",
        "The text is a whole stage for pixels; its head lists what it is given."
        if choices.entry
        else "Include the text, fill the structures that its head lists, and call its functions.",
        "",
        f"Kind: {KINDS[graph.kind].name}.",
        f"Cost: about {operations} operations a pixel, of the channels alone.",
        f"What was run to prove the language: {proofs()[choices.language].words}",
        "",
        "The form never leaves this box, whatever its parameters within their ranges and the time (metres):",
        f"  {' '.join(f'{v:.4g}' for v in box.low)} to {' '.join(f'{v:.4g}' for v in box.high)}",
        "",
        "What the channels are:",
        *(f"  {key}: {CHANNELS[key].words}" for key in next(iter(made.bound["results"].values())) if key in CHANNELS),
        "",
        *made.words,
        *left_behind(graph, choices, has_mesh),
        "",
        LICENCE,
        "",
    ]
    return "\n".join(lines)


def left_behind(graph: Graph, choices: Choices, has_mesh: bool = False) -> list[str]:
    """What an export does not carry, as sentences."""
    found = []
    if graph.emitter.is_on:
        found.append("The emitter is not carried: the engine places instances, and gives what each of them knows.")
    if choices.shape == "surface" and KINDS[graph.kind].is_projected:
        found.append("Where decals are, and how they live, is not carried: the engine projects the surface.")
    if choices.shape == "surface" and KINDS[graph.kind].has_back:
        found.append("Draw it two-sided: the function chooses the side by is_front.")
    if graph.backdrop:
        found.append("The backdrop is not carried; what is seen behind comes from the engine.")
    if graph.mesh and not has_mesh:
        found.append("The mesh is not carried, unless it is asked for; it leaves from the room of meshes too.")
    return ["Not carried:", *(f"  {one}" for one in found)] if found else ["Everything of the graph is carried."]
