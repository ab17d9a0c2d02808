"""The reference picture: a form seen by rays, shaded by the same expressions on NumPy."""

from collections.abc import Hashable, Iterator, Mapping
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
from embreex.rtcore_scene import EmbreeScene
from numpy.typing import NDArray

from velvet_moth.core.base.cache import BoundedCache
from velvet_moth.core.document.values import Value
from velvet_moth.core.forms.mesh import Floats, Mesh, joined
from velvet_moth.core.forms.view import BACKGROUND, Camera
from velvet_moth.core.language.expr import Array, Expr, inputs_of
from velvet_moth.core.language.inputs import Bindings, Given
from velvet_moth.core.language.interpreters.cost import cost
from velvet_moth.core.language.interpreters.evaluate import evaluate, evaluate_in_tiles
from velvet_moth.core.language.texture import ALPHA_CUTOFF, Pixels, Texture
from velvet_moth.core.lighting.backdrop import BACKDROP, FAR, grey_light, nothing_behind
from velvet_moth.core.lighting.decal_buffers import EMPTY_BUFFERS
from velvet_moth.core.lighting.decals import NO_DECAL
from velvet_moth.core.lighting.environment import ENVIRONMENT
from velvet_moth.core.lighting.shadow import SUN_DEPTH
from velvet_moth.core.lighting.shown import Appearance
from velvet_moth.core.render.tracing.projecting import in_window, painted, topmost
from velvet_moth.core.render.tracing.rays import Seen, points_seen, resting_scene, traced_scene, unit, view_of
from velvet_moth.core.render.tracing.scene import PartSurface, Scene, draw_inputs, shown_mesh, stage_textures, sun_half
from velvet_moth.core.render.tracing.sheets import in_quads, look_through
from velvet_moth.core.render.tracing.sunlight import Caster, sun_picture
from velvet_moth.core.render.tracing.window import Window
from velvet_moth.core.scenery.backdrops import backdrop, place_of, seen_picture


@lru_cache(maxsize=6)
def _behind(scene: Scene, size: tuple[int, int], sun: Texture) -> tuple[Texture, NDArray[np.bool_]]:
    """What lies behind at every pixel, linear light and distance, and where there is anything."""
    return _lit_behind(scene, size, {SUN_DEPTH: sun})


def _lit_behind(
    scene: Scene,
    size: tuple[int, int],
    seen_by: Mapping[Hashable, Texture],
    has_decals: bool = False,
    window: Window | None = None,
) -> tuple[Texture, NDArray[np.bool_]]:
    """As ``_behind``, in a ``window`` or all over; where it ``has_decals`` as the buffers leave it that are given beside the sun."""
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
    parts = {place_of(kept.key, part): mesh for part, mesh in kept.parts().items()}
    for surface in scene.part_surfaces:
        if surface.part in parts:
            yield parts.pop(surface.part), surface
    if parts:
        bare, under = (kept.light(len(scene.rig.lamps), has_decals) for has_decals in (False, True))
        own = PartSurface("", bare, under)
        yield kept.mesh() if len(parts) == len(kept.parts()) else joined(list(parts.values())), own


def scene_textures(scene: Scene, size: tuple[int, int], sun: Texture) -> dict[Hashable, Texture]:
    """What the stage brings to a picture of ``size``: the rig's surroundings, what lies behind, what the ``sun`` sees."""
    behind = _behind(scene.still, size, sun)[0] if scene.backdrop else nothing_behind(scene.rig.exposure)
    return {ENVIRONMENT: scene.environment, BACKDROP: behind, SUN_DEPTH: sun, **NO_DECAL.textures}


def vertex_inputs(mesh: Mesh, eye: NDArray[np.float64]) -> dict[str, Array]:
    """Surface inputs at the vertices, (components, 1, vertices), as the vertex shader has them."""
    towards = (eye - mesh.positions).astype(np.float32)
    found = {
        "uv": mesh.uvs,
        "second_uv": mesh.second_uvs,
        "position": mesh.positions,
        "object_position": mesh.own.positions,
        "normal": unit(mesh.normals),
        "moved_normal": unit(mesh.normals),
        "object_normal": unit(mesh.own.normals),
        "tangent": np.concatenate((unit(mesh.tangents[:, :3]), mesh.tangents[:, 3:]), axis=1),
        "vertex_colour": mesh.colours,
        "second_vertex_colour": mesh.second_data,
        "view_direction": unit(towards),
        **(mesh.instance or {}),
    }
    shaped = {name: np.ascontiguousarray(values.T)[:, None, :] for name, values in found.items()}
    return {**shaped, "camera_distance": np.linalg.norm(towards, axis=1).astype(np.float32)[None]}


def moved_positions(
    mesh: Mesh,
    offset: Expr | None,
    scene: Scene,
    uniforms: Mapping[Hashable, Array],
    textures: Mapping[Hashable, Texture],
) -> Floats:
    """The vertices after the offset, (n, 3) metres."""
    if offset is None:
        return mesh.positions
    inputs = {**vertex_inputs(mesh, scene.camera.position), **draw_inputs(scene, mesh, (1, 1))}
    moved = evaluate([offset], Bindings(inputs, uniforms, textures))[0]
    shift = np.broadcast_to(moved, (3, 1, len(mesh.positions)))[:, 0].T
    return np.asarray(mesh.positions + shift, dtype=np.float32)


