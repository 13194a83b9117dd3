"""What sensors tell of the camera's surroundings while a run goes on, and what of it a person is called for.

What no sensor tells is nothing that is known: it calls nobody.
"""

from collections.abc import Iterator, Sequence
from typing import NamedTuple

from revani.core.feed.battery import cold_factor
from revani.core.quantities.units import decimals, duration
from revani.core.timing.triggers import SILENT_S
from revani.core.watch.alarm import Alarm, come, look

# Under so much for so long there is no sound; from so much on it clips. Source: handbook 8, common practice.
SILENT_DBFS, SILENT_FOR_S, CLIPS_DBFS = -50.0, 5.0, -1.0
# Bodies are made for so much at most (common practice, no source); they switch themselves off some way above it.
_WARM_C, _HOT_C = 40.0, 50.0
# The cold takes so much more of the battery than was planned (memory).
_TAKES_MORE = 0.07
# A tripod that gives way, or was knocked, tilts by more than what a sensor's own drift is (memory).
_TILTED_DEG = 0.5


class Told(NamedTuple):
    """Something that a sensor told so long ago (real seconds)."""

    value: float
    ago_s: float


class Around(NamedTuple):
    """What sensors told: the newest temperature (°C) and level (degrees), the first level since the first
    frame was due, and the peaks of the last seconds (dBFS), newest first. None is what none told."""

    temperature: Told | None = None
    level: Told | None = None
    level_first: Told | None = None
    peaks: Sequence[Told] = ()

    @property
    def temperature_c(self) -> float | None:
        """How warm it is now; None where nobody says."""
        return self.temperature.value if self.temperature and self.temperature.ago_s <= SILENT_S else None

    @property
    def tilted_deg(self) -> float | None:
        """By how much the camera has tilted since its first frame; None where nobody says."""
        if self.level is None or self.level_first is None or self.level.ago_s > SILENT_S:
            return None
        return abs(self.level.value - self.level_first.value)


def alarms_around(around: Around, planned_c: float | None, stands: bool, hears: bool) -> Iterator[Alarm]:
    """What a person is called for.

    `planned_c` is the temperature that the battery was planned with, None where the stage's clock is not the
    sensors'; `stands` tells that nothing of the run tilts the
    camera, `hears` that its sound is recorded just now.
    """
    now_c = around.temperature_c
    if now_c is not None and now_c >= _WARM_C:
        text = f"It is {decimals(now_c, 0)} °C at the camera: bodies are made for {_WARM_C:.0f} °C at most."
        call = come if now_c >= _HOT_C else look
        yield call("warm", text, "Give it shade and air, or it switches itself off.")
    if now_c is not None and planned_c is not None:
        more = 1 - float(cold_factor(now_c)) / float(cold_factor(planned_c))
        if more > _TAKES_MORE:
            text = (
                f"It is {decimals(now_c, 0)} °C at the camera, {decimals(planned_c, 0)} °C was planned: "
                f"its battery holds {more:.0%} less."
            )
            yield look("cold", text, "Warm it, or bring another battery.")
    tilted = around.tilted_deg
    if stands and tilted is not None and tilted >= _TILTED_DEG:
        text = f"The camera has tilted by {decimals(tilted, 1)}° since its first frame."
        yield come("tilted", text, "See whether its support gives way.")
    if hears:
        yield from _of_sound(around.peaks)


def _of_sound(peaks: Sequence[Told]) -> Iterator[Alarm]:
    lately = [one for one in peaks if one.ago_s <= 2 * SILENT_FOR_S]
    if any(one.value >= CLIPS_DBFS for one in lately):
        yield look("clips", "The sound clips.", "Turn its level down.")
    quiet = [one for one in peaks if one.ago_s <= SILENT_FOR_S + 1]
    # A sensor that is silent itself says nothing: it must have spoken all through.
    spoken = len(quiet) > 1 and max(one.ago_s for one in quiet) >= SILENT_FOR_S - 1
    if spoken and all(one.value < SILENT_DBFS for one in quiet):
        under = f"{decimals(SILENT_DBFS, 0)} dBFS for {duration(round(SILENT_FOR_S))}"
        yield come("no sound", f"No sound: its peaks lie under {under}.", "See to the microphone and its level.")
