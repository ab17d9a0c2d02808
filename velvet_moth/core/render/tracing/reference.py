"""The reference picture: a form seen by rays, shaded by the same expressions on NumPy."""

from collections.abc import Hashable, Mapping
from typing import Any

import numpy as np
from embreex.rtcore_scene import EmbreeScene
from numpy.typing import NDArray

from velvet_moth.core.base.cache import BoundedCache
from velvet_moth.core.document.values import Value
from velvet_moth.core.forms.mesh import Floats, Mesh
from velvet_moth.core.forms.view import BACKGROUND
from velvet_moth.core.language.expr import Array
from velvet_moth.core.language.inputs import Bindings
from velvet_moth.core.language.interpreters.evaluate import evaluate, evaluate_in_tiles
from velvet_moth.core.language.texture import ALPHA_CUTOFF, Pixels, Texture
from velvet_moth.core.lighting.backdrop import BACKDROP, FAR
from velvet_moth.core.lighting.shadow import SUN_DEPTH
from velvet_moth.core.lighting.shown import Appearance
from velvet_moth.core.render.tracing.behind import decals_on, lit_backdrop, scene_textures
from velvet_moth.core.render.tracing.projecting import in_window, topmost
from velvet_moth.core.render.tracing.rays import Seen, points_seen, resting_scene, traced_scene, view_of
from velvet_moth.core.render.tracing.scene import (
    Scene,
    Spurt,
    draw_inputs,
    mesh_behind,
    shown_mesh,
    spurting,
    stage_textures,
    sun_half,
)
from velvet_moth.core.render.tracing.sheets import in_quads, look_through
from velvet_moth.core.render.tracing.staged import Placed, Stage, moved_positions, points_at_rest, uniform_arrays
from velvet_moth.core.render.tracing.sunlight import Caster, sun_picture
from velvet_moth.core.render.tracing.window import Window
from velvet_moth.core.scenery.backdrops import seen_picture

# Pictures of the sun by everything they hang on: a pin asks for the same again and again.
_suns: BoundedCache[Texture] = BoundedCache(
    "pictures of the sun", 32 << 20, lambda found: found.levels[0].nbytes, "bytes"
)


def _sun_of(
    scene: Scene,
    look: Appearance,
    mesh: Mesh,
    moved: Floats,
    traced: EmbreeScene,
    around: Bindings,
    values: Mapping[tuple[str, str], Value],
) -> Texture:
    half = sun_half(scene)
    key: tuple[Hashable, ...] = (scene.form_itself, scene.pose, scene.rig.sun_direction, scene.backdrop, look.casts)
    if look.casts and scene.emitter.is_on:
        key += (scene.emitter, scene.sources, scene.time, scene.camera)
    if look.casts and (look.offset is not None or look.opacity is not None):
        asked = tuple(sorted((key, tuple(value)) for key, value in values.items()))
        maps = frozenset(around.textures.items())
        key += (look.offset, look.opacity, scene.camera, scene.rig, scene.time, asked, maps)
    caster = Caster(traced, mesh, moved, look.opacity, around, scene.camera.position) if look.casts else None
    behind = mesh_behind(scene) if scene.backdrop else None
    return _suns.get(key, lambda: sun_picture(caster, scene.rig.sun_direction, half, behind))


def placed(
    scene: Scene,
    look: Appearance,
    values: Mapping[tuple[str, str], Value],
    textures: Mapping[Hashable, Texture],
    size: tuple[int, int],
) -> Placed:
    """A form as a look moves it, with what lies behind it and what the sun sees of both; ``size`` as (width, height)."""
    mesh, uniforms = shown_mesh(scene), uniform_arrays(values)
    bare = {**textures, **stage_textures(scene.rig.key)}
    moved = moved_positions(mesh, look.offset, scene, uniforms, bare)
    traced = resting_scene(mesh) if look.offset is None else traced_scene(mesh, moved)
    given = None if look.is_projected else look.given
    around = Bindings(draw_inputs(scene, mesh, size), uniforms, bare, given=given)
    sun = _sun_of(scene, look, mesh=mesh, moved=moved, traced=traced, around=around, values=values)
    return Placed(mesh, moved, traced, uniforms, {**textures, **scene_textures(scene, size, sun)}, given)


