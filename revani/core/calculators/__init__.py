"""The named calculators: one registry, from which the command line, the API and the reference page come.

Importing this package gathers all of them.
"""

from revani.core.calculators import feeding, lighting, moving, seeing, stars, time
from revani.core.calculators.registry import CALCULATORS, calculate

__all__ = ["CALCULATORS", "calculate", "feeding", "lighting", "moving", "seeing", "stars", "time"]
