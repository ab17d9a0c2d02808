"""Quads: the blocks of 2x2 pixels that a GPU shades together, since differences over the screen are taken inside them."""

import numpy as np
from numpy.typing import NDArray


def quads_where(wanted: NDArray[np.bool_]) -> NDArray[np.int64]:
    """The flat places, (2, 2 * quads), of all pixels of the quads in which any pixel of a (rows, columns) mask is wanted.

    As a picture two rows high it is shaded as the whole one would be there. With an odd side, where the last quad has
    no other half, it is every pixel in the mask's own shape.
    """
    rows, columns = wanted.shape
    places = np.arange(rows * columns).reshape(rows, columns)
    if rows % 2 or columns % 2:
        return places
    quads = places.reshape(rows // 2, 2, columns // 2, 2).transpose(1, 0, 2, 3)
    return np.ascontiguousarray(quads[:, wanted.ravel()[quads].any(axis=(0, 3))].reshape(2, -1))
