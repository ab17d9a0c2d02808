"""Tests of the code itself: everything that ./moth check asks, and what may not be committed."""
