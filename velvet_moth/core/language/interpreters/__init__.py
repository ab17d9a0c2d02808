"""Interpretations of the expression DAG: GLSL text, NumPy arrays, intervals, cost. Each reads the rules of primitives."""
