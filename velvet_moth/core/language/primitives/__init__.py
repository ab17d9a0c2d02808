"""Declarations of all primitives, and functions over expressions that read like the formulas they stand for.

One file a subject; importing this package declares them all.
"""

from velvet_moth.core.language.primitives.arithmetic import (
    absolute,
    ceiling,
    floor,
    fract,
    maximum,
    minimum,
    mix,
    modulo,
    sign,
)
from velvet_moth.core.language.primitives.comparison import (
    assume,
    continuous,
    less,
    logical_and,
    logical_not,
    logical_or,
    select,
    where_less,
)
from velvet_moth.core.language.primitives.composed import (
    clamp,
    length,
    luminance,
    remap,
    saturate,
    smoothstep,
    splat,
    srgb_decoded,
    srgb_encoded,
    step,
)
from velvet_moth.core.language.primitives.elementary import (
    arccosine,
    arctangent,
    cosine,
    exponential,
    logarithm,
    power,
    sine,
    square_root,
)
from velvet_moth.core.language.primitives.random import cell_random
from velvet_moth.core.language.primitives.sampling import along_x, along_y, sample, settled_bias, texture_size
from velvet_moth.core.language.primitives.vector import combine, cross, dot, normalise

__all__ = [
    "absolute",
    "along_x",
    "along_y",
    "arccosine",
    "arctangent",
    "assume",
    "ceiling",
    "cell_random",
    "clamp",
    "combine",
    "continuous",
    "cosine",
    "cross",
    "dot",
    "exponential",
    "floor",
    "fract",
    "length",
    "less",
    "logarithm",
    "logical_and",
    "logical_not",
    "logical_or",
    "luminance",
    "maximum",
    "minimum",
    "mix",
    "modulo",
    "normalise",
    "power",
    "remap",
    "sample",
    "saturate",
    "select",
    "settled_bias",
    "sign",
    "sine",
    "smoothstep",
    "splat",
    "square_root",
    "srgb_decoded",
    "srgb_encoded",
    "step",
    "texture_size",
    "where_less",
]
