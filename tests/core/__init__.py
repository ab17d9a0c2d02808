"""Tests of the core: no server, no browser."""
