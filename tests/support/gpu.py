"""Draws on WebGL2 and the same on NumPy, over one flat square: what parity tests stand on."""

import base64
import json
from collections.abc import Hashable, Mapping
from pathlib import Path
from typing import Any

import numpy as np

from tests.support.browser import BrowserCase, array_of, lit
from velvet_moth.core.emitting.emitter import IDLE_INPUTS
from velvet_moth.core.forms.view import Camera, Rig
from velvet_moth.core.language.expr import Expr
from velvet_moth.core.language.inputs import Bindings
from velvet_moth.core.language.interpreters.evaluate import evaluate
from velvet_moth.core.language.interpreters.glsl import Shader
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.lighting.decals import NO_DECAL_INPUTS
from velvet_moth.core.render.tracing.scene import camera_inputs, rig_inputs

SIZE = 16
EYE = (0.5, 0.7, 3.0)
HARNESS = Path(__file__).parents[1].joinpath("parity", "harness.js").read_text()


def square_inputs(u: np.ndarray, v: np.ndarray) -> dict[str, np.ndarray]:
    """Surface inputs at places of the harness's flat square, 0..1 along both."""
    u, v = u.astype(np.float32), v.astype(np.float32)
    position = np.stack((u * 2 - 1, v * 2 - 1, np.zeros_like(u)))
    view = np.array(EYE, dtype=np.float32).reshape(3, 1, 1) - position

    def filled(*values: float) -> np.ndarray:
        return np.broadcast_to(np.array(values, dtype=np.float32).reshape(-1, 1, 1), (len(values), *u.shape))

    return {
        "uv": np.stack((u, v)),
        "second_uv": np.stack((1 - v, u)),
        "position": position,
        "moved_position": position,
        "object_position": position,
        "normal": filled(0, 0, 1),
        "moved_normal": filled(0, 0, 1),
        "object_normal": filled(0, 0, 1),
        "tangent": filled(1, 0, 0, 1),
        "vertex_colour": np.stack((v, u, 1 - v, np.ones_like(v))),
        "second_vertex_colour": np.stack((1 - u, v, u, 1 - v)),
        # What an attribute is that the harness does not give.
        "face_middle": filled(0, 0, 0),
        "face_number": filled(1)[0],
        "view_direction": (view / np.linalg.norm(view, axis=0)).astype(np.float32),
        "camera_distance": np.linalg.norm(view, axis=0).astype(np.float32),
        "is_front": filled(1)[0],
        "screen_position": np.stack((u, v)),
        "screen_pixel": np.floor(np.stack((u, v)) * SIZE),
        **draw_inputs(),
    }


def grid_inputs() -> dict[str, np.ndarray]:
    """At the centres of SIZE x SIZE pixels."""
    at = (np.arange(SIZE) + 0.5) / SIZE
    return square_inputs(*np.meshgrid(at, at))


def vertex_inputs(cells: int) -> dict[str, np.ndarray]:
    """At the corners of the harness's triangles, (components, 1, cells * cells * 6), in its order."""
    corners = np.array([(0, 0), (1, 0), (1, 1), (0, 0), (1, 1), (0, 1)])
    row, column = np.meshgrid(np.arange(cells), np.arange(cells), indexing="ij")
    places = (np.stack((column.ravel(), row.ravel()), axis=1)[:, None] + corners).reshape(1, -1, 2) / cells
    return square_inputs(places[..., 0], places[..., 1])


def draw_inputs() -> dict[str, np.ndarray]:
    """Rig and form of the harness's draws."""
    corners = {"form_low": (-1, -1, 0), "form_high": (1, 1, 0), "form_scale": (1, 1, 1)}
    form = {k: np.array(v, dtype=np.float32).reshape(-1, 1, 1) for k, v in corners.items()}
    eye = {**camera_inputs(Camera(), 1, 1), "camera_position": np.array(EYE, dtype=np.float32).reshape(3, 1, 1)}
    return {**rig_inputs(Rig(), 2.5), **eye, **form, **IDLE_INPUTS, **NO_DECAL_INPUTS}


def whole(value: np.ndarray) -> np.ndarray:
    """A value as (components, SIZE, SIZE)."""
    stacked = value if value.ndim == 3 else value[None]
    return np.broadcast_to(stacked, (stacked.shape[0], SIZE, SIZE))


@lit
class GpuCase(BrowserCase):
    """A browser with the harness in a blank page."""

    def setUp(self) -> None:
        super().setUp()
        self.page.evaluate(HARNESS)

    def task(self, shader: Shader, textures: Mapping[Hashable, Texture], cells: int, values: list[float]) -> str:
        """As JSON, which a browser takes faster than an object. ``textures`` by sampler key; those under a key beginning with "given" are read pixel for pixel."""

        def level(pixels: np.ndarray) -> dict[str, Any]:
            data = np.ascontiguousarray(pixels.transpose(1, 2, 0), dtype=np.float32).tobytes()
            return {"width": pixels.shape[2], "height": pixels.shape[1], "data": base64.b64encode(data).decode()}

        bound = [
            {
                "name": slot.name,
                "wrap": slot.wrap,
                "filter": slot.filter,
                "exact": isinstance(slot.key, tuple) and slot.key[0] == "given",
                "levels": [level(pixels) for pixels in textures[slot.key].levels],
            }
            for slot in shader.samplers
        ]
        uniforms = {k: np.ravel(v).tolist() for k, v in draw_inputs().items()}
        task = {
            "vertex": shader.vertex,
            "fragment": shader.fragment,
            "size": SIZE,
            "cells": cells,
            "textures": bound,
            "values": values,
            "uniforms": {**uniforms, "screen_size": [SIZE, SIZE]},
        }
        return json.dumps(task)

    def drawn(self, shader: Shader, textures: Mapping[Hashable, Texture], values: list[float]) -> np.ndarray:
        """What WebGL2 paints, (4, SIZE, SIZE); one quad, so that varyings are exact over the whole target."""
        task = self.task(shader, textures, 1, values)
        pixels = array_of(self.page, "(task) => draw(JSON.parse(task))", task, np.float32)
        return pixels.reshape(SIZE, SIZE, 4).transpose(2, 0, 1)

    def moved(
        self, shader: Shader, textures: Mapping[Hashable, Texture], values: list[float], cells: int
    ) -> np.ndarray:
        """Where WebGL2 moves the vertices, (3, 1, cells * cells * 6)."""
        task = self.task(shader, textures, cells, values)
        return array_of(self.page, "(task) => moved(JSON.parse(task))", task, np.float32).reshape(-1, 3).T[:, None]

    def in_numpy(self, output: Expr, arrays: Mapping[Hashable, np.ndarray], textures: Mapping) -> np.ndarray:
        return whole(evaluate([output], Bindings(grid_inputs(), arrays, textures))[0])
