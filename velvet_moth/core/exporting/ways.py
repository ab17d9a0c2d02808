"""The ways out of the program that a graph has."""

from collections.abc import Mapping
from dataclasses import dataclass


@dataclass(frozen=True)
class Way:
    """One way: its name, and what leaves in a sentence."""

    name: str
    words: str


WAYS: Mapping[str, Way] = {
    "text": Way("Shader text", "Functions in an engine's language, with parameters as data and textures beside."),
    "baked": Way("Baked glTF", "The form with the standard's own material: every channel as a number or a texture."),
    "material": Way(
        "Material document", "MaterialX: the standard's glTF surface, and its own nodes for all that leads to it."
    ),
    "page": Way("A page that stands alone", "One HTML file with the stage inside, to show and to hand over."),
}
