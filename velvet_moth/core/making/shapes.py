"""Shapes with an edge: leaves and petals, drops and splashes, strands of hair on a card."""

from typing import Annotated as A

import cv2
import numpy as np

from velvet_moth.core.base.hashing import cell_randoms
from velvet_moth.core.catalogue.settings import choice, colour, number, whole
from velvet_moth.core.language.texture import Floats
from velvet_moth.core.making.layer import Canvas, Layer, number_layer, smooth
from velvet_moth.core.making.noise import layered
from velvet_moth.core.making.step import SEED, step


def _blade(canvas: Canvas, shape: str, width: float, teeth: int, notch: float) -> tuple[Floats, Floats, Floats]:
    """How far inside a leaf's edge each pixel is, the place along its rib 0..1, and across it -1..1."""
    u, v = canvas.uv()
    along = np.broadcast_to((v - 0.04) / 0.92, canvas.shape)
    across = np.broadcast_to((u - 0.5) * 2, canvas.shape)
    inside = np.clip(along, 0, 1)
    outline = {
        "lance": np.sin(np.pi * inside**0.8) * (1 - inside * 0.35),
        "heart": np.sin(np.pi * np.clip(inside * 0.94 + 0.06, 0, 1)).clip(0) ** 0.55 * (1 - inside) ** 0.35 * 1.25,
        "round": np.sqrt(np.clip(1 - (inside * 2 - 1) ** 2, 0, 1)),
        "petal": inside**0.7 * np.sqrt(np.clip(1 - inside**6, 0, 1)),
    }[shape]
    if teeth:
        outline = outline * (1 - notch * 0.25 * np.abs((inside * teeth) % 1.0))
    half = np.maximum(outline * width, 1e-4)
    edge = np.where((along > 0) & (along < 1), half - np.abs(across), -1)
    return edge.astype(np.float32), inside.astype(np.float32), (across / half).astype(np.float32)


@step("Leaf or petal", "Shapes", ("picture", "height", "thickness"))
def leaf(
    canvas: Canvas,
    shape: A[str, choice("lance", "heart", "round", "petal")] = "lance",
    width: A[float, number(0.05, 1, "against the height of the picture")] = 0.6,
    teeth: A[int, whole(0, 60, "along each edge")] = 0,
    notch: A[float, number(0, 1, "how deep they cut")] = 0.5,
    veins: A[int, whole(0, 30, "on each side of the rib")] = 9,
    blade: A[tuple[float, float, float], colour("between the veins")] = (0.05, 0.16, 0.03),
    vein: A[tuple[float, float, float], colour("along them")] = (0.16, 0.30, 0.08),
    seed: A[int, SEED] = 1,
) -> tuple[Layer, Layer, Layer]:
    """One leaf or petal on a card: colour with alpha, a height with rib and veins, and how much light comes through."""
    edge, along, across = _blade(canvas, shape, width, teeth, notch)
    fine = 2.0 / canvas.columns
    alpha = smooth(-fine, fine, edge)
    rib = 1 - smooth(0.0, 0.1, np.abs(across) + (along - 0.5) * 0.02)
    lean = along - np.abs(across) * 0.22
    beat = np.abs((lean * veins) % 1.0 - 0.5) * 2 if veins else np.zeros_like(lean)
    side = (1 - smooth(0.0, 0.16, 1 - beat)) * np.clip(1.1 - np.abs(across), 0, 1)
    lines = np.maximum(rib, side * 0.7)
    mottled = layered(canvas, 6, 4, 0.6, seed)
    base, bright = (np.array(c, dtype=np.float32).reshape(3, 1, 1) for c in (blade, vein))
    tinted = base + (bright - base) * np.clip(lines + mottled * 0.25, 0, 1)
    tinted = tinted * (1 + mottled * 0.3 + (0.5 - np.abs(across)) * 0.15)
    height = np.clip(0.55 + 0.25 * (1 - across**2) - 0.35 * lines + mottled * 0.08, 0, 1) * (edge > 0)
    through = np.clip(0.75 - lines * 0.5 + mottled * 0.2, 0, 1)
    picture = np.concatenate((np.clip(tinted, 0, 1), alpha[None])).astype(np.float32)
    return Layer(picture, "colour"), number_layer(height, "height"), number_layer(through * alpha)


