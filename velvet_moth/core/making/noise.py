"""Beginnings without a shape: noises, cells, scratches, brushed metal, grunge. All repeat at every edge."""

from typing import Annotated as A

import cv2
import numpy as np

from velvet_moth.core.base.hashing import cell_randoms
from velvet_moth.core.catalogue.settings import choice, colour, number, whole
from velvet_moth.core.language.texture import Floats
from velvet_moth.core.making.layer import Canvas, Layer, number_layer, smooth, spread
from velvet_moth.core.making.step import SEED, step


def _lattice(across: int, up: int, seed: int) -> Floats:
    """Random numbers 0..1 at the corners of a grid, (3, up, across)."""
    x, y = np.meshgrid(np.arange(across), np.arange(up))
    return cell_randoms(np.stack(np.broadcast_arrays(x, y, seed)))


def gradient_noise(canvas: Canvas, across: int, up: int, seed: int) -> Floats:
    """One layer of gradient noise around 0, ``across`` and ``up`` cells in the picture, quintic between corners.

    Perlin, "Improving Noise" (2002); slopes from an integer hash.
    """
    slope = _lattice(across, up, seed)[:2] * 2 - 1
    u, v = canvas.uv()
    x, y = u[0] * across, v[:, 0] * up
    cx, cy = np.floor(x).astype(np.int64) % across, np.floor(y).astype(np.int64) % up
    fx, fy = (x - np.floor(x)).astype(np.float32), (y - np.floor(y)).astype(np.float32)
    tx, ty = (f * f * f * (f * (f * 6 - 15) + 10) for f in (fx, fy))

    def corner(dx: int, dy: int) -> Floats:
        # First along x on the few rows of the grid, then up to all rows.
        columns = np.take(slope, (cx + dx) % across, axis=2)
        along = np.take(columns[0] * (fx - dx), (cy + dy) % up, axis=0)
        return np.asarray(along + np.take(columns[1], (cy + dy) % up, axis=0) * (fy - dy)[:, None])

    low = corner(0, 0)
    low += (corner(1, 0) - low) * tx
    high = corner(0, 1)
    high += (corner(1, 1) - high) * tx
    return np.asarray(low + (high - low) * ty[:, None], dtype=np.float32)


def layered(canvas: Canvas, cells: int, layers: int, gain: float, seed: int, stretch: int = 1) -> Floats:
    """Several layers of gradient noise, each twice as fine and ``gain`` as strong, around 0."""
    total = np.zeros(canvas.shape, dtype=np.float32)
    for layer in range(layers):
        across = cells * 2**layer
        up = max(1, round(across * canvas.aspect / stretch))
        if across > canvas.columns // 2 or up > canvas.rows // 2:
            break
        total += gradient_noise(canvas, across, up, seed + layer * 17) * np.float32(gain**layer)
    return total


@step("Fractal noise", "Begin")
def fractal_noise(
    canvas: Canvas,
    cells: A[int, whole(1, 128, "hills across the picture")] = 6,
    layers: A[int, whole(1, 10, "each twice as fine as the one before")] = 5,
    gain: A[float, number(0.1, 0.9, "how strong each layer is against the one before")] = 0.5,
    stretch: A[int, whole(1, 16, "how much longer than high a hill is")] = 1,
    seed: A[int, SEED] = 1,
) -> Layer:
    """Hills of several sizes over each other: the grain of stone, plaster, rust, or the start of almost anything."""
    return number_layer(spread(layered(canvas, cells, layers, gain, seed, stretch)), "height")


@step("Cloud heights", "Begin")
def cloud_heights(
    canvas: Canvas,
    cells: A[int, whole(1, 64, "billows across the picture")] = 4,
    layers: A[int, whole(1, 10)] = 6,
    shape: A[str, choice("billows", "ridges", "veils")] = "billows",
    cover: A[float, number(0, 1, "how much of the sky is covered")] = 0.6,
    softness: A[float, number(0.01, 1)] = 0.9,
    seed: A[int, SEED] = 1,
) -> Layer:
    """Clouds, steam and foam: noise folded at its middle into round billows or sharp ridges, thinned to a cover."""
    total = np.zeros(canvas.shape, dtype=np.float32)
    for layer in range(layers):
        across = cells * 2**layer
        up = max(1, round(across * canvas.aspect))
        if across > canvas.columns // 2 or up > canvas.rows // 2:
            break
        noise = gradient_noise(canvas, across, up, seed + layer * 31)
        folded = {"billows": 1 - np.abs(noise) * 2, "ridges": (1 - np.abs(noise) * 2) ** 3, "veils": noise}[shape]
        total += folded * np.float32(0.5**layer)
    if shape == "billows":
        total = -total
    values = spread(total)
    edge = float(np.quantile(values, 1 - cover)) if cover < 1 else -softness
    return number_layer(smooth(edge - softness / 2, edge + softness / 2, values), "height")


