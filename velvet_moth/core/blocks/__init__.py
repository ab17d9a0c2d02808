"""Block models: cells filled with entries of a palette, how they are drawn and changed, and the surface they have."""
