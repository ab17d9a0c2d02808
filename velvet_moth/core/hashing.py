"""The integer hash behind every random number, on NumPy arrays; its GLSL twin stands in ``primitives/random.py``."""

import numpy as np
from numpy.typing import NDArray

Whole = NDArray[np.int64]


def cell_randoms(x: Whole, y: Whole, z: Whole) -> NDArray[np.float32]:
    """Three independent random numbers in 0..1 for each cell, (3, ...); coordinates wrap at 2^32.

    Source: M. Jarzynski, M. Olano, "Hash Functions for GPU Rendering", JCGT 9(3), 2020 (pcg3d).
    """
    a, b, c = (v.astype(np.uint32) * np.uint32(1664525) + np.uint32(1013904223) for v in np.broadcast_arrays(x, y, z))
    for turn in range(2):
        a = a + b * c
        b = b + c * a
        c = c + a * b
        if turn == 0:
            a, b, c = (v ^ (v >> np.uint32(16)) for v in (a, b, c))
    return np.stack([(v >> np.uint32(8)).astype(np.float32) for v in (a, b, c)]) * np.float32(2.0**-24)
