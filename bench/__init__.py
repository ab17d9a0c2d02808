"""Measurements: each prints its parts, and ratios against a baseline run in the same process."""
