"""How hidden and how thick: what rays from the vertices meet."""

from typing import Annotated as A

import numpy as np

from velvet_moth.core.baking import rays as traced
from velvet_moth.core.baking.step import OnMesh, in_range, step
from velvet_moth.core.catalogue.settings import choice, number, whole
from velvet_moth.core.forms.mesh import Floats

GROUP = "Light"
Rays = A[int, whole(4, 1024, "rays from each vertex; more are smoother and take longer")]


@step("Occlusion", GROUP)
def occlusion(
    on: OnMesh,
    rays: Rays = 64,
    reach: A[float, number(0, 100, "what is farther away hides nothing; 0 for all", "m")] = 0.0,
    hides: A[str, choice("fronts", "both sides", words="whether the backs of faces hide too")] = "fronts",
) -> Floats:
    """How much of the sky each vertex sees: 1 in the open, towards 0 in hollows. Weighed by the cosine, as diffuse light is."""
    count = min(rays, on.context.most_rays)
    return traced.occlusion(on.mesh, count, reach, hides == "both sides", on.context.hears)


@step("Thickness", GROUP)
def thickness(
    on: OnMesh,
    rays: Rays = 32,
    cone: A[float, number(0, 80, "how far rays spread from straight down", "°")] = 30.0,
    one_is: A[float, number(0, 100, "the thickness that is 1; 0 for the largest of the mesh", "m")] = 0.0,
) -> Floats:
    """How far the other side is below each vertex: 0 thin, 1 thick. For light through leaves, cloth, ears."""
    found = traced.thickness(on.mesh, min(rays, on.context.most_rays), cone, on.context.hears)
    return in_range(found, 0.0, one_is or float(np.max(found, initial=0.0)))
