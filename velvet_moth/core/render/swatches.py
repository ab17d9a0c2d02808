"""Swatches: every output of a graph as a small picture and a mean colour, from one pass over NumPy."""

import base64
import math
from collections.abc import Hashable, Mapping, Sequence, Set
from dataclasses import dataclass, field, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.document.graph import Source
from velvet_moth.core.document.values import Value
from velvet_moth.core.emitting.emitter import IDLE_INPUTS
from velvet_moth.core.forms.mesh import Mesh
from velvet_moth.core.forms.view import Camera, Rig, view_of_box
from velvet_moth.core.language.expr import Array, Expr, Structural, constant, topological_order
from velvet_moth.core.language.inputs import Bindings, surface
from velvet_moth.core.language.interpreters.evaluate import evaluate
from velvet_moth.core.language.primitives import sample
from velvet_moth.core.language.texture import Texture, linear_to_srgb
from velvet_moth.core.language.types import P_SURFACE, P_VEC2, P_VEC3, TEXTURE, PortType
from velvet_moth.core.lighting.channels import CHANNELS, Surface
from velvet_moth.core.lighting.decals import NO_DECAL_INPUTS
from velvet_moth.core.lighting.shown import lit_picture
from velvet_moth.core.lowering.lowered import LoweredGraph
from velvet_moth.core.nodes.surfaces import DOCK
from velvet_moth.core.pictures.formats.png import write_png
from velvet_moth.core.render.tracing.scene import Scene, camera_inputs, form_inputs, rig_inputs, stage_textures
from velvet_moth.core.render.tracing.staged import points_at_rest, uniform_arrays

SIZE = 40
# So many swatches are painted together.
_BATCH = 64
# A texture tiled finely would blur to its mean in so small a picture: show its grain instead.
SHARPER = -5.0
# Swatches stand still; a second in, things that move have left their starting place.
TIME = 1.0


@lru_cache(maxsize=1)
def dome() -> Mapping[str, Array]:
    """The surface inputs of the swatch: a square seen head-on that bulges like a dome, UV 0..1 across.

    Face-on in the middle, edge-on at the corners, so that masks of the view show their whole run.
    """
    at = ((np.arange(SIZE) + 0.5) / SIZE).astype(np.float32)
    u, v = np.meshgrid(at, at)
    x, y = (u * 2 - 1), (v * 2 - 1)
    radius = np.sqrt(x * x + y * y)
    lean = np.minimum(radius / 1.3, 1.0) * (math.pi / 2)
    scale = np.sin(lean) / np.maximum(radius, 1e-6)
    normal = np.stack((x * scale, y * scale, np.cos(lean)))
    level = np.sqrt(np.maximum(1 - normal[1] ** 2, 1e-6))
    tangent = np.stack((normal[2] / level, np.zeros_like(x), -normal[0] / level, np.ones_like(x)))
    towards = np.zeros_like(normal)
    towards[2] = 1
    made = {
        "uv": np.stack((u, v)),
        "position": normal,
        "object_position": normal,
        "normal": normal,
        "moved_normal": normal,
        "object_normal": normal,
        "tangent": tangent,
        "view_direction": towards,
        "second_uv": np.stack((u, v)),
        "moved_position": normal,
        "vertex_colour": np.stack((v, u, 1 - v, (u + v) / 2)),
        "second_vertex_colour": np.stack((1 - u, v, u, (1 - u + v) / 2)),
        **_facets(u, v),
        "screen_position": np.stack((u, v)),
        "screen_pixel": np.floor(np.stack((u, v)) * SIZE),
        "camera_distance": 4.0 - normal[2],
        "is_front": np.ones_like(u),
    }
    return {name: values.astype(np.float32) for name, values in made.items()}


# The swatch is cut into so many faces along a side.
_FACETS = 8


def _facets(u: Array, v: Array) -> dict[str, Array]:
    """Faces of a square, row by row, with their middles on its plane."""
    column, row = np.floor(u * _FACETS), np.floor(v * _FACETS)
    x, y = ((at + 0.5) / _FACETS * 2 - 1 for at in (column, row))
    return {"face_middle": np.stack((x, y, np.zeros_like(x))), "face_number": row * _FACETS + column}


def draw_inputs() -> dict[str, Array]:
    """What is the same all over a swatch: the rig, and the box the dome stands in."""
    corners = np.array([[-1, -1, 0], [1, 1, 1]], dtype=np.float32)
    low, high = (c.reshape(3, 1, 1) for c in corners)
    return {
        **rig_inputs(Rig(), TIME),
        **camera_inputs(Camera(), 1, 1),
        "form_low": low,
        "form_high": high,
        "form_scale": np.ones((3, 1, 1), dtype=np.float32),
        **IDLE_INPUTS,
        **NO_DECAL_INPUTS,
    }


