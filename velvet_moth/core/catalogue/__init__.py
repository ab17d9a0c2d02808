"""What a node is: its ports, its help, and the registry that node functions enter themselves in."""
