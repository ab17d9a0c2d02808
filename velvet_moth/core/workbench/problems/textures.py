"""Textures that are read the wrong way where they are used: what the inspection found, told at the input."""

from collections.abc import Callable, Mapping

from velvet_moth.core.document.graph import Graph, Node
from velvet_moth.core.editing.mends import Mend
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.language.types import P_NUMBER
from velvet_moth.core.nodes.surfaces import DOCK
from velvet_moth.core.operations import set_field
from velvet_moth.core.pictures.inspection import Inspection, Verdict
from velvet_moth.core.pictures.reading import ROLES, Reading
from velvet_moth.core.workbench.problems.record import Problem
from velvet_moth.core.workbench.problems.wiring import channel_mends, textures_read_by

# Gives a texture's name and what was found out about it; None where it is gone.
Inspections = Callable[[str], tuple[str, Reading, Inspection] | None]

# What of an inspection matters to a node that reads directions, colours, or numbers.
_DIRECTIONS = frozenset({"not-a-normal", "other-green"})
_NUMBERS = frozenset({"mask-as-colour", "is-a-normal"})
_COLOURS = frozenset({"is-a-normal"})
_SINGLE = frozenset({"red", "green", "blue"})
_NO_ALPHA = Verdict(
    "flat-alpha", "warning", "it has no alpha, which is 1 everywhere then: read R or luminance instead."
)


def _reading_mend(texture: str, reading: Reading) -> Mend:
    way = f", green {reading.green}" if ROLES[reading.role].is_signed else ""
    return Mend(f"Read it as {ROLES[reading.role].name.lower()}{way}", None, texture, reading)


def _as_problem(node: Node, key: str, texture: str, name: str, verdict: Verdict) -> Problem:
    mends = (_reading_mend(texture, verdict.reading),) if verdict.reading else ()
    where = f"{node.kind.inputs[key].name} of {node.name}"
    return Problem(
        verdict.code,
        verdict.severity,
        node=node.id,
        input=key,
        what=f"{name}: {verdict.what}",
        where=where,
        mends=mends,
    )


def texture_problems(graph: Graph, inspections: Inspections, textures: Mapping[str, Texture]) -> list[Problem]:
    """What is wrong with how textures are read, at the nodes that read them."""
    problems: list[Problem] = []
    if graph.environment and inspections(graph.environment) is None:
        what = "The picture around the stage is gone; the rig's own surroundings stand in."
        mend = Mend("Go on without it", set_field("environment", ""))
        problems.append(
            Problem("missing-environment", "warning", node=DOCK, input="", what=what, where="The stage", mends=(mend,))
        )
    wired = graph.outputs_read()
    for node in graph.nodes.values():
        read = textures_read_by(graph, node)
        for key, texture in read.items():
            found = inspections(texture) if texture else None
            if found is not None:
                # Which outputs come of which of several textures is not known.
                outputs = wired.get(node.id, set()) if len(read) == 1 else {"colour"}
                problems += _of_texture(graph, node, key, texture, found, outputs, textures)
    return problems


def _of_texture(
    graph: Graph,
    node: Node,
    key: str,
    texture: str,
    found: tuple[str, Reading, Inspection],
    outputs: set[str],
    textures: Mapping[str, Texture],
) -> list[Problem]:
    """What is wrong with how a node reads one texture."""
    name, reading, inspection = found
    problems: list[Problem] = []
    if node.kind.inputs[key].missing == "flat":
        matters = _DIRECTIONS
        if reading.role != "normal":
            problems.append(_other_role(node, key, texture, name, reading, inspection))
    else:
        matters = _COLOURS if outputs <= {"colour"} else _NUMBERS
    problems += [_as_problem(node, key, texture, name, v) for v in inspection.verdicts if v.code in matters]
    flat = next((v for v in inspection.verdicts if v.code == "flat-alpha"), None)
    if all(channel.name != "alpha" for channel in inspection.channels):
        flat = _NO_ALPHA
    if flat and "alpha" in outputs:
        problems += _flat_alpha(graph, node, name, flat, textures)
    if reading.is_colour and not any(v.code == "mask-as-colour" for v in inspection.verdicts):
        problems += _light_as_number(graph, node, texture, name)
    return problems


def _light_as_number(graph: Graph, node: Node, texture: str, name: str) -> list[Problem]:
    """At each mask or channel of the surface that takes a single channel of a colour."""
    found = []
    for other, key, source in graph.readers(node.id):
        reader = graph.nodes[other]
        declared = reader.kind.inputs[key]
        is_single = source.output in _SINGLE or (source.output == "colour" and source.part in ("x", "y", "z"))
        if declared.type is P_NUMBER and is_single and (declared.beyond or declared.role == "mask"):
            what = (
                f"{name} is read as a colour, so single channels arrive as light: what is 0.50 in the file is 0.21 here. "
                "Read it as data if it holds a mask."
            )
            where = f"{declared.name} of {reader.name}"
            mends = (_reading_mend(texture, Reading("data")),)
            found.append(Problem("light-as-number", "note", other, key, what, where, mends))
    return found


def _other_role(node: Node, key: str, texture: str, name: str, reading: Reading, inspection: Inspection) -> Problem:
    best = inspection.guess.reading
    wanted = best if best.role == "normal" else Reading("normal")
    return Problem(
        "read-as-other",
        "warning",
        node=node.id,
        input=key,
        what=f"{name} is read as {ROLES[reading.role].name.lower()}, but directions are taken from it here.",
        where=f"{node.kind.inputs[key].name} of {node.name}",
        mends=(_reading_mend(texture, wanted),),
    )


def _flat_alpha(
    graph: Graph, node: Node, name: str, verdict: Verdict, textures: Mapping[str, Texture]
) -> list[Problem]:
    """At each input that takes the alpha of a picture that has none worth reading."""
    found = []
    for other, key, source in graph.readers(node.id):
        if source.output != "alpha":
            continue
        reader = graph.nodes[other]
        mends = tuple(
            m for m in channel_mends(graph, source, other, key, textures) if not m.words.startswith("Use alpha")
        )
        where = f"{reader.kind.inputs[key].name} of {reader.name}"
        found.append(
            Problem(
                "flat-alpha", "warning", node=other, input=key, what=f"{name}: {verdict.what}", where=where, mends=mends
            )
        )
    return found
