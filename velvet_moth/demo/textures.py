"""The textures of Heron Lock, by name."""

from dataclasses import dataclass

from velvet_moth.core.texture.generate import (
    NoiseRecipe,
    height_pixels,
    noise_height,
    normal_from_height,
    normal_pixels,
)
from velvet_moth.core.texture.image import Pixels


@dataclass(frozen=True)
class MadeTexture:
    name: str
    role: str
    pixels: Pixels


FLAKES = NoiseRecipe("flakes", 512, 48, 1, seed=7)
RIPPLES = NoiseRecipe("hills", 256, 6, 4, seed=3)


def made_textures() -> dict[str, MadeTexture]:
    """Flake height and normal map for the enamel, a ripple pair for water."""
    flakes, ripples = noise_height(FLAKES), noise_height(RIPPLES)
    return {
        "flake_height": MadeTexture("Flake height", "data", height_pixels(flakes)),
        "flake_normal": MadeTexture("Flake normal", "normal", normal_pixels(normal_from_height(flakes, 5.0))),
        "ripple_height": MadeTexture("Ripple height", "data", height_pixels(ripples)),
        "ripple_normal": MadeTexture("Ripple normal", "normal", normal_pixels(normal_from_height(ripples, 14.0))),
    }
