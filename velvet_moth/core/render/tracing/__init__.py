"""What a scene shows, traced by rays and evaluated in NumPy: the stage's twin, and the value at any pixel of it."""
