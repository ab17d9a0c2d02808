"""Tangent-space normals."""

from typing import Annotated as A

from velvet_moth.core import primitives as p
from velvet_moth.core.catalogue import node
from velvet_moth.core.expr import Expr
from velvet_moth.core.ports import NORMAL_OUT, number, vec3

GROUP = "Normals"


@node("Normal strength", GROUP, ("bump strength", "flatten"), ("make bumps weaker", "make bumps stronger"))
def normal_strength(
    normal: A[Expr, vec3(0.0, 0.0, 1.0)],
    strength: A[Expr, number(0.5, 0.0, 2.0, words="0 is flat, 1 unchanged, above 1 steeper.")],
) -> A[Expr, NORMAL_OUT]:
    """Makes the bumps of a normal weaker or stronger.

    Formula: normalise(n.xy * strength, n.z)
    Use: Fade bumps by a mask.
    See: combine_normals, normal_map
    """
    return p.normalise(p.combine(normal.x * strength, normal.y * strength, normal.z))


@node("Combine normals", GROUP, ("blend normals", "detail normal"), ("lay fine bumps over coarse ones",))
def combine_normals(base: A[Expr, vec3(0.0, 0.0, 1.0)], detail: A[Expr, vec3(0.0, 0.0, 1.0)]) -> A[Expr, NORMAL_OUT]:
    """Lays the detail's bumps onto the base so that both keep their tilt.

    Formula: t = base + (0,0,1), u = detail * (-1,-1,1), normalise(t * dot(t,u) / t.z - u)
    (reoriented; C. Barre-Brisebois, S. Hill, "Blending in Detail", 2012)
    Use: Fine grain over large waves. Averaging the two would flatten both.
    See: normal_strength, normal_map
    """
    t = base + p.combine(0.0, 0.0, 1.0)
    u = detail * p.combine(-1.0, -1.0, 1.0)
    return p.normalise(t * (p.dot(t, u) / p.maximum(t.z, 0.001)) - u)
