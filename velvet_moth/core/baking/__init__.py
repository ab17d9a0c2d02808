"""Numbers at the vertices of a mesh, worked out from its form: how hidden, how curved, how thick, how far along."""
