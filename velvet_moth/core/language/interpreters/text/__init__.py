"""Readable text of expressions in any dialect: one named local per shared value and one function per traced node.

No name in the text comes from the artist: names and comments are the catalogue's own.
"""
