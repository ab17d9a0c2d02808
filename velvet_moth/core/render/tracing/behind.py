"""What lies behind, as the reference picture has it: lit, and with decals on it."""

from collections.abc import Hashable, Iterator, Mapping
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.forms.mesh import Floats, Mesh, joined
from velvet_moth.core.language.inputs import Bindings
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.lighting.backdrop import BACKDROP, FAR, grey_light, nothing_behind
from velvet_moth.core.lighting.decal_buffers import EMPTY_BUFFERS
from velvet_moth.core.lighting.decals import NO_DECAL
from velvet_moth.core.lighting.environment import ENVIRONMENT
from velvet_moth.core.lighting.shadow import SUN_DEPTH
from velvet_moth.core.lighting.shown import Appearance
from velvet_moth.core.render.tracing.projecting import painted
from velvet_moth.core.render.tracing.rays import points_seen, traced_scene
from velvet_moth.core.render.tracing.scene import PartSurface, Scene, draw_inputs, mesh_behind, parts_behind
from velvet_moth.core.render.tracing.staged import Placed, Stage, uniform_arrays
from velvet_moth.core.render.tracing.window import Window
from velvet_moth.core.scenery.backdrops import backdrop, place_of


@lru_cache(maxsize=6)
def lit_backdrop(scene: Scene, size: tuple[int, int], sun: Texture) -> tuple[Texture, NDArray[np.bool_]]:
    """What lies behind at every pixel, linear light and distance, and where there is anything."""
    return _lit_behind(scene, size, {SUN_DEPTH: sun})


def _lit_behind(
    scene: Scene,
    size: tuple[int, int],
    seen_by: Mapping[Hashable, Texture],
    has_decals: bool = False,
    window: Window | None = None,
) -> tuple[Texture, NDArray[np.bool_]]:
    """As ``lit_backdrop``, in a ``window`` or all over; where it ``has_decals`` as the buffers leave it that are given beside the sun."""
    window = window or Window.whole(size)
    width, height = window.width, window.height
    nothing = np.array((*grey_light(scene.rig.exposure), FAR), dtype=np.float32).reshape(4, 1, 1)
    found, hit = np.broadcast_to(nothing, (4, height, width)), np.zeros((height, width), dtype=bool)
    around: dict[Hashable, Texture] = {
        ENVIRONMENT: scene.environment,
        BACKDROP: nothing_behind(scene.rig.exposure),
        **NO_DECAL.textures,
        **seen_by,
    }
    for mesh, part in _parts_of(scene):
        seen = points_seen(mesh, traced_scene(mesh, mesh.positions), mesh.positions, scene.camera, size, window)
        textures, values = {**dict(part.textures), **around}, uniform_arrays(dict(part.values))
        (own,) = Stage(seen, draw_inputs(scene, mesh, size), values, textures).evaluate(
            [part.under_decals if has_decals else part.light]
        )
        found = np.where(seen.hit & (own[3] < found[3]), own, found)
        hit |= seen.hit
    return Texture((np.ascontiguousarray(found),), wrap=("clamp", "clamp")), hit


def _parts_of(scene: Scene) -> Iterator[tuple[Mesh, PartSurface]]:
    """The parts of a scene's backdrop with their surfaces; those in the backdrop's own are one."""
    kept = backdrop(scene.backdrop)
    whole = parts_behind(scene)
    parts = {place_of(kept.key, part): mesh for part, mesh in whole.items()}
    for surface in scene.part_surfaces:
        if surface.part in parts:
            yield parts.pop(surface.part), surface
    if parts:
        bare, under = (kept.light(len(scene.rig.lamps), has_decals) for has_decals in (False, True))
        own = PartSurface("", bare, under)
        yield mesh_behind(scene) if len(parts) == len(whole) else joined(list(parts.values())), own


def scene_textures(scene: Scene, size: tuple[int, int], sun: Texture) -> dict[Hashable, Texture]:
    """What the stage brings to a picture of ``size``: the rig's surroundings, what lies behind, what the ``sun`` sees."""
    behind = lit_backdrop(scene.still, size, sun)[0] if scene.backdrop else nothing_behind(scene.rig.exposure)
    return {ENVIRONMENT: scene.environment, BACKDROP: behind, SUN_DEPTH: sun, **NO_DECAL.textures}


def decals_on(
    look: Appearance, scene: Scene, at_hand: Placed, size: tuple[int, int], window: Window | None = None
) -> Floats:
    """What lies behind with a scene's decals on it, linear light and distance: (4, rows, columns) of a ``window``, or of all."""
    window = window or Window.whole(size)
    if not scene.backdrop:
        return np.broadcast_to(at_hand.textures[BACKDROP].levels[0], (4, window.height, window.width))
    around = Bindings(draw_inputs(scene, at_hand.mesh, size), at_hand.uniforms, at_hand.textures)
    if not look.buffers:
        bare: dict[Hashable, Texture] = {BACKDROP: at_hand.textures[BACKDROP]}
        lit = painted(scene.decals, {BACKDROP: look.picture}, bare, around, window)[BACKDROP]
        return lit.levels[0][:, *window.slices]
    empty: dict[Hashable, Texture] = {key: full_screen(value, size) for key, value in EMPTY_BUFFERS.items()}
    filled = painted(scene.decals, dict(look.buffers), empty, around, window)
    sun = at_hand.textures[SUN_DEPTH]
    return _lit_behind(scene, size, {SUN_DEPTH: sun, **filled}, has_decals=True, window=window)[0].levels[0]


def full_screen(value: tuple[float, ...], size: tuple[int, int]) -> Texture:
    """A picture of ``size`` (width, height) that is the same everywhere."""
    level = np.broadcast_to(np.array(value, dtype=np.float32).reshape(4, 1, 1), (4, size[1], size[0]))
    return Texture((np.ascontiguousarray(level),), wrap=("clamp", "clamp"))
