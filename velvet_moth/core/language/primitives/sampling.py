"""Reading textures at an explicit level of detail, and differences between neighbouring pixels."""

from collections.abc import Sequence

import numpy as np

from velvet_moth.core.language.expr import (
    Array,
    Expr,
    Primitive,
    Rate,
    Structural,
    apply,
    biased,
    declare,
    is_biased,
    sampler,
)
from velvet_moth.core.language.interval import Interval, negated, total
from velvet_moth.core.language.primitives.rules import Attributes, NumpyRule, fixed, widest_float
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.language.types import NUMBER, TEXTURE, VEC2, VEC4


def _texture(arrays: Sequence[Array]) -> Texture:
    bound: object = arrays[0]
    assert isinstance(bound, Texture)
    return bound


def _difference(axis: int) -> NumpyRule:
    def numpy_rule(arrays: Sequence[Array], _: Attributes) -> Array:
        """The difference over each 2x2 quad, the same for its pixels along ``axis`` (coarse)."""
        a = arrays[0]
        if a.ndim < 2 or a.shape[axis] == 1:
            return np.zeros_like(a)
        length = a.shape[axis]
        first = np.minimum(np.arange(length) // 2 * 2, length - 2)
        other = -1 if axis == -2 else -2
        if a.shape[other] > 1:
            rows = np.arange(a.shape[other]) // 2 * 2
            a = np.take(a, rows, axis=other)
        return np.asarray(np.take(a, first + 1, axis=axis) - np.take(a, first, axis=axis))

    return numpy_rule


def _difference_bound(args: Sequence[Interval], _: Attributes) -> Interval:
    return total(args[0], negated(args[0]))


def _declare_difference(name: str, axis: int) -> None:
    declare(
        Primitive(
            name,
            widest_float,
            spell=lambda dialect, types, texts, _: getattr(dialect, name).format(value=texts[0]),
            numpy=_difference(axis),
            bound=_difference_bound,
            operations=1,
            domains=(),
            rate=Rate.PIXEL,
            foldable=False,
            operation_class="derivative",
        )
    )


_declare_difference("along_x", -1)
_declare_difference("along_y", -2)
# Where only its size matters: languages whose rows run downwards then need no sign.
_declare_difference("between_rows", -2)
declare(
    Primitive(
        "sample",
        fixed(VEC4, TEXTURE, VEC2, NUMBER),
        spell=lambda dialect, types, texts, _: dialect.sample.format(texture=texts[0], uv=texts[1], level=texts[2]),
        numpy=lambda a, _: _texture(a).sample(a[1], a[2]),
        bound=lambda r, _: r[0],
        operations=1,
        domains=(),
        reads=1,
        foldable=False,
        operation_class="read",
    )
)
declare(
    Primitive(
        "texture_size",
        fixed(VEC2, TEXTURE),
        spell=lambda dialect, types, texts, _: dialect.size.format(texture=texts[0]),
        numpy=lambda a, _: np.array(_texture(a).size, dtype=np.float32).reshape(2, 1, 1),
        bound=lambda r, _: Interval(1.0, 16384.0),
        operations=1,
        domains=(),
        foldable=False,
    )
)


WRAPS = ("repeat", "clamp", "mirror")
FILTERS = ("smooth", "pixels")


def reading(texture: Expr, wrap: str, filter: str, bias: Expr) -> Expr:
    """The same texture read another way: beyond its edges, between its pixels, and at a level ``bias`` coarser."""
    if texture.operator is Structural.SAMPLER:
        key, *_, low, high = texture.attributes
        texture = sampler(key, (wrap, wrap), low, high, filter)
    is_plain = bias.operator is Structural.CONSTANT and not any(bias.attributes)
    return texture if is_plain else biased(texture, bias)


def settled_bias(texture: Expr, level: Expr) -> tuple[Expr, Expr]:
    """A texture without a bias of its own, and the level that it is read at then."""
    if not is_biased(texture):
        return texture, level
    plain, bias = texture.args
    return plain, apply("maximum", level + bias, 0.0)


def sample(texture: Expr, uv: Expr, level: Expr) -> Expr:
    """The texture's four channels at uv (v up), filtered between pixels and between levels."""
    plain, read_at = settled_bias(texture, level)
    return apply("sample", plain, uv, read_at)


def texture_size(texture: Expr) -> Expr:
    """Width and height in pixels of level 0."""
    return apply("texture_size", texture.args[0] if is_biased(texture) else texture)


def along_x(value: Expr) -> Expr:
    """How much the value changes to the next pixel on the right; per pixel only."""
    return apply("along_x", value)


def along_y(value: Expr) -> Expr:
    """How much the value changes to the next pixel upwards; per pixel only."""
    return apply("along_y", value)
