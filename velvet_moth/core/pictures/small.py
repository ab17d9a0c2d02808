"""Small pictures of textures, as seen on a screen."""

from collections.abc import Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.language.texture import linear_to_srgb
from velvet_moth.core.pictures.formats.base import Samples

# What shows through where a picture is transparent: the grey that colour is judged against, encoded.
BEHIND = np.array((115, 112, 109), dtype=np.float32)


def small_picture(levels: Sequence[Samples], is_colour: bool, most: int) -> NDArray[np.uint8]:
    """(rows, columns, 3) of sides up to ``most``, out of the levels of a texture, (rows, columns, 4) each.

    Floats of a texture that is read as colour are linear light, 8 bits are encoded already.
    """
    shown = next(level for level in levels if max(level.shape[:2]) <= most or level is levels[-1])
    if shown.dtype != np.uint8:
        values = np.clip(shown.astype(np.float32), 0, 1)
        encoded = np.dstack((linear_to_srgb(values[..., :3]), values[..., 3:])) if is_colour else values
        shown = np.rint(encoded * 255).astype(np.uint8)
    if max(shown.shape[:2]) < most // 2 and max(levels[0].shape[:2]) >= most // 2:
        shown = np.asarray(cv2.resize(shown, None, fx=2, fy=2, interpolation=cv2.INTER_NEAREST))
    share = shown[..., 3:].astype(np.float32) / 255
    return np.rint(shown[..., :3] * share + BEHIND * (1 - share)).astype(np.uint8)


def shrunk(samples: Samples, most: int) -> Samples:
    """The samples made smaller until no side is longer than ``most``."""
    scale = min(1.0, most / max(samples.shape[:2]))
    return np.asarray(cv2.resize(samples, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA))
