"""The reference picture: a form seen by rays, shaded by the same expressions on NumPy."""

from collections.abc import Hashable, Mapping
from dataclasses import dataclass, field, replace
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.backdrop import (
    BACKDROP,
    FAR,
    SUN_REACH,
    even,
    grey_light,
    nothing_behind,
    synthetic_backdrop,
    synthetic_sun_reach,
)
from velvet_moth.core.backdrops import BACKDROPS, backdrop, seen_picture
from velvet_moth.core.expr import Array, Expr
from velvet_moth.core.forms import FORMS, form
from velvet_moth.core.forms.mesh import Floats, Mesh
from velvet_moth.core.graph import Graph, Value
from velvet_moth.core.interpreters.cost import cost
from velvet_moth.core.interpreters.evaluate import evaluate, evaluate_in_tiles
from velvet_moth.core.interpreters.glsl import CUT_AT
from velvet_moth.core.lighting.environment import ENVIRONMENT, environment_map
from velvet_moth.core.lighting.model import Look
from velvet_moth.core.lighting.rigs import RIGS
from velvet_moth.core.rays import Seen, points_seen, resting_scene, traced_scene, unit
from velvet_moth.core.surroundings import Surroundings
from velvet_moth.core.texture.image import Pixels, Texture
from velvet_moth.core.view import BACKGROUND, INSTANCE, Camera, Rig


@dataclass(frozen=True)
class Scene:
    """What is looked at, from where, in which light, when, and what lies behind."""

    form: str = "mooring"
    camera: Camera = field(default_factory=Camera)
    rig: Rig = field(default_factory=Rig)
    time: float = 0.0
    backdrop: str = ""

    @classmethod
    def of(cls, key: str, rig: str = "open_dock", behind: str = "") -> "Scene":
        """A form from where it is first seen, under a rig as it first stands, before a backdrop."""
        stood = BACKDROPS.get(behind) or FORMS.get(key)
        view = stood.view if stood else Camera()
        return cls(key, view, RIGS[rig].rig if rig in RIGS else Rig(), 0.0, behind)

    @property
    def still(self) -> "Scene":
        """What of it a backdrop hangs on, which stands still and knows no form."""
        return replace(self, form="", time=0.0)

    @classmethod
    def of_graph(cls, graph: Graph) -> "Scene":
        """The scene a graph is judged in."""
        return cls.of(graph.form, graph.rig, graph.backdrop)


def _number(value: float) -> Array:
    return np.array(value, dtype=np.float32)


def _vector(value: tuple[float, ...] | Floats) -> Array:
    return np.array(value, dtype=np.float32).reshape(-1, 1, 1)


def rig_inputs(rig: Rig, time: float) -> dict[str, Array]:
    """The per-draw inputs of a rig, as arrays of size 1."""
    return {
        "time": _number(time),
        "sun_direction": _vector(rig.sun_direction),
        "sun_colour": _vector(rig.sun_colour),
        "rig_turn": _number(rig.rig_turn),
        "exposure": _number(rig.exposure),
    }


def camera_inputs(camera: Camera, width: int, height: int) -> dict[str, Array]:
    """The per-draw inputs of an eye."""
    right, up, _ = camera.axes
    return {
        "camera_right": _vector(tuple(right)),
        "camera_up": _vector(tuple(up)),
        "lens": _vector(camera.lens(width, height)),
    }


def form_inputs(mesh: Mesh) -> dict[str, Array]:
    """The per-draw inputs of a form."""
    low, high = mesh.box
    return {
        "form_low": _vector(low),
        "form_high": _vector(high),
        "form_scale": _vector((1.0, 1.0, 1.0)),
        "instance_data": _vector(INSTANCE),
    }


def draw_inputs(scene: Scene, mesh: Mesh, size: tuple[int, int]) -> dict[str, Array]:
    """Everything that is the same all over a picture of ``size`` (width, height)."""
    return {**rig_inputs(scene.rig, scene.time), **form_inputs(mesh), **camera_inputs(scene.camera, *size)}


def stage_textures(rig: str = "open_dock") -> dict[Hashable, Texture]:
    """What stands in for a scene where there is none: in swatches and tests."""
    return {ENVIRONMENT: environment_map(rig), BACKDROP: synthetic_backdrop(), SUN_REACH: synthetic_sun_reach()}


@lru_cache(maxsize=6)
def _behind(scene: Scene, size: tuple[int, int]) -> tuple[Texture, NDArray[np.bool_]]:
    """What lies behind at every pixel, linear light and distance, and where there is anything."""
    width, height = size
    kept = backdrop(scene.backdrop)
    mesh = kept.mesh()
    seen = points_seen(mesh, traced_scene(mesh, mesh.positions), mesh.positions, scene.camera, width, height)
    around: dict[Hashable, Texture] = {ENVIRONMENT: environment_map(scene.rig.key), SUN_REACH: even(1, 1, 1, 1)}
    (found,) = Stage(seen, draw_inputs(scene, mesh, size), {}, around).evaluate([kept.light])
    nothing = np.array((*grey_light(scene.rig.exposure), FAR), dtype=np.float32).reshape(4, 1, 1)
    return Texture((np.where(seen.hit, found, nothing),), wrap=("clamp", "clamp")), seen.hit


def scene_textures(scene: Scene, size: tuple[int, int]) -> dict[Hashable, Texture]:
    """What the stage brings to a picture of ``size``: the rig's surroundings, what lies behind, the sun's reach."""
    behind = _behind(scene.still, size)[0] if scene.backdrop else nothing_behind(scene.rig.exposure)
    return {ENVIRONMENT: environment_map(scene.rig.key), BACKDROP: behind, SUN_REACH: even(1, 1, 1, 1)}


