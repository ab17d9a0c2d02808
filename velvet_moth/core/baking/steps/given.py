"""What is there already: a texture, the colours of the file, one number all over."""

from typing import Annotated as A

import numpy as np

from velvet_moth.core.baking.step import OnMesh, step
from velvet_moth.core.catalogue.settings import choice, number, texture
from velvet_moth.core.forms.mesh import Floats
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.making.layer import Layer

GROUP = "Given"
CHANNELS = ("red", "green", "blue", "alpha")


@step("Texture", GROUP)
def texture_at_uvs(
    on: OnMesh,
    picture: A[Layer, texture("the texture that is read")],
    reads: A[str, choice("grey", *CHANNELS, words="which of its channels; grey is the luminance of colours")] = "grey",
    repeat: A[float, number(0.01, 64, "how often it lies on one unit of the UVs")] = 1.0,
) -> Floats:
    """A texture read at the UVs of each vertex, smooth between its pixels. It is as fine as the mesh is."""
    if reads == "grey":
        values = picture.number
    elif reads == "alpha":
        values = picture.alpha
    else:
        values = picture.values[min(CHANNELS.index(reads), picture.channels - 1)]
    read = Texture((np.broadcast_to(values, (4, *values.shape)).astype(np.float32),))
    return np.asarray(read.sample((on.mesh.uvs * np.float32(repeat)).T[:, None], np.zeros((1, 1), np.float32))[0, 0])


@step("Colours of the file", GROUP)
def file_colours(on: OnMesh, channel: A[str, choice(*CHANNELS)] = "red") -> Floats:
    """What the file itself has at each vertex; 1 where it has no colours."""
    return on.mesh.colours[:, CHANNELS.index(channel)]


@step("Constant", GROUP)
def constant(on: OnMesh, value: A[float, number(0, 1)] = 1.0) -> Floats:
    """The same number at every vertex."""
    return np.full(on.count, value, dtype=np.float32)
