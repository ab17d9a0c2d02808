"""The axes at the surface point, tangent, side and normal, and directions on them: as the form is moved, and at rest."""

from velvet_moth.core.language.expr import Expr
from velvet_moth.core.language.inputs import surface
from velvet_moth.core.language.primitives import combine, cross, dot, normalise
from velvet_moth.core.language.trace import emitted_function


def _axes(n: Expr) -> tuple[Expr, Expr, Expr]:
    tangent = surface("tangent")
    t = normalise(tangent.xyz - n * dot(n, tangent.xyz))
    return t, cross(n, t) * tangent.w, n


@emitted_function("A direction on the surface's axes, in the world")
def tangent_to_world(v: Expr) -> Expr:
    """A vector of tangent space, as the Normal channel has it, in the world's axes."""
    t, side, n = _axes(surface("moved_normal"))
    return t * v.x + side * v.y + n * v.z


@emitted_function("A direction of the world, on the surface's axes")
def world_to_tangent(v: Expr) -> Expr:
    """A vector of the world in the axes of tangent space, so that the Normal channel has it where it was."""
    t, side, n = _axes(surface("moved_normal"))
    return combine(dot(v, t), dot(v, side), dot(v, n))


@emitted_function("A direction of the world, on the axes of the form at rest")
def world_to_rest(v: Expr) -> Expr:
    """A vector of the world in the axes of the form before it is moved: what leans on those leans with the form."""
    t, side, n = _axes(surface("normal"))
    return combine(dot(v, t), dot(v, side), dot(v, n))
