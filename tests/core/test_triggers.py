"""What a shot waits for: as it is said, when it has come, and what it is then."""

from datetime import date, datetime
from itertools import pairwise
from zoneinfo import ZoneInfo

import ephem
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from revani.core.documents import AltitudeStart, ClockStart, Shot, Waiting
from revani.core.documents.trigger import (
    ClockStands,
    CodeShown,
    LightPasses,
    Louder,
    RunReaches,
    SaidSo,
    Stirs,
    SunStands,
)
from revani.core.edit.apply import Edit, apply
from revani.core.edit.fields import field_of
from revani.core.findings import judge
from revani.core.picture.stirring import changed_part
from revani.core.program.compiled import compile_shot
from revani.core.quantities.arrays import Window
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import duration
from revani.core.shown.sentence import aside
from revani.core.sky.sun_and_moon import sky_over
from revani.core.timing.pace import solved
from revani.core.timing.start import later_start, parse_start, show_start, start_s
from revani.core.timing.trigger_words import parse_ways, show_ways
from revani.core.timing.triggers import FRESH_S, Heard, clock_spans, met
from revani.core.timing.waiting import again, at_the_latest, begun, closes_s
from tests.conftest import make_place, make_shot

FROM_S = start_s(make_shot())
UTC = ZoneInfo("UTC")
SKY = sky_over(make_shot().place, FROM_S, FROM_S + 86_400)


def waiting(text: str, **change: object) -> Waiting:
    return Waiting.model_validate({"ways": parse_ways(text)} | change)


def waiting_shot(text: str, **change: object) -> Shot:
    return make_shot(waits=waiting(text, **change))


SIDES = st.sampled_from(["under", "over"])
CONDITIONS = st.one_of(
    st.builds(Stirs, part=st.integers(1, 10_000).map(lambda n: n / 10_000)),
    st.builds(LightPasses, side=SIDES, ev=st.integers(-40, 80).map(lambda n: n / 4)),
    st.builds(Louder, than_dbfs=st.integers(-90, 0).map(float)),
    st.builds(SunStands, side=SIDES, altitude_deg=st.integers(-360, 360).map(lambda n: n / 4)),
    st.builds(SaidSo),
    st.builds(CodeShown, word=st.from_regex(r"[A-Za-z0-9][A-Za-z0-9-]{0,20}", fullmatch=True)),
    st.builds(
        RunReaches, of=st.sampled_from(["Ridge", "Salt and sea or so"]),
        what=st.sampled_from(["key", "frame"]), number=st.integers(1, 100_000),
    ),
    st.builds(RunReaches, of=st.just("Ridge"), what=st.sampled_from(["begins", "ends"])),
)  # fmt: skip
WAYS = st.lists(st.lists(CONDITIONS, min_size=1, max_size=4).map(tuple), min_size=1, max_size=6).map(tuple)


@given(ways=WAYS)
def test_what_is_waited_for_is_read_as_it_is_said(ways: tuple) -> None:  # type: ignore[type-arg]
    assert parse_ways(show_ways(ways)) == ways


@pytest.mark.parametrize(
    ("typed", "said"),
    [
        ("something moves", "it moves"),
        ("It moves by 5% and the sun is under -6 or I press", "it moves by 5 % and the sun is under −6° or I say so"),
        ("until the light is under ev 3, or it is louder than –30 dB",
         "the light is under EV 3 or it is louder than −30 dBFS"),
        ('"Bay and bar" reaches its key 2', "“Bay and bar” is at key 2"),
    ],
)  # fmt: skip
def test_other_ways_to_type_it_are_read_too(typed: str, said: str) -> None:
    assert show_ways(parse_ways(typed)) == said


@pytest.mark.parametrize(
    ("typed", "word"),
    [("whenever", "such as"), ("it moves and", "such as"), ("the sun is under 95", "less than or equal to 90"),
     ("I say so or " * 7 + "it moves", "At most 6"), ("it moves by 0 %", "greater than 0")],
)  # fmt: skip
def test_what_cannot_be_waited_for_is_refused_with_what_can(typed: str, word: str) -> None:
    with pytest.raises(Refusal, match=word):
        parse_ways(typed)


