"""Tests of NumPy against WebGL2 in a headless browser."""
