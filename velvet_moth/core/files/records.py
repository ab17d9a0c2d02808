"""Nodes, parameters, variants and marks to and from the plain data of files."""

from collections.abc import Mapping
from dataclasses import asdict
from typing import Any

from velvet_moth.core.catalogue.ports import spoken
from velvet_moth.core.catalogue.registry import CATALOGUE
from velvet_moth.core.document.graph import Node, Parameter, Source, Value, Variant, Wear
from velvet_moth.core.document.marks import LONGEST_NOTE, Bookmark, Frame, Mark, Note
from velvet_moth.core.document.outline import Outline, OutlinePort
from velvet_moth.core.files.reader import Reader
from velvet_moth.core.forms.view import Camera, SavedView
from velvet_moth.core.language.types import PORT_TYPES
from velvet_moth.core.lighting.decals import Decal


def _value_out(value: Value) -> Any:
    return value if isinstance(value, str) else list(value)


def node_out(node: Node) -> dict[str, Any]:
    out: dict[str, Any] = {"id": node.id, "type": node.type}
    if node.label:
        out["label"] = node.label
    if node.place is not None:
        out["place"] = list(node.place)
    if node.values:
        out["values"] = {k: _value_out(v) for k, v in sorted(node.values.items())}
    if node.settings:
        out["settings"] = dict(sorted(node.settings.items()))
    if node.outline:
        out["outline"] = _outline_out(node.outline)
    if node.muted:
        out["muted"] = True
    if node.wires:
        out["wires"] = {k: [s.node, s.output, *([s.part] * bool(s.part))] for k, s in sorted(node.wires.items())}
    return out


def _outline_out(outline: Outline) -> dict[str, Any]:
    def ports(found: tuple[OutlinePort, ...]) -> list[dict[str, Any]]:
        return [{**asdict(p), "default": list(p.default)} for p in found]

    return {
        "name": outline.name,
        "sentence": outline.sentence,
        "inputs": ports(outline.inputs),
        "outputs": ports(outline.outputs),
    }


def parameter_out(parameter: Parameter) -> dict[str, Any]:
    return asdict(parameter)


def variant_out(variant: Variant) -> dict[str, Any]:
    values = {k: _value_out(v) for k, v in sorted(variant.values.items())}
    return {"id": variant.id, "name": variant.name, "values": values, "base": variant.base, "note": variant.note}


def wear_in(entry: Reader) -> Wear:
    return Wear(entry.at("part").text(), entry.at("graph").text(), entry.at("variant", "").text())


def record_out(record: Mark | Decal | Camera | Wear) -> dict[str, Any]:
    """A record of plain values, its tuples as lists."""
    return {k: list(v) if isinstance(v, tuple) else v for k, v in asdict(record).items()}


def decal_in(entry: Reader) -> Decal:
    return Decal(
        _three(entry.at("place")),
        entry.at("turn", 0.0).number(),
        entry.at("tilt", 0.0).number(),
        entry.at("roll", 0.0).number(),
        _three(entry.at("size")),
        entry.at("index", 1.0).number(),
        _three(entry.at("tint", [1.0, 1.0, 1.0])),
    )


def view_out(view: SavedView) -> dict[str, Any]:
    camera = record_out(view.camera)
    return {"name": view.name, "camera": camera, "light_turn": view.light_turn, "light_tilt": view.light_tilt}


def view_in(entry: Reader) -> SavedView:
    eye = entry.at("camera")
    turn, tilt, distance, field = (eye.at(key).number() for key in ("turn", "tilt", "distance", "field"))
    camera = Camera(turn, tilt, distance, field, _three(eye.at("target")))
    return SavedView(entry.at("name").text(), camera, entry.at("light_turn").number(), entry.at("light_tilt").number())


def _three(entry: Reader) -> tuple[float, float, float]:
    found = [item.number() for item in entry.items()]
    if len(found) != 3:
        raise entry.refuse("Exactly three numbers are needed here.")
    return found[0], found[1], found[2]


def node_in(entry: Reader, read: Mapping[str, Mapping[str, str]]) -> Node:
    """A node; ``read`` tells for each node which of its outputs are read, and as what type."""
    place = entry.at("place", None)
    type_ = entry.at("type").text()
    outline = None if type_ in CATALOGUE else _outline_in(entry, type_, read)
    settings = {k: v.data for k, v in entry.at("settings", {}).fields().items()}
    return Node(
        entry.at("id").text(),
        type_,
        {k: v.value() for k, v in entry.at("values", {}).fields().items()},
        settings,
        {k: _source_in(v) for k, v in entry.at("wires", {}).fields().items()},
        entry.at("label", "").text(),
        None if place.data is None else next(iter(place.strictly(Reader.point)), None),
        outline,
        entry.at("muted", False).yes_or_no(),
    )


