"""Nodes whose type the catalogue does not hold: their ports travel with them, so that no wiring is lost.

Such a node is a use of a motif, or of a type that only a newer program knows.
"""

from dataclasses import dataclass
from functools import lru_cache
from typing import Annotated, Any

from velvet_moth.core.base.records import Number, OneOf, Text
from velvet_moth.core.catalogue.ports import Input, Output
from velvet_moth.core.catalogue.registry import Help, NodeType
from velvet_moth.core.language.expr import constant
from velvet_moth.core.language.types import P_SURFACE, PORT_TYPES
from velvet_moth.core.lighting.channels import default_surface


@dataclass(frozen=True)
class OutlinePort:
    """One input or output: ``type`` is the name of a port type, ``default`` an input's components."""

    key: Text
    name: Text
    type: Annotated[Text, OneOf({key: type_.words for key, type_ in PORT_TYPES.items()})]
    default: tuple[Number, ...] = ()
    low: Number = 0.0
    high: Number = 1.0


@dataclass(frozen=True)
class Outline:
    """The ports of a node, and what it says of itself."""

    name: Text
    inputs: tuple[OutlinePort, ...] = ()
    outputs: tuple[OutlinePort, ...] = ()
    sentence: Text = ""


def _stand_in(port: OutlinePort) -> Any:
    type_ = PORT_TYPES[port.type]
    if type_ is P_SURFACE:
        return default_surface()
    width = type_.value.width if type_.value else 1
    return constant(*[0.5] * max(width, 1))


@lru_cache(maxsize=512)
def outlined_kind(type_: str, outline: Outline) -> NodeType:
    """The node type an outline describes; built by itself, it gives middle grey."""
    sentence = outline.sentence or "This program does not know this type of node; it reads as middle grey."
    return NodeType(
        type_,
        outline.name,
        group="Motifs",
        inputs={
            p.key: Input(PORT_TYPES[p.type], p.default, p.low, p.high, key=p.key, name=p.name) for p in outline.inputs
        },
        settings={},
        outputs={p.key: Output(PORT_TYPES[p.type], p.name, p.key) for p in outline.outputs},
        body=lambda **_: tuple(_stand_in(p) for p in outline.outputs),
        help=Help(sentence, "", "", ()),
        hidden=True,
    )