def points_of(
    scene: Scene,
    look: Appearance,
    values: Mapping[tuple[str, str], Value],
    textures: Mapping[Hashable, Texture],
    size: tuple[int, int],
) -> Stage:
    """What a scene shows, ``size`` as (width, height)."""
    return stage_of(scene, look, placed(scene, look, values, textures, size), size)


def stage_of(scene: Scene, look: Appearance, at_hand: Placed, size: tuple[int, int]) -> Stage:
    """As ``points_of``, of a form that is placed already."""
    width, height = size
    draw = draw_inputs(scene, at_hand.mesh, size)
    if look.is_projected:
        around = Bindings(draw, at_hand.uniforms, at_hand.textures)
        points, covered = topmost(scene.decals, in_window(Window.whole(size), size), around)
        seen = Seen(points, covered, np.zeros(0, dtype=np.int64), lambda rays, names: {})
    elif look.offset is None:
        seen = points_at_rest(at_hand.mesh, scene.camera, width, height)
    else:
        seen = points_seen(at_hand.mesh, at_hand.traced, at_hand.moved, scene.camera, size)
    return Stage(seen, draw, at_hand.uniforms, at_hand.textures, at_hand.given)


def render(
    look: Appearance,
    values: Mapping[tuple[str, str], Value],
    textures: Mapping[Hashable, Texture],
    size: tuple[int, int],
    scene: Scene | None = None,
) -> Pixels:
    """A form as the stage shows it, 8-bit RGBA (rows, columns, 4), row 0 at the bottom.

    ``size`` is (width, height); alpha is 0 where nothing is hit and the stage's grey shows.
    """
    shown, is_there = displayed(look, values, textures, size, scene)
    pixels = np.empty((*is_there.shape, 4), dtype=np.uint8)
    pixels[..., :3] = _bytes(shown)
    pixels[..., 3] = np.where(is_there, 255, 0)
    return pixels


def displayed(
    look: Appearance,
    values: Mapping[tuple[str, str], Value],
    textures: Mapping[Hashable, Texture],
    size: tuple[int, int],
    scene: Scene | None = None,
) -> tuple[Floats, NDArray[np.bool_]]:
    """The display colours (3, rows, columns) that ``render`` rounds to 8 bits, 0..1, and where anything is hit."""
    scene = scene or Scene()
    at_hand = placed(scene, look, values, textures, size)
    if look.is_projected:
        return _displayed_decals(look, scene, at_hand, size)
    stage = stage_of(scene, look, at_hand, size)
    picture, hit, distance = _seen(look, scene, stage, at_hand)
    if not scene.backdrop:
        return _plain(np.where(hit, picture, _grey())), hit
    behind, there = lit_backdrop(scene.still, size, stage.textures[SUN_DEPTH])
    ground = evaluate([seen_picture()], Bindings(_screen(stage), {}, {BACKDROP: behind}))[0]
    hit = hit & (behind.levels[0][3] >= distance)
    return _plain(np.where(hit, picture, ground)), hit | there


def _seen(look: Appearance, scene: Scene, stage: Stage, at_hand: Placed) -> tuple[Floats, NDArray[np.bool_], Floats]:
    """The display colours of a form over the whole picture, where there is anything of it, and how far away that is (m)."""
    found = stage.evaluate([look.picture] if look.opacity is None else [look.picture, look.opacity])
    if look.opacity is None:
        return found[0], stage.hit, stage.seen.points["camera_distance"]
    hit, distance = _through_cuts(look, scene, stage, found, at_hand)
    return found[0], hit, distance


def _grey() -> Floats:
    """The stage's own grey, as a display colour."""
    return (np.array(BACKGROUND, dtype=np.float32) / np.float32(255.0)).reshape(3, 1, 1)


