"""Heights and what follows from them: normals and back, occlusion, curvature."""

from typing import Annotated as A

import numpy as np

from velvet_moth.core.catalogue.settings import choice, number, picture
from velvet_moth.core.language.texture import Floats
from velvet_moth.core.making.adjust import blurred
from velvet_moth.core.making.layer import Canvas, Layer, number_layer
from velvet_moth.core.making.step import step

HEIGHT = picture("the height")
WRAP = choice("repeats", "ends", words="what comes after the edges")


def _slopes(height: Floats, wrap: str) -> tuple[Floats, Floats]:
    """Central differences to the right and up, in height a pixel."""
    around = np.pad(height, 1, "wrap" if wrap == "repeats" else "edge")
    right = (around[1:-1, 2:] - around[1:-1, :-2]) * np.float32(0.5)
    up = (around[2:, 1:-1] - around[:-2, 1:-1]) * np.float32(0.5)
    return right, up


@step("Normal from height", "Height")
def normal_from_height(
    canvas: Canvas,
    height: A[Layer, HEIGHT],
    strength: A[float, number(0, 0.5, "how high 1 is, as a share of the width")] = 0.03,
    green: A[str, choice("up", "down", words="the way green points")] = "up",
    wrap: A[str, WRAP] = "repeats",
) -> Layer:
    """The normal map of a height. Slopes are central differences; every normal has unit length."""
    right, up = (slope * np.float32(canvas.pixels(strength)) for slope in _slopes(height.number, wrap))
    length = np.sqrt(right * right + up * up + 1)
    values = np.stack((-right / length, (-up if green == "up" else up) / length, 1 / length))
    return Layer(values.astype(np.float32), "normal")


@step("Height from normal", "Height")
def height_from_normal(
    canvas: Canvas,
    normal: A[Layer, picture("the normal map, green up")],
    strength: A[float, number(0.001, 0.5, "how high 1 is, as a share of the width")] = 0.03,
    wrap: A[str, WRAP] = "repeats",
) -> Layer:
    """The height whose slopes come nearest to a normal map's, with its middle at 0.5.

    Frankot and Chellappa, "A method for enforcing integrability in shape from shading" (1988), with the response of
    central differences, so that it undoes the step above; a picture that ends is mirrored at its edges first.
    """
    depth = np.maximum(normal.values[2], 0.02)
    right, up = -normal.values[0] / depth, -normal.values[1] / depth
    if wrap == "ends":
        right = np.block([[right, -right[:, ::-1]], [right[::-1], -right[::-1, ::-1]]])
        up = np.block([[up, up[:, ::-1]], [-up[::-1], -up[::-1, ::-1]]])
    rows, columns = right.shape
    wave_x = 1j * np.sin(2 * np.pi * np.fft.rfftfreq(columns))[None]
    wave_y = 1j * np.sin(2 * np.pi * np.fft.fftfreq(rows))[:, None]
    power = np.abs(wave_x) ** 2 + np.abs(wave_y) ** 2
    # The mean and the finest checker leave no slope behind: they cannot be told.
    unknown = power < 1e-9
    spectrum = (np.conj(wave_x) * np.fft.rfft2(right) + np.conj(wave_y) * np.fft.rfft2(up)) / np.where(
        unknown, 1, power
    )
    spectrum[unknown] = 0
    found = np.fft.irfft2(spectrum, s=(rows, columns))[: canvas.rows, : canvas.columns]
    return number_layer(found / canvas.pixels(strength) + 0.5, "height")


@step("Occlusion from height", "Height")
def occlusion_from_height(
    canvas: Canvas,
    height: A[Layer, HEIGHT],
    depth: A[float, number(0.001, 0.5, "how high 1 is, as a share of the width")] = 0.05,
    radius: A[float, number(0.005, 0.3, "how far off things still shade, as a share of the width")] = 0.06,
    strength: A[float, number(0, 3)] = 1.0,
) -> Layer:
    """How much of the sky each place sees: 1 in the open, less in clefts. Horizons are looked for in twelve directions.

    Horizon-based occlusion after Bavoil, Sainz, Dimitrov, "Image-space horizon-based ambient occlusion" (2008).
    """
    values = height.number * np.float32(canvas.pixels(depth))
    reach = max(2.0, canvas.pixels(radius))
    seen = np.zeros(canvas.shape, dtype=np.float32)
    turns, steps = 12, 6
    for turn in range(turns):
        angle = 2 * np.pi * turn / turns
        horizon = np.zeros(canvas.shape, dtype=np.float32)
        taken = set()
        for i in range(1, steps + 1):
            far = reach * (i / steps) ** 1.5
            dx, dy = round(np.cos(angle) * far), round(np.sin(angle) * far)
            if (dx, dy) in taken or (dx, dy) == (0, 0):
                continue
            taken.add((dx, dy))
            rise = np.roll(values, (-dy, -dx), axis=(0, 1)) - values
            np.maximum(horizon, rise / np.float32(np.hypot(dx, dy)), out=horizon)
        # The sine of the horizon's angle is the share of the half-plane it hides.
        seen += 1 - horizon / np.sqrt(1 + horizon * horizon)
    return number_layer(np.clip(1 - (1 - seen / turns) * strength, 0, 1))


@step("Curvature from height", "Height")
def curvature_from_height(
    canvas: Canvas,
    height: A[Layer, HEIGHT],
    radius: A[float, number(0.001, 0.1, "the width of the edges looked for, as a share of the width")] = 0.006,
    strength: A[float, number(0.1, 20)] = 4.0,
) -> Layer:
    """Ridges above 0.5, grooves below it, 0.5 where it is flat: where paint wears off and dirt gathers."""
    inner = blurred(height.values[:1], canvas.pixels(radius) * 0.5)
    outer = blurred(height.values[:1], canvas.pixels(radius) * 1.5)
    return number_layer(np.clip(0.5 + (inner[0] - outer[0]) * strength, 0, 1))
