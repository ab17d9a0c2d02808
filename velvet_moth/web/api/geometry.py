"""What the stage draws of a mesh, as packed arrays."""

import numpy as np
from flask import Response, request

from velvet_moth.core.forms import Mesh
from velvet_moth.core.lighting.shadow import reach_of


def geometry_of(mesh: Mesh, part_of: Mesh | None = None) -> Response:
    """Float32 positions, normals, tangents, UVs, second UVs, colours, uint32 triangles; counts in the headers.

    Of a part, which casts with the whole, also whether its backs are ever seen.
    """
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
    return kept_by_browser(b"".join(np.ascontiguousarray(a).tobytes() for a in arrays), headers)


def kept_by_browser(data: bytes, headers: dict[str, str]) -> Response:
    """Kept by the browser, which asks whether it is still so: another version of the program may make it otherwise."""
    made = Response(
        data, mimetype="application/octet-stream", headers={**headers, "Cache-Control": "private, no-cache"}
    )
    made.add_etag()
    made.make_conditional(request)
    return made