@step("Drop", "Shapes", ("picture", "height"))
def drop(
    canvas: Canvas,
    size: A[float, number(0.02, 1, "of the picture's width")] = 0.7,
    tail: A[float, number(0, 1, "how long a drop that runs leaves behind")] = 0.0,
    wobble: A[float, number(0, 1)] = 0.15,
    seed: A[int, SEED] = 1,
) -> tuple[Layer, Layer]:
    """One drop from above: its shape as a mask, and its height as that of a dome of water."""
    u, v = canvas.uv()
    x, y = (u - 0.5) * 2, (v - 0.5) * 2 * canvas.aspect
    y = y + tail * 0.35
    angle = np.arctan2(y, x)
    drawn = np.random.default_rng(seed).random(8).astype(np.float32)
    ring = sum((drawn[i] - 0.5) * np.cos(angle * (i + 2) + drawn[i + 4] * 6.3) / (i + 1.5) for i in range(4))
    narrow = np.where(y > 0, 1 + tail * np.maximum(y, 0) * 2.2 / size, 1)
    long = np.where(y > 0, 1 / (1 + tail * 1.8), 1)
    distance = np.hypot(x * narrow, y * long) / (size * (1 + wobble * ring * 0.5))
    inside = np.clip(1 - distance**2, 0, 1)
    fine = 3.0 / canvas.columns / size
    return number_layer(1 - smooth(1 - fine, 1 + fine, distance)), number_layer(np.sqrt(inside), "height")


def _add_blob(field: Floats, x: Floats, y: Floats, at: tuple[float, float], thick: float) -> None:
    """Adds (thickness / distance)² near a place; farther than twelve times its thickness it is next to nothing."""
    left, right = np.searchsorted(x, (at[0] - thick * 12, at[0] + thick * 12))
    low, high = np.searchsorted(y, (at[1] - thick * 12, at[1] + thick * 12))
    distance = (x[left:right] - at[0]) ** 2 + ((y[low:high] - at[1]) ** 2)[:, None]
    field[low:high, left:right] += thick**2 / np.maximum(distance, 1e-5)


@step("Splash", "Shapes", ("picture", "height"))
def splash(
    canvas: Canvas,
    size: A[float, number(0.05, 1, "of its middle, against the width")] = 0.4,
    arms: A[int, whole(0, 40)] = 13,
    reach: A[float, number(0, 1, "how far arms are thrown")] = 0.7,
    drops: A[int, whole(0, 80, "thrown off around it")] = 26,
    ragged: A[float, number(0, 1)] = 0.35,
    seed: A[int, SEED] = 1,
) -> tuple[Layer, Layer]:
    """A splash of mud, paint or silt: a ragged middle with arms and drops thrown off, as a mask and as a height."""
    random = np.random.default_rng(seed)
    u, v = canvas.uv()
    x, y = ((u - 0.5) * 2)[0], ((v - 0.5) * 2 * canvas.aspect)[:, 0]
    # The sum of blobs is cut at one level, so that what lies close flows together.
    ragged_edge = 1 + ragged * layered(canvas, 5, 4, 0.6, seed) * 1.2
    field = (size**2) / np.maximum(x * x + (y * y)[:, None], 1e-4) * ragged_edge
    for i in range(arms):
        angle = (i + random.random() * 0.8) / max(arms, 1) * 2 * np.pi
        length, girth = size + reach * (0.25 + 0.75 * random.random()) * (1 - size), 0.02 + 0.05 * random.random()
        for part in np.linspace(size * 0.7, length, 20):
            thick = girth * (1.15 - part / length * 0.8)
            _add_blob(field, x, y, (np.cos(angle) * part, np.sin(angle) * part), thick)
    for _ in range(drops):
        angle, far = random.random() * 2 * np.pi, size + (1.02 - size) * random.random() ** 0.6
        thick = (0.008 + 0.035 * random.random() ** 2) * (1.3 - far * 0.6)
        _add_blob(field, x, y, (np.cos(angle) * far, np.sin(angle) * far), thick)
    mask = smooth(0.92, 1.08, field)
    height = np.clip(1 - 1 / np.maximum(field, 1e-3), 0, 1) ** 0.5 * mask
    border = np.minimum(np.minimum(1 - np.abs(x)[None], (canvas.aspect - np.abs(y))[:, None]) * 20, 1)
    return number_layer(mask * border), number_layer(height * border, "height")