@lru_cache(maxsize=8)
def points_at_rest(mesh: Mesh, camera: Camera, width: int, height: int) -> Seen:
    """What a camera sees of a form before any vertex offset."""
    return points_seen(mesh, resting_scene(mesh), mesh.positions, camera, (width, height))


def uniform_arrays(values: Mapping[tuple[str, str], Value]) -> dict[Hashable, Array]:
    """Unwired values as arrays: () for one number, (components, 1, 1) for more."""
    return {
        key: _uniform_array(np.array(value, dtype=np.float32).tobytes())
        for key, value in values.items()
        if not isinstance(value, str)
    }


@lru_cache(maxsize=8192)
def _uniform_array(components: bytes) -> Array:
    """Equal values are one array, which nobody can change: so what reads them is known to be the same."""
    made = np.frombuffer(components, dtype=np.float32)
    return made.reshape(() if len(made) == 1 else (-1, 1, 1))


# So many quads are evaluated together: as much as a tile of the picture.
_AT_ONCE = 16384


@dataclass(frozen=True, eq=False)
class Stage:
    """Everything an expression may ask at the pixels of a scene, and where the form is.

    What is known at the pixels goes before what is the same for the ``draw``.
    """

    seen: Seen
    draw: Mapping[str, Array]
    uniforms: Mapping[Hashable, Array]
    textures: Mapping[Hashable, Texture]
    given: Given | None = None

    @property
    def bindings(self) -> Bindings:
        """What an evaluation at the seen points needs from outside."""
        return self.around.at(self.seen.points)

    @property
    def around(self) -> Bindings:
        """What is known wherever it is seen."""
        return Bindings(self.draw, self.uniforms, self.textures, given=self.given)

    @property
    def hit(self) -> NDArray[np.bool_]:
        """Where something is seen, (rows, columns)."""
        return self.seen.hit

    def evaluate(self, outputs: list[Expr]) -> list[Floats]:
        """The outputs over the whole picture; at torn quads as the GPU computes them, each on its own plane."""
        height, width = self.hit.shape
        found = evaluate_in_tiles(outputs, self.bindings, (height, width))
        read = self.around.read_for(outputs)
        if not cost(read).by_class["derivative"]:
            return found
        names = inputs_of(read)
        for first in range(0, len(self.seen.torn), _AT_ONCE):
            rays = self.seen.torn[first : first + _AT_ONCE]
            quads = evaluate(outputs, self.around.at(self.seen.at_quads(rays, names)))
            row, column = rays // width, rays % width
            pixels = np.stack((column, row), axis=1)
            for picture, values in zip(found, quads, strict=True):
                picture[..., row, column] = in_quads(values, pixels)
        return found


@dataclass(frozen=True, eq=False)
class Placed:
    """A form in its scene: where it lies after an offset, and all that its surface can read."""

    mesh: Mesh
    moved: Floats
    traced: EmbreeScene
    uniforms: Mapping[Hashable, Array]
    textures: Mapping[Hashable, Texture]
    given: Given | None = None

    def bindings(self, draw: Mapping[str, Array]) -> Bindings:
        """What its surface can read in a draw, besides what is known at its points."""
        return Bindings(draw, self.uniforms, self.textures, given=self.given)


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
    return _suns.get(key, lambda: sun_picture(caster, scene.rig.sun_direction, half, scene.backdrop))


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
    found = stage.evaluate([look.picture] if look.opacity is None else [look.picture, look.opacity])
    hit, distance = stage.hit, stage.seen.points["camera_distance"]
    if look.opacity is not None:
        hit, distance = _through_cuts(look, scene, stage, found, at_hand)
    ground = _grey()
    is_there = hit
    if scene.backdrop:
        behind, there = _behind(scene.still, size, stage.textures[SUN_DEPTH])
        ground = evaluate([seen_picture()], Bindings(_screen(stage), {}, {BACKDROP: behind}))[0]
        hit = hit & (behind.levels[0][3] >= distance)
        is_there = hit | there
    return _plain(np.where(hit, found[0], ground)), is_there


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


def _displayed_decals(
    look: Appearance, scene: Scene, at_hand: Placed, size: tuple[int, int]
) -> tuple[Floats, NDArray[np.bool_]]:
    width, height = size
    if scene.backdrop:
        behind = decals_on(look, scene, at_hand, size)
        inputs = {**draw_inputs(scene, at_hand.mesh, size), **in_window(Window.whole(size), size)}
        around = Bindings(inputs, {}, {BACKDROP: Texture((behind,), wrap=("clamp", "clamp"))})
        (shown,) = evaluate_in_tiles([seen_picture()], around, (height, width))
        return _plain(shown), np.asarray(behind[3] < FAR)
    return np.broadcast_to(_grey(), (3, height, width)), np.zeros((height, width), dtype=np.bool_)


def _bytes(shown: Floats) -> NDArray[Any]:
    """A display colour (3, rows, columns) as whole numbers of 8 bits, (rows, columns, 3)."""
    return np.asarray(np.rint(shown * 255).transpose(1, 2, 0))


def _screen(stage: Stage) -> dict[str, Array]:
    return {"screen_position": stage.seen.points["screen_position"], "exposure": stage.draw["exposure"]}
