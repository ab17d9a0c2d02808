"""A form in its scene as expressions ask for it: what is known at vertices, at pixels, and for the draw."""

from collections.abc import Hashable, Mapping
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from embreex.rtcore_scene import EmbreeScene
from numpy.typing import NDArray

from velvet_moth.core.document.values import Value
from velvet_moth.core.forms.mesh import Floats, Mesh
from velvet_moth.core.forms.view import Camera
from velvet_moth.core.language.expr import Array, Expr, inputs_of
from velvet_moth.core.language.inputs import Bindings, Given
from velvet_moth.core.language.interpreters.cost import cost
from velvet_moth.core.language.interpreters.evaluate import evaluate, evaluate_in_tiles
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.render.tracing.rays import Seen, points_seen, resting_scene, unit
from velvet_moth.core.render.tracing.scene import Scene, draw_inputs
from velvet_moth.core.render.tracing.sheets import in_quads


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
    shaped = {name: values[0] if len(values) == 1 else values for name, values in shaped.items()}
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
