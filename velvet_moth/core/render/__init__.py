"""Graphs as pictures: the shader of the stage, swatches, and the traced picture that the stage must match."""
