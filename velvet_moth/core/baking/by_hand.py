"""Steps that a brush draws on: what lies under their strokes, and what the strokes make of it."""

import hashlib
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from velvet_moth.core.baking.painting.laying import Painted, laid, over
from velvet_moth.core.baking.painting.media import Medium
from velvet_moth.core.baking.painting.surface import Indices, Surface
from velvet_moth.core.baking.step import OnMesh
from velvet_moth.core.base.cache import BoundedCache
from velvet_moth.core.forms.mesh import Mesh
from velvet_moth.core.stacks.stroke import Stroke

# Each stroke is one more of the same: what was laid before it is at hand.
_laid: BoundedCache[Painted] = BoundedCache("painted layers", 256 << 20, lambda painted: painted.nbytes, "bytes")
_REMEMBERED = 3
# So many strokes take long enough to be laid that what they made is kept.
MANY = 100
# What the steps above give, by the setting that takes it.
Given = Mapping[str, Any]


def _key_of(base: object, strokes: tuple[Stroke, ...]) -> str:
    """What tells these strokes on that ground apart from all others, in every process."""
    return hashlib.sha256(repr((base, [stroke.mark for stroke in strokes])).encode()).hexdigest()


def _as_they_are(mesh: Mesh, vertex: Indices, painted: Painted) -> Painted:
    return painted


@dataclass(frozen=True)
class ByHand:
    """A kind of painted step: what is painted, and what lies under all strokes, (n, 4), of what the steps above give.

    ``shown`` makes of what is painted at some vertices, (k, 4), what channels keep of it.
    """

    medium: Medium
    below: Callable[[OnMesh, Given], Painted]
    shown: Callable[[Mesh, Indices, Painted], Painted] = _as_they_are

    def painted(self, on: OnMesh, strokes: tuple[Stroke, ...], under: Painted) -> Painted:
        """What is there after the strokes, (n, 4); only those that are new are laid."""
        base = (on.mark, hashlib.blake2b(under.tobytes(), digest_size=16).digest(), self.medium.name)
        for kept in range(len(strokes), max(len(strokes) - _REMEMBERED, 0), -1):
            found = _laid.find((base, strokes[:kept]))
            if found is not None:
                break
        else:
            kept, found = self._kept(on, base, strokes) or (0, under)
        if kept == len(strokes) and found is not under:
            return _laid.get((base, strokes), lambda: found)
        made = laid(strokes[kept:], found, under, on.surface, self.medium)
        if len(strokes) >= MANY:
            on.context.laid.made(len(strokes), _key_of(base, strokes), made)
        return _laid.get((base, strokes), lambda: made)

    def _kept(self, on: OnMesh, base: object, strokes: tuple[Stroke, ...]) -> tuple[int, Painted] | None:
        """How many of the strokes were laid by an earlier process, and what they made."""
        if len(strokes) < MANY:
            return None
        return on.context.laid.find(len(strokes), lambda count: _key_of(base, strokes[:count]))


@dataclass(frozen=True, eq=False)
class Hand:
    """A painted step of a stack on the mesh: ``under`` (n, 4) is what lies below its strokes.

    ``opacity`` is how much of them is seen.
    """

    kind: ByHand
    on: OnMesh
    strokes: tuple[Stroke, ...]
    under: Painted
    opacity: float = 1.0

    @property
    def before(self) -> Painted:
        """What the strokes have made so far, (n, 4)."""
        return self.kind.painted(self.on, self.strokes, self.under)

    def seen(self) -> Painted:
        """What is seen at the vertices, (n, 4)."""
        return over(self.under, self.before, self.opacity) if self.opacity else self.under

    def seen_at(self, surface: Surface, under: Painted) -> Painted:
        """What is seen at the k spots of another surface, (k, 4), where ``under`` (k, 4) lies below; laid there itself."""
        made = laid(self.strokes, under, under, surface, self.kind.medium)
        return over(under, made, self.opacity)


def opacity_of(shown: str, opacity: float, **_: object) -> float:
    """How much of what is painted is seen with these settings of a painted step."""
    return 0.0 if shown == "off" else opacity


# By the key of the step.
BY_HAND: dict[str, ByHand] = {}
