"""What the page of a graph asks of the core: its whole state, problems, measured costs, worked examples."""
