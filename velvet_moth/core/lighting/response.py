"""How much of a white surrounding each lobe sends to the eye, integrated once: a table by angle and roughness."""

import math
from functools import lru_cache

import cv2
import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.language.texture import Floats

Array = NDArray[np.float64]
ANGLES, STEPS, SAMPLES = 96, 48, 512


def spread(count: int) -> tuple[Array, Array]:
    """Hammersley points: ``count`` pairs in 0..1 that cover the square evenly."""
    index = np.arange(count)
    reversed_bits = sum(((index >> k) & 1) * 2.0 ** -(k + 1) for k in range(16))
    return (index + 0.5) / count, np.asarray(reversed_bits)


def reflected(n_v: Array, roughness: Array) -> tuple[Array, Array]:
    """Scale and bias of the reflectance facing the eye, for cosines and roughnesses of one shape.

    The light of the GGX lobe under white surroundings is facing * scale + edge * bias.
    Source: B. Karis, split-sum approximation, SIGGRAPH 2013 course on physically based shading.
    """
    a, b = (part[:, None, None] for part in spread(SAMPLES))
    alpha = np.maximum(roughness, 0.02) ** 2
    cosine = np.sqrt((1 - a) / (1 + (alpha * alpha - 1) * a))
    sine = np.sqrt(np.maximum(1 - cosine * cosine, 0))
    across = np.sqrt(np.maximum(1 - n_v * n_v, 0))
    v_h = sine * np.cos(2 * math.pi * b) * across + cosine * n_v
    n_l = 2 * v_h * cosine - n_v
    squared = alpha * alpha
    visible = 0.5 / np.maximum(
        n_l * np.sqrt(n_v * n_v * (1 - squared) + squared) + n_v * np.sqrt(n_l * n_l * (1 - squared) + squared), 1e-9
    )
    weight = np.where((n_l > 0) & (v_h > 0), visible * 4 * v_h * n_l / np.maximum(cosine, 1e-9), 0)
    fresnel = (1 - np.clip(v_h, 0, 1)) ** 5
    return (weight * (1 - fresnel)).mean(axis=0), (weight * fresnel).mean(axis=0)


def sheen(n_v: Array, roughness: Array) -> Array:
    """The share of white surroundings that a white sheen sends to the eye. The lobe is that of ``lobes.sheen_lobe``."""
    a, b = (part[:, None, None] for part in spread(SAMPLES))
    n_l, turn = 1 - a, 2 * math.pi * b
    sine_l, sine_v = np.sqrt(1 - n_l * n_l), np.sqrt(np.maximum(1 - n_v * n_v, 0))
    v_l = np.clip(n_l * n_v + sine_l * sine_v * np.cos(turn), -1, 1)
    n_h = np.clip((n_l + n_v) / np.sqrt(np.maximum(2 + 2 * v_l, 1e-9)), 0, 1)
    inverse = 1 / np.maximum(roughness * roughness, 1e-3)
    shape = (2 + inverse) * np.maximum(1 - n_h * n_h, 1e-6) ** (inverse * 0.5) / (2 * math.pi)
    # Directions are spread evenly over the half sphere, 2 pi of solid angle.
    return np.asarray((shape * 0.25 / np.maximum(n_l + n_v - n_l * n_v, 1e-4) * n_l).mean(axis=0) * 2 * math.pi)


@lru_cache(maxsize=1)
def response_table(width: int, height: int) -> Floats:
    """(3, height, width): scale, bias and sheen at cosines along the width and roughnesses up the height.

    The first pixel stands for 0, the last for 1.
    """
    n_v, roughness = np.meshgrid(np.maximum(np.linspace(0, 1, ANGLES), 1e-3), np.linspace(0, 1, STEPS))
    planes = (*reflected(n_v, roughness), np.minimum(sheen(n_v, roughness), 1.0))
    across, up = np.meshgrid(np.linspace(0, ANGLES - 1, width), np.linspace(0, STEPS - 1, height))
    maps = across.astype(np.float32), up.astype(np.float32)
    return np.stack([cv2.remap(plane.astype(np.float32), *maps, cv2.INTER_LINEAR) for plane in planes])
