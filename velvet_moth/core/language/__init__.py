"""The language that graphs become: types, ranges, expressions, primitives, and what interprets them."""
