"""What spurts where something is thrown: a source for each splash, in the direction that the throw goes on."""

from collections.abc import Iterable

import numpy as np

from velvet_moth.core.emitting.emitter import EmitterSource
from velvet_moth.core.lighting.decals import Decal

# Of the direction: how much is the throw thrown back by the surface, and how much goes straight away from it.
_THROWN_BACK, _AWAY = 0.7, 0.5
# It begins this far above the surface (m), and the weakest throw has this share of the speed.
_ABOVE, _WEAKEST = 0.02, 0.25


def sources_of(decals: Iterable[Decal]) -> tuple[EmitterSource, ...]:
    """A source for each decal that is the first of a throw; the same moment, a seed of its own."""
    return tuple(_source(decal, decal.thrown) for decal in decals if decal.thrown is not None)


def _source(decal: Decal, thrown: tuple[float, float, float]) -> EmitterSource:
    _, _, out = decal.axes
    came = np.array(thrown)
    back = came - 2.0 * float(came @ out) * out
    way = back * _THROWN_BACK + out * _AWAY
    x, y, z = (float(part) for part in way / max(float(np.linalg.norm(way)), 1e-9))
    a, b, c = (float(part) for part in np.array(decal.place) + out * _ABOVE)
    strength = _WEAKEST + (1.0 - _WEAKEST) * decal.strength
    return EmitterSource((a, b, c), (x, y, z), decal.born, (decal.seed + 1.0) % 65536.0, strength)
