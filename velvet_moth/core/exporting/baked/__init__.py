"""A graph baked over the UVs of its form: a GLB whose material is the standard's own, and how far that differs from the graph."""
