"""The handbook inside the application: what every rule says of itself, and where it has that from."""

from typing import Literal

from fastapi import APIRouter
from pydantic import BaseModel

from revani.core.calculators import calculators
from revani.core.documents import STEPS, Step
from revani.core.findings.finding import RULES
from revani.core.sequence.across import ACROSS

router = APIRouter(prefix="/api/handbook")


class Page(BaseModel):
    """A rule: its names, the step of the job that it belongs to, or a sequence, what it says, its source."""

    ids: list[str]
    step: Step | Literal["sequence"]
    said: str
    source: str


class Asked(BaseModel):
    """A calculator: its name, and what it answers."""

    name: str
    said: str


class Handbook(BaseModel):
    """All rules in the order of the job, and all calculators."""

    rules: list[Page]
    calculators: list[Asked]


@router.get("")
def handbook() -> Handbook:
    """All of it."""
    rules = sorted(RULES, key=lambda rule: STEPS.index(rule.step))
    across = [Page(ids=list(one.ids), step="sequence", said=one.said, source=one.source) for one in ACROSS]
    return Handbook(
        rules=[Page(ids=list(one.ids), step=one.step, said=one.said, source=one.source) for one in rules] + across,
        calculators=[Asked(name=name, said=one.summary) for name, one in sorted(calculators().items())],
    )
