"""What the stage needs beside a graph: forms and the environment, as packed arrays."""

import numpy as np
from flask import Blueprint, Response

from velvet_moth.core.forms import form
from velvet_moth.core.language.interpreters.glsl import emit, emit_on_screen
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.lighting.backdrop import forward_behind, is_behind
from velvet_moth.core.lighting.environment import diffuse_harmonics, environment_map, imported_map
from velvet_moth.core.lighting.rigs import rig_kind
from velvet_moth.core.scenery.backdrops import backdrop, seen_picture
from velvet_moth.store import textures
from velvet_moth.store.errors import NotFound
from velvet_moth.web.api.answers import BackdropShaders
from velvet_moth.web.api.contract import sends, takes
from velvet_moth.web.api.geometry import geometry_of, kept_by_browser
from velvet_moth.web.api.schemas import BehindRequest, GeometryRequest
from velvet_moth.web.api.state import sessions
from velvet_moth.web.database import db

api = Blueprint("stage", __name__, url_prefix="/api/stage")


@api.get("/forms/<key>")
@sends("application/octet-stream", query=GeometryRequest)
def read_form(key: str, asked: GeometryRequest) -> Response:
    """Float32 positions, normals, tangents, UVs, second UVs, colours, uint32 triangles; counts in the headers."""
    return geometry_of(form(key), asked)


@api.get("/environment/<rig>")
@sends("application/octet-stream")
def read_environment(rig: str) -> Response:
    """The environment of a rig as RGBA half floats, row 0 at the bottom; size and harmonics in the headers."""
    return _picture(environment_map(rig_kind(rig).key))


@api.get("/environments/<texture>")
@sends("application/octet-stream")
def texture_environment(texture: str) -> Response:
    """A texture of all directions, as ``environment``."""
    found = sessions().sources.textures(textures.states(db(), [texture]))(texture)
    if found is None:
        raise NotFound("This texture is gone.", "environment", "Choose another picture.")
    return _picture(imported_map(found))


@api.get("/backdrops/<key>")
@takes(query=BehindRequest)
def read_backdrop(key: str, asked: BehindRequest) -> BackdropShaders:
    """The shaders of a backdrop: its light and distances for what stands before it, and its own picture.

    The light is that of a rig with so many ``lamps``.
    """
    light = emit(backdrop(key).light(asked.lamps, asked.decals))
    seen = emit_on_screen(seen_picture(), forward_behind(), is_behind())
    return {
        "light": {"vertex": light.vertex, "fragment": light.fragment},
        "seen": {"vertex": seen.vertex, "fragment": seen.fragment},
    }


@api.get("/backdrops/<key>/parts/<part>")
@sends("application/octet-stream", query=GeometryRequest)
def read_backdrop_part(key: str, part: str, asked: GeometryRequest) -> Response:
    """As a form; what the sun has to see is the whole."""
    whole = backdrop(key)
    if part not in whole.parts():
        raise NotFound(f"{whole.name} has no part of that name.", part[:40], f"Ask for {', '.join(whole.parts())}.")
    return geometry_of(whole.parts()[part], asked, whole.mesh())


def _picture(texture: Texture) -> Response:
    level = texture.levels[0].transpose(1, 2, 0)
    size = {"X-Texture-Size": f"{level.shape[1]} {level.shape[0]}"}
    harmonics = " ".join(f"{value:.7g}" for value in diffuse_harmonics(texture).ravel())
    return kept_by_browser(level.astype(np.float16).tobytes(), {**size, "X-Texture-Harmonics": harmonics})
