from revani.core.documents import ClockStart, Light, Shot
from revani.core.documents.timing import Timing
from revani.core.program.compiled import compile_shot
from revani.core.shown.tonight import tonight
from tests.conftest import make_kit, make_place, make_shot

NOON = 1_795_521_600.0  # 24 Nov 2026, 12:00 UTC
PLACE = make_place()


def shot(name: str, time: str, **change: object) -> Shot:
    values = {"place": PLACE, "start": ClockStart(time=time), "light": Light(aperture=2.8, shutter_s=5)}
    values["timing"] = Timing(fps=30, interval_s=10, playback_s=12)
    return make_shot(name=name, **(values | change))


def test_shots_of_the_next_day_are_laid_so_that_none_covers_another() -> None:
    shots = [shot("a", "14:00"), shot("b", "14:30"), shot("c", "23:00"), shot("old", "14:00", date="2026-11-20")]
    laid = tonight(PLACE, NOON, [compile_shot(one) for one in shots]).shots
    assert [one.name for one in laid] == ["a", "b", "c"]
    assert laid[0].row != laid[1].row and laid[2].row == 0


def test_gear_in_two_shots_at_once_is_the_first_trouble() -> None:
    kit = make_kit()
    shots = [shot("a", "14:00", kit=kit), shot("b", "14:30", kit=kit)]
    trouble = tonight(PLACE, NOON, [compile_shot(one) for one in shots]).troubles[0]
    assert trouble.severity == "stop" and "Test body" in trouble.sentence and trouble.shot_name == "b"
    apart = [shot("a", "14:00", kit=kit), shot("b", "18:30", kit=kit)]
    assert not tonight(PLACE, NOON, [compile_shot(one) for one in apart]).troubles


def test_batteries_and_cards_to_prepare_are_counted_with_a_margin() -> None:
    kit = make_kit(
        body={"battery_wh": 2, "battery_usable": 1, "idle_w": 1, "frame_j": 0, "bytes_per_frame": 10_000_000}
    )
    long = shot("long", "14:00", kit=kit, timing=Timing(fps=30, interval_s=12, playback_s=60))
    things = {one.what: one.thing for one in tonight(PLACE, NOON, [compile_shot(long)]).preparations}
    # 6 h at 1 W from batteries of 2 Wh, and a fifth more.
    assert things["Charge"].startswith("4 ×")
    assert "18 GB" in things["Empty"]


def test_the_dark_that_is_told_is_the_next_one_and_not_two_ends_of_two_nights() -> None:
    before_dawn = NOON - 9 * 3600
    now = tonight(PLACE, before_dawn, [])
    assert now.dark == "dark"
    begin, end = now.dark_clock.split(" – ")
    # Before dawn it is the night that goes on, told from where it began.
    assert "17:00" < begin < "19:00" and end < "07:00"
