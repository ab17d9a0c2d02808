"""A stroke while it is drawn: each new stretch of it changes what it covers, and ends where laying the whole stroke does."""

from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.baking.painting.laying import (
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
from velvet_moth.core.baking.painting.surface import Indices, Numbers, Surface
from velvet_moth.core.stacks.stroke import WIDTH, Stroke, text_of


@dataclass(eq=False)
class Drawing:
    """One stroke under way. ``before`` and ``under`` are the painted layers (n, 4) without it, and without any.

    ``opacity`` is how much of the paint is seen over what lies below.
    """

    surface: Surface
    before: Painted
    under: Painted
    opacity: float = 1.0
    rows: NDArray[np.float32] = field(default_factory=lambda: np.empty((0, WIDTH), dtype=np.float32))
    cover: Numbers = field(init=False)
    _softening: Softening | None = field(default=None, init=False)

    def __post_init__(self) -> None:
        self.cover = np.zeros(len(self.before))

    def go_on(self, brush: Stroke) -> tuple[Indices, Painted]:
        """Draws on along the points of a stroke; the vertices that this changes, (k,), and what is seen there, (k, 4)."""
        last = self.rows[-1:]
        self.rows = np.concatenate((self.rows, brush.rows))
        if brush.fill:
            vertex, cover = filled(brush, self.surface)
        else:
            stretch = np.concatenate((last, brush.rows))
            line = Line(brush, *segments(stretch, brush.mirror, begins=not len(last)))
            vertex, cover = held(brush, self.rows, covered([line], self.surface)[0], self.surface)
        grown = cover > self.cover[vertex]
        vertex, cover = vertex[grown], cover[grown]
        self.cover[vertex] = cover
        whole = replace(brush, points=text_of(self.rows[:1]))
        if self._softening is None:
            self._softening = Softening(self.before, whole, self.surface)
        made = brushed(whole, vertex, cover, self.before, self.under, self._softening)
        return vertex, over(self.under[vertex], made, self.opacity)
