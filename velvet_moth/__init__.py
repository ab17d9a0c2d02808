"""Velvet Moth: node-based real-time shaders. core computes, store keeps, web shows, demo fills."""
