import pytest

from revani.core.documents import ClockStart, Light, Shot, Window
from revani.core.findings import Finding, judge
from revani.core.findings.timing import shortest_possible_s
from revani.core.program import compile_shot
from revani.core.sky import DARK_DEG
from revani.core.timing import Timing
from tests.conftest import make_kit, make_place, make_shot


def found(shot: Shot, id: str) -> Finding:
    """The one finding of this id."""
    (one,) = [finding for finding in judge(compile_shot(shot)) if finding.id == id]
    return one


def ids(shot: Shot) -> set[str]:
    return {finding.id for finding in judge(compile_shot(shot))}


def too_fast() -> Shot:
    kit = make_kit(body={"overhead_s": "0.5", "controller_tick_s": "0.1"})
    light = Light(school="fixed", shutter_s=2, aperture=2.8, iso=800)
    return make_shot(kit=kit, light=light, timing=Timing(fps=30, interval_s="1.2", playback_s=10))


def test_an_interval_under_the_shortest_possible_is_a_finding_whose_fix_is_accepted() -> None:
    finding = found(too_fast(), "timing.interval-too-short")
    assert "2.5 s" in finding.figures
    for fix in finding.fixes:
        assert fix.shot.timing.solve().interval_s >= shortest_possible_s(compile_shot(fix.shot))
        assert "timing.interval-too-short" not in ids(fix.shot)


def test_a_fix_states_its_price_and_keeps_what_it_promises() -> None:
    longer, same_hours = found(too_fast(), "timing.interval-too-short").fixes
    assert longer.shot.timing.solve().frame_count == 300
    assert "you stay 12 min 30 s" in longer.price
    assert same_hours.shot.timing.solve().event_s <= 360
    assert "the film becomes 4.8 s, 144 frames" in same_hours.price


def test_a_body_that_is_too_slow_stops_the_shot() -> None:
    kit = make_kit(body={"minimum_interval_s": 5})
    shot = make_shot(
        kit=kit, timing=Timing(fps=30, interval_s=2, playback_s=10), light=Light(aperture=2.8, shutter_s=1)
    )
    assert found(shot, "timing.interval-too-short").severity == "stop"


def test_a_film_under_three_seconds_offers_to_be_long_enough() -> None:
    shot = make_shot(timing=Timing(fps=30, interval_s=60, playback_s=2), light=Light(aperture=2.8, shutter_s=5))
    finding = found(shot, "timing.film-too-short")
    assert finding.fixes
    for fix in finding.fixes:
        assert fix.shot.timing.solve().playback_s >= 3
        assert "timing.film-too-short" not in ids(fix.shot)


def stars(**change: object) -> Shot:
    light = Light(school="fixed", shutter_s=15, aperture=2.8, iso=1600)
    values = {"needs_dark": True, "light": light, "start": ClockStart(time="17:00")} | change
    return make_shot(**values)


def test_stars_outside_the_dark_are_a_finding_and_its_fixes_lie_in_the_dark() -> None:
    finding = found(stars(), "time.longer-than-dark")
    assert "before the dark" in finding.figures
    assert finding.fixes
    for fix in finding.fixes:
        program = compile_shot(fix.shot)
        assert program.sun_altitude_deg.max() < DARK_DEG + 0.3


def test_an_event_longer_than_the_night_can_only_be_shortened_or_taken_faster() -> None:
    # A frame every 2 min for 30 s at 30 fps: 30 h, longer than any night outside the polar one.
    shot = stars(timing=Timing(fps=30, interval_s=120, playback_s=30))
    fixes = found(shot, "time.longer-than-dark").fixes
    assert len(fixes) == 2
    for fix in fixes:
        assert "time.longer-than-dark" not in ids(fix.shot)


def test_where_it_never_gets_dark_the_shot_is_stopped_without_a_false_fix() -> None:
    summer = stars(date="2026-06-21", start=ClockStart(time="23:30"))
    finding = found(summer, "time.no-dark")
    assert finding.severity == "stop" and not finding.fixes


def test_at_a_place_with_nautical_night_alone_that_is_what_counts() -> None:
    place = make_place(latitude_deg=51, longitude_deg=0)
    shot = stars(
        date="2026-06-21",
        place=place,
        start=ClockStart(time="23:59"),
        timing=Timing(fps=30, interval_s=20, frame_count=120),
    )
    assert "time.no-dark" not in ids(shot)


def test_the_hours_of_a_place_are_kept() -> None:
    place = make_place(window=Window(opens="15:00", closes="19:00", reason="tide"))
    shot = make_shot(place=place)
    finding = found(shot, "time.outside-window")
    assert "tide" in finding.figures
    for fix in finding.fixes:
        assert "time.outside-window" not in ids(fix.shot)


def test_hours_over_midnight_are_one_window() -> None:
    place = make_place(window=Window(opens="14:00", closes="04:00"))
    assert "time.outside-window" not in ids(make_shot(place=place))


def test_a_shot_that_is_well_planned_has_nothing_against_it() -> None:
    assert judge(compile_shot(make_shot())) == ()


def test_findings_come_worst_first() -> None:
    severities = [
        finding.severity for finding in judge(compile_shot(stars(timing=Timing(fps=30, interval_s=5, playback_s=2))))
    ]
    order = ["stop", "fix", "mind", "good"]
    assert severities == sorted(severities, key=order.index) and len(severities) >= 2


@pytest.mark.parametrize("shot", [too_fast(), stars(), make_shot(timing=Timing(fps=30, interval_s=60, playback_s=2))])
def test_every_fix_is_a_whole_document_that_can_be_saved(shot: Shot) -> None:
    for finding in judge(compile_shot(shot)):
        for fix in finding.fixes:
            assert Shot.model_validate_json(fix.shot.model_dump_json()) == fix.shot
            assert fix.shot.id == shot.id and fix.price
