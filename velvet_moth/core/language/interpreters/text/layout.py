"""Where values and textures lie: the same for both shaders of a draw."""

from collections.abc import Hashable, Mapping
from dataclasses import dataclass
from typing import Any

from velvet_moth.core.language.dialects import GLSL_ES, Dialect
from velvet_moth.core.language.expr import Expr
from velvet_moth.core.language.texture import Filter, Wrap


@dataclass(frozen=True)
class Slot:
    """Where a uniform value lives: ``width`` floats from ``offset`` in the array ``values`` (vec4s)."""

    key: Hashable
    offset: int
    width: int


@dataclass(frozen=True)
class SamplerSlot:
    """A texture unit: GLSL's ``name`` reads the texture bound to ``key`` with these wraps and this filter."""

    key: Hashable
    name: str
    wrap: tuple[Wrap, Wrap]
    filter: Filter


class Layout:
    """Packs uniform values into vec4s: vectors do not straddle two of them, numbers fill the gaps."""

    def __init__(self) -> None:
        self.slots: dict[Hashable, Slot] = {}
        # Offsets of free room by its width, 1 to 3.
        self._free: tuple[list[int], ...] = ([], [], [], [])
        self._end = 0

    def place(self, key: Hashable, width: int) -> Slot:
        """Where a uniform of so many floats is, placed now where it is new."""
        found = self.slots.get(key)
        if found is None:
            found = self.slots[key] = Slot(key, self._room(width), width)
        return found

    def _room(self, width: int) -> int:
        for free in range(width, 4):
            if self._free[free]:
                offset = self._free[free].pop()
                break
        else:
            free, offset = 4, self._end
            self._end += 4
        if free > width:
            self._free[free - width].append(offset + width)
        return offset


_COMPONENTS = {(start, width): "xyzw"[start : start + width] for start in range(4) for width in range(1, 5 - start)}


class Places:
    """Where values and textures lie: the same for both shaders of a draw.

    ``same`` gives for some keys of textures another one that holds the same texture.
    """

    def __init__(self, same: Mapping[Hashable, Hashable] | None = None, dialect: Dialect = GLSL_ES) -> None:
        self.dialect = dialect
        self.layout = Layout()
        self.samplers: dict[tuple[Any, ...], SamplerSlot] = {}
        self._same = same or {}

    def value(self, expr: Expr) -> str:
        """The text that reads a value from outside."""
        key = expr.attributes[0]
        slot = self.layout.slots.get(key) or self.layout.place(key, expr.type.width)
        return f"values[{slot.offset >> 2}].{_COMPONENTS[slot.offset & 3, slot.width]}"

    def sampler(self, expr: Expr) -> SamplerSlot:
        """The stage's own textures are called by their key, so that functions reading them can be kept."""
        key, wrap_u, wrap_v, filter_ = expr.attributes[:4]
        key = self._same.get(key, key)
        name = f"texture_{key}" if isinstance(key, str) else f"texture_{len(self.samplers)}"
        place = (key, wrap_u, wrap_v, filter_)
        return self.samplers.setdefault(place, SamplerSlot(key, name, (wrap_u, wrap_v), filter_))
