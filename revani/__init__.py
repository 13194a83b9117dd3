"""Revani plans, rehearses, runs and reviews shots that are filmed alone."""
