"""What is the same all over an instance: worked out once for each, kept in textures, and read by its vertices."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

from velvet_moth.core.emitting.emitter import Emitter
from velvet_moth.core.emitting.instances import instancing_of
from velvet_moth.core.language.expr import Expr, Rate, constant, inputs_of, sampler, topological_order
from velvet_moth.core.language.inputs import Given, Instancing, surface
from velvet_moth.core.language.primitives import combine, floor, sample, texture_size
from velvet_moth.core.language.trace import substituted
from velvet_moth.core.lighting.stage_textures import stage_texture

# So many instances stand side by side in a texture, the next ones above them.
ACROSS = 256
# The path that keeps most needs so many textures; a device paints at least so many of them at once.
MOST_TEXTURES, AT_ONCE = 8, 4
INSTANCE_TEXTURES = tuple(
    stage_texture(
        f"instances_{number}",
        f"four numbers of each instance, from the lower left, {ACROSS} in a row, as the instance shaders paint them",
    )
    for number in range(1, MOST_TEXTURES + 1)
)
_PIXEL = surface("screen_pixel")
# Which instance a pixel of these textures is of.
INSTANCE_OF_PIXEL = Given({"instance_slot": _PIXEL.x + _PIXEL.y * ACROSS})


@dataclass(frozen=True)
class PerInstance:
    """An instancing in two passes: ``kept`` are vectors of four, each for a texture; ``reading`` does the rest with them."""

    kept: tuple[Expr, ...]
    reading: Instancing

    @property
    def passes(self) -> tuple[tuple[Expr, ...], ...]:
        """What is kept, by what is painted at once."""
        return tuple(self.kept[at : at + AT_ONCE] for at in range(0, len(self.kept), AT_ONCE))


def _same_all_over(instancing: Instancing) -> list[Expr]:
    """The largest parts of its expressions that differ between instances, but not between the vertices of one."""
    own = list(instancing.own.values())
    order = topological_order([*instancing.placed.values(), *own])
    found = {e for e in order if e.rate <= Rate.DRAW and "instance_slot" in inputs_of([e])}
    read = (a for e in order if e not in found for a in e.args)
    return list(dict.fromkeys(e for e in (*read, *own) if e in found))


def _components(parts: Sequence[Expr]) -> list[Expr]:
    return [part[i] if part.type.width > 1 else part for part in parts for i in range(part.type.width)]


def _read_back(count: int) -> list[Expr]:
    """The numbers of ``count`` textures where an instance has them."""
    slot = surface("instance_slot")
    row = floor((slot + 0.5) / ACROSS)
    found = []
    for key in INSTANCE_TEXTURES[:count]:
        texture = sampler(key, ("clamp", "clamp"), -1e6, 1e6, "pixels")
        at = combine((slot - row * ACROSS + 0.5) / ACROSS, (row + 0.5) / texture_size(texture).y)
        found.append(sample(texture, at, constant(0.0)))
    return _components(found)


@lru_cache(maxsize=64)
def per_instance(instancing: Instancing) -> PerInstance:
    """The same instances, in two passes."""
    parts = _same_all_over(instancing)
    numbers = _components(parts)
    numbers += [constant(0.0)] * (-len(numbers) % 4)
    kept = tuple(combine(*numbers[at : at + 4]) for at in range(0, len(numbers), 4))
    read = iter(_read_back(len(kept)))
    table = {}
    for part in parts:
        components = [next(read) for _ in range(part.type.width)]
        table[part] = combine(*components) if len(components) > 1 else components[0]

    def reading(values: dict[str, Expr]) -> dict[str, Expr]:
        return dict(zip(values, substituted(list(values.values()), table), strict=True))

    return PerInstance(
        kept, Instancing(reading(dict(instancing.placed)), reading(dict(instancing.own)), instancing.lives)
    )


def per_instance_of(emitter: Emitter) -> PerInstance | None:
    """How a form is drawn by an emitter; None where it is off."""
    instancing = instancing_of(emitter)
    return None if instancing is None else per_instance(instancing)