AT_S = st.integers(0, 600).map(lambda n: FROM_S + n)
HEARD = st.lists(
    st.one_of(
        st.builds(Heard, st.just("motion"), AT_S, st.sampled_from([0.01, 0.2])),
        st.builds(Heard, st.just("sound"), AT_S, st.sampled_from([-60.0, -20.0])),
        st.builds(Heard, st.just("hand"), AT_S, st.just(0.0), st.just("Ilse")),
    ),
    max_size=12,
)
INSTANTS = st.lists(
    st.lists(st.sampled_from([Stirs(part=0.1), Louder(than_dbfs=-30), SaidSo()]), min_size=1, max_size=3).map(tuple),
    min_size=1, max_size=3,
).map(tuple)  # fmt: skip


@settings(max_examples=150)
@given(ways=INSTANTS, heard=HEARD, together_s=st.integers(1, 120))
def test_it_comes_at_the_first_second_at_which_a_way_is_wholly_true(ways: tuple, heard: list, together_s: int) -> None:  # type: ignore[type-arg]
    strong = {"motion": lambda it: it.value >= 0.1, "sound": lambda it: it.value >= -30, "hand": lambda it: True}

    def true(kind: str, at: float) -> bool:
        return any(it.kind == kind and strong[kind](it) and it.at_s <= at <= it.at_s + together_s for it in heard)

    first = next(
        (at for at in range(601 + 120) if any(all(true(one.by, FROM_S + at) for one in way) for way in ways)), None
    )
    found = met(Waiting(ways=ways, together_s=together_s), heard, SKY, UTC, FROM_S, FROM_S + 800)
    assert (found.at_s - FROM_S if found else None) == first


def light(*evs: float, step_s: float = 10) -> list[Heard]:
    return [Heard("light", FROM_S + step_s * n, ev) for n, ev in enumerate(evs)]


def test_the_light_has_to_have_fallen_and_not_flashed() -> None:
    falls = waiting("the light is under EV 3")
    look = lambda heard: met(falls, heard, SKY, UTC, FROM_S, FROM_S + 3_600)  # noqa: E731
    assert look(light(6, 5, 4, 3.5)) is None
    # One reading of three is a hand over the sensor; two are the light.
    assert look(light(6, 6, 1, 6, 6)) is None
    came = look(light(6, 5, 2.5, 2.4, 2.3))
    assert came is not None and came.at_s == FROM_S + 30 and came.told == "the light was EV 2.4"
    # Readings that are far apart are no light that is known.
    assert look(light(2, 2, 2, step_s=FRESH_S + 1)) is None
    # The other way a headlamp goes by.
    assert met(waiting("the light is over EV 10"), light(2, 12, 2, 2), SKY, UTC, FROM_S, FROM_S + 3_600) is None


def test_a_level_and_an_instant_have_to_come_together() -> None:
    both = waiting("it is louder than -30 dBFS and the light is under EV 3", together_s=5)
    loud = Heard("sound", FROM_S + 12, -12.5)
    assert met(both, [loud, *light(2, 2, 2)], SKY, UTC, FROM_S, FROM_S + 600) is None
    came = met(both, [loud, *light(2, 2, 2, step_s=8)], SKY, UTC, FROM_S, FROM_S + 600)
    assert came is not None and came.at_s == FROM_S + 16
    assert came.told == "a sound came up to −12.5 dBFS and the light was EV 2"


def test_what_was_heard_before_it_waits_or_is_yet_to_come_is_nothing() -> None:
    press = [Heard("hand", FROM_S - 1, word="Ilse"), Heard("hand", FROM_S + 100, word="Ilse")]
    assert met(waiting("I say so"), press, SKY, UTC, FROM_S, FROM_S + 99) is None
    found = met(waiting("I say so"), press, SKY, UTC, FROM_S, FROM_S + 100)
    assert found is not None and (found.at_s, found.told) == (FROM_S + 100, "Ilse said so")


PLACES = {
    "57 N": (57.6, -7.4, "Europe/London"), "equator": (0.0, 37.0, "Africa/Nairobi"),
    "33 S": (-33.9, 151.2, "Australia/Sydney"),
}  # fmt: skip
# Over a change of clocks in either direction, and by midsummer and midwinter.
DAYS = (date(2026, 3, 29), date(2026, 6, 21), date(2026, 10, 4), date(2026, 12, 21))


