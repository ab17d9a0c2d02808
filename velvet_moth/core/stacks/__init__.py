"""Stacks of steps: what a step is, how a stack is kept and written, computed from its first step to its last, and changed.

Their family says what steps work on: pictures in ``making``, meshes in ``baking``.
"""
