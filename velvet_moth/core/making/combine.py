"""Steps that bring several pictures together, and take one apart."""

from collections.abc import Callable, Mapping
from typing import Annotated as A

import numpy as np

from velvet_moth.core.catalogue.settings import choice, number, picture
from velvet_moth.core.language.texture import Floats
from velvet_moth.core.making.layer import Canvas, Layer, number_layer, unit_length
from velvet_moth.core.making.step import step

Mixing = Callable[[Floats, Floats], Floats]
MIXINGS: Mapping[str, Mixing] = {
    "cover": lambda a, b: b,
    "multiply": lambda a, b: a * b,
    "add": lambda a, b: a + b,
    "subtract": lambda a, b: a - b,
    "lighter": np.maximum,
    "darker": np.minimum,
    "screen": lambda a, b: 1 - (1 - a) * (1 - b),
    "contrast": lambda a, b: np.where(a < 0.5, 2 * a * b, 1 - 2 * (1 - a) * (1 - b)),
}


def _alike(a: Layer, b: Layer) -> tuple[Floats, Floats]:
    """Both with as many channels: numbers beside colours become grey; alpha stands where either has it."""
    if a.channels == b.channels:
        return a.values, b.values
    if {a.channels, b.channels} <= {1, 2}:
        return a.values[:1], b.values[:1]
    has_alpha = 4 in (a.channels, b.channels)
    found = [np.concatenate((x.colour, x.alpha[None])) if has_alpha else x.colour for x in (a, b)]
    return found[0], found[1]


@step("Blend", "Combine")
def blend(
    canvas: Canvas,
    under: A[Layer, picture("what lies beneath")],
    over: A[Layer, picture("what is laid over it")],
    mask: A[Layer | None, picture("where: white is all of it, black nothing", optional=True)] = None,
    mode: A[str, choice(*MIXINGS)] = "cover",
    amount: A[float, number(0, 1)] = 1.0,
) -> Layer:
    """Lays one picture over another where a mask says; normals are brought back to unit length."""
    low, high = _alike(under, over)
    share = np.float32(amount) * (mask.number if mask is not None else np.float32(1))
    if mask is None and over.channels == 4 and mode == "cover":
        share = share * over.alpha
    mixed = np.asarray(low + (MIXINGS[mode](low, high) - low) * share, dtype=np.float32)
    role = under.role if under.channels >= over.channels else over.role
    if role == "normal":
        mixed = unit_length(mixed)
    return Layer(mixed, role)


CHANNELS = ("red", "green", "blue", "alpha", "luminance")
PACKED = choice(*CHANNELS, words="of that picture")


def channel(layer: Layer | None, key: str, missing: float, canvas: Canvas) -> Floats:
    """One channel of a layer as a file would hold it; grey pictures give theirs for red, green and blue."""
    if layer is None:
        return np.full(canvas.shape, missing, dtype=np.float32)
    if key == "luminance":
        return layer.number
    if key == "alpha":
        return layer.alpha
    index = CHANNELS.index(key)
    held = layer.values[index] if layer.channels > 2 or (layer.channels == 2 and index < 2) else layer.values[0]
    return np.asarray(held * np.float32(0.5) + np.float32(0.5) if layer.role in ("normal", "flow") else held)


@step("Pack channels", "Combine")
def pack_channels(
    canvas: Canvas,
    red: A[Layer | None, picture("to red", optional=True)] = None,
    red_from: A[str, PACKED] = "luminance",
    green: A[Layer | None, picture("to green", optional=True)] = None,
    green_from: A[str, PACKED] = "luminance",
    blue: A[Layer | None, picture("to blue", optional=True)] = None,
    blue_from: A[str, PACKED] = "luminance",
    alpha: A[Layer | None, picture("to alpha", optional=True)] = None,
    alpha_from: A[str, PACKED] = "luminance",
) -> Layer:
    """Any channel of any picture into red, green, blue and alpha: four masks in one texture."""
    found = [
        channel(red, red_from, 0, canvas),
        channel(green, green_from, 0, canvas),
        channel(blue, blue_from, 0, canvas),
    ]
    if alpha is not None:
        found.append(channel(alpha, alpha_from, 1, canvas))
    return Layer(np.stack(found), "data")


@step("One channel", "Combine", ("picture", "green", "blue", "alpha"))
def split_channels(
    canvas: Canvas, before: A[Layer, picture("what is taken apart")]
) -> tuple[Layer, Layer, Layer, Layer]:
    """Takes a picture apart: red (what goes on), green, blue and alpha, each a picture of its own."""
    return tuple(number_layer(channel(before, key, 1, canvas)) for key in CHANNELS[:4])  # type: ignore[return-value] # four


@step("Metal set", "Sets", ("base_colour", "metallic", "roughness", "specular", "bump"))
def metal_set(
    canvas: Canvas,
    base: A[Layer, picture("the colour of the metal")],
    dirt: A[Layer, picture("where it is dirty: white")],
    scratches: A[Layer | None, picture("where it is scratched: white", optional=True)] = None,
    metal_roughness: A[float, number(0, 1)] = 0.28,
    dirt_roughness: A[float, number(0, 1)] = 0.85,
    scratch_roughness: A[float, number(-0.5, 0.5, "added where it is scratched")] = 0.12,
    dirt_height: A[float, number(0, 0.5, "above the metal")] = 0.2,
    scratch_depth: A[float, number(0, 0.5, "below it")] = 0.25,
    dirt_darkens: A[float, number(0, 1)] = 0.55,
) -> tuple[Layer, Layer, Layer, Layer, Layer]:
    """From the colour of a metal and a mask of dirt all its maps in one go: base colour, metallic, roughness,
    specular colour, and a bump with 0.5 in the middle, scratches down and dirt up."""
    dirty = np.clip(dirt.number, 0, 1)
    scratched = np.clip(scratches.number, 0, 1) * (1 - dirty) if scratches is not None else np.zeros_like(dirty)
    earth = np.array((0.10, 0.075, 0.05), dtype=np.float32).reshape(3, 1, 1)
    soiled = base.colour * (1 - dirt_darkens) + earth * dirt_darkens
    colours = base.colour + (soiled - base.colour) * dirty
    metallic = 1 - dirty
    roughness = metal_roughness + (dirt_roughness - metal_roughness) * dirty + scratched * scratch_roughness
    # A metal reflects in its own colour, dirt as any dielectric with an index of refraction of 1.5 does: 4 %.
    specular = base.colour * metallic + 0.04 * dirty
    bump = 0.5 + dirty * dirt_height - scratched * scratch_depth
    return (
        Layer(np.asarray(colours, dtype=np.float32), "colour"),
        number_layer(metallic),
        number_layer(np.clip(roughness, 0, 1)),
        Layer(np.asarray(specular, dtype=np.float32), "colour"),
        number_layer(np.clip(bump, 0, 1), "height"),
    )
