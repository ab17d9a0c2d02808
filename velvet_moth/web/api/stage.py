"""What the stage needs beside a graph: forms and the environment, as packed arrays."""

import numpy as np
from flask import Blueprint, Response

from velvet_moth.core.backdrop import BACKDROP, SUN_REACH, synthetic_backdrop, synthetic_sun_reach
from velvet_moth.core.errors import FileRefused
from velvet_moth.core.forms import form
from velvet_moth.core.lighting.environment import ENVIRONMENT, environment_map
from velvet_moth.web.api.textures import FOR_EVER

STAGE_TEXTURES = {ENVIRONMENT: environment_map, BACKDROP: synthetic_backdrop, SUN_REACH: synthetic_sun_reach}

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
    headers = {**FOR_EVER, "X-Vertices": str(len(mesh.positions)), "X-Triangles": str(len(mesh.triangles))}
    return Response(b"".join(a.tobytes() for a in arrays), mimetype="application/octet-stream", headers=headers)


@api.get("/textures/<key>")
def read_texture(key: str) -> Response:
    """The surroundings or the backdrop as RGBA half floats, row 0 at the bottom; the size in the headers."""
    if key not in STAGE_TEXTURES:
        raise FileRefused(f"The stage has no texture {key!r}.", "stage", f"It has {', '.join(STAGE_TEXTURES)}.")
    level = STAGE_TEXTURES[key]().levels[0].transpose(1, 2, 0)
    headers = {**FOR_EVER, "X-Texture-Size": f"{level.shape[1]} {level.shape[0]}"}
    return Response(level.astype(np.float16).tobytes(), mimetype="application/octet-stream", headers=headers)
