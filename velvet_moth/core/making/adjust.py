"""Steps that change one picture."""

from typing import Annotated as A

import cv2
import numpy as np

from velvet_moth.core.catalogue.settings import choice, number, picture, stops, whole
from velvet_moth.core.language.texture import Floats
from velvet_moth.core.making.layer import Canvas, Layer, fitted, number_layer, smooth
from velvet_moth.core.making.step import step

BEFORE = picture("what is changed")


def repeated(values: Floats, margin: int) -> Floats:
    """The picture with a border of what comes after its edges."""
    return np.pad(values, ((0, 0), (margin, margin), (margin, margin)), "wrap")


def blurred(values: Floats, sigma: float) -> Floats:
    """A Gaussian blur that goes on over the edges; ``sigma`` in pixels."""
    if sigma < 0.15:
        return values
    rows, columns = values.shape[1:]
    margin = min(int(sigma * 4) + 1, rows, columns)
    wide = repeated(values, margin)
    out = [cv2.GaussianBlur(plane, (0, 0), sigma)[margin:-margin, margin:-margin] for plane in wide]
    return np.ascontiguousarray(np.stack(out), dtype=np.float32)


@step("Blur", "Adjust")
def blur(
    canvas: Canvas,
    before: A[Layer, BEFORE],
    radius: A[float, number(0, 0.2, "as a share of the width")] = 0.01,
) -> Layer:
    """Softens, going on over the edges."""
    return Layer(blurred(before.values, canvas.pixels(radius)), before.role)


@step("Levels", "Adjust")
def levels(
    canvas: Canvas,
    before: A[Layer, BEFORE],
    low: A[float, number(-1, 2, "what becomes 0")] = 0.0,
    high: A[float, number(-1, 2, "what becomes 1")] = 1.0,
    middle: A[float, number(0.1, 10, "above 1 lifts the middle, below lowers it")] = 1.0,
    out_low: A[float, number(0, 1)] = 0.0,
    out_high: A[float, number(0, 1)] = 1.0,
) -> Layer:
    """Stretches what lies between two values over another range, with the middle lifted or lowered."""
    span = high - low if abs(high - low) > 1e-6 else 1e-6
    values = np.clip((before.values - low) / span, 0, 1) ** (1 / middle) * (out_high - out_low) + out_low
    return Layer(_with_alpha(before, values.astype(np.float32)), before.role)


def _with_alpha(before: Layer, values: Floats) -> Floats:
    """Alpha is no colour: it stays as it was."""
    if before.channels == 4:
        values[3] = before.values[3]
    return values


@step("Invert", "Adjust")
def invert(canvas: Canvas, before: A[Layer, BEFORE]) -> Layer:
    """One less each value; directions point the other way."""
    values = -before.values if before.role in ("normal", "flow") else 1 - before.values
    return Layer(_with_alpha(before, values.astype(np.float32)), before.role)


@step("Threshold", "Adjust")
def threshold(
    canvas: Canvas,
    before: A[Layer, BEFORE],
    at: A[float, number(0, 1)] = 0.5,
    softness: A[float, number(0, 1)] = 0.02,
) -> Layer:
    """White above a value, black below it."""
    return number_layer(smooth(at - softness / 2, at + softness / 2, before.number))


@step("Warp", "Adjust")
def warp(
    canvas: Canvas,
    before: A[Layer, BEFORE],
    by: A[Layer, picture("the picture whose slopes push")],
    amount: A[float, number(0, 0.3, "as a share of the width")] = 0.03,
) -> Layer:
    """Pushes a picture along the slopes of another one: straight lines begin to wander."""
    field = by.number
    span = max(float(np.ptp(field)), 1e-6)
    right = (np.roll(field, -1, 1) - np.roll(field, 1, 1)) * canvas.columns / span
    up = (np.roll(field, -1, 0) - np.roll(field, 1, 0)) * canvas.columns / span
    scale = canvas.pixels(amount) / max(float(np.percentile(np.hypot(right, up), 95)), 1e-6)
    x = (np.arange(canvas.columns, dtype=np.float32)[None] + right * scale) % canvas.columns
    y = (np.arange(canvas.rows, dtype=np.float32)[:, None] + up * scale) % canvas.rows
    wide = repeated(before.values, 1)
    maps = (x + 1).astype(np.float32), (y + 1).astype(np.float32)
    out = [cv2.remap(plane, *maps, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE) for plane in wide]
    return Layer(np.stack(out).astype(np.float32), before.role)


