"""Numbers and directions at the vertices of a mesh, worked out from its form and painted by hand; and the textures of them."""
