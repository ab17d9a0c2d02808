"""The channels of a surface worked out over the UVs of its form, and the form as it stands there."""

from collections.abc import Callable, Hashable, Mapping
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.document.values import Value
from velvet_moth.core.exporting.baked.layout import Layout, Spots
from velvet_moth.core.forms.mesh import Floats, Mesh, unit_vectors, white
from velvet_moth.core.language.expr import Expr, Structural, inputs_of, reached
from velvet_moth.core.language.inputs import SURFACE_INPUTS, Bindings
from velvet_moth.core.language.interpreters.evaluate import evaluate
from velvet_moth.core.language.primitives import absolute, combine, sign
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.lighting.axes import tangent_to_world
from velvet_moth.core.lighting.channels import CHANNELS, NORMALS, Surface
from velvet_moth.core.lighting.kinds import KINDS
from velvet_moth.core.lighting.model import unlit
from velvet_moth.core.lighting.shown import left_of_cut, moved_by, moving
from velvet_moth.core.lowering.lowered import LoweredGraph
from velvet_moth.core.meshes.normals import face_normals
from velvet_moth.core.meshes.rows import numbered
from velvet_moth.core.meshes.tangents import with_tangents
from velvet_moth.core.render.tracing.rays import Hits, inputs_at, shaped
from velvet_moth.core.render.tracing.scene import Scene, draw_inputs, stage_textures
from velvet_moth.core.render.tracing.staged import moved_positions, uniform_arrays

# So many pixels are worked out at a time.
_AT_ONCE = 1 << 16
# Channels that differ by less over the whole form are constants.
_SAME = 1 / 1024


@dataclass(frozen=True, eq=False)
class BakedForm:
    """What the surface is worked out on: the form at rest with a vertex for each place in the textures, ``moved`` as the

    surface moves it, and ``sent``, the same faces as the file has them.
    """

    layout: Layout
    moved: Floats
    sent: Mesh


def baked_form(
    layout: Layout,
    surface: Surface,
    scene: Scene,
    values: Mapping[tuple[str, str], Value],
    textures: Mapping[Hashable, Texture],
) -> BakedForm:
    """A form as a surface moves it at the scene's time, with tangents by the standard that textures are baked with."""
    mesh, offset = layout.mesh, moving(surface)
    bare = {**textures, **stage_textures(scene.rig.key)}
    moved = moved_positions(mesh, offset, scene, uniform_arrays(values), bare)
    if offset is None and layout.is_own:
        sent = mesh
    else:
        normals = mesh.normals if offset is None else _smooth(mesh, moved)
        at, triangles, tangents = with_tangents(moved, normals, layout.uvs, mesh.triangles)
        sent = replace(mesh.taken(at), positions=moved[at], normals=normals[at], tangents=tangents, triangles=triangles)
        sent = replace(sent, uvs=layout.uvs[at])
    # Colours of a mesh would be multiplied into the material by whoever reads the file.
    bare_form = replace(sent, colours=white(len(sent.positions)), second=None, second_colours=None, unposed=None)
    return BakedForm(layout, moved, replace(bare_form, scale=(1.0, 1.0, 1.0), carried=None))


def _smooth(mesh: Mesh, moved: Floats) -> Floats:
    """Normals of a moved form: vertices that were one smooth surface stay one."""
    faces, area = face_normals(moved, mesh.triangles)
    group = numbered(mesh.positions, mesh.normals)
    corner = group[mesh.triangles].reshape(-1)
    weights = np.repeat(faces * area[:, None], 3, axis=0)
    sums = np.stack([np.bincount(corner, weights[:, i], minlength=group.max() + 1) for i in range(3)], axis=1)[group]
    is_lost = np.linalg.norm(sums, axis=1, keepdims=True) < 1e-12
    return unit_vectors(np.where(is_lost, mesh.normals, sums)).astype(np.float32)