@step("Make tileable", "Adjust")
def make_tileable(
    canvas: Canvas,
    before: A[Layer, BEFORE],
    border: A[float, number(0.02, 0.5, "over which the edges flow into each other")] = 0.2,
) -> Layer:
    """Blends a picture with itself moved by a half, so that it repeats without a seam; its contrast is kept."""
    values = before.values
    moved = np.roll(values, (canvas.rows // 2, canvas.columns // 2), axis=(1, 2))
    u, v = canvas.uv()
    edge = np.minimum(np.minimum(u, 1 - u), np.minimum(v, 1 - v) * canvas.aspect).astype(np.float32)
    share = smooth(0, border, np.broadcast_to(edge, canvas.shape))
    # The moved copy has its own seam in the middle of each edge pair, where the first one is whole.
    mean = values.mean(axis=(1, 2), keepdims=True)
    weight = np.sqrt(share**2 + (1 - share) ** 2)
    mixed = ((values - mean) * share + (moved - mean) * (1 - share)) / weight + mean
    return Layer(np.asarray(mixed, dtype=np.float32), before.role)


@step("Place", "Adjust")
def place(
    canvas: Canvas,
    before: A[Layer, BEFORE],
    repeat: A[int, whole(1, 32, "times over the width and the height")] = 1,
    right: A[float, number(-1, 1)] = 0.0,
    up: A[float, number(-1, 1)] = 0.0,
    turn: A[str, choice("0", "90", "180", "270", words="degrees, counter-clockwise")] = "0",
) -> Layer:
    """Repeats, moves and turns a picture."""
    turned = np.rot90(before.values, -(int(turn) // 90) % 4, axes=(1, 2))
    x = ((np.arange(canvas.columns) + 0.5) / canvas.columns * repeat - right) % 1.0
    y = ((np.arange(canvas.rows) + 0.5) / canvas.rows * repeat - up) % 1.0
    source = np.ascontiguousarray(turned)
    if repeat > 1:
        small = (max(1, canvas.columns // repeat), max(1, canvas.rows // repeat))
        source = np.stack([cv2.resize(p, small, interpolation=cv2.INTER_AREA) for p in source])
    rows, columns = source.shape[1:]
    return Layer(source[:, (y * rows).astype(int)][:, :, (x * columns).astype(int)], before.role)


SHARES = {"an eighth": 1 / 8, "a quarter": 1 / 4, "a half": 1 / 2, "twice": 2.0}


@step("Resize", "Adjust")
def resize(
    canvas: Canvas,
    before: A[Layer, BEFORE],
    size: A[str, choice(*SHARES, words="of the stack's size")] = "a half",
    pixels: A[
        str, choice("blend", "keep", words="whether new pixels are means of the old ones, or one of them")
    ] = "blend",
) -> Layer:
    """Makes a picture smaller or larger than the stack: a texture made of it has that size. Later steps work at the
    stack's own size again."""
    share = SHARES[size]
    wanted = Canvas(max(1, round(canvas.columns * share)), max(1, round(canvas.rows * share)))
    if pixels == "blend":
        return fitted(before, wanted)
    x = ((np.arange(wanted.columns) + 0.5) / wanted.columns * canvas.columns).astype(int)
    y = ((np.arange(wanted.rows) + 0.5) / wanted.rows * canvas.rows).astype(int)
    return Layer(np.ascontiguousarray(before.values[:, y][:, :, x]), before.role)


@step("Colourise", "Adjust")
def colourise(
    canvas: Canvas,
    before: A[Layer, BEFORE],
    gradient: A[tuple[float, ...], stops("the colour of each value")] = (
        0.0,
        0.03,
        0.02,
        0.015,
        0.5,
        0.22,
        0.12,
        0.06,
        1.0,
        0.75,
        0.6,
        0.42,
    ),
) -> Layer:
    """Gives each value the colour that stands at its place in a gradient."""
    held = np.array(gradient, dtype=np.float32).reshape(-1, 4)
    number = np.clip(before.number, 0, 1)
    colours = np.stack([np.interp(number, held[:, 0], held[:, c]) for c in (1, 2, 3)]).astype(np.float32)
    if before.channels == 4:
        colours = np.concatenate((colours, before.values[3:]))
    return Layer(colours, "colour")
