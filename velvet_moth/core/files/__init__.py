"""Graphs as text: the graph file, cards on the clipboard, older versions, and what can be mended while reading."""
