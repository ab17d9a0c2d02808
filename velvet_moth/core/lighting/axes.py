"""The form's own axes at the surface point: tangent, side and normal, and directions told on them."""

from velvet_moth.core.language.expr import Expr
from velvet_moth.core.language.inputs import surface
from velvet_moth.core.language.primitives import combine, cross, dot, normalise
from velvet_moth.core.language.trace import emitted_function


def _axes() -> tuple[Expr, Expr, Expr]:
    n, tangent = surface("normal"), surface("tangent")
    t = normalise(tangent.xyz - n * dot(n, tangent.xyz))
    return t, cross(n, t) * tangent.w, n


@emitted_function("A direction on the form's axes, in the world")
def tangent_to_world(v: Expr) -> Expr:
    """A vector of tangent space in the world's axes."""
    t, side, n = _axes()
    return t * v.x + side * v.y + n * v.z


@emitted_function("A direction of the world, on the form's axes")
def world_to_tangent(v: Expr) -> Expr:
    """A vector of the world in the axes of tangent space."""
    t, side, n = _axes()
    return combine(dot(v, t), dot(v, side), dot(v, n))
