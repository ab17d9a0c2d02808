"""The picture that the sun sees of a scene, traced by rays: the NumPy twin of the stage's shadow pass."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from embreex.rtcore_scene import EmbreeScene
from numpy.typing import NDArray

from velvet_moth.core.forms.mesh import Floats, Mesh
from velvet_moth.core.language.expr import Array, Expr
from velvet_moth.core.language.inputs import Bindings
from velvet_moth.core.language.interpreters.evaluate import evaluate
from velvet_moth.core.language.texture import ALPHA_CUTOFF, Texture
from velvet_moth.core.lighting.shadow import NOTHING, SIZE, sun_axes
from velvet_moth.core.render.tracing.rays import View, cast, traced_scene
from velvet_moth.core.render.tracing.sheets import in_quads, look_through

# Every pixel of the picture, row by row from the bottom.
_PIXELS = np.stack(np.meshgrid(np.arange(SIZE), np.arange(SIZE)), axis=-1).reshape(-1, 2)


@dataclass(frozen=True)
class Caster:
    """A form as it casts its shadow: where it lies, and what of it is cut away (an opacity below one half).

    Surfaces know of the ``eye`` that looks at the scene, not of the sun's.
    """

    traced: EmbreeScene
    mesh: Mesh
    moved: Floats
    opacity: Expr | None
    around: Bindings
    eye: NDArray[np.float64]


def _seen_from(sun: NDArray[np.float64], half: float, eye: NDArray[np.float64]) -> View:
    right, up = sun_axes(sun)

    def through(pixels: NDArray[np.int64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        at = ((pixels + 0.5) / SIZE * 2 - 1) * half
        return at[:, :1] * right + at[:, 1:] * up + sun * (half * 2), np.broadcast_to(-sun, (len(pixels), 3))

    return View(eye, through)


def _distances(traced: EmbreeScene, view: View, half: float) -> Floats:
    hits = cast(traced, view, _PIXELS)
    return np.where(hits.hit, half * 2 - hits.reach, NOTHING).astype(np.float32)


@lru_cache(maxsize=16)
def _of_backdrop(mesh: Mesh, sun: tuple[float, float, float], half: float) -> Floats:
    return _distances(traced_scene(mesh, mesh.positions), _seen_from(np.array(sun), half, np.zeros(3)), half)


def _cut(caster: Caster, opacity: Expr, view: View, sun: NDArray[np.float64]) -> Floats:
    """As ``_distances``, through what is cut away."""
    distances = np.full(len(_PIXELS), NOTHING, dtype=np.float32)
    around = caster.around

    def shade(rays: NDArray[np.int64], points: Mapping[str, Array]) -> NDArray[np.bool_]:
        here = around.at(points)
        pixels = _PIXELS[rays]
        stays = np.broadcast_to(in_quads(evaluate([opacity], here)[0], pixels) >= ALPHA_CUTOFF, len(rays))
        along = in_quads(points["moved_position"], pixels).T.astype(np.float64) @ sun
        distances[rays[stays]] = along[stays]
        return stays

    look_through(
        caster.mesh,
        caster.moved,
        traced=caster.traced,
        view=view,
        pixels=_PIXELS,
        size=(SIZE, SIZE),
        shade=shade,
        outputs=around.read_for([opacity]),
    )
    return distances


def sun_picture(caster: Caster | None, sun: tuple[float, float, float], half: float, behind: Mesh | None) -> Texture:
    """What the sun sees: of a form, where it casts shadows, and of a backdrop."""
    way = np.array(sun)
    found = np.full(SIZE * SIZE, NOTHING, dtype=np.float32)
    if caster is not None:
        view = _seen_from(way, half, caster.eye)
        cut = caster.opacity
        found = _distances(caster.traced, view, half) if cut is None else _cut(caster, cut, view, way)
    if behind is not None:
        found = np.maximum(found, _of_backdrop(behind, sun, half))
    square = found.reshape(SIZE, SIZE)
    zero = np.zeros_like(square)
    return Texture((np.stack((square, zero, zero, zero + 1)),), wrap=("clamp", "clamp"))
