"""Textures: reading files safely, levels of detail, filtered sampling, and generators."""
