"""Decals on NumPy: painted one after the other onto pictures of what lies behind, as the stage does."""

import math
from collections.abc import Hashable, Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.forms.mesh import Mesh
from velvet_moth.core.forms.view import Camera
from velvet_moth.core.language.expr import Array, Expr, constant
from velvet_moth.core.language.inputs import Bindings
from velvet_moth.core.language.interpreters.evaluate import evaluate_in_tiles
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.lighting.decals import NO_DECAL, ON_DECAL, Decal, decal_share
from velvet_moth.core.render.tracing.quads import quads_where
from velvet_moth.core.render.tracing.rays import cast, inputs_at, traced_scene, view_of
from velvet_moth.core.render.tracing.window import Window

Size = tuple[int, int]
# How much a decal without an opacity of its own covers.
_WHOLE = decal_share(constant(1.0))


def screen_inputs(pixels: NDArray[np.int64], size: Size) -> dict[str, Array]:
    """What is known of pixels, (2, rows, columns) columns and rows, of a picture of ``size`` (width, height)."""
    across = (pixels + 0.5) / np.array(size).reshape(2, 1, 1)
    return {"screen_position": across.astype(np.float32), "screen_pixel": pixels.astype(np.float32)}


def _evaluate(outputs: Sequence[Expr], inputs: Mapping[str, Array], around: Bindings, decal: Decal) -> list[Array]:
    _, rows, columns = inputs["screen_pixel"].shape
    here = Bindings({**around.inputs, **inputs}, around.uniforms, {**around.textures, **decal.textures})
    return evaluate_in_tiles(outputs, here, (rows, columns))


def points_on(decal: Decal, screen: Mapping[str, Array], around: Bindings) -> dict[str, Array]:
    """What takes the place of a form's surface point at pixels of the screen, and what the draw knows of the decal."""
    known = {**screen, **decal.inputs}
    found = _evaluate(list(ON_DECAL.inputs.values()), known, around, decal)
    return {**known, **dict(zip(ON_DECAL.inputs, found, strict=True))}


def in_window(window: Window, size: Size) -> dict[str, Array]:
    """What is known of the pixels of a window of a picture."""
    return screen_inputs(window.pixels, size)


def painted(
    decals: Sequence[Decal],
    pictures: Mapping[str, Expr],
    before: Mapping[Hashable, Texture],
    around: Bindings,
    window: Window,
) -> dict[Hashable, Texture]:
    """Pictures as large as the screen, by key, with all decals on them: each reads what the ones before it have left.

    They are painted in the ``window`` only.
    """
    left: dict[Hashable, Texture] = {**before}
    _, height, width = next(iter(before.values())).levels[0].shape
    screen = in_window(window, (width, height))
    for decal in decals:
        here = Bindings(around.inputs, around.uniforms, {**around.textures, **left})
        points = points_on(decal, screen, here)
        (share,) = _evaluate([_WHOLE], points, here, decal)
        places = quads_where(share > 0)
        if not places.size:
            continue
        found = _evaluate(list(pictures.values()), _at(points, places, window.width * window.height), here, decal)
        rows, columns = np.divmod(places.ravel(), window.width)
        for key, values in zip(pictures, found, strict=True):
            whole = left[key].levels[0].copy()
            whole[:, rows + window.low, columns + window.left] = values.reshape(4, -1)
            left[key] = Texture((whole,), wrap=("clamp", "clamp"))
    return left


def _at(points: Mapping[str, Array], places: NDArray[np.int64], count: int) -> dict[str, Array]:
    """Inputs of some of ``count`` pixels in the shape of their ``places``; what is the same everywhere stays so."""
    return {
        name: v.reshape(*v.shape[:-2], count)[..., places] if v.ndim > 1 and v.shape[-1] * v.shape[-2] == count else v
        for name, v in points.items()
    }


def falls_on(mesh: Mesh, camera: Camera, pixel: tuple[int, int], size: Size, index: float) -> Decal | None:
    """A decal placed where a pixel (column, row from the bottom) sees a mesh, flat on its face; None beside it."""
    hits = cast(traced_scene(mesh, mesh.positions), view_of(camera, size), np.array([pixel]))
    if not hits.hit[0]:
        return None
    found = inputs_at(mesh, mesh.positions, hits, size)
    x, y, z = (round(float(part), 4) for part in found["position"][0])
    normal = found["normal"][0]
    tilt = math.degrees(math.asin(float(np.clip(normal[1], -1, 1))))
    # On the ground a picture stands upright for whoever looks at it.
    turn = camera.turn if abs(tilt) > 89 else math.degrees(math.atan2(float(normal[0]), float(normal[2])))
    return Decal((x, y, z), round(turn, 2), round(tilt, 2), index=index)


def topmost(
    decals: Sequence[Decal], screen: Mapping[str, Array], around: Bindings
) -> tuple[dict[str, Array], NDArray[np.bool_]]:
    """At each pixel the surface point of the last decal whose box holds what lies behind; and where there is any."""
    _, rows, columns = screen["screen_pixel"].shape
    covered = np.zeros((rows, columns), dtype=bool)
    found: dict[str, Array] = {}
    for decal in decals or (NO_DECAL,):
        points = points_on(decal, screen, around)
        (share,) = _evaluate([_WHOLE], points, around, decal)
        own = (share > 0) & bool(decals)
        covered |= own
        wide = {
            n: np.broadcast_to(v, (*v.shape[:-2], rows, columns) if v.ndim else (rows, columns))
            for n, v in points.items()
        }
        found = {n: np.where(own, v, found[n]) if n in found else np.array(v) for n, v in wide.items()}
    return found, covered
