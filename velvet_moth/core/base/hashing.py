"""The integer hash behind every random number, on NumPy arrays; its GLSL twin stands in ``primitives/random.py``."""

import numpy as np
from numpy.typing import NDArray

Whole = NDArray[np.int64]


def cell_randoms(cells: Whole) -> NDArray[np.float32]:
    """Three independent random numbers in 0..1 for each cell, (3, ...); ``cells`` is (3, ...) and wraps at 2^32.

    Source: M. Jarzynski, M. Olano, "Hash Functions for GPU Rendering", JCGT 9(3), 2020 (pcg3d).
    """
    mixed = cells.astype(np.uint32) * np.uint32(1664525) + np.uint32(1013904223)
    # Views, so that what is added stays in the whole.
    a, b, c = mixed[:1], mixed[1:2], mixed[2:]
    for turn in range(2):
        a += b * c
        b += c * a
        c += a * b
        if turn == 0:
            mixed ^= mixed >> np.uint32(16)
    return (mixed >> np.uint32(8)).astype(np.float32) * np.float32(2.0**-24)