def vertex_inputs(mesh: Mesh, eye: NDArray[np.float64]) -> dict[str, Array]:
    """Surface inputs at the vertices, (components, 1, vertices), as the vertex shader has them."""
    towards = (eye - mesh.positions).astype(np.float32)
    found = {
        "uv": mesh.uvs,
        "second_uv": mesh.second_uvs,
        "position": mesh.positions,
        "object_position": mesh.positions,
        "normal": unit(mesh.normals),
        "object_normal": unit(mesh.normals),
        "tangent": np.concatenate((unit(mesh.tangents[:, :3]), mesh.tangents[:, 3:]), axis=1),
        "vertex_colour": mesh.colours,
        "view_direction": unit(towards),
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
    moved = evaluate([offset], Surroundings(inputs, uniforms, textures))[0]
    shift = np.broadcast_to(moved, (3, 1, len(mesh.positions)))[:, 0].T
    return np.asarray(mesh.positions + shift, dtype=np.float32)


@lru_cache(maxsize=8)
def points_at_rest(key: str, camera: Camera, width: int, height: int) -> Seen:
    """What a camera sees of a form before any vertex offset."""
    mesh = form(key)
    return points_seen(mesh, resting_scene(key), mesh.positions, camera, width, height)


def uniform_arrays(values: Mapping[tuple[str, str], Value]) -> dict[Hashable, Array]:
    """Unwired values as arrays: () for one number, (components, 1, 1) for more."""
    return {
        key: np.array(value, dtype=np.float32).reshape(() if len(value) == 1 else (-1, 1, 1))
        for key, value in values.items()
        if not isinstance(value, str)
    }


@dataclass(frozen=True, eq=False)
class Stage:
    """Everything an expression may ask at the pixels of a scene, and where the form is."""

    seen: Seen
    draw: Mapping[str, Array]
    uniforms: Mapping[Hashable, Array]
    textures: Mapping[Hashable, Texture]

    @property
    def surroundings(self) -> Surroundings:
        return Surroundings({**self.seen.points, **self.draw}, self.uniforms, self.textures)

    @property
    def hit(self) -> NDArray[np.bool_]:
        return self.seen.hit

    def evaluate(self, outputs: list[Expr]) -> list[Floats]:
        """The outputs over the whole picture; at torn quads as the GPU computes them, each on its own plane."""
        height, width = self.hit.shape
        found = evaluate_in_tiles(outputs, self.surroundings, (height, width))
        torn = self.seen.torn
        if len(torn) and cost(outputs).by_sort["derivative"]:
            inputs = {**self.seen.torn_points, **self.draw}
            quads = evaluate(outputs, Surroundings(inputs, self.uniforms, self.textures))
            row, column = torn // width, torn % width
            place = (row % 2, np.arange(len(torn)) * 2 + column % 2)
            for picture, values in zip(found, quads, strict=True):
                whole = np.broadcast_to(values, (*picture.shape[:-2], 2, 2 * len(torn)))
                picture[..., row, column] = whole[..., place[0], place[1]]
        return found


def points_of(
    scene: Scene,
    offset: Expr | None,
    values: Mapping[tuple[str, str], Value],
    textures: Mapping[Hashable, Texture],
    size: tuple[int, int],
) -> Stage:
    """What a scene shows, ``size`` as (width, height)."""
    width, height = size
    mesh, uniforms = form(scene.form), uniform_arrays(values)
    bound = {**textures, **scene_textures(scene, size)}
    if offset is None:
        seen = points_at_rest(scene.form, scene.camera, width, height)
    else:
        moved = moved_positions(mesh, offset, scene, uniforms, bound)
        seen = points_seen(mesh, traced_scene(mesh, moved), moved, scene.camera, width, height)
    return Stage(seen, draw_inputs(scene, mesh, size), uniforms, bound)


def render(
    look: Look,
    values: Mapping[tuple[str, str], Value],
    textures: Mapping[Hashable, Texture],
    size: tuple[int, int],
    scene: Scene | None = None,
) -> Pixels:
    """A form as the stage shows it, 8-bit RGBA (rows, columns, 4), row 0 at the bottom.

    ``size`` is (width, height); alpha is 0 where nothing is hit and the stage's grey shows.
    """
    width, height = size
    stage = points_of(scene or Scene(), look.offset, values, textures, size)
    found = stage.evaluate([look.picture] if look.opacity is None else [look.picture, look.opacity])
    hit = stage.hit if look.opacity is None else stage.hit & (found[1] >= CUT_AT)
    pixels = np.empty((height, width, 4), dtype=np.uint8)
    ground: NDArray[Any] = np.array(BACKGROUND)
    is_there = hit
    if scene is not None and scene.backdrop:
        behind, there = _behind(scene.still, size)
        ground = _bytes(evaluate([seen_picture()], Surroundings(_screen(stage), {}, {BACKDROP: behind}))[0])
        hit = hit & (behind.levels[0][3] >= stage.seen.points["camera_distance"])
        is_there = hit | there
    pixels[..., :3] = np.where(hit[..., None], _bytes(found[0]), ground)
    pixels[..., 3] = np.where(is_there, 255, 0)
    return pixels


def _bytes(shown: Floats) -> NDArray[Any]:
    """A display colour (3, rows, columns) as whole numbers of 8 bits, (rows, columns, 3)."""
    return np.asarray(np.rint(np.clip(shown, 0, 1) * 255).transpose(1, 2, 0))


def _screen(stage: Stage) -> dict[str, Array]:
    return {"screen_position": stage.seen.points["screen_position"], "exposure": stage.draw["exposure"]}
