"""The registry of the named calculators: what each asks, what it answers, and the pure function between."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from revani.core.documents import Document
from revani.core.documents.allowed import allowed_of
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import Exact


class Ask(Document):
    """Base of what is asked; unknown fields and numbers that are none are refused."""


class Answer(BaseModel):
    """Base of what is answered."""

    model_config = ConfigDict(frozen=True)


@dataclass(frozen=True)
class Calculator:
    """A name, what it asks, what it answers, and the pure function between."""

    name: str
    summary: str
    ask: type[BaseModel]
    answer: type[BaseModel]
    work: Callable[[Any], BaseModel]


CALCULATORS: dict[str, Calculator] = {}


def calculator(work: Callable[[Any], BaseModel]) -> Callable[[Any], BaseModel]:
    """Register a function by its name and its annotations."""
    hints = work.__annotations__
    summary = (work.__doc__ or "").split("\n")[0]
    CALCULATORS[work.__name__] = Calculator(work.__name__, summary, hints["ask"], hints["return"], work)
    return work


def answered(found: Calculator, given: dict[str, Any]) -> dict[str, Any]:
    """The answer of a calculator as plain JSON values. Raises Refusal at the field at fault."""
    try:
        return found.work(found.ask.model_validate(given)).model_dump(mode="json", by_alias=True)
    except ValidationError as error:
        fault = error.errors()[0]
        path = ".".join(str(part) for part in fault["loc"])
        raise Refusal(path, allowed_of(fault), fault.get("input")) from None
    except OverflowError:
        raise Refusal("", "These numbers are too large together.") from None


# The bounds keep every answer finite and within what a rig on this planet could mean.
Seconds = Annotated[float, Field(gt=0, le=1e9)]
SecondsOrNone = Annotated[float, Field(ge=0, le=1e9)]
Millimetres = Annotated[float, Field(gt=0, le=1e7)]
Place1D = Annotated[float, Field(ge=-1e7, le=1e7)]
Metres = Annotated[float, Field(gt=0, le=1e9)]
FocalLength = Annotated[float, Field(gt=0, le=20_000)]
FNumber = Annotated[float, Field(gt=0, le=1_000)]
Micrometres = Annotated[float, Field(gt=0, le=1_000)]
Pixels = Annotated[int, Field(ge=1, le=1_000_000)]
Declination = Annotated[float, Field(gt=-90, lt=90)]
Latitude = Annotated[float, Field(ge=-90, le=90)]
Longitude = Annotated[float, Field(ge=-180, le=180)]
ExactSeconds = Annotated[Exact, Field(gt=0, le=10**9)]
ExactOrNone = Annotated[Exact, Field(ge=0, le=10**9)]
