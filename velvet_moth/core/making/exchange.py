"""From pictures to layers and back: decoding by how a picture is read, encoding by what a layer means."""

import numpy as np

from velvet_moth.core.language.texture import linear_to_srgb, srgb_to_linear
from velvet_moth.core.making.layer import Canvas, Layer, fitted, unit_length
from velvet_moth.core.pictures.formats import Picture
from velvet_moth.core.pictures.inspection import values_of
from velvet_moth.core.pictures.reading import ROLES, Reading

DEPTHS = ("8 bit", "16 bit", "half float")


def layer_of(picture: Picture, reading: Reading, canvas: Canvas) -> Layer:
    """A picture as it is read, at the size of the canvas: colours as light, directions -1..1 with green up."""
    values = values_of(picture)
    role = ROLES[reading.role]
    if role.is_colour and picture.depth.startswith("uint"):
        colours = values[:3] if picture.channels > 2 else values[:1]
        values = np.concatenate((srgb_to_linear(colours), values[len(colours) :]))
    if role.is_signed:
        values = values[:3] * 2 - 1
        if reading.turns_green:
            values = values * np.array((1, -1, 1), dtype=np.float32)[: len(values)].reshape(-1, 1, 1)
    values = np.ascontiguousarray(values, dtype=np.float32)
    return fitted(Layer(unit_length(values) if reading.role == "normal" else values, reading.role), canvas)


def picture_of(layer: Layer, depth: str) -> Picture:
    """A layer as a file holds it: colours encoded as sRGB, directions as 0..1; half floats as they stand."""
    values, role = layer.values, ROLES[layer.role]
    if role.is_signed:
        values = values * np.float32(0.5) + np.float32(0.5)
        if len(values) == 2:
            values = np.concatenate((values, np.full_like(values[:1], 0.5)))
    elif role.is_colour and depth != "half float":
        count = 3 if len(values) > 2 else 1
        values = np.concatenate((linear_to_srgb(values[:count]), values[count:]))
    samples = values.transpose(1, 2, 0)
    if depth == "half float":
        return Picture(np.ascontiguousarray(samples.astype(np.float16)))
    kind = np.uint8 if depth == "8 bit" else np.uint16
    most = np.float32(np.iinfo(kind).max)
    return Picture(np.ascontiguousarray(np.rint(np.clip(samples, 0, 1) * most).astype(kind)))
