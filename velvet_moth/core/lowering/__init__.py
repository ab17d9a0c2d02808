"""From a graph to expressions: types settled, motifs opened, one expression for each output."""