@step("Hair strands", "Shapes", ("picture", "alpha", "flow", "depth", "ids"))
def hair_strands(
    canvas: Canvas,
    count: A[int, whole(1, 600)] = 140,
    width: A[float, number(0.001, 0.05, "of one, against the card's width")] = 0.006,
    curl: A[float, number(0, 1)] = 0.25,
    clumps: A[int, whole(1, 40, "that strands gather in")] = 7,
    thinning: A[float, number(0, 1, "how many end before the tip of the card")] = 0.6,
    root: A[tuple[float, float, float], colour()] = (0.045, 0.02, 0.01),
    tip: A[tuple[float, float, float], colour()] = (0.20, 0.10, 0.045),
    seed: A[int, SEED] = 1,
) -> tuple[Layer, Layer, Layer, Layer, Layer]:
    """A card of hair from its roots above to its tips below: colour, alpha, the way each strand runs, how near it
    lies (1 is on top), and a number of its own for each strand."""
    random = np.random.default_rng(seed)
    rows, columns = canvas.shape
    pieces = 24
    values = np.zeros((7, rows, columns), dtype=np.float32)
    planes = [np.ascontiguousarray(plane) for plane in values]
    alpha, depth, ids, red, green, across, down = planes
    middles = (np.arange(clumps) + 0.5 + (random.random(clumps) - 0.5) * 0.5) / clumps
    for strand in range(count):
        near = strand / max(count - 1, 1)
        middle = middles[random.integers(clumps)]
        start = np.clip(middle + random.normal(0, 0.5 / clumps), 0.01, 0.99)
        end = middle + (start - middle) * 0.35 + random.normal(0, 0.02)
        reach = 1 - thinning * random.random() ** 2 * 0.85
        phase, beats, swing = random.random() * 6.3, 1.5 + random.random() * 2.5, curl * 0.05 * random.random()
        at = np.linspace(0, reach, pieces + 1)
        xs = start + (end - start) * at**1.4 + np.sin(phase + at * beats * 6.3) * swing * at
        number_of_its_own, shade = random.random(), 0.65 + 0.35 * near + (random.random() - 0.5) * 0.2
        for i in range(pieces):
            a, b = ((round(xs[k] * columns * 16), round((1 - at[k]) * rows * 16)) for k in (i, i + 1))
            slim = max(1, round(canvas.pixels(width) * (1 - (at[i] / reach) ** 3 * 0.7)))
            dx, dy = (xs[i + 1] - xs[i]) * columns, -(at[i + 1] - at[i]) * rows
            length = max(float(np.hypot(dx, dy)), 1e-6)
            lit = shade * (1 - 0.25 * (1 - near))
            for plane, value in (
                (alpha, 1.0),
                (depth, near),
                (ids, number_of_its_own),
                (red, at[i]),
                (green, lit),
                (across, dx / length),
                (down, dy / length),
            ):
                cv2.line(plane, a, b, float(value), slim, cv2.LINE_8, 4)
    light, dark = (np.array(c, dtype=np.float32).reshape(3, 1, 1) for c in (tip, root))
    tinted = (dark + (light - dark) * red) * np.maximum(green, 0.55)
    # Where no strand lies, colour goes on, so that no dark fringe shows at the edges of strands.
    filled = np.where(alpha > 0, tinted, (dark + light) * 0.5)
    soft = cv2.GaussianBlur(alpha, (0, 0), 0.6)
    picture = np.concatenate((filled, soft[None])).astype(np.float32)
    flow = np.stack((np.where(alpha > 0, across, 0), np.where(alpha > 0, down, -1))).astype(np.float32)
    return (
        Layer(picture, "colour"),
        number_layer(soft),
        Layer(flow, "flow"),
        number_layer(depth, "height"),
        number_layer(ids),
    )


def _own(x: Floats, y: Floats, seed: int) -> Floats:
    """A random number for each brick."""
    numbers: Floats = cell_randoms(np.stack(np.broadcast_arrays(x, y, seed)).astype(np.int64))[0]
    return numbers


@step("Bricks, tiles or planks", "Shapes", ("picture", "ids", "gaps", "uv"))
def layout(
    canvas: Canvas,
    pattern: A[str, choice("bricks", "tiles", "planks")] = "bricks",
    across: A[int, whole(1, 64)] = 4,
    up: A[int, whole(1, 64)] = 8,
    gap: A[float, number(0, 0.3, "against the height of one")] = 0.06,
    bevel: A[float, number(0.001, 0.5, "how far its edge falls off, against its height")] = 0.08,
    shift: A[float, number(0, 1, "of every other row, against the length of one")] = 0.5,
    uneven: A[float, number(0, 1, "how much they differ in height")] = 0.3,
    seed: A[int, SEED] = 1,
) -> tuple[Layer, Layer, Layer, Layer]:
    """A wall, roof or deck: heights with bevelled edges, a number of its own for each piece, the gaps between them,
    and the place within each piece."""
    u, v = canvas.uv()
    y = np.broadcast_to(v * up, canvas.shape)
    row = np.floor(y) % up
    by_row = _own(row, np.zeros_like(row), seed + 71)
    moved = by_row if pattern == "planks" else (row % 2) * shift * (pattern == "bricks")
    x = np.broadcast_to(u * across, canvas.shape) + moved
    column = np.floor(x) % across
    ids = _own(column, row, seed)
    within_x, within_y = x - np.floor(x), y - np.floor(y)
    length = (up / across) / canvas.aspect
    side = np.minimum(np.minimum(within_x, 1 - within_x) * length, np.minimum(within_y, 1 - within_y))
    body = smooth(gap / 2, gap / 2 + bevel, side.astype(np.float32))
    height = body * (1 - uneven * 0.6 * ids)
    place = np.stack((within_x, within_y, np.zeros_like(within_x))).astype(np.float32)
    return (
        number_layer(height, "height"),
        number_layer(ids),
        number_layer(1 - smooth(gap / 2 - 1e-3, gap / 2 + 1e-3, side.astype(np.float32))),
        Layer(place, "data"),
    )
