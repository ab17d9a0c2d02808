"""Strokes laid onto the vertices of a mesh: what each covers, what it makes of the numbers there, and the same as it is drawn."""
