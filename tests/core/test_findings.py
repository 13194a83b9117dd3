import pytest

from revani.core.documents import ClockStart, Light, Shot, Window
from revani.core.documents.timing import Timing
from revani.core.findings import Finding, Neighbour, judge
from revani.core.findings.timing import shortest_possible_s
from revani.core.program.compiled import compile_shot
from revani.core.rehearsal.outcome import rehearse
from revani.core.sky.sun_and_moon import DARK_DEG
from revani.core.timing.law import solve
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
        assert solve(fix.shot.timing).interval_s >= shortest_possible_s(compile_shot(fix.shot))
        assert "timing.interval-too-short" not in ids(fix.shot)


def test_a_fix_states_its_price_and_keeps_what_it_promises() -> None:
    longer, same_hours = found(too_fast(), "timing.interval-too-short").fixes
    assert solve(longer.shot.timing).frame_count == 300
    assert "you stay 12 min 30 s" in longer.price
    assert solve(same_hours.shot.timing).event_s <= 360
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
        assert solve(fix.shot.timing).playback_s >= 3
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


# Light, feed and company ------------------------------------------------------------------------------


def test_a_ramp_whose_interval_cuts_the_shutter_is_told_what_it_costs() -> None:
    shot = make_shot(
        light=Light(aperture=2.8, shutter_s=20, iso_ceiling=12_800), timing=Timing(fps=30, interval_s=5, event_s=18_000)
    )
    finding = found(shot, "exposure.shutter-capped")
    assert "leaves 4.5 s" in finding.figures and "ISO rises" in finding.figures
    for fix in finding.fixes:
        assert "exposure.shutter-capped" not in ids(fix.shot)


def test_a_body_that_goes_to_one_second_in_manual_is_found_before_the_night() -> None:
    # Common practice, no source: 1 s in manual and 30 s in automatic is met in practice.
    kit = make_kit(body={"manual_shutter_max_s": 1, "bulb": False})
    light = Light(school="fixed", aperture=2.8, shutter_s=15, iso=800)
    finding = found(make_shot(kit=kit, light=light, start=ClockStart(time="21:00")), "exposure.manual-limit")
    assert "3.9 stops less" in finding.figures
    for fix in finding.fixes:
        assert "exposure.manual-limit" not in ids(fix.shot)


def dim(**light: object) -> Shot:
    values = {"aperture": 5.6, "shutter_s": 4, "iso_ceiling": 800} | light
    return make_shot(light=Light.model_validate(values), start=ClockStart(time="18:00"))


def test_frames_that_come_out_dark_are_found_with_where_and_why() -> None:
    finding = found(dim(), "exposure.too-dark")
    assert "stops short" in finding.sentence and "ISO at 800" in finding.figures
    program = compile_shot(dim())
    assert finding.from_s is not None and program.start_s <= finding.from_s < finding.to_s <= program.end_s  # type: ignore[operator]
    before = -float(program.exposures.error_stops.min())
    assert len(finding.fixes) == 3
    for fix in finding.fixes:
        after = -float(compile_shot(fix.shot).exposures.error_stops.min())
        assert after < before - 0.9


def test_a_held_exposure_through_sunset_is_offered_to_follow_the_light() -> None:
    held = make_shot(light=Light(school="fixed", aperture=2.8, shutter_s="1/60", iso=100))
    follow = found(held, "exposure.too-dark").fixes[0]
    assert follow.shot.light.school == "continuous"
    assert "exposure.too-dark" not in ids(follow.shot)


def test_a_card_that_fills_is_told_with_the_time_and_fixes_that_fit() -> None:
    kit = make_kit(body={"bytes_per_frame": 1_000_000_000})
    finding = found(make_shot(kit=kit), "feed.card-small")
    # 256 frames of 1 GB fit on 256 GB: two hours and eight minutes at 30 s.
    assert "256 fit" in finding.figures and finding.severity == "fix"
    for fix in finding.fixes:
        assert "feed.card-small" not in ids(fix.shot)


def test_a_battery_in_the_cold_ends_sooner_and_the_finding_says_when() -> None:
    body = {"battery_wh": 16, "battery_usable": 1, "idle_w": 2, "frame_j": 30}
    warm = make_shot(kit=make_kit(body=body), place=make_place(temperature_c=20))
    assert found(warm, "feed.battery-short").severity == "mind"
    cold = make_shot(kit=make_kit(body=body), place=make_place(temperature_c=-20))
    finding = found(cold, "feed.battery-short")
    assert finding.severity == "fix" and "50% at −20" in finding.figures
    for fix in finding.fixes:
        assert "feed.battery-short" not in ids(fix.shot)


def test_a_body_that_says_nothing_is_to_be_minded() -> None:
    assert found(make_shot(kit=make_kit(body={"reports_recording": False})), "feed.no-sign").severity == "mind"


def test_a_film_at_another_rate_than_its_neighbours_offers_theirs() -> None:
    neighbours = [Neighbour(name=name, fps=rate) for name, rate in (("a", "24"), ("b", "24"), ("c", "30"))]
    program = compile_shot(make_shot())
    (finding,) = [one for one in judge(program, neighbours) if one.id == "company.playback-rate"]
    assert "24 fps" in finding.sentence
    for fix in finding.fixes:
        assert solve(fix.shot.timing).fps == 24
    assert not [one for one in judge(program, [Neighbour(name="c", fps="30")]) if one.id == "company.playback-rate"]


# Rehearsal --------------------------------------------------------------------------------------------


def test_a_rehearsal_takes_every_frame_of_a_shot_that_is_well_fed() -> None:
    outcome = rehearse(compile_shot(make_shot()))
    assert outcome.end == "whole" and outcome.frames_taken == 600 and outcome.film_s == 20
    assert outcome.card_free_bytes == 256_000_000_000 - 600 * 25_000_000


@pytest.mark.parametrize(
    ("body", "end", "frames"),
    [
        ({"bytes_per_frame": 1_000_000_000}, "card full", 256),
        ({"battery_wh": 5, "battery_usable": 1, "idle_w": 0, "frame_j": 180}, "battery empty", 100),
    ],
)
def test_a_rehearsal_stops_where_the_rig_would(body: dict[str, object], end: str, frames: int) -> None:
    outcome = rehearse(compile_shot(make_shot(kit=make_kit(body=body))))
    assert (outcome.end, outcome.frames_taken) == (end, frames)
    assert outcome.film_s == pytest.approx(frames / 30)


def test_a_slow_card_fills_the_buffer_and_then_lets_frames_go_by() -> None:
    kit = make_kit(
        body={"bytes_per_frame": 100_000_000, "buffer_frames": 10, "overhead_s": "0.1", "minimum_interval_s": 1}
    )
    kit = kit.model_copy(update={"card": kit.card.model_copy(update={"write_mb_s": 50.0})})
    light = Light(school="fixed", shutter_s="1/60", aperture=2.8)
    shot = make_shot(kit=kit, light=light, timing=Timing(fps=30, interval_s=1, frame_count=200))
    outcome = rehearse(compile_shot(shot))
    # A frame takes 2 s to write and one comes every second: 10 in the buffer, then every other one.
    assert outcome.most_in_buffer == 10
    assert outcome.frames_taken == 10 + 99 and outcome.frames_blocked == 91
