"""What leaves the program for engines: the text of a graph in a language, with everything that must be bound to it."""
