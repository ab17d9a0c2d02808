"""What the stage needs beside a graph: forms and the environment, as packed arrays."""

import numpy as np
from flask import Blueprint, Response, request

from velvet_moth.core.backdrop import BACKDROP, SUN_REACH, synthetic_backdrop, synthetic_sun_reach
from velvet_moth.core.errors import FileRefused
from velvet_moth.core.forms import form
from velvet_moth.core.lighting.environment import environment_map
from velvet_moth.core.lighting.rigs import rig_kind
from velvet_moth.core.texture.image import Texture

STAGE_TEXTURES = {BACKDROP: synthetic_backdrop, SUN_REACH: synthetic_sun_reach}

api = Blueprint("stage", __name__, url_prefix="/api/stage")


@api.get("/forms/<key>")
def read_form(key: str) -> Response:
    """Float32 positions, normals, tangents, UVs, second UVs, colours, uint32 triangles; counts in the headers."""
    mesh = form(key)
    arrays = (
        mesh.positions,
        mesh.normals,
        mesh.tangents,
        mesh.uvs,
        mesh.second_uvs,
        mesh.colours,
        mesh.triangles,
    )
    headers = {"X-Vertices": str(len(mesh.positions)), "X-Triangles": str(len(mesh.triangles))}
    return _kept(b"".join(a.tobytes() for a in arrays), headers)


def _kept(data: bytes, headers: dict[str, str]) -> Response:
    """Kept by the browser, which asks whether it is still so: another version of the program may make it otherwise."""
    made = Response(
        data, mimetype="application/octet-stream", headers={**headers, "Cache-Control": "private, no-cache"}
    )
    made.add_etag()
    return made.make_conditional(request)


@api.get("/environment/<rig>")
def read_environment(rig: str) -> Response:
    """The surroundings of a rig as RGBA half floats, row 0 at the bottom; the size in the headers."""
    return _picture(environment_map(rig_kind(rig).key))


@api.get("/textures/<key>")
def read_texture(key: str) -> Response:
    """What stands behind, as RGBA half floats, row 0 at the bottom; the size in the headers."""
    if key not in STAGE_TEXTURES:
        raise FileRefused(f"The stage has no texture {key!r}.", "stage", f"It has {', '.join(STAGE_TEXTURES)}.")
    return _picture(STAGE_TEXTURES[key]())


def _picture(texture: Texture) -> Response:
    level = texture.levels[0].transpose(1, 2, 0)
    size = {"X-Texture-Size": f"{level.shape[1]} {level.shape[0]}"}
    return _kept(level.astype(np.float16).tobytes(), size)
