"""What the ports of a node must be that the catalogue does not hold: a motif, or a node of a newer program."""

import json
import math
from collections.abc import Mapping, Sequence
from typing import Any

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.base.records import LARGEST_NUMBER
from velvet_moth.core.catalogue.ports import Input
from velvet_moth.core.document.checks import check_id, checked_name
from velvet_moth.core.document.outline import Outline, OutlinePort
from velvet_moth.core.document.values import fits
from velvet_moth.core.language.types import P_SURFACE, P_TEXTURE, PORT_TYPES

MOST_PORTS = 500
LONGEST_SENTENCE = 200
# What a setting of an unknown node may hold: plain data, this deep and this long as JSON.
DEEPEST = 6
LONGEST_SETTING = 4000


def checked_outline(outline: Outline, of: str) -> Outline:
    """The outline with its names cleaned; OperationRefused says which port is wrong."""
    for ports, side in ((outline.inputs, "input"), (outline.outputs, "output")):
        keys = [port.key for port in ports]
        if len(ports) > MOST_PORTS:
            raise OperationRefused(f"A node has at most {MOST_PORTS} {side}s.", of, "Leave some out.")
        if len(set(keys)) < len(keys):
            raise OperationRefused(f"Two {side}s of one node have the same key.", of, "Give each a key of its own.")
        for port in ports:
            _check_port(port, f"{of}, {side} {port.key[:40]}", is_input=side == "input")
    sentence = " ".join(outline.sentence.split())
    if len(sentence) > LONGEST_SENTENCE or not (sentence or "x").isprintable():
        raise OperationRefused(f"A sentence has at most {LONGEST_SENTENCE} letters.", of, "Use fewer words.")
    name = checked_name(outline.name, of)
    return Outline(name, outline.inputs, outline.outputs, sentence)


def _check_port(port: OutlinePort, where: str, is_input: bool) -> None:
    check_id(port.key, where)
    checked_name(port.name, where)
    if port.type not in PORT_TYPES:
        raise OperationRefused(
            f"The port type {port.type[:40]!r} is not known.", where, f"Use {', '.join(PORT_TYPES)}."
        )
    if not (abs(port.low) <= LARGEST_NUMBER and abs(port.high) <= LARGEST_NUMBER):
        raise OperationRefused(
            f"A range lies between -{LARGEST_NUMBER:g} and {LARGEST_NUMBER:g}.", where, "Choose nearer ends."
        )
    type_ = PORT_TYPES[port.type]
    if type_ in (P_TEXTURE, P_SURFACE) or not is_input:
        if port.default:
            raise OperationRefused("This port has no numbers of its own.", where, "Leave its default empty.")
    elif not fits(Input(type_, (0.0,) * (type_.value.width if type_.value else 1)), port.default):
        raise OperationRefused(f"The default must be {type_.words}.", where, "Give it as many numbers.")


def is_plain(value: Any, depth: int = 0) -> bool:
    """Whether a value is plain data that every reader of JSON takes: no endless numbers, not too deep."""
    if depth > DEEPEST:
        return False
    if isinstance(value, str):
        return (value or "x").isprintable()
    if value is None or isinstance(value, bool):
        return True
    if isinstance(value, (int, float)):
        return math.isfinite(value) and abs(value) <= LARGEST_NUMBER
    if isinstance(value, Mapping):
        return all(isinstance(key, str) and is_plain(key, depth) and is_plain(v, depth + 1) for key, v in value.items())
    return isinstance(value, Sequence) and all(is_plain(v, depth + 1) for v in value)


def check_settings(settings: Mapping[str, Any], of: str) -> None:
    """Whether the settings of an unknown node can be kept and written again."""
    if not is_plain(settings) or len(json.dumps(settings)) > LONGEST_SETTING:
        raise OperationRefused(
            "The settings of a node that is not known hold more than short plain texts and numbers.",
            of,
            "Leave these settings out.",
        )
