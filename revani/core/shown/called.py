"""What a person is called for, and how a thing runs out, as the page of a run shows them."""

from collections.abc import Sequence
from uuid import UUID

import numpy as np
from pydantic import BaseModel

from revani.core.program.compiled import card_capacity_bytes
from revani.core.quantities.arrays import Array
from revani.core.shown.standing import Standing, battery_ends_s, card_ends_s
from revani.core.watch.alarm import AlarmLevel
from revani.core.watch.signs import Tone
from revani.core.watch.trends import Sample

# So many points show how a thing was planned to run out.
_TREND_POINTS = 60


class TrendLine(BaseModel):
    """Points of a line: which part of the shot has passed, and which part is left of what runs out, 0 to 1 each."""

    passed: list[float]
    left: list[float]


class Trend(BaseModel):
    """How a thing runs out, planned and measured on one axis."""

    label: str
    planned: TrendLine
    measured: TrendLine
    told: str
    tone: Tone


class AlarmView(BaseModel):
    """What a person is called for: since when and until when in words, and who has seen it."""

    id: UUID
    level: AlarmLevel
    text: str
    advice: str
    since: str
    over: bool
    seen: bool
    seen_told: str


def trends(standing: Standing) -> list[Trend]:
    """What runs out, as planned and as the camera tells it; what it does not tell of is not there."""
    program = standing.program
    card_left = 1 - program.card_bytes / card_capacity_bytes(program.shot)
    found = (
        _trend(standing, "battery", standing.battery, program.battery_left, battery_ends_s(standing)),
        _trend(standing, "card", standing.card, card_left, card_ends_s(standing)),
    )
    return [one for one in found if one is not None]


def _trend(
    standing: Standing, label: str, told: Sequence[Sample], planned: Array, ends_s: float | None
) -> Trend | None:
    """One of them, over the shot."""
    program = standing.program
    if len(told) < 2:
        return None
    start_s, length_s = program.start_s, max(program.end_s - program.start_s, 1.0)

    def over(at_s: Array, left: Array) -> TrendLine:
        passed = np.round((at_s - start_s) / length_s, 4)
        return TrendLine(passed=passed.tolist(), left=np.round(np.clip(left, 0.0, 1.0), 4).tolist())

    some = np.linspace(0, program.frame_count - 1, min(program.frame_count, _TREND_POINTS)).astype(int)
    early = ends_s is not None and ends_s < float(program.at_s[-1])
    return Trend(
        label=label, planned=over(program.at_s[some], planned[some]), measured=over(*np.array(told).T),
        told="" if ends_s is None else f"at this rate it ends at {program.local(ends_s):%H:%M}"
        if early else "at this rate it lasts",
        tone="mind" if early else "good",
    )  # fmt: skip


def alarms_shown(standing: Standing) -> list[AlarmView]:
    """Those that a person has to do with, first those that nobody has seen, the worst first."""
    zone = standing.program.zone
    there = [one for one in standing.alarms if not one.done_with]
    there.sort(key=lambda one: (one.acknowledged_at is not None, one.level != "come", -one.raised_at.timestamp()))
    return [
        AlarmView(
            id=one.id, level=one.level, text=one.text, advice=one.advice, over=one.over_at is not None,
            since=f"since {one.raised_at.astimezone(zone):%H:%M:%S}" if one.over_at is None
            else f"{one.raised_at.astimezone(zone):%H:%M:%S} – {one.over_at.astimezone(zone):%H:%M:%S}, over",
            seen=one.acknowledged_at is not None,
            seen_told="" if one.acknowledged_at is None
            else f"seen {one.acknowledged_at.astimezone(zone):%H:%M:%S} by {one.acknowledged_by}",
        )
        for one in there
    ]  # fmt: skip
