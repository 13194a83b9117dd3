"""The named calculators over HTTP."""

from typing import Any

from fastapi import APIRouter

from revani.core.calculators import calculate, calculators

router = APIRouter(prefix="/api/calculators")


@router.get("")
def list_calculators() -> dict[str, str]:
    """The calculators by name, each with a sentence."""
    return {calculator.name: calculator.summary for calculator in calculators().values()}


@router.post("/{name}")
def ask(name: str, question: dict[str, Any]) -> dict[str, Any]:
    """Ask one calculator; its fields are in docs/formats/calculators.md."""
    return calculate(name, question)