@dataclass(frozen=True, eq=False)
class Ground:
    """What swatches are drawn on: surface inputs of SIZE x SIZE pixels, and where there is anything to see."""

    inputs: Mapping[str, Array]
    mask: NDArray[np.bool_] | None = None


# Shown on the dome every pixel tells something; a form shows how a value lies on it.
ON_DOME = "dome"


@lru_cache(maxsize=8)
def ground(key: str, brought: Mesh | None = None) -> Ground:
    """The dome, or a form as it is first seen, or a mesh in its place; raises KeyError for any other name."""
    if key == ON_DOME:
        return Ground({**dome(), **draw_inputs()})
    scene = Scene.of(key)
    if brought is not None:
        scene = replace(scene, brought=brought, camera=view_of_box(*brought.box))
    # Nearer than the stage, which shows more around the form than a swatch has room for.
    camera = replace(scene.camera, distance=scene.camera.distance * 0.86)
    seen = points_at_rest(scene.mesh, camera, SIZE, SIZE)
    draw = {**rig_inputs(scene.rig, TIME), **form_inputs(scene.mesh), **camera_inputs(camera, SIZE, SIZE)}
    return Ground({**seen.points, **draw}, seen.hit)


@dataclass(frozen=True)
class Swatch:
    """``mean`` is the display colour a wire is dyed with; ``value`` the components in the middle."""

    png: str
    mean: tuple[int, ...]
    value: tuple[float, ...]
    low: float
    high: float


@dataclass
class SwatchPass:
    """Values of the last pass, so that an edit computes only what lies downstream of it."""

    arrays: dict[Expr, Array] = field(default_factory=dict)
    uniforms: dict[tuple[str, str], Value] = field(default_factory=dict)
    held: dict[Hashable, Array] = field(default_factory=dict)
    textures: dict[Hashable, Texture] = field(default_factory=dict)
    swatches: dict[Source, Swatch] = field(default_factory=dict)
    exprs: dict[Source, Expr] = field(default_factory=dict)
    on: str = ON_DOME
    brought: Mesh | None = None

    @property
    def bindings(self) -> Bindings:
        """What the values of the last pass were computed from."""
        sharper = {k: replace(t, bias=SHARPER) for k, t in self.textures.items()}
        return Bindings(ground(self.on, self.brought).inputs, self.held, {**sharper, **stage_textures()}, {})

    def at_moment(self, value: Expr, seconds: float) -> Array:
        """One value over the same square at another time."""
        return evaluate([value], self.bindings.at({"time": np.array(seconds, np.float32)}))[0]

    def update(
        self,
        lowered: LoweredGraph,
        values: Mapping[tuple[str, str], Value],
        textures: Mapping[Hashable, Texture],
        on: str = ON_DOME,
        brought: Mesh | None = None,
    ) -> dict[Source, Swatch]:
        """Bring all swatches up to date, drawn ``on`` a ground or a mesh in its place; returns those that changed."""
        if on != self.on or brought is not self.brought:
            self.arrays, self.swatches, self.on, self.brought = {}, {}, on, brought
        under = ground(on, brought)
        shown = {s: _shown(e) for s, e in lowered.outputs.items()}
        channels = {Source(DOCK, key): value for key, value in lowered.surface.channels.items()}
        shown.update(channels)
        # What was computed before knows nothing of values that have come since.
        changed = {k for k, v in values.items() if k in self.uniforms and self.uniforms[k] != v}
        # A texture may change while the value that names it stays.
        other = {k for k, t in textures.items() if self.textures.get(k) is not t}
        touched = _touched([*shown.values()], changed | other)
        self.textures = dict(textures)
        known = {e: a for e, a in self.arrays.items() if e not in touched}
        wanted = list(dict.fromkeys(shown.values()))
        self.held |= uniform_arrays({k: v for k, v in values.items() if self.uniforms.get(k) != v})
        computed = evaluate(wanted, self.bindings, known)
        before = self.arrays
        self.arrays = dict(zip(wanted, computed, strict=True))
        self.uniforms = dict(values)
        # Nodes that are alike share their values, and so their picture.
        unlike: dict[tuple[int, PortType], Array] = {}
        keys: dict[Source, tuple[int, PortType]] = {}
        for source, expr in shown.items():
            same = self.exprs.get(source) is expr and expr in before and before[expr] is self.arrays.get(expr)
            if not same or source not in self.swatches:
                keys[source] = key = id(self.arrays[expr]), _given(source, lowered)
                unlike[key] = self.arrays[expr]
        painted = _painted_all(unlike, under.mask)
        fresh = {source: painted[key] for source, key in keys.items()}
        self.exprs = shown
        self.swatches = {s: fresh.get(s) or self.swatches[s] for s in shown}
        return fresh


