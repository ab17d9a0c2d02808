"""The HTML pages, one module each; their templates carry the same names."""
