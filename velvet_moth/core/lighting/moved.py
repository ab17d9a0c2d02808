"""What an offset does to the form: the normals of the moved surface."""

from velvet_moth.core.language.expr import Expr
from velvet_moth.core.language.inputs import surface
from velvet_moth.core.language.primitives import along_x, along_y, cross, dot, normalise
from velvet_moth.core.language.trace import emitted_function


@emitted_function("Normal of the moved form")
def moved_normal(normal: Expr, offset: Expr, place: Expr) -> Expr:
    """The unit normal of the surface that ``place + offset`` runs over, where ``normal`` is that of ``place``.

    The offset's slope along the tangent plane is taken from its change over the screen:
    grad f = (r1 df/dx + r2 df/dy) / det with r1 = dp/dy x n, r2 = n x dp/dx, det = dp/dx . r1
    (M. Mikkelsen, "Bump Mapping Unparametrized Surfaces on the GPU", 2010), for each component of the offset.
    """
    right, up = along_x(place), along_y(place)
    first, second = cross(up, normal), cross(normal, right)
    area = dot(right, first)
    tangent = surface("tangent").xyz
    t = normalise(tangent - normal * dot(normal, tangent))
    b = cross(normal, t)
    shift_x, shift_y = along_x(offset), along_y(offset)

    def moved(axis: Expr) -> Expr:
        return axis + (shift_x * dot(first, axis) + shift_y * dot(second, axis)) / area

    return normalise(cross(moved(t), moved(b)))
