"""A stroke while it is drawn: each new stretch of it changes what it covers, and ends where laying the whole stroke does."""

from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.baking.painting.laying import (
    Cover,
    Line,
    Painted,
    Softening,
    brushed,
    covered,
    filled,
    held,
    over,
    segments,
)
from velvet_moth.core.baking.painting.media import NUMBERS, Medium
from velvet_moth.core.baking.painting.surface import Indices, Numbers, Surface
from velvet_moth.core.stacks.stroke import WIDTH, Stroke, text_of


@dataclass(eq=False)
class Drawing:
    """One stroke under way. ``before`` and ``under`` are the painted numbers (n, 4) without it, and without any.

    ``opacity`` is how much of the paint is seen over what lies below.
    """

    surface: Surface
    before: Painted
    under: Painted
    opacity: float = 1.0
    medium: Medium = NUMBERS
    rows: NDArray[np.float32] = field(default_factory=lambda: np.empty((0, WIDTH), dtype=np.float32))
    cover: Numbers = field(init=False)
    run: Numbers = field(init=False)
    _softening: Softening | None = field(default=None, init=False)

    def __post_init__(self) -> None:
        self.cover = np.zeros(len(self.before))
        self.run = np.zeros((len(self.before), 3))

    def go_on(self, brush: Stroke) -> tuple[Indices, Painted]:
        """Draws on along the points of a stroke; the vertices that this changes, (k,), and what is seen there, (k, 4)."""
        last = self.rows[-1:]
        self.rows = np.concatenate((self.rows, brush.rows))
        if brush.fill:
            cover = filled(replace(brush, points=text_of(self.rows)), self.surface)
            self.run[cover.vertex] = 0.0
        else:
            stretch = np.concatenate((last, brush.rows))
            line = Line(brush, *segments(stretch, brush.mirror, begins=not len(last)))
            cover = held(brush, self.rows, covered([line], self.surface)[0], self.surface)
        cover = self._with_what_was(cover)
        whole = replace(brush, points=text_of(self.rows[:1]))
        if self._softening is None:
            self._softening = Softening(self.before, whole, self.surface, self.medium)
        made = brushed(whole, cover, self.before, self.under, self._softening, self.medium)
        return cover.vertex, over(self.under[cover.vertex], made, self.opacity)

    def _with_what_was(self, stretch: Cover) -> Cover:
        """What a stretch covers together with those before it; only where that changes anything."""
        at = stretch.vertex
        amount, before = np.maximum(stretch.amount, self.cover[at]), self.cover[at]
        self.cover[at] = amount
        if stretch.run is None:
            return Cover(at, amount).taken(amount > before)
        self.run[at] += stretch.run
        return Cover(at, amount, self.run[at])
