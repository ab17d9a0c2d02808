"""How what is thrown at a scene lands on it: the rule of placing, the rays it asks, the decals it makes, and judging many throws."""
