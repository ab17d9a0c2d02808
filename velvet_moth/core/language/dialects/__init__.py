"""Languages for shaders, one spelling table each."""

from collections.abc import Mapping

from velvet_moth.core.language.dialects.base import Dialect
from velvet_moth.core.language.dialects.glsl import GLSL_ES, GLSL_OPENGL, GLSL_VULKAN
from velvet_moth.core.language.dialects.hlsl import HLSL
from velvet_moth.core.language.dialects.wgsl import WGSL

__all__ = ["DIALECTS", "GLSL_ES", "Dialect"]

DIALECTS: Mapping[str, Dialect] = {one.key: one for one in (GLSL_ES, GLSL_OPENGL, GLSL_VULKAN, HLSL, WGSL)}
