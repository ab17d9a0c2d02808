"""Tests of the store, on a real PostgreSQL."""
