"""GLSL ES 3.00: readable text with one named local per shared value and one function per traced node.

No name in the text comes from the artist: names and comments are the catalogue's own.
"""

from velvet_moth.core.language.interpreters.glsl.shader import (
    Needs,
    Shader,
    clear_caches,
    emit,
    emit_on_screen,
    emit_pixels,
)
from velvet_moth.core.language.interpreters.text.layout import SamplerSlot, Slot
from velvet_moth.core.language.interpreters.text.spelling import number_text

__all__ = [
    "Needs",
    "SamplerSlot",
    "Shader",
    "Slot",
    "clear_caches",
    "emit",
    "emit_on_screen",
    "emit_pixels",
    "number_text",
]
