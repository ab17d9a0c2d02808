"""Tests of the JSON interface and pages, through Flask's test client."""
