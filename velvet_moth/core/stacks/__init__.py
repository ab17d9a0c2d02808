"""Stacks of steps: what a step is, how a stack is kept and written, computed from its first step to its last, and changed.

What the steps work on is told by their family: pictures in ``making``, meshes in ``baking``.
"""
