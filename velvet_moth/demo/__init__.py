"""Heron Lock, the demo project: graphs and textures made by code. Imports core and store."""