@pytest.mark.parametrize("day", DAYS)
@pytest.mark.parametrize("name", PLACES)
@pytest.mark.parametrize("typed", ["sun down to 6°", "sun up to −4°", "sun up to 5.5"])
def test_an_altitude_is_reached_when_ephem_has_the_sun_there(name: str, day: date, typed: str) -> None:
    latitude, longitude, zone = PLACES[name]
    place = make_place(latitude_deg=latitude, longitude_deg=longitude, time_zone=zone)
    start = parse_start(typed)
    assert isinstance(start, AltitudeStart) and parse_start(show_start(start, place)) == start
    at_s = start_s(make_shot(start=start, place=place, date=day))
    # PyEphem (libastro, another theory of the sun than JPL's): its altitude without refraction at that instant.
    observer = ephem.Observer()
    observer.lat, observer.lon, observer.pressure, observer.elevation = str(latitude), str(longitude), 0, 0
    observer.date = datetime.fromtimestamp(at_s, ZoneInfo("UTC")).strftime("%Y/%m/%d %H:%M:%S.%f")
    height = np.degrees(float(ephem.Sun(observer).alt))
    observer.date += 60 * ephem.second
    rises = np.degrees(float(ephem.Sun(observer).alt)) > height
    assert height == pytest.approx(start.altitude_deg, abs=0.02) and rises == (start.goes == "up")
    assert datetime.fromtimestamp(at_s, ZoneInfo(zone)).date() == day
    # A trigger on the same altitude comes at the same instant.
    side = "over" if start.goes == "up" else "under"
    wait = waiting(f"the sun is {side} {start.altitude_deg}")
    sky = sky_over(place, at_s - 600, at_s + 600)
    found = met(wait, [], sky, UTC, at_s - 600, at_s + 600)
    assert found is not None and found.at_s == pytest.approx(at_s, abs=0.5)
    assert met(wait, [], sky, UTC, at_s - 600, at_s - 1) is None


def test_an_altitude_that_the_sun_does_not_reach_is_refused_and_one_is_nudged_by_whole_degrees() -> None:
    with pytest.raises(Refusal, match=r"does not come up to 80° at .* on 24 Nov 2026"):
        start_s(make_shot(start=parse_start("sun up to 80")))
    with pytest.raises(Refusal, match="An altitude from −60° to 90°"):
        parse_start("sun down to 100°")
    down = AltitudeStart(goes="down", altitude_deg=5.5)
    place = make_place()
    assert [show_start(later_start(down, place, n), place) for n in (1, -1)] == ["sun down to 5°", "sun down to 6°"]
    assert show_start(later_start(parse_start("sun up to 89.5"), place, 1), place) == "sun up to 90°"


def noise(seed: int = 1) -> np.ndarray:
    rows = np.linspace(120, 40, 160)[:, None] * np.ones((1, 240))
    return np.asarray(rows + np.random.default_rng(seed).normal(0, 4, rows.shape))


def test_what_moves_is_told_by_its_size_and_what_gets_darker_is_not() -> None:
    before = noise(1)
    assert changed_part(before, noise(2)) == 0
    # The sky at dusk: a stop darker in all of it.
    assert changed_part(before, noise(2) / 2) == 0
    there = noise(2)
    there[100:140, 60:120] = 10
    # A square of 40 by 60 in 160 by 240 is a sixteenth of the picture.
    assert changed_part(before, there) == pytest.approx(1 / 16, abs=0.01)
    gone_on = noise(3)
    gone_on[100:140, 150:210] = 10
    # Where it was and where it is.
    assert changed_part(there, gone_on) == pytest.approx(2 / 16, abs=0.02)
    assert changed_part(np.zeros((10, 10)), np.zeros((10, 10))) == 0 == changed_part(before, np.zeros((8, 8)))


