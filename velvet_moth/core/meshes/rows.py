"""Equal rows of numbers found fast, however many there are."""

import numpy as np
from numpy.typing import NDArray

# Odd, so that no bit is lost: the golden ratio in 64 bits, as in D. Knuth, "The Art of Computer Programming", 6.4.
_MULTIPLIER = np.uint64(0x9E3779B97F4A7C15)


def numbered(*columns: NDArray[np.float32]) -> NDArray[np.int64]:
    """For each row of arrays (n, k) beside each other a number, the same for equal rows; from 0, without gaps."""
    rows = np.ascontiguousarray(np.concatenate(columns, axis=1) + np.float32(0.0)).view(np.uint32)
    key = np.zeros(len(rows), dtype=np.uint64)
    for part in rows.T:
        key = (key ^ part) * _MULTIPLIER
        key ^= key >> np.uint64(29)
    _, first, found = np.unique(key, return_index=True, return_inverse=True)
    if np.array_equal(rows[first[found]], rows):
        return found.reshape(-1).astype(np.int64)
    # Different rows with the same key: once in the life of a program, if ever.
    return np.unique(rows, axis=0, return_inverse=True)[1].reshape(-1).astype(np.int64)


def numbered_pairs(a: NDArray[np.int64], b: NDArray[np.int64]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """The first place of each different pair of numbers that are not negative, in order, and for each pair which it is."""
    key = a * (int(b.max(initial=0)) + 1) + b
    _, first, found = np.unique(key, return_index=True, return_inverse=True)
    return first, found.reshape(-1)
