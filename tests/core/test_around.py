"""What sensors tell of the surroundings, how far the rig is beside its plan, how late frames are: what is called for.

The bounds of sound are the handbook's (section 8, common practice): under −50 dBFS for five seconds is no sound, −1
dBFS and over is clipping. The cold factors are those of lithium cells by typical data sheets (memory).
"""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from revani.core.documents.run import JournalFrame, RigNote
from revani.core.watch.around import Around, Told, alarms_around
from revani.core.watch.following import beside_told, late_told

FRESH = 1.0


def peaks(*values: float) -> list[Told]:
    """One a second, the newest first."""
    return [Told(value, float(ago)) for ago, value in enumerate(values)]


def keys(
    around: Around, planned_c: float | None = 10, stands: bool = True, hears: bool = True
) -> list[tuple[str, bool]]:
    return [(one.key, one.level == "come") for one in alarms_around(around, planned_c, stands, hears)]


@pytest.mark.parametrize(
    ("around", "called"),
    [
        (Around(), []),
        (Around(temperature=Told(10, FRESH)), []),
        (Around(temperature=Told(-10, FRESH)), [("cold", False)]),
        # Nothing is known of a sensor that was silent for long.
        (Around(temperature=Told(-10, 90.0)), []),
        (Around(temperature=Told(41, FRESH)), [("warm", False)]),
        (Around(temperature=Told(52, FRESH)), [("warm", True)]),
        (Around(level=Told(0.9, FRESH), level_first=Told(0.2, 4_000)), [("tilted", True)]),
        (Around(level=Told(-0.5, FRESH), level_first=Told(0.2, 4_000)), [("tilted", True)]),
        (Around(level=Told(0.4, FRESH), level_first=Told(0.2, 4_000)), []),
        (Around(level=Told(9.0, 90.0), level_first=Told(0.2, 4_000)), []),
        (Around(peaks=peaks(-61, -58, -63, -70, -55, -52, -66, -12)), [("no sound", True)]),
        (Around(peaks=peaks(-61, -58, -63, -31, -55, -52)), []),
        # A sensor that has only just begun to speak, or speaks no more, tells of no silence.
        (Around(peaks=peaks(-61, -58)), []),
        (Around(peaks=[]), []),
        (Around(peaks=peaks(-14, -0.5, -20)), [("clips", False)]),
    ],
)
def test_what_sensors_tell_calls_for_what_it_is(around: Around, called: list[tuple[str, bool]]) -> None:
    assert keys(around) == called


def test_a_rig_that_tilts_by_itself_and_a_film_without_sound_call_nobody() -> None:
    tilted = Around(level=Told(20, FRESH), level_first=Told(0, 900), peaks=peaks(*[-70] * 8))
    assert keys(tilted, stands=False, hears=False) == []


@given(st.floats(-40, 60), st.floats(-40, 60))
def test_the_cold_is_told_where_the_battery_holds_less_than_was_planned_and_never_else(now: float, plan: float) -> None:
    around = Around(temperature=Told(now, FRESH))
    told = [one for one in alarms_around(around, plan, True, False) if one.key == "cold"]
    # On a faster stage the sensors' hour is another.
    assert all(key != "cold" for key, _ in keys(around, None))
    if now >= min(plan, 20):
        assert not told
    if plan >= 20 and now <= 0:
        assert told and "%" in told[0].text


def noted(number: int, planned: dict[str, float], reached: dict[str, float], late_s: float = 0.0) -> JournalFrame:
    return JournalFrame(
        number=number, planned_s=60.0 * number, fired_s=60.0 * number + late_s, outcome="taken",
        rig=RigNote(planned=planned, reached=reached),  # type: ignore[arg-type]
    )  # fmt: skip


STEPS = {"slide": 0.01, "pan": 0.01, "focus": 0.001}


def test_a_rig_that_slips_is_told_by_its_worst_axis_once_frames_agree() -> None:
    good = noted(1, {"slide": 100, "pan": 5}, {"slide": 100.02, "pan": 5})
    off = [noted(n, {"slide": 100, "pan": 5}, {"slide": 101.2, "pan": 7}) for n in (2, 3)]
    told = beside_told([good, *off], STEPS, stepwise=True)  # type: ignore[arg-type]
    assert told == "The pan stands 2° beside its plan."
    # One frame alone may be a gust; what nobody noted is nothing.
    assert beside_told([good, good, off[0]], STEPS, stepwise=True) == ""  # type: ignore[arg-type]
    assert beside_told(off, STEPS, stepwise=True) == ""  # type: ignore[arg-type]
    assert beside_told([], STEPS, stepwise=True) == ""  # type: ignore[arg-type]


def test_a_rig_under_way_is_not_told_to_be_beside_for_having_gone_on_meanwhile() -> None:
    along = [noted(n, {"slide": 100.0 + 4 * n}, {"slide": 103.0 + 4 * n}) for n in range(4)]
    assert beside_told(along, STEPS, stepwise=False) == ""  # type: ignore[arg-type]
    assert beside_told(along, STEPS, stepwise=True)  # type: ignore[arg-type]
    stuck = [noted(n, {"slide": 100.0 + 4 * n}, {"slide": 100.0}) for n in range(1, 5)]
    assert beside_told(stuck, STEPS, stepwise=False)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("late", "slot_s", "told"),
    [((0.1, 0.1, 0.1), 2, False), ((0.8, 0.9, 0.7), 5, True), ((0.8, 0.1, 0.9), 5, False), ((0.8, 0.9, 0.7), 30, False),
     ((4, 5, 4), 30, True), ((9, 9), 5, False)],
)  # fmt: skip
def test_frames_are_told_to_be_late_where_all_the_last_are(late: tuple[float, ...], slot_s: float, told: bool) -> None:
    frames = [noted(n, {}, {}, late_s) for n, late_s in enumerate(late, 1)]
    assert bool(late_told(frames, slot_s)) is told
