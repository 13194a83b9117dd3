"""What a shot waits for before it begins."""

from fractions import Fraction
from typing import Annotated, Literal

from pydantic import Field

from revani.core.documents.base import Document, Name
from revani.core.quantities.measures import Number, Seconds

MOST_WAYS_TO_BEGIN, MOST_AT_ONCE = 6, 4
LONGEST_WAIT_S, LONGEST_TOGETHER_S, LONGEST_BEFORE_S = 24 * 3_600, 3_600, 60


class Stirs(Document):
    """Something moves before the camera, or before a sensor: so much of the picture changes."""

    by: Literal["motion"] = "motion"
    part: float = Field(0.03, gt=0, le=1)


class LightPasses(Document):
    """The light is under, or over, an exposure value at ISO 100, as a sensor tells it."""

    by: Literal["light"] = "light"
    side: Literal["under", "over"]
    ev: float = Field(ge=-10, le=20)


class Louder(Document):
    """A sensor hears a peak over so many dBFS."""

    by: Literal["sound"] = "sound"
    than_dbfs: float = Field(ge=-90, le=0)


class SunStands(Document):
    """The sun's middle stands under, or over, an altitude."""

    by: Literal["sun"] = "sun"
    side: Literal["under", "over"]
    altitude_deg: float = Field(ge=-90, le=90)


class ClockStands(Document):
    """By the clock of the place it is after, or before, a time of day: within twelve hours of it."""

    by: Literal["clock"] = "clock"
    side: Literal["after", "before"]
    at: str = Field(pattern=r"^([01]\d|2[0-3]):[0-5]\d$")


class SaidSo(Document):
    """A person says so, on a phone or the page."""

    by: Literal["hand"] = "hand"


class CodeShown(Document):
    """A code card with this word is held before the lens, or read elsewhere."""

    by: Literal["code card"] = "code card"
    word: str = Field(pattern=r"^[A-Za-z0-9][A-Za-z0-9-]{0,39}$")


class RunReaches(Document):
    """Another run begins, ends, or comes to a key of its move or to a frame."""

    by: Literal["run"] = "run"
    of: Name
    what: Literal["begins", "ends", "key", "frame"]
    number: int = Field(1, ge=1, le=1_000_000)


Condition = Annotated[
    Stirs | LightPasses | Louder | SunStands | ClockStands | SaidSo | CodeShown | RunReaches, Field(discriminator="by")
]
Ways = Annotated[
    tuple[Annotated[tuple[Condition, ...], Field(min_length=1, max_length=MOST_AT_ONCE)], ...],
    Field(min_length=1, max_length=MOST_WAYS_TO_BEGIN),
]


class Waiting(Document):
    """What a shot waits for from its start on: any of the ways, each of which is all of its conditions at once.

    What is over in an instant, such as a press, counts for `together_s`. After `lead_in_s` the first frame is due.
    What the camera saw in the last `before_s` before it came is kept with the run.
    """

    ways: Ways
    for_s: Seconds = Field(Fraction(3_600), ge=1, le=LONGEST_WAIT_S, title="Waits at most")
    lead_in_s: Seconds = Field(Fraction(0), ge=0, le=3_600, title="Lead-in")
    together_s: Seconds = Field(Fraction(30), ge=1, le=LONGEST_TOGETHER_S, title="Counts for")
    before_s: Seconds = Field(Fraction(0), ge=0, le=LONGEST_BEFORE_S, title="Kept from before")
    otherwise: Literal["it is given up", "it begins all the same"] = Field("it is given up", title="If nothing comes")
    times: Number = Field(1, title="Begins so often", ge=1, le=50)
    dead_s: Seconds = Field(Fraction(60), ge=0, le=LONGEST_WAIT_S, title="Dead time")
    # What one that has begun had waited by then: what it drew meanwhile is gone.
    waited_s: Seconds = Field(Fraction(0), ge=0, le=LONGEST_WAIT_S)
