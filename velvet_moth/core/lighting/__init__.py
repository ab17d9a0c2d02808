"""The surface model, the environment and the tone curve, written in the same expressions as the nodes."""
