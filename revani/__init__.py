"""Revani plans, rehearses, runs and reviews shots that are filmed alone."""

import os

# Its matrices are small: more threads gain nothing, and stand in each other's way where several processes work at once.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