@step("Cells", "Begin", ("picture", "edges", "ids"))
def cells(
    canvas: Canvas,
    count: A[int, whole(2, 128, "cells across the picture")] = 10,
    jitter: A[float, number(0, 1, "0 is a grid, 1 as irregular as it gets")] = 0.9,
    edge: A[float, number(0.01, 0.5, "how wide the gaps between cells are")] = 0.08,
    seed: A[int, SEED] = 1,
) -> tuple[Layer, Layer, Layer]:
    """Scattered points and what is nearest to each: pebbles, scales, cracked mud.

    Gives the distance to the nearest point, the gaps between cells, and a number of its own for each cell.
    """
    up = max(2, round(count * canvas.aspect))
    drawn = _lattice(count, up, seed)
    u, v = canvas.uv()
    x, y = u * count, v * up
    cx, cy = np.floor(x).astype(np.int64), np.floor(y).astype(np.int64)
    first = np.full(canvas.shape, 9.0, dtype=np.float32)
    second, ids = first.copy(), np.zeros(canvas.shape, dtype=np.float32)
    for dy in (-1, 0, 1):
        for dx in (-1, 0, 1):
            here = drawn[:, (cy[:, 0] + dy) % up][:, :, (cx[0] + dx) % count]
            px = cx + dx + 0.5 + (here[0] - 0.5) * jitter - x
            py = cy + dy + 0.5 + (here[1] - 0.5) * jitter - y
            distance = (px * px + py * py).astype(np.float32)
            closer = distance < first
            second = np.where(closer, first, np.minimum(second, distance))
            first = np.where(closer, distance, first)
            ids = np.where(closer, here[2], ids)
    near, far = np.sqrt(first), np.sqrt(second)
    return (
        number_layer(spread(near), "height"),
        number_layer(1 - smooth(0, edge, far - near)),
        number_layer(ids),
    )


@step("Flakes", "Begin")
def flakes(
    canvas: Canvas,
    count: A[int, whole(2, 256, "across the picture")] = 48,
    tilt: A[float, number(0, 1, "how far they lean")] = 1.0,
    seed: A[int, SEED] = 7,
) -> Layer:
    """Flat flakes, each leaning its own way: the glitter in enamel, mica, crushed shell."""
    up = max(2, round(count * canvas.aspect))
    drawn, leaning = _lattice(count, up, seed), _lattice(count, up, seed + 7919) * 2 - 1
    u, v = canvas.uv()
    x, y = u * count, v * up
    cx, cy = np.floor(x).astype(np.int64), np.floor(y).astype(np.int64)
    nearest = np.full(canvas.shape, 9.0, dtype=np.float32)
    height = np.zeros(canvas.shape, dtype=np.float32)
    for dy in (-1, 0, 1):
        for dx in (-1, 0, 1):
            at = np.ix_((cy[:, 0] + dy) % up, (cx[0] + dx) % count)
            px, py = cx + dx + drawn[0][at] - x, cy + dy + drawn[1][at] - y
            distance = (px * px + py * py).astype(np.float32)
            closer = distance < nearest
            nearest = np.where(closer, distance, nearest)
            height = np.where(closer, leaning[0][at] * px + leaning[1][at] * py, height)
    return number_layer(0.5 + np.clip(height, -1, 1) * 0.5 * tilt, "height")


@step("Scratches", "Begin", ("picture", "flow"))
def scratches(
    canvas: Canvas,
    count: A[int, whole(1, 2000)] = 160,
    length: A[float, number(0.02, 1, "the longest, as a share of the width")] = 0.35,
    width: A[float, number(0.0005, 0.02, "of each, as a share of the width")] = 0.0015,
    turn: A[float, number(-90, 90, "the way most of them run", "°")] = 20,
    spread_of_turns: A[float, number(0, 180, "how far they stray from it", "°")] = 60,
    bend: A[float, number(0, 1)] = 0.15,
    seed: A[int, SEED] = 1,
) -> tuple[Layer, Layer]:
    """Fine scratches of many lengths, each fading at its ends: wear on metal, glass and lacquer.

    Gives their depth, 1 in the middle of the deepest, and the way each runs.
    """
    random = np.random.default_rng(seed)
    wide, high = canvas.columns, canvas.rows
    depth = np.zeros(canvas.shape, dtype=np.float32)
    flow = np.zeros((2, *canvas.shape), dtype=np.float32)
    thickness = max(1, round(canvas.pixels(width)))
    for _ in range(count):
        x, y = random.random() * wide, random.random() * high
        angle = np.radians(turn + (random.random() - 0.5) * spread_of_turns)
        reach, strong = canvas.pixels(length) * random.random() ** 2, 0.25 + 0.75 * random.random()
        curve, pieces = (random.random() - 0.5) * bend * 2, 10
        points = []
        for i in range(pieces + 1):
            along = (i / pieces - 0.5) * reach
            lean = angle + curve * (i / pieces - 0.5)
            points.append((x + np.cos(lean) * along, y + np.sin(lean) * along))
        for path in _around(np.array(points), canvas):
            for i in range(pieces):
                fade = strong * (1 - abs((i + 0.5) / pieces * 2 - 1) ** 2)
                cv2.line(depth, path[i], path[i + 1], fade, thickness, cv2.LINE_8, 4)
            for plane, value in ((flow[0], np.cos(angle)), (flow[1], np.sin(angle))):
                cv2.polylines(plane, [np.array(path, dtype=np.int32)], False, float(value), thickness, cv2.LINE_8, 4)
    return number_layer(depth, "height"), Layer(flow, "flow")


