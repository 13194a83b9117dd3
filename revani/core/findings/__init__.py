"""Judgements over a program: what will go wrong, why, and what can be done about it.

A rule is one small function that takes the program and returns a Finding or None. Importing this
package gathers all rules.
"""

from revani.core.findings import length, timing
from revani.core.findings.finding import Finding, Fix, judge

__all__ = ["Finding", "Fix", "judge", "length", "timing"]
