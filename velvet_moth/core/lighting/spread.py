"""How decals live: they spread to their size, stay, and are drawn in or dry. One formula, read by every interpreter."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from typing import Annotated

import numpy as np

from velvet_moth.core.base.records import Number, OneOf, Text
from velvet_moth.core.base.ways import EASINGS, WAY_NAMES, WAYS
from velvet_moth.core.language.expr import Array, Expr
from velvet_moth.core.language.inputs import surface
from velvet_moth.core.language.primitives import maximum, minimum, mix, saturate, where_less

# What becomes of a decal in the end: whether it is drawn in, whether it dries.
ENDINGS: Mapping[str, tuple[str, bool, bool]] = {
    "stay": ("Stays", False, False),
    "draw_in": ("Is drawn in", True, False),
    "dry": ("Dries", False, True),
}


EasingKey = Annotated[Text, OneOf({key: WAY_NAMES[key] for key in EASINGS})]
EndingKey = Annotated[Text, OneOf({key: name for key, (name, *_) in ENDINGS.items()})]


@dataclass(frozen=True)
class Spread:
    """How every decal of a graph lives, from the moment it begins.

    Its width grows from the ``smallest`` (metres) at ``speed`` (metres a second; 0: at once) by an ``easing`` of
    ``base/ways.py``; it stays for ``hold`` seconds; then, over so many seconds (``over``), its ``ending`` of ``ENDINGS``.
    """

    smallest: Number = 0.05
    speed: Number = 0.0
    easing: EasingKey = "settle"
    hold: Number = 2.0
    ending: EndingKey = "stay"
    over: Number = 1.0

    @property
    def inputs(self) -> dict[str, Array]:
        """What a draw knows of it."""
        _, is_drawn_in, dries = ENDINGS[self.ending]
        cubic = WAYS[self.easing].cubic
        assert cubic is not None, "an easing is no curve drawn by hand"
        vectors = {
            "spread_times": (self.smallest, self.speed, self.hold, self.over),
            "spread_way": cubic[1:],
            "spread_ending": (float(is_drawn_in), float(dries)),
        }
        return {name: np.array(v, dtype=np.float32).reshape(-1, 1, 1) for name, v in vectors.items()}


# Decals that are there at once and stay as they are.
AT_ONCE = Spread()
_SHORTEST = 1e-4


def decal_age() -> Expr:
    """Seconds since the decal began; below zero before it does."""
    return surface("time") - surface("decal_born")


@lru_cache(maxsize=1)
def spread_and_dryness() -> tuple[Expr, Expr]:
    """The share of its size that a decal has, 0..1, and how far it has dried, 0..1.

    With w its full width, s the smallest, T = (w - s) / speed and the easing e: s / w + (1 - s / w) e(age / T) while it grows;
    after T + hold, with u = e((age - T - hold) / over), times 1 - u where it is drawn in, while dryness is u where it dries.
    """
    half, times, ends = surface("decal_half"), surface("spread_times"), surface("spread_ending")
    width = maximum(half.x, half.y) * 2.0
    smallest, speed = minimum(times.x, width), times.y
    age = decal_age()
    rising = where_less(0.0, speed, (width - smallest) / maximum(speed, _SHORTEST), 0.0)
    grown = where_less(rising, _SHORTEST, 1.0, saturate(age / maximum(rising, _SHORTEST)))
    share = mix(smallest / maximum(width, _SHORTEST), 1.0, _eased(grown))
    gone = _eased(saturate((age - rising - times.z) / maximum(times.w, _SHORTEST)))
    there = where_less(age, 0.0, 0.0, share * (1.0 - ends.x * gone))
    return there, ends.y * gone


def _eased(done: Expr) -> Expr:
    way = surface("spread_way")
    return saturate(done * (way.x + done * (way.y + done * way.z)))
