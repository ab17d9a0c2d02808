"""Textures that the light reads and no graph names: whoever draws a surface makes them."""

STAGE_TEXTURES: dict[str, str] = {}


def stage_texture(key: str, words: str) -> str:
    """Declares one: its key, and for people what it holds."""
    STAGE_TEXTURES[key] = words
    return key
