"""Judging a rule of placing by many throws: what hangs, what goes through, how alike outlines are, what they cover and cost."""

from collections.abc import Callable, Hashable, Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.document.values import Value
from velvet_moth.core.forms.view import Camera
from velvet_moth.core.language.expr import Array, Expr
from velvet_moth.core.language.inputs import Bindings
from velvet_moth.core.language.interpreters.cost import cost
from velvet_moth.core.language.interpreters.evaluate import evaluate
from velvet_moth.core.language.primitives import saturate
from velvet_moth.core.language.texture import Pixels, Texture
from velvet_moth.core.lighting.decals import Decal, decal_share
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.render.swatches import draw_inputs
from velvet_moth.core.render.tracing.scene import stage_textures
from velvet_moth.core.render.tracing.staged import uniform_arrays
from velvet_moth.core.throwing.placing import Splash, Throw, aimed, thrown
from velvet_moth.core.throwing.reaching import laid
from velvet_moth.core.throwing.rule import PlacingRule
from velvet_moth.core.throwing.sowing import sown
from velvet_moth.core.throwing.surroundings import Surroundings
from velvet_moth.core.workbench.session import TextureSource, textures_of

# A splash is looked at in so many places each way; what is covered is counted in cells of so many metres.
_SIDE, _CELL = 40, 0.04
# What is seen of the scene is looked for by so many rays each way.
_SEEN = 160
# Of so many throws for one that is asked for, those that hit something are judged.
_TRIES = 8
TILE, COLUMNS = 32, 25
_GROUND, _FRAME = (38, 34, 31), (168, 50, 45)
# From here on a finding is a fault: shares of a splash that hang or go through, that are cut off, that two have in common;
# operations at the worst pixel.
HANGS, GOES_THROUGH, CUT_OFF, ALIKE, COSTLY = 0.02, 0.01, 0.35, 0.93, 20_000


@dataclass(frozen=True)
class Measured:
    """Of one throw: which shares of its area hang in the air, go through a surface, and were cut off by its reach; with how much

    of its outline the throw most like it agrees; its area (m²); and where most of what is wrong is (metres).
    """

    hanging: float
    through: float
    cut: float
    alike: float
    area: float
    where: tuple[float, float, float]

    @property
    def is_wrong(self) -> bool:
        """Whether it hangs or goes through by more than may be."""
        return self.hanging > HANGS or self.through > GOES_THROUGH


@dataclass(frozen=True)
class Verdict:
    """One thing that is found: in a sentence, whether it is well, and how to mend it where it is not."""

    key: str
    is_good: bool
    what: str
    mend: str = ""


@dataclass(frozen=True, eq=False)
class Judgement:
    """What many throws have shown; ``sheet`` are their outlines, (rows, columns, 3), in tiles of ``TILE`` pixels."""

    throws: tuple[Throw, ...]
    measured: tuple[Measured, ...]
    verdicts: tuple[Verdict, ...]
    sheet: Pixels


@dataclass
class _Found:
    """What is gathered while throws are judged, one after the other."""

    throws: list[Throw] = field(default_factory=list)
    measured: list[Measured] = field(default_factory=list)
    outlines: list[NDArray[np.float32]] = field(default_factory=list)
    cells: list[NDArray[np.int64]] = field(default_factory=list)


def judged(
    graph: Graph,
    around: Surroundings,
    rule: PlacingRule,
    camera: Camera,
    *,
    count: int,
    seed: int,
    textures: TextureSource,
    variant: str = "",
    hears: Callable[[float], None] = lambda share: None,
) -> Judgement:
    """Throws so many times from an eye and measures what comes of it; ``hears`` hears the share that is done.

    OperationRefused where nothing is hit at all.
    """
    lowered, values = lower(graph, variant), graph.uniform_values(variant)
    bound, _ = textures_of(graph, values, textures)
    opacity = lowered.surface["opacity"]
    outlines = _Outlines(opacity, values, bound)
    found = _Found()
    for aim in sown(camera, count * _TRIES, seed):
        hears(len(found.throws) / count * 0.95)
        splash = thrown(around, rule, aimed(around, aim))
        if splash.decals:
            _measure(found, around, splash, outlines)
        if len(found.throws) == count:
            break
    if not found.throws:
        raise OperationRefused("None of the throws hits anything.", graph.title, "Turn the eye to the scene first.")
    alike, pair = _alike(found.outlines)
    measured = tuple(replace(one, alike=float(a)) for one, a in zip(found.measured, alike, strict=True))
    operations = cost(lowered.surface.channels.values()).operations
    verdicts = _verdicts(found, measured, alike, pair, _seen_cells(around, camera), operations)
    return Judgement(tuple(found.throws), measured, verdicts, _sheet(found.outlines, measured))


