"""The form for hair: cards that fall from a head."""

import math

import numpy as np

from velvet_moth.core.forms.mesh import Mesh, declared_form, grid, joined, square, with_data
from velvet_moth.core.forms.view import Camera


@declared_form("Strand cards", Camera(turn=34.0, tilt=10.0, distance=4.4))
def strand_cards() -> Mesh:
    """Cards of hair that fall from a head, in four layers, the root of each at the upper edge of its picture.

    Vertex colours: red from 0 at the root to 1 at the tip, green one random number a card, blue how deep its layer
    lies: 0 outside, 1 next to the head.
    """
    source = np.random.default_rng(21)
    cards = [_head()]
    for layer in range(4):
        depth = 1 - layer / 3
        count = 34
        for index in range(count):
            around = (index + source.uniform(-0.3, 0.3)) / count * 2 * math.pi
            # A parting at the front shows the face.
            if abs((around + math.pi) % (2 * math.pi) - math.pi) < 0.55 - 0.06 * layer:
                continue
            cards.append(_strand_card(source, around, depth))
    return joined(cards)


_CROWN, _RADII = np.array([0.0, 0.42, -0.05]), np.array([0.46, 0.56, 0.52])


def _head() -> Mesh:
    """The head under the hair; its UV lies in the dense roots of the cards' picture."""
    u, v = square(33, 65)
    turn, tilt = (u * 2 + 1) * math.pi, (v - 0.5) * math.pi
    round_ = np.stack((np.cos(tilt) * np.sin(turn), np.sin(tilt), np.cos(tilt) * np.cos(turn)), axis=-1)
    narrow = 1 - 0.22 * np.clip(-round_[..., 1:2], 0, 1)
    positions = round_ * _RADII * 0.97 * narrow + (0.0, 0.28, 0.0)
    made = grid(positions, np.stack((0.3 + 0.4 * u, 0.93 + 0.04 * v), axis=-1), closed=True)
    return with_data(made, 0.0, 0.5, 1.0)


def _strand_card(source: np.random.Generator, around: float, depth: float) -> Mesh:
    u, v = square(17, 5)
    along = 1 - v
    outward = np.array([math.sin(around), 0.0, math.cos(around)])
    side = np.array([math.cos(around), 0.0, -math.sin(around)])
    reach = 1.02 + 0.05 * (1 - depth) + source.uniform(0, 0.03)
    # From the crown over the round of the head, then straight down.
    angle = np.minimum(along * 2.6, 1.0) * math.pi / 2
    over = np.sin(angle) * reach
    fall = np.clip(along - 0.38, 0, 1) * (1.45 + source.uniform(-0.2, 0.25))
    curl = 0.05 * np.sin(along * 7 + source.uniform(0, 6)) * along
    height = 0.28 + _RADII[1] * reach * np.cos(angle) - fall
    spread = _RADII[0] * (outward[0] ** 2) + _RADII[2] * (outward[2] ** 2)
    away = over * spread + 0.05 * fall + curl
    wide = (0.06 + 0.13 * np.sin(angle)) * (1 - 0.25 * along**2)
    positions = (
        outward * away[..., None]
        + side * (((u * 2 - 1) * wide) + curl)[..., None]
        + np.stack((np.zeros_like(u), height, np.zeros_like(u)), axis=-1)
    )
    made = grid(positions, np.stack((u, v), axis=-1))
    return with_data(made, along, source.uniform(), depth)