def _source_in(entry: Reader) -> Source:
    """The far end of a wire: node and output, and which part where it takes less than all."""
    found = [item.text() for item in entry.items()]
    if len(found) not in (2, 3):
        raise entry.refuse("A wire has a node and an output, and at most a part.")
    return Source(*found)


def _outline_in(entry: Reader, type_: str, read: Mapping[str, Mapping[str, str]]) -> Outline:
    """The ports a file tells of a node this program does not know, or those its wiring shows."""
    told = entry.at("outline", None)
    if told.data is None:
        wires, values = (entry.at(k, {}).fields() for k in ("wires", "values"))
        inputs = tuple(OutlinePort(k, spoken(k), "flexible", (0.5,)) for k in dict.fromkeys([*wires, *values]))
        outputs = tuple(OutlinePort(k, spoken(k), t) for k, t in read.get(entry.at("id").text(), {}).items())
        return Outline(f"Unknown: {type_}"[:80], inputs, outputs)

    def port(p: Reader) -> OutlinePort:
        type_name = p.at("type").text()
        if type_name not in PORT_TYPES:
            raise p.refuse(f"The port type {type_name!r} is not known.")
        default = tuple(c.number() for c in p.at("default", []).items())
        low, high = p.at("low", 0.0).number(), p.at("high", 1.0).number()
        return OutlinePort(p.at("key").text(), p.at("name").text(), type_name, default, low, high)

    inputs, outputs = (tuple(port(p) for p in told.at(side).items()) for side in ("inputs", "outputs"))
    return Outline(told.at("name").text(), inputs, outputs, told.at("sentence", "").text())


def outputs_read(file: Reader) -> dict[str, dict[str, str]]:
    """For each node the outputs that wires read, with the type of an input that reads it."""
    found: dict[str, dict[str, str]] = {}

    def look_at(entry: Reader) -> None:
        kind = CATALOGUE.get(entry.at("type").text())
        for key, wire in entry.at("wires", {}).fields().items():
            source, output = _source_in(wire).whole.node, _source_in(wire).output
            taken = kind.inputs[key].type.name if kind and key in kind.inputs else "number"
            told = found.setdefault(source, {})
            # An input that takes anything tells nothing.
            told[output] = told.get(output, "number") if taken in ("flexible", "number") else taken

    # What is wrong with a node is noted where the node itself is read.
    Reader(file.data, file.where, None if file.mended is None else []).at("nodes").each(look_at)
    return found


def parameter_in(entry: Reader) -> Parameter:
    key, name, node, input_ = (entry.at(k).text() for k in ("id", "name", "node", "input"))
    low, high, step = (entry.at(k, d).number() for k, d in (("low", 0.0), ("high", 1.0), ("step", 0.01)))
    unit, group, help_ = (entry.at(k, "").text() for k in ("unit", "group", "help"))
    return Parameter(key, name, node, input_, low, high, step, unit, group, help_)


def variant_in(entry: Reader) -> Variant:
    values = {k: v.value() for k, v in entry.at("values", {}).fields().items()}
    base, note = entry.at("base", "").text(), entry.at("note", "").text(LONGEST_NOTE)
    return Variant(entry.at("id").text(), entry.at("name").text(), values, base, note)


def _frame_in(key: str, entry: Reader) -> Mark:
    nodes = tuple(n.text() for n in entry.at("nodes").items())
    tint, folded = entry.at("tint", "stone").text(), entry.at("folded", False).yes_or_no()
    return Frame(key, entry.at("title").text(), nodes, tint, folded)


def _note_in(key: str, entry: Reader) -> Mark:
    return Note(key, entry.at("text").text(LONGEST_NOTE), entry.at("place").point())


def _bookmark_in(key: str, entry: Reader) -> Mark:
    return Bookmark(key, entry.at("title").text(), entry.at("place").point(), entry.at("zoom", 1.0).number())


_MARKS_IN = {Frame.kind: _frame_in, Note.kind: _note_in, Bookmark.kind: _bookmark_in}


def mark_in(entry: Reader) -> Mark:
    kind, key = entry.at("kind").text(), entry.at("id").text()
    if kind not in _MARKS_IN:
        raise entry.refuse(f"The kind of mark {kind!r} is not known.", "Update the program.")
    return _MARKS_IN[kind](key, entry)
