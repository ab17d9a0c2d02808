"""How single lobes of a surface send one light to the eye: reflections, strands, sheen. Formulas of glTF 2.0 and its KHR extensions."""

import math

from velvet_moth.core.language.expr import Expr
from velvet_moth.core.language.primitives import dot, maximum, normalise, power, saturate, square_root
from velvet_moth.core.language.trace import emitted_function

# Below this a highlight is smaller than a pixel and float32 loses it.
LEAST_ROUGHNESS = 0.045


@emitted_function("Fresnel reflectance (Schlick)")
def reflectance(facing: Expr, edge: Expr, cosine: Expr) -> Expr:
    """From ``facing`` to ``edge`` at grazing angles. C. Schlick, "An Inexpensive BRDF Model ...", 1994."""
    away = saturate(1.0 - cosine)
    squared = away * away
    return facing + (edge - facing) * (squared * squared * away)


@emitted_function("Highlight of a light (GGX, height-correlated Smith)")
def highlight(normal: Expr, view: Expr, light: Expr, roughness: Expr) -> Expr:
    """D * V of glTF 2.0 appendix B (Walter et al. 2007; Heitz 2014), without Fresnel."""
    half = normalise(view + light)
    n_h = saturate(dot(normal, half))
    n_v = maximum(dot(normal, view), 1e-4)
    n_l = saturate(dot(normal, light))
    alpha = roughness * roughness
    squared = alpha * alpha
    spread = n_h * n_h * (squared - 1.0) + 1.0
    shape = squared / (math.pi * spread * spread)
    shadow = n_l * square_root(n_v * n_v * (1.0 - squared) + squared)
    mask = n_v * square_root(n_l * n_l * (1.0 - squared) + squared)
    return shape * 0.5 / maximum(shadow + mask, 1e-5)


@emitted_function("Highlight along strands (anisotropic GGX)")
def strand_highlight(
    normal: Expr, along: Expr, side: Expr, view: Expr, light: Expr, roughness: Expr, strength: Expr
) -> Expr:
    """D * V of KHR_materials_anisotropy, stretched along the direction ``along`` by ``strength`` 0..1."""
    half = normalise(view + light)
    short = roughness * roughness
    long = short + (1.0 - short) * strength * strength
    n_l, n_v = saturate(dot(normal, light)), maximum(dot(normal, view), 1e-4)
    both = short * long
    x, y, z = dot(along, half) * short, dot(side, half) * long, saturate(dot(normal, half)) * both
    narrowed = both / maximum(x * x + y * y + z * z, 1e-12)
    shape = both * narrowed * narrowed * (1.0 / math.pi)
    along_v, side_v = dot(along, view) * long, dot(side, view) * short
    along_l, side_l = dot(along, light) * long, dot(side, light) * short
    shadow = n_l * square_root(along_v * along_v + side_v * side_v + n_v * n_v)
    mask = n_v * square_root(along_l * along_l + side_l * side_l + n_l * n_l)
    return shape * 0.5 / maximum(shadow + mask, 1e-5)


@emitted_function("Sheen of fibres (Charlie)")
def sheen_lobe(normal: Expr, view: Expr, light: Expr, roughness: Expr) -> Expr:
    """D * V of KHR_materials_sheen (Estevez and Kulla 2017; visibility after Neubelt and Pettineo 2013)."""
    half = normalise(view + light)
    n_l, n_v = saturate(dot(normal, light)), maximum(dot(normal, view), 1e-4)
    n_h = saturate(dot(normal, half))
    inverse = 1.0 / maximum(roughness * roughness, 1e-3)
    sine = maximum(1.0 - n_h * n_h, 1e-6)
    shape = (2.0 + inverse) * power(sine, inverse * 0.5) * (0.5 / math.pi)
    return shape * 0.25 / maximum(n_l + n_v - n_l * n_v, 1e-4)
