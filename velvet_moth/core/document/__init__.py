"""A graph as it is kept: nodes, wires, parameters, variants, marks, outlines of motifs."""
