"""The textures of Heron Lock, by name."""

from velvet_moth.core.texture.generate import (
    NoiseRecipe,
    height_picture,
    noise_height,
    normal_from_height,
    normal_picture,
)
from velvet_moth.core.texture.library import NamedPicture
from velvet_moth.core.texture.reading import Reading

FLAKES = NoiseRecipe("flakes", 512, 48, 1, seed=7)
RIPPLES = NoiseRecipe("hills", 256, 6, 4, seed=3)
HEIGHT, NORMAL = Reading("height"), Reading("normal")


def made_textures() -> dict[str, NamedPicture]:
    """Flake height and normal map for the enamel, a ripple pair for water."""
    flakes, ripples = noise_height(FLAKES), noise_height(RIPPLES)
    return {
        "flake_height": NamedPicture("Flake height", HEIGHT, height_picture(flakes)),
        "flake_normal": NamedPicture("Flake normal", NORMAL, normal_picture(normal_from_height(flakes, 5.0))),
        "ripple_height": NamedPicture("Ripple height", HEIGHT, height_picture(ripples)),
        "ripple_normal": NamedPicture("Ripple normal", NORMAL, normal_picture(normal_from_height(ripples, 14.0))),
    }
