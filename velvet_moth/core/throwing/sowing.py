"""Many throws, spread evenly over what an eye sees."""

from collections.abc import Iterator

import numpy as np

from velvet_moth.core.base.hashing import cell_randoms
from velvet_moth.core.forms.view import Camera
from velvet_moth.core.throwing.placing import Aim

# Steps of a sequence that fills a cube evenly whatever its length.
# Source: M. Roberts, "The Unreasonable Effectiveness of Quasirandom Sequences", 2018.
_EVEN = (0.8191725133961645, 0.6710436067037893, 0.5497004779019703)
# A picture of these proportions is thrown at, and throws are slanted by so many degrees at most.
_PICTURE, _SLANTED = (640, 480), 60.0


def sown(camera: Camera, count: int, seed: int) -> Iterator[Aim]:
    """Aims from an eye at evenly spread places of its picture, with all strengths, slanted to all sides; seeds count from ``seed``."""
    eye = tuple(float(part) for part in camera.position)
    right, up, _ = camera.axes
    width, height = _PICTURE
    for number in range(count):
        x, y, strength = ((number + 1) * step % 1.0 for step in _EVEN)
        own = (seed + number) % 65536
        turn, slant, _ = (
            float(part) for part in cell_randoms(np.array([[own], [number], [77]], dtype=np.int64)).ravel()
        )
        aside = right * np.cos(turn * 2 * np.pi) + up * np.sin(turn * 2 * np.pi)
        towards = camera.through(np.array(x * width - 0.5), np.array(y * height - 0.5), width, height)
        yield Aim(
            (eye[0], eye[1], eye[2]),
            (float(towards[0]), float(towards[1]), float(towards[2])),
            (float(aside[0]), float(aside[1]), float(aside[2])),
            slant=slant * _SLANTED,
            strength=round(strength, 3),
            seed=own,
        )
