"""One thing that a person is called for."""

from typing import Literal

from pydantic import BaseModel

AlarmLevel = Literal["look", "come"]


class Alarm(BaseModel):
    """One thing that a person is called for. `key` names its cause: the same cause is one alarm until it is over."""

    key: str
    level: AlarmLevel
    text: str
    advice: str = ""


def come(key: str, text: str, advice: str) -> Alarm:
    """Something to come for."""
    return Alarm(key=key, level="come", text=text, advice=advice)


def look(key: str, text: str, advice: str) -> Alarm:
    """Something to look at."""
    return Alarm(key=key, level="look", text=text, advice=advice)