# The channels of a file that are worked out of several of a surface, or otherwise than it has them.
_MADE: Mapping[str, Callable[[Surface, str], Expr]] = {
    "base_colour": lambda s, kind: unlit(s) if KINDS[kind].is_unlit else s["base_colour"],
    "opacity": lambda s, kind: left_of_cut(s) if KINDS[kind].is_cut else s["opacity"],
    "emissive": lambda s, kind: s["emissive"] * s["emissive_strength"],
}
# Stretched highlights: along the direction, or across it where they are below zero.
_ANISOTROPY = "anisotropy"


@dataclass(frozen=True, eq=False)
class BakedSurface:
    """Channels by name, (components, size, size) float32 with row 0 at the bottom, or a constant (components, 1, 1).

    Directions are in the tangent space of the form that is sent. ``words`` say what took the place of what a file cannot know.
    """

    channels: Mapping[str, Floats]
    words: tuple[str, ...]


def bake_surface(
    lowered: LoweredGraph,
    form: BakedForm,
    spots: Spots,
    scene: Scene,
    values: Mapping[tuple[str, str], Value],
    textures: Mapping[Hashable, Texture],
    hears: Callable[[float], None] = lambda share: None,
) -> BakedSurface:
    """All channels that a graph sets, at the pixels of a texture; the eye looks at each place straight from above."""
    surface, kind = lowered.surface, lowered.graph.kind
    idle = KINDS[kind].idle | {"offset", "alpha_cutoff", "emissive_strength", "anisotropy_direction"}
    wanted = {
        key: _MADE[key](surface, kind) if key in _MADE else surface[key]
        for key in CHANNELS
        if key not in idle and not (key != "base_colour" and surface.is_default(key))
    }
    if KINDS[kind].is_unlit:
        wanted = {key: wanted[key] for key in ("base_colour", "opacity") if key in wanted}
    given = moved_by(moving(surface))
    # A flat normal is none of its own, unless the form is sent with other normals than it has at rest.
    if given is not None and not KINDS[kind].is_unlit:
        wanted.setdefault("normal", surface["normal"])
    for key in NORMALS:
        if key in wanted:
            wanted[key] = tangent_to_world(wanted[key])
    if _ANISOTROPY in wanted:
        way, amount = surface["anisotropy_direction"], wanted[_ANISOTROPY]
        turned = combine(way.y * -1.0, way.x)
        along = way * (sign(amount) * 0.5 + 0.5) + turned * (0.5 - sign(amount) * 0.5)
        wanted["anisotropy_direction"] = tangent_to_world(combine(along.x, along.y, 0.0))
        wanted[_ANISOTROPY] = absolute(amount)
    bindings = Bindings(
        draw_inputs(scene, form.layout.mesh, (1, 1)),
        uniform_arrays(values),
        {**textures, **stage_textures(scene.rig.key)},
        given=given,
    )
    found = _worked_out(wanted, form, spots, bindings, scene.camera.distance, hears)
    found = {key: _turned(values_, form, spots) if key in _TURNED else values_ for key, values_ in found.items()}
    found = {key: _constant(values_) for key, values_ in found.items()}
    return BakedSurface(found, tuple(_words(wanted)))


# Directions on the surface, which the file has on other axes.
_TURNED = NORMALS | {"anisotropy_direction"}