def _plain(shown: Floats) -> Floats:
    """Display colours between 0 and 1; what is no number is black, as on the stage."""
    return np.asarray(np.nan_to_num(np.clip(shown, 0, 1)), dtype=np.float32)


def _through_cuts(
    look: Appearance, scene: Scene, stage: Stage, found: list[Floats], at_hand: Placed
) -> tuple[NDArray[np.bool_], Floats]:
    """Fills in, where a sheet is cut away, what is seen past it; where there is anything, and how far it lies (m)."""
    assert look.opacity is not None
    picture, opacity = found
    outputs, (height, width) = [look.picture, look.opacity], stage.hit.shape
    hit = stage.hit & (opacity >= ALPHA_CUTOFF)
    distance = stage.seen.points["camera_distance"].copy()
    rows, columns = np.nonzero(stage.hit & ~hit)
    pixels = np.stack((columns, rows), axis=1)

    def shade(rays: NDArray[np.int64], points: Mapping[str, Array]) -> NDArray[np.bool_]:
        around = stage.around.at(points)
        seen, left = (in_quads(values, pixels[rays]) for values in evaluate(outputs, around))
        stays = np.broadcast_to(left >= ALPHA_CUTOFF, len(rays))
        kept = (rows[rays[stays]], columns[rays[stays]])
        picture[..., kept[0], kept[1]] = seen[..., stays]
        distance[kept] = in_quads(points["camera_distance"], pixels[rays])[stays]
        hit[kept] = True
        return stays

    mesh, moved, traced = at_hand.mesh, at_hand.moved, at_hand.traced
    view = view_of(scene.camera, (width, height))
    look_through(
        mesh,
        moved,
        traced=traced,
        view=view,
        pixels=pixels,
        size=(width, height),
        shade=shade,
        outputs=stage.around.read_for(outputs),
        beyond=distance[rows, columns] + 1e-4,
    )
    return hit, distance


def _displayed_decals(
    look: Appearance, scene: Scene, at_hand: Placed, size: tuple[int, int]
) -> tuple[Floats, NDArray[np.bool_]]:
    width, height = size
    if not scene.backdrop:
        return np.broadcast_to(_grey(), (3, height, width)), np.zeros((height, width), dtype=np.bool_)
    behind = Texture((decals_on(look, scene, at_hand, size),), wrap=("clamp", "clamp"))
    inputs = {**draw_inputs(scene, at_hand.mesh, size), **in_window(Window.whole(size), size)}
    (shown,) = evaluate_in_tiles([seen_picture()], Bindings(inputs, {}, {BACKDROP: behind}), (height, width))
    there = behind.levels[0][3] < FAR
    spurt = spurting(scene)
    if spurt is None or scene.spurt is None:
        return _plain(shown), there
    before = {**at_hand.textures, BACKDROP: behind}
    picture, hit, distance = _spurted(scene.spurt, spurt, before, size)
    hit = hit & (behind.levels[0][3] >= distance)
    return _plain(np.where(hit, picture, shown)), hit | there


def _spurted(
    spurt: Spurt, scene: Scene, before: Mapping[Hashable, Texture], size: tuple[int, int]
) -> tuple[Floats, NDArray[np.bool_], Floats]:
    """As ``_seen``, of what spurts in a ``scene`` of its own ``before`` what lies behind."""
    mesh, uniforms, textures = shown_mesh(scene), uniform_arrays(spurt.values), {**spurt.textures, **before}
    moved = moved_positions(mesh, spurt.look.offset, scene, uniforms, textures)
    at_hand = Placed(mesh, moved, traced_scene(mesh, moved), uniforms, textures, spurt.look.given)
    return _seen(spurt.look, scene, stage_of(scene, spurt.look, at_hand, size), at_hand)


def _bytes(shown: Floats) -> NDArray[Any]:
    """A display colour (3, rows, columns) as whole numbers of 8 bits, (rows, columns, 3)."""
    return np.asarray(np.rint(shown * 255).transpose(1, 2, 0))


def _screen(stage: Stage) -> dict[str, Array]:
    return {"screen_position": stage.seen.points["screen_position"], "exposure": stage.draw["exposure"]}
