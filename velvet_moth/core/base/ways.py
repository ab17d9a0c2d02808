"""The ways from one key to the next: each a cubic of the share of time that has passed, from 0 to 1.

A way gives the coefficients (1, x, x², x³) of how much of the way is done. It starts at 0 and ends at 1, so a track is
continuous but where it holds.
"""

from collections.abc import Mapping
from dataclasses import dataclass

Cubic = tuple[float, float, float, float]

HOLD, BY_HAND = "hold", "hand"

# How far past its end the way that overshoots goes, as a share of the whole.
PAST_THE_END = 0.1
# With w = x - 1 the way is 1 + (s + 1) w³ + s w². It is highest at w = -2s / (3 (s + 1)), where it is 4s³ / (27 (s + 1)²)
# past its end. This s makes that a tenth.
_SPRING = 1.701540198866824


@dataclass(frozen=True)
class Way:
    """How a value goes on from a key: its name, what it does in words, and its cubic; None for one drawn by hand."""

    name: str
    words: str
    cubic: Cubic | None


WAYS: Mapping[str, Way] = {
    HOLD: Way("Hold", "stays as it is until the next key", (0.0, 0.0, 0.0, 0.0)),
    "straight": Way("Straight", "changes at the same speed all the way", (0.0, 1.0, 0.0, 0.0)),
    "smooth": Way("Smooth", "starts and ends at rest", (0.0, 0.0, 3.0, -2.0)),
    "gather": Way("Gather", "starts at rest and gathers speed", (0.0, 0.0, 0.0, 1.0)),
    "settle": Way("Settle", "starts fast and comes to rest", (0.0, 3.0, -3.0, 1.0)),
    "overshoot": Way(
        "Overshoot",
        "goes a tenth past the next key and comes back to it",
        (0.0, _SPRING + 3.0, -2.0 * _SPRING - 3.0, _SPRING + 1.0),
    ),
    BY_HAND: Way("By hand", "follows the slopes drawn at its two keys", None),
}
WAY_NAMES: Mapping[str, str] = {key: way.name for key, way in WAYS.items()}
# Those that go from 0 to 1 without a stop and never past either, so that a share follows them.
EASINGS = ("straight", "smooth", "gather", "settle")


def between(way: str, start: float, end: float, leaving: float, arriving: float, seconds: float) -> Cubic:
    """The value between two keys ``seconds`` apart, as a cubic of the seconds since the first.

    By hand it is the Hermite cubic with the slopes ``leaving`` and ``arriving`` (a second).
    """
    cubic, rise = WAYS[way].cubic, end - start
    if cubic is not None:
        parts = (start + rise * cubic[0], *(rise * part for part in cubic[1:]))
    else:
        out, into = leaving * seconds, arriving * seconds
        parts = (start, out, 3.0 * rise - 2.0 * out - into, out + into - 2.0 * rise)
    return parts[0], parts[1] / seconds, parts[2] / seconds**2, parts[3] / seconds**3
