"""Tests of the interface, driven as a person would."""
