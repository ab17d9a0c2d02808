"""What the stage needs beside a graph: forms and the environment, as packed arrays."""

import numpy as np
from flask import Blueprint, Response

from velvet_moth.core.forms import form
from velvet_moth.core.lighting.environment import environment_map
from velvet_moth.web.api.textures import FOR_EVER

api = Blueprint("stage", __name__, url_prefix="/api/stage")


@api.get("/forms/<key>")
def read_form(key: str) -> Response:
    """Float32 positions, normals, tangents, UVs, then uint32 triangles; the counts in the headers."""
    mesh = form(key)
    arrays = (mesh.positions, mesh.normals, mesh.tangents, mesh.uvs, mesh.triangles)
    headers = {**FOR_EVER, "X-Vertices": str(len(mesh.positions)), "X-Triangles": str(len(mesh.triangles))}
    return Response(b"".join(a.tobytes() for a in arrays), mimetype="application/octet-stream", headers=headers)


@api.get("/environment")
def read_environment() -> Response:
    """The filtered environment as RGBA half floats, row 0 at the bottom; its size in the headers."""
    level = environment_map().levels[0].transpose(1, 2, 0)
    headers = {**FOR_EVER, "X-Texture-Size": f"{level.shape[1]} {level.shape[0]}"}
    return Response(level.astype(np.float16).tobytes(), mimetype="application/octet-stream", headers=headers)