class _Outlines:
    """The opacity of a graph, over the planes of decals."""

    def __init__(
        self, opacity: Expr, values: Mapping[tuple[str, str], Value], bound: Mapping[Hashable, Texture]
    ) -> None:
        self._outputs = [decal_share(opacity), saturate(opacity)]
        self._around = Bindings(draw_inputs(), uniform_arrays(values), {**stage_textures(), **bound})

    def of(self, decal: Decal, places: Array, normals: Array, own: Array, uv: Array) -> tuple[Array, Array]:
        """What a decal paints, and what it would without its reach and its fade, 0..1, (side, side) each."""
        flat = np.broadcast_to(np.float32(0.0), own.shape[1:])
        column, row = np.meshgrid(np.arange(_SIDE), np.arange(_SIDE))
        points: dict[str, Array] = {
            "uv": uv,
            "second_uv": uv,
            "position": places,
            "moved_position": places,
            "object_position": own,
            "normal": normals,
            "moved_normal": normals,
            "object_normal": np.stack((flat, flat, flat + 1)),
            "tangent": np.broadcast_to(np.array((1, 0, 0, 1), np.float32).reshape(4, 1, 1), (4, _SIDE, _SIDE)),
            "vertex_colour": np.ones((4, _SIDE, _SIDE), np.float32),
            "second_vertex_colour": np.ones((4, _SIDE, _SIDE), np.float32),
            "face_middle": places,
            "face_number": flat,
            "view_direction": normals,
            "camera_distance": flat + 2,
            "is_front": flat + 1,
            "screen_position": uv,
            "screen_pixel": np.stack((column, row)).astype(np.float32),
            "time": np.array(decal.born, dtype=np.float32),
            **decal.inputs,
        }
        here = Bindings(
            {**self._around.inputs, **points}, self._around.uniforms, {**self._around.textures, **decal.textures}
        )
        shares = evaluate(self._outputs, here)
        wide = [np.broadcast_to(np.asarray(share, dtype=np.float32), (_SIDE, _SIDE)) for share in shares]
        return wide[0], wide[1]


def _measure(found: _Found, around: Surroundings, splash: Splash, outlines: _Outlines) -> None:
    assert splash.hit is not None
    at = (np.arange(_SIDE) + 0.5) / _SIDE
    u, v = np.meshgrid(at, at)
    uv = np.stack((u, v)).astype(np.float32)
    whole = hanging = through = cut = 0.0
    cells: list[NDArray[np.int64]] = []
    worst, where = -1.0, splash.hit
    for decal in splash.decals:
        across, up = ((u - 0.5) * decal.size[0]).ravel(), ((v - 0.5) * decal.size[1]).ravel()
        land = laid(around, decal, np.array(splash.hit), across, up)
        _, _, out = decal.axes
        # Over nothing a decal would face whoever looks straight at it.
        normals = np.where(land.is_there[:, None], land.normals, out)
        own = np.stack((across, up, np.where(land.is_there, -land.depth, 0.0)), axis=0).reshape(3, _SIDE, _SIDE)
        shaped = [one.T.reshape(3, _SIDE, _SIDE).astype(np.float32) for one in (land.places, normals)]
        painted, wanted = outlines.of(decal, shaped[0], shaped[1], own.astype(np.float32), uv)
        if decal is splash.decals[0]:
            found.outlines.append(np.array(painted))
        area = decal.size[0] * decal.size[1] / _SIDE**2
        flat = painted.ravel()
        wrong = flat * (~land.is_there | ~land.is_seen)
        hanging += area * float(flat[~land.is_there].sum())
        through += area * float(flat[land.is_there & ~land.is_seen].sum())
        cut += area * float(np.maximum(wanted.ravel() - flat, 0.0).sum())
        whole += area * float(flat.sum())
        if wrong.sum() * area > worst:
            worst = float(wrong.sum() * area)
            x, y, z = (float(part) for part in land.places[int(np.argmax(wrong))])
            where = (round(x, 2), round(y, 2), round(z, 2))
        cells.append(_cells(land.places[(flat > 0.5) & land.is_there]))
    found.throws.append(splash.throw)
    base = max(whole, 1e-9)
    found.measured.append(Measured(hanging / base, through / base, cut / max(whole + cut, 1e-9), 0.0, whole, where))
    found.cells.append(np.unique(np.concatenate(cells)))


def _cells(places: NDArray[np.float64]) -> NDArray[np.int64]:
    """The cell of the world that each place is in, as one number."""
    x, y, z = (np.floor(places / _CELL).astype(np.int64) + (1 << 20)).T
    return np.asarray((x << 42) | (y << 21) | z)