def _around(points: Floats, canvas: Canvas) -> list[list[tuple[int, int]]]:
    """A path, and its copies where it goes on over an edge of the canvas; four bits of fraction."""
    size = np.array((canvas.columns, canvas.rows))
    low, high = points.min(axis=0), points.max(axis=0)
    found = []
    for dx in (-1, 0, 1):
        for dy in (-1, 0, 1):
            shift = size * (dx, dy)
            if (high + shift > -2).all() and (low + shift < size + 2).all():
                found.append([(int(x), int(y)) for x, y in np.rint((points + shift) * 16)])
    return found


@step("Brushed metal", "Begin", ("picture", "flow"))
def brushed_metal(
    canvas: Canvas,
    fineness: A[int, whole(8, 1024, "strokes over the height of the picture")] = 256,
    length: A[float, number(0.02, 1, "of a stroke, as a share of the width")] = 0.4,
    wander: A[float, number(0, 1, "how much strokes differ in strength")] = 0.6,
    seed: A[int, SEED] = 1,
) -> tuple[Layer, Layer]:
    """Straight strokes along u, as a brush or a belt leaves them, with the direction they run in."""
    rows = min(fineness, canvas.rows)
    lines = np.zeros((rows, canvas.columns), dtype=np.float32)
    for layer, strength in ((0, 1.0), (1, 0.6), (2, 0.35)):
        cells_across = max(1, round((1 / length) * 2**layer))
        noise = _lattice(cells_across, rows, seed + layer * 101)[0]
        at = (np.arange(canvas.columns) + 0.5) / canvas.columns * cells_across
        low = np.floor(at).astype(np.int64)
        share = (at - low).astype(np.float32)
        share = share * share * (3 - 2 * share)
        left, right = noise[:, low % cells_across], noise[:, (low + 1) % cells_across]
        lines += (left + (right - left) * share) * np.float32(strength)
    steady = _lattice(1, rows, seed + 977)[1]
    lines = lines * wander + steady * (2 - wander)
    grown = cv2.resize(lines, (canvas.columns, canvas.rows), interpolation=cv2.INTER_LINEAR)
    flow = np.zeros((2, *canvas.shape), dtype=np.float32)
    flow[0] = 1
    return number_layer(spread(np.asarray(grown, dtype=np.float32)), "height"), Layer(flow, "flow")


@step("Grunge", "Begin")
def grunge(
    canvas: Canvas,
    cells: A[int, whole(1, 64)] = 5,
    amount: A[float, number(0, 1, "how much is dirty")] = 0.45,
    contrast: A[float, number(0, 1)] = 0.6,
    streaks: A[float, number(0, 1, "how much it has run down")] = 0.35,
    seed: A[int, SEED] = 1,
) -> Layer:
    """Dirt as it gathers: blotches, fine specks, and streaks that water has drawn down. 1 is dirty."""
    blotches = spread(layered(canvas, cells, 6, 0.6, seed))
    specks = spread(layered(canvas, cells * 8, 3, 0.8, seed + 401))
    across = min(cells * 12, canvas.columns // 4)
    runs = spread(
        gradient_noise(canvas, across, 2, seed + 811) + gradient_noise(canvas, across * 2, 1, seed + 821) * 0.5
    )
    dirt = blotches * (0.65 + 0.35 * specks)
    dirt = dirt + (dirt * runs * 1.6 - dirt) * streaks
    edge = float(np.quantile(dirt, 1 - amount)) if amount < 1 else -1.0
    soft = 0.02 + 0.5 * (1 - contrast)
    return number_layer(smooth(edge - soft / 2, edge + soft / 2, dirt) if amount > 0 else np.zeros_like(dirt))


@step("Plain", "Begin")
def plain(canvas: Canvas, tint: A[tuple[float, float, float], colour()] = (0.5, 0.5, 0.5)) -> Layer:
    """One colour all over."""
    values = np.broadcast_to(np.array(tint, dtype=np.float32).reshape(3, 1, 1), (3, *canvas.shape))
    return Layer(np.ascontiguousarray(values), "colour")


@step("Ramp", "Begin")
def ramp(
    canvas: Canvas,
    shape: A[str, choice("up", "right", "round", "there and back")] = "up",
) -> Layer:
    """From 0 to 1 along an edge, from the middle outwards, or up and down again so that it repeats."""
    u, v = canvas.uv()
    whole_u, whole_v = np.broadcast_to(u, canvas.shape), np.broadcast_to(v, canvas.shape)
    found = {
        "up": whole_v,
        "right": whole_u,
        "round": np.minimum(np.hypot(whole_u - 0.5, (whole_v - 0.5) * canvas.aspect) * 2, 1),
        "there and back": 1 - np.abs(whole_v * 2 - 1),
    }[shape]
    return number_layer(np.array(found, dtype=np.float32), "height")
