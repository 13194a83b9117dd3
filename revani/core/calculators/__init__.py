"""The named calculators: one registry, from which the command line, the API and the reference page come.

A module is imported when one of its calculators is asked for, so that a small question does not wait for the sky.
"""

import re
from functools import cache
from importlib import import_module
from pathlib import Path
from typing import Any

from revani.core.calculators.registry import CALCULATORS, Calculator, answered
from revani.core.quantities.refusal import Refusal

__all__ = ["Calculator", "calculate", "calculator_of", "calculators"]


@cache
def _modules() -> dict[str, str]:
    """The module of every calculator by its name, in the order in which they stand; told without importing any."""
    found: dict[str, str] = {}
    for path in sorted(Path(__file__).parent.glob("*.py")):
        for name in re.findall(r"^@calculator\ndef (\w+)", path.read_text(), re.MULTILINE):
            found[name] = path.stem
    return found


def calculator_of(name: str) -> Calculator:
    """A calculator by its name. Raises Refusal where there is none."""
    modules = _modules()
    if name not in modules:
        raise Refusal("name", f"One of: {', '.join(modules)}.", name)
    import_module(f"{__name__}.{modules[name]}")
    return CALCULATORS[name]


def calculators() -> dict[str, Calculator]:
    """All of them by name."""
    return {name: calculator_of(name) for name in _modules()}


def calculate(name: str, given: dict[str, Any]) -> dict[str, Any]:
    """The answer of a calculator as plain JSON values. Raises Refusal at the field at fault."""
    return answered(calculator_of(name), given)
