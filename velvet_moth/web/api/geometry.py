"""What the stage draws of a mesh, as packed arrays."""

import numpy as np
from flask import Response, request

from velvet_moth.core.forms import Mesh
from velvet_moth.core.forms.mesh import with_faces
from velvet_moth.core.lighting.shadow import reach_of
from velvet_moth.web.api.schemas import GeometryRequest


def geometry_of(mesh: Mesh, asked: GeometryRequest, part_of: Mesh | None = None) -> Response:
    """Float32 positions, normals, tangents, UVs, second UVs, colours, second colours where there are any, faces where they are

    asked for, uint32 triangles.

    Counts are in the headers; of a part, which casts with the whole, also whether its backs are ever seen.
    """
    drawn, faces = with_faces(mesh) if asked.faces else (mesh, None)
    arrays = (
        drawn.positions,
        drawn.normals,
        drawn.tangents,
        drawn.uvs,
        drawn.second_uvs,
        drawn.colours,
        *(() if drawn.second_colours is None else (drawn.second_colours,)),
        *(() if faces is None else (faces,)),
        drawn.triangles,
    )
    headers = {
        "X-Vertices": str(len(drawn.positions)),
        "X-Triangles": str(len(drawn.triangles)),
        "X-Second": "no" if drawn.second_colours is None else "yes",
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