def test_a_shot_that_waits_says_so_and_its_values_are_typed() -> None:
    shot = make_shot()
    assert "It begins at its start." in "".join(word.text for word in aside(shot)["time"])
    for name, text in (
        ("waits", "it moves and the sun is under 3 or I say so"), ("waits.for_s", "2 h"), ("waits.lead_in_s", "10"),
        ("waits.together_s", "45 s"), ("waits.times", "3"), ("waits.dead_s", "5 min"),
        ("waits.otherwise", "it begins all the same"),
    ):  # fmt: skip
        shot = apply(shot, Edit(field=name, text=text))
        field = field_of(name, shot)
        assert field is not None and apply(shot, Edit(field=name, text=field.show(shot, solved(shot)))) == shot
    assert shot.waits is not None
    assert (shot.waits.for_s, shot.waits.lead_in_s, shot.waits.together_s) == (7_200, 10, 45)
    assert (shot.waits.times, shot.waits.dead_s, shot.waits.otherwise) == (3, 300, "it begins all the same")
    line = "".join(word.text for word in aside(shot)["time"])
    assert f"It begins when it moves and the sun is under 3° or I say so, waiting for {duration(7_200)} at most" in line
    assert "5 min apart; if nothing comes, it begins all the same." in line
    with pytest.raises(Refusal, match="At most 24 h"):
        apply(shot, Edit(field="waits.for_s", text="25 h"))
    assert apply(shot, Edit(field="waits", text="at its start")).waits is None


@pytest.mark.parametrize("night", [date(2026, 11, 24), date(2026, 10, 25), date(2026, 3, 28)])
def test_a_shot_begins_where_it_came_and_is_planned_for_the_last_moment_until_then(night: date) -> None:
    # 25 Oct and 28 Mar: the clocks change during the wait.
    shot = make_shot(
        start=ClockStart(time="22:00"),
        date=night,
        waits=waiting("I say so", for_s=5 * 3_600, lead_in_s=20, dead_s=60, times=3),
    )
    opens_s, latest = start_s(shot), compile_shot(at_the_latest(shot))
    assert latest.start_s == opens_s + 5 * 3_600 + 20
    came = begun(shot, opens_s + 3_000)
    assert start_s(came) == opens_s + 3_020 and closes_s(came) == closes_s(shot)
    assert start_s(begun(shot, opens_s + 3_000, opens_s + 3_025.5)) == opens_s + 3_025.5
    once_more = again(came, opens_s + 4_000)
    assert once_more is not None and once_more.waits is not None and once_more.waits.times == 2
    assert start_s(once_more) == opens_s + 4_060 and closes_s(once_more) == closes_s(shot)
    assert again(came, closes_s(shot) - 30) is None
    assert again(once_more.with_waits(times=1), opens_s + 4_100) is None
    assert at_the_latest(shot.model_copy(update={"waits": None})).waits is None


def test_the_camera_is_given_the_time_that_it_takes_to_wake() -> None:
    kit = make_shot().kit
    slow = kit.model_copy(update={"body": kit.body.model_copy(update={"wake_s": 8})})
    for lead_in_s, after_s in ((0, 8), (20, 20)):
        shot = waiting_shot("I say so", lead_in_s=lead_in_s).model_copy(update={"kit": slow})
        assert start_s(begun(shot, FROM_S)) == pytest.approx(FROM_S + after_s, abs=1e-3)


def ids(shot: Shot) -> dict[str, str]:
    return {one.id: one.severity for one in judge(compile_shot(shot)) if one.id.startswith("waiting.")}


def test_what_cannot_come_is_said_before_the_night() -> None:
    assert ids(waiting_shot("the sun is under 10 or I say so")) == {}
    assert ids(waiting_shot("the sun is over 60")) == {"waiting.sun-not-there": "stop"}
    assert ids(waiting_shot("the sun is over 60 and it moves or I say so")) == {"waiting.sun-not-there": "mind"}
    alone = waiting_shot("it moves").with_light(school="fixed").model_copy(update={"fires": "own timer"})
    (found,) = [one for one in judge(compile_shot(alone)) if one.id == "waiting.nobody-begins"]
    assert found.severity == "stop" and ids(found.fixes[0].shot) == {}


LONDON = ZoneInfo("Europe/London")


def at(text: str) -> float:
    return datetime.fromisoformat(text).replace(tzinfo=LONDON).timestamp()