def _worked_out(
    wanted: Mapping[str, Expr],
    form: BakedForm,
    spots: Spots,
    bindings: Bindings,
    far: float,
    hears: Callable[[float], None],
) -> dict[str, Floats]:
    """The values of expressions at the pixels of a texture, a few rows at a time; the eye is ``far`` (metres) above each."""
    size, mesh = len(spots.faces), form.layout.mesh
    outputs = list(wanted.values())
    names = inputs_of(bindings.read_for(outputs))
    normals = mesh.normals
    pictures = [np.zeros((one.type.width, size, size), dtype=np.float32) for one in outputs]
    step = max(2, _AT_ONCE // size // 2 * 2)
    for first in range(0, size, step):
        rows = slice(first, min(first + step, size))
        faces = spots.faces[rows].reshape(-1)
        weights = spots.weights[rows].reshape(-1, 3)
        corners = mesh.triangles[faces]
        above = unit_vectors(np.einsum("pk,pkc->pc", weights, normals[corners].astype(np.float64)))
        places = np.einsum("pk,pkc->pc", weights, form.moved[corners].astype(np.float64))
        hits = Hits(
            places + above * far,
            -above,
            pixels=np.zeros((len(faces), 2), dtype=np.int64),
            faces=faces,
            weights=weights.astype(np.float32),
            hit=np.ones(len(faces), dtype=np.bool_),
            reach=np.full(len(faces), far),
        )
        points = shaped(inputs_at(mesh, form.moved, hits, (1, 1), names), rows.stop - rows.start, size)
        # What faces the eye is the front, whichever way its corners run.
        if "is_front" in points:
            points["is_front"] = np.ones_like(points["is_front"])
        for picture, values in zip(pictures, evaluate(outputs, bindings.at(points)), strict=True):
            picture[:, rows] = values if values.ndim != 2 else values[None]
        hears(rows.stop / size)
    taken = spots.source.reshape(-1)
    return {
        key: picture.reshape(len(picture), -1)[:, taken].reshape(picture.shape)
        for key, picture in zip(wanted, pictures, strict=True)
    }


def _turned(world: Floats, form: BakedForm, spots: Spots) -> Floats:
    """Directions of the world, (3, size, size), in the tangent space of the form that is sent, at length one."""
    sent = form.sent
    corners = sent.triangles[spots.faces.reshape(-1)]
    weights = spots.weights.reshape(-1, 3)

    def mixed(values: Floats) -> NDArray[np.float64]:
        return np.asarray(np.einsum("pk,pkc->pc", weights, values[corners].astype(np.float64)))

    n = unit_vectors(mixed(sent.normals))
    tangents = mixed(sent.tangents)
    t = tangents[:, :3] - n * np.sum(n * tangents[:, :3], axis=1, keepdims=True)
    t = unit_vectors(t)
    side = np.cross(n, t) * np.sign(tangents[:, 3:])
    v = world.reshape(3, -1).T.astype(np.float64)
    found = np.stack([np.sum(v * axis, axis=1) for axis in (t, side, n)], axis=1)
    return unit_vectors(found).T.reshape(world.shape).astype(np.float32)


def _constant(values: Floats) -> Floats:
    low, high = values.min(axis=(1, 2), keepdims=True), values.max(axis=(1, 2), keepdims=True)
    return np.asarray((low + high) / 2, dtype=np.float32) if float((high - low).max()) < _SAME else values


# What no file knows, by the surface inputs that tell it, with what is there in its place.
_UNKNOWN: Mapping[str, tuple[frozenset[str], str]] = {
    "the eye": (
        frozenset({"view_direction", "camera_distance", "camera_position", "camera_right", "camera_up", "lens"}),
        "every place is baked as seen straight from above",
    ),
    "the screen": (frozenset({"screen_position", "screen_pixel"}), "its lower left corner is taken"),
    "the side that is seen": (frozenset({"is_front"}), "the front is baked"),
    "the light": (
        frozenset(name for name in SURFACE_INPUTS if name.startswith(("sun_", "lamp_", "around_", "rig_", "exposure"))),
        "the graph's own light is baked in",
    ),
    "time": (frozenset({"time"}), "the chosen moment is baked"),
    "an instance": (
        frozenset(name for name in SURFACE_INPUTS if name.startswith(("instance_", "second_instance", "emitter_"))),
        "the form by itself is baked",
    ),
}


def _words(wanted: Mapping[str, Expr]) -> list[str]:
    found = []
    for what, (names, instead) in _UNKNOWN.items():
        reading = [CHANNELS[key].name for key, one in wanted.items() if names & inputs_of([one])]
        if reading:
            found.append(f"{', '.join(reading)} {'depends' if len(reading) == 1 else 'depend'} on {what}: {instead}.")
    behind = [CHANNELS[key].name for key, one in wanted.items() if _reads_the_stage([one])]
    if behind:
        found.append(f"{', '.join(behind)} read what is behind: an even ground is there in its place.")
    return found


def _reads_the_stage(outputs: list[Expr]) -> bool:
    return any(e.operator is Structural.SAMPLER and isinstance(e.attributes[0], str) for e in reached(outputs))