def _given(source: Source, lowered: LoweredGraph) -> PortType:
    is_channel = source.node == DOCK and source.output in CHANNELS
    return CHANNELS[source.output].type if is_channel else lowered.types[source]


def _shown(value: Expr | Surface) -> Expr:
    """What stands for a value in its swatch: a surface is lit, a texture is read over the whole square."""
    if isinstance(value, Surface):
        return lit_picture(value)
    return sample(value, surface("uv"), constant(0.0)).rgb if value.type is TEXTURE else value


def _touched(outputs: list[Expr], changed: Set[Hashable]) -> set[Expr]:
    """Every expression whose value depends on a changed value."""
    if not changed:
        return set()
    touched: set[Expr] = set()
    for expr in topological_order(outputs):
        outside = expr.operator in (Structural.UNIFORM, Structural.SAMPLER) and expr.attributes[0] in changed
        if outside or any(a in touched for a in expr.args):
            touched.add(expr)
    return touched


def _painted(arrays: Sequence[Array], given: PortType, mask: NDArray[np.bool_] | None) -> list[Swatch]:
    """Values of one type and width as display colours: directions around mid-grey, light encoded, numbers as grey.

    Where ``mask`` is false the swatch is transparent, and nothing there counts.
    """
    whole = np.empty((len(arrays), _width(arrays[0]), SIZE, SIZE), np.float32)
    for place, array in zip(whole, arrays, strict=True):
        place[...] = array
    if given is P_VEC3:
        shown = whole[:, :3] * 0.5 + 0.5
    elif given is P_VEC2:
        wrapped = whole[:, :2] - np.floor(whole[:, :2])
        shown = np.concatenate((wrapped, np.zeros_like(whole[:, :1])), axis=1)
    elif whole.shape[1] == 1:
        # One channel is a third of the work; with the transparency of a form it takes three.
        shown = linear_to_srgb(whole) if mask is None else np.repeat(linear_to_srgb(whole), 3, axis=1)
    elif given is P_SURFACE:
        shown = whole[:, :3]
    else:
        shown = linear_to_srgb(whole[:, :3])
    # What has overflowed shows as it does on the stage: white, black, and black for what is no number.
    pixels = np.rint(np.nan_to_num(np.clip(shown, 0, 1)) * 255).astype(np.uint8).transpose(0, 2, 3, 1)
    seen = np.ones((SIZE, SIZE), np.bool_) if mask is None else mask
    counted, means = whole[:, :, seen], pixels[:, seen].mean(axis=1)
    lows, highs = counted.min(axis=(1, 2)), counted.max(axis=(1, 2))
    if mask is not None:
        alpha = np.where(mask, 255, 0).astype(np.uint8)[None, :, :, None]
        pixels = np.concatenate((pixels, np.broadcast_to(alpha, (len(arrays), SIZE, SIZE, 1))), axis=3)
    return [
        Swatch(
            "data:image/png;base64," + base64.b64encode(write_png(picture, 1)).decode(),
            tuple(int(c) for c in np.broadcast_to(mean, 3)),
            tuple(round(float(c), 6) for c in values[:, SIZE // 2, SIZE // 2]),
            float(low),
            float(high),
        )
        for picture, values, mean, low, high in zip(pixels, whole, means, lows, highs, strict=True)
    ]


def _width(array: Array) -> int:
    return array.shape[0] if np.ndim(array) == 3 else 1


def _painted_all(
    values: Mapping[tuple[int, PortType], Array], mask: NDArray[np.bool_] | None
) -> dict[tuple[int, PortType], Swatch]:
    """Each value painted; those of one type and width together, many at a time."""
    alike: dict[tuple[PortType, int], list[tuple[int, PortType]]] = {}
    for key, array in values.items():
        alike.setdefault((key[1], _width(array)), []).append(key)
    batches = [keys[at : at + _BATCH] for keys in alike.values() for at in range(0, len(keys), _BATCH)]
    found: dict[tuple[int, PortType], Swatch] = {}
    with np.errstate(over="ignore", invalid="ignore"):
        for keys in batches:
            found.update(zip(keys, _painted([values[key] for key in keys], keys[0][1], mask), strict=True))
    return found
