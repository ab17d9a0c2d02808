"""What stands behind a surface: backdrops, their parts as meshes and the surfaces these have of their own."""
