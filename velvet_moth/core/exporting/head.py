"""The head of an exported text: what somebody must know who calls its functions."""

from collections.abc import Mapping

from velvet_moth.core.document.graph import Graph
from velvet_moth.core.exporting.choices import Choices
from velvet_moth.core.exporting.naming import holds, input_words
from velvet_moth.core.exporting.packing import Packing
from velvet_moth.core.exporting.shapes import SHAPES
from velvet_moth.core.language.interpreters.precision import Reduced
from velvet_moth.core.language.interpreters.text.entry import Entry
from velvet_moth.core.language.interpreters.text.layout import SamplerSlot
from velvet_moth.core.language.interpreters.text.module import Module
from velvet_moth.core.lighting.stage_textures import STAGE_TEXTURES

_SPACES = (
    "Places and directions are in the world: metres, right-handed, Y up. Colours are linear light.",
    "Normals that come out are in tangent space: X along the tangent, Y along cross(normal, tangent) times the tangent's w.",
    "V runs up: the first row of a texture's data is its lowest. Where yours is the highest, turn the rows or V round.",
)


def head_lines(
    graph: Graph,
    choices: Choices,
    module: Module,
    outputs: Mapping[str, list[str]],
    kept: Reduced,
    packing: Packing,
) -> list[str]:
    """What somebody must know who calls the functions."""
    lines = [f"{choices.dialect.name}: {SHAPES[choices.shape].words}", *_SPACES]
    for name, inputs in module.inputs.items():
        lines += ["", f"{choices.prefix}{name} gives {', '.join(outputs[name])}. It is given:"]
        lines += [f"  {declared.name}: {input_words(declared)}" for declared in inputs] or ["  nothing of the point"]
    if module.values:
        lines += ["", "Values, and where each is from the beginning of the constants, in bytes:"]
        lines += [f"  {member.offset:4d}  {member.name}: {holds(graph, member.key)}" for member in module.values]
    if module.switches:
        lines += ["", "Switches, which who builds the text may set otherwise:"]
        lines += [f"  {one.name}: {holds(graph, one.key)}" for one in module.switches]
    if module.entry:
        lines += ["", *_entry_words(module, module.entry)]
    if choices.reduced:
        lines += ["", *precision_words(kept)]
    if module.samplers:
        lines += ["", "Textures, each read with levels of detail:"]
        lines += [f"  {slot.name}: {_read_as(graph, slot, packing)}" for slot in module.samplers]
    return lines


def _entry_words(module: Module, entry: Entry) -> list[str]:
    """What the entry point takes and makes."""
    lines = [f"The entry point {entry.name}, for pixels, is given by vertices, location by location:"]
    given = enumerate(entry.given)
    lines += [f"  {at}  {entry.given_name(one)}: {input_words(one)}" for at, one in given] or ["  nothing"]
    if module.per_draw:
        words = {one.name: input_words(one) for one in entry.per_draw}
        lines.append(
            f"For a draw it is given, as the members of {entry.prefix}per_draw, each so many bytes from its beginning:"
        )
        lines += [f"  {member.offset:4d}  {member.name}: {words[member.name]}" for member in module.per_draw]
    lines.append("It makes, target by target:")
    return lines + [f"  {at}  {_target_words(target)}" for at, target in enumerate(entry.targets)]


def _target_words(target: Mapping[str, str]) -> str:
    return ", ".join(f"{letters} {key}" for key, letters in target.items())


def precision_words(kept: Reduced) -> tuple[str, ...]:
    """What reduced precision costs, a sentence each."""
    name, off = kept.worst
    if not name:
        return ("By their ranges, no values may be held with fewer bits.",)
    return (
        "Values of reduced precision may be held to one part in 1024.",
        f"By their ranges, no result is off by more than {off:.5f} for it ({name}).",
    )


def _read_as(graph: Graph, slot: SamplerSlot, packing: Packing) -> str:
    what = STAGE_TEXTURES[slot.key] if isinstance(slot.key, str) else holds(graph, slot.key)
    held = packing.channels_at(slot.key)
    if held:
        what = ", ".join(f"{channel} {holds(graph, place)}" for channel, place in held.items())
    way = "linear between pixels" if slot.filter == "smooth" else "nearest pixel"
    wraps = slot.wrap[0] if slot.wrap[0] == slot.wrap[1] else f"{slot.wrap[0]} along U, {slot.wrap[1]} along V"
    return f"{what}; {way}, {wraps}"