@pytest.mark.parametrize(
    ("side", "clock", "opens", "closes", "spans"),
    [
        ("after", "22:30", "2026-11-24 20:00", "2026-11-25 04:00", [("2026-11-24 22:30", "2026-11-25 04:00")]),
        ("before", "22:30", "2026-11-24 20:00", "2026-11-25 04:00", [("2026-11-24 20:00", "2026-11-24 22:30")]),
        # After midnight is meant of the coming night, not of the one before.
        ("after", "00:30", "2026-11-24 20:00", "2026-11-25 04:00", [("2026-11-25 00:30", "2026-11-25 04:00")]),
        ("after", "22:30", "2026-11-24 23:00", "2026-11-25 01:00", [("2026-11-24 23:00", "2026-11-25 01:00")]),
        ("before", "22:30", "2026-11-24 23:00", "2026-11-25 01:00", []),
        # The clocks go back an hour at two in the morning of 25 October 2026.
        ("after", "03:00", "2026-10-24 23:00", "2026-10-25 05:00", [("2026-10-25 03:00", "2026-10-25 05:00")]),
    ],
)
def test_the_clock_is_a_condition_over_midnight_and_over_a_change_of_clocks(
    side: str, clock: str, opens: str, closes: str, spans: list[tuple[str, str]]
) -> None:
    one = ClockStands.model_validate({"side": side, "at": clock})
    found = clock_spans(one, LONDON, Window(at(opens), at(closes)))
    assert [tuple(span) for span in found] == [(at(begin), at(end)) for begin, end in spans]


@given(st.integers(0, 1_439), st.floats(0, 86_400 * 300), st.floats(1, 86_400))
def test_every_instant_is_after_or_before_a_time_and_never_both(minute: int, later_s: float, long_s: float) -> None:
    over = Window(FROM_S + later_s, FROM_S + later_s + long_s)
    clock = f"{minute // 60:02}:{minute % 60:02}"
    both = [
        span for side in ("after", "before")
        for span in clock_spans(ClockStands.model_validate({"side": side, "at": clock}), LONDON, over)
    ]  # fmt: skip
    both.sort()
    assert both[0].from_s == over.from_s and both[-1].to_s == over.to_s
    assert all(one.to_s == other.from_s for one, other in pairwise(both))


def test_a_sound_counts_only_after_the_hour_that_was_said() -> None:
    wait = waiting("it is louder than -30 dB and it is after 22:30")
    assert show_ways(wait.ways) == "it is louder than −30 dBFS and it is after 22:30"
    from_s = at("2026-11-24 20:00")
    sky = sky_over(make_shot().place, from_s, from_s + 8 * 3_600)
    early, late = (Heard("sound", at(f"2026-11-24 {clock}"), -10.0) for clock in ("21:00", "23:10"))
    assert met(wait, [early], sky, LONDON, from_s, from_s + 8 * 3_600) is None
    found = met(wait, [early, late], sky, LONDON, from_s, from_s + 8 * 3_600)
    assert found is not None and found.at_s == late.at_s and found.told.endswith("dBFS and it was 23:10")
    for bad in ("it is after 25:00", "it is after 7", "it is at 22:30"):
        with pytest.raises(Refusal):
            parse_ways(bad)


@pytest.mark.parametrize(("text", "watches"), [("it moves", True), ("code card dusk", True), ("I say so", False)])
def test_what_a_camera_draws_while_it_watches_is_gone_when_it_begins(text: str, watches: bool) -> None:
    shot = make_shot(waits=waiting(text, for_s=6 * 3_600))
    late = at_the_latest(shot)
    assert late.waits is not None and late.waits.waited_s == 6 * 3_600
    repeated = again(shot.with_waits(times=2, waited_s=900), start_s(shot) + 3_600)
    assert repeated is not None and repeated.waits is not None and repeated.waits.waited_s == 0
    without = compile_shot(late.with_waits(waited_s=0))
    drawn = without.battery_left - compile_shot(late).battery_left
    # 6 h of 1.5 W of a battery of 200 Wh, of which so much can be used at 20 °C.
    part = 6 * 1.5 / (200 * shot.body.battery_usable)
    assert drawn == pytest.approx(part if watches else 0, abs=1e-9)
