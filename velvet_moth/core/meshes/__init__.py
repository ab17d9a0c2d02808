"""Meshes from elsewhere: read as their files hold them, made fit for the stage, judged, and written."""
