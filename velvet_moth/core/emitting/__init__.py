"""Emitters: many instances of a form, each with a life of its own, worked out for any moment by expressions."""
