"""Axes, ways and their limits."""
