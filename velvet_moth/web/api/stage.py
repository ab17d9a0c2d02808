"""What the stage needs beside a graph: forms and the environment, as packed arrays."""

import numpy as np
from flask import Blueprint, Response, request
from werkzeug.wrappers import Response as AnyResponse

from velvet_moth.core.forms import Mesh, form
from velvet_moth.core.language.interpreters.glsl import emit, emit_on_screen
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.lighting.backdrop import forward_behind, is_behind
from velvet_moth.core.lighting.environment import diffuse_harmonics, environment_map, imported_map
from velvet_moth.core.lighting.rigs import rig_kind
from velvet_moth.core.lighting.shadow import reach_of
from velvet_moth.core.scenery.backdrops import backdrop, seen_picture
from velvet_moth.store import textures
from velvet_moth.store.errors import NotFound
from velvet_moth.web.api.answers import BackdropShaders
from velvet_moth.web.api.contract import sends, takes
from velvet_moth.web.api.schemas import BehindRequest
from velvet_moth.web.api.state import sessions
from velvet_moth.web.database import db

api = Blueprint("stage", __name__, url_prefix="/api/stage")


@api.get("/forms/<key>")
@sends("application/octet-stream")
def read_form(key: str) -> AnyResponse:
    """Float32 positions, normals, tangents, UVs, second UVs, colours, uint32 triangles; counts in the headers."""
    return _mesh(form(key))


def _mesh(mesh: Mesh, part_of: Mesh | None = None) -> AnyResponse:
    """What a mesh is made of. Of a part, which casts with the whole, also whether its backs are ever seen."""
    arrays = (
        mesh.positions,
        mesh.normals,
        mesh.tangents,
        mesh.uvs,
        mesh.second_uvs,
        mesh.colours,
        mesh.triangles,
    )
    headers = {
        "X-Vertices": str(len(mesh.positions)),
        "X-Triangles": str(len(mesh.triangles)),
        "X-Reach": repr(reach_of((part_of or mesh).box)),
        **({"X-Closed": "yes" if mesh.is_closed else "no"} if part_of else {}),
    }
    return _kept(b"".join(a.tobytes() for a in arrays), headers)


def _kept(data: bytes, headers: dict[str, str]) -> AnyResponse:
    """Kept by the browser, which asks whether it is still so: another version of the program may make it otherwise."""
    made = Response(
        data, mimetype="application/octet-stream", headers={**headers, "Cache-Control": "private, no-cache"}
    )
    made.add_etag()
    return made.make_conditional(request)


@api.get("/environment/<rig>")
@sends("application/octet-stream")
def read_environment(rig: str) -> AnyResponse:
    """The environment of a rig as RGBA half floats, row 0 at the bottom; size and harmonics in the headers."""
    return _picture(environment_map(rig_kind(rig).key))


@api.get("/environments/<texture>")
@sends("application/octet-stream")
def texture_environment(texture: str) -> AnyResponse:
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
@sends("application/octet-stream")
def read_backdrop_part(key: str, part: str) -> AnyResponse:
    """As a form; what the sun has to see is the whole."""
    whole = backdrop(key)
    if part not in whole.parts():
        raise NotFound(f"{whole.name} has no part of that name.", part[:40], f"Ask for {', '.join(whole.parts())}.")
    return _mesh(whole.parts()[part], whole.mesh())


def _picture(texture: Texture) -> AnyResponse:
    level = texture.levels[0].transpose(1, 2, 0)
    size = {"X-Texture-Size": f"{level.shape[1]} {level.shape[0]}"}
    harmonics = " ".join(f"{value:.7g}" for value in diffuse_harmonics(texture).ravel())
    return _kept(level.astype(np.float16).tobytes(), {**size, "X-Texture-Harmonics": harmonics})