def _seen_cells(around: Surroundings, camera: Camera) -> NDArray[np.int64]:
    column, row = (part.ravel() for part in np.meshgrid(np.arange(_SEEN), np.arange(_SEEN)))
    ways = camera.through(column, row, _SEEN, _SEEN)
    met = around.meet(np.broadcast_to(camera.position, ways.shape), ways)
    return np.unique(_cells(met.places[met.hit]))


def _alike(outlines: Sequence[NDArray[np.float32]]) -> tuple[NDArray[np.float64], tuple[int, int]]:
    """With how much of each outline the one most like it agrees (area in common over area of both), and the closest pair."""
    flat = np.stack([outline.ravel() > 0.5 for outline in outlines]).astype(np.float32)
    both = flat @ flat.T
    area = flat.sum(axis=1)
    shares = both / np.maximum(area[:, None] + area[None] - both, 1.0)
    np.fill_diagonal(shares, 0.0)
    one, other = np.unravel_index(int(np.argmax(shares)), shares.shape)
    return shares.max(axis=1).astype(np.float64), (int(one), int(other))


def _verdicts(
    found: _Found,
    measured: Sequence[Measured],
    alike: NDArray[np.float64],
    pair: tuple[int, int],
    seen: NDArray[np.int64],
    operations: int,
) -> tuple[Verdict, ...]:
    areas = np.array([one.area for one in measured])
    cells, counts = np.unique(np.concatenate(found.cells), return_counts=True)
    covered = len(np.intersect1d(cells, seen)) / max(len(seen), 1)
    most = int(counts.max(initial=0))
    cut = float(np.mean([one.cut for one in measured]))
    closest = float(alike.max())
    return (
        _wrong("hanging", "hangs in the air", [one.hanging for one in measured], areas, measured, HANGS),
        _wrong("through", "goes through a surface", [one.through for one in measured], areas, measured, GOES_THROUGH),
        Verdict(
            "cut",
            cut <= CUT_OFF,
            f"On average {cut:.0%} of a splash is cut off where surfaces end or hide.",
            "" if cut <= CUT_OFF else "Make Size smaller, or let Tilt at a wall begin farther away.",
        ),
        Verdict(
            "alike",
            closest <= ALIKE,
            f"The two most alike, throws {pair[0] + 1} and {pair[1] + 1}, have {closest:.0%} of their outline in common; "
            f"on average it is {float(alike.mean()):.0%}.",
            "" if closest <= ALIKE else "Raise the raggedness of the outline, or take its noise of the world.",
        ),
        Verdict("coverage", True, f"They cover {covered:.0%} of what is seen, {areas.sum():.2f} m² in all."),
        Verdict(
            "overlap",
            True,
            f"Where anything is covered, {float(counts.mean()):.1f} of the {len(measured)} are over each other.",
        ),
        Verdict(
            "cost",
            most * operations <= COSTLY,
            f"At the worst place {most} are over each other: {most} times {operations} operations for a pixel.",
            "" if most * operations <= COSTLY else "Keep fewer of them, make Size smaller, or let them be drawn in.",
        ),
    )


def _wrong(
    key: str,
    does: str,
    shares: Sequence[float],
    areas: NDArray[np.float64],
    measured: Sequence[Measured],
    most: float,
) -> Verdict:
    worst = int(np.argmax(shares))
    total = float((np.array(shares) * areas).sum() / max(areas.sum(), 1e-9))
    if max(shares) <= most:
        return Verdict(key, True, f"Of no splash more than {most:.0%} {does}; of all together it is {total:.2%}.")
    x, y, z = measured[worst].where
    return Verdict(
        key,
        False,
        f"{sum(share > most for share in shares)} splashes have more than {most:.0%} that {does}; the worst is throw "
        f"{worst + 1}, {shares[worst]:.0%} near ({x:g}, {y:g}, {z:g}).",
        "Make Reach shorter, or let Fade end at a smaller angle.",
    )


def _sheet(outlines: Sequence[NDArray[np.float32]], measured: Sequence[Measured]) -> Pixels:
    """All outlines as one picture, row by row from the upper left, those with a fault in a frame."""
    rows = -(-len(outlines) // COLUMNS)
    sheet = np.full((rows * TILE, COLUMNS * TILE, 3), _GROUND, dtype=np.uint8)
    pick = (np.arange(TILE - 4) + 0.5) / (TILE - 4) * _SIDE
    at = pick.astype(np.int64)
    paint = np.array((226, 218, 207), dtype=np.float32)
    for number, (outline, one) in enumerate(zip(outlines, measured, strict=True)):
        row, column = (number // COLUMNS) * TILE, (number % COLUMNS) * TILE
        tile = sheet[row : row + TILE, column : column + TILE]
        if one.is_wrong:
            tile[1:-1, 1:-1] = _FRAME
        share = outline[at][:, at][::-1, :, None]
        tile[2:-2, 2:-2] = np.rint(np.array(_GROUND) * (1 - share) + paint * share)
    return sheet
