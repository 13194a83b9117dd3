"""A film made of shots: what comes of them, what is said across them, the list of the day, files out and in."""

import csv
import io
from collections.abc import Callable, Sequence
from datetime import date
from fractions import Fraction
from typing import get_args
from uuid import uuid4

import opentimelineio as otio
import pytest
from astropy.coordinates import angular_separation
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st

from revani.core.documents import Light, Place, Shot, ShotSequence
from revani.core.documents.sequence import Join, View
from revani.core.documents.timing import Timing
from revani.core.edit.form import filled
from revani.core.program.compiled import compile_shot
from revani.core.quantities.refusal import Refusal, Refusals
from revani.core.sequence.across import ACROSS, Remark, judge_across
from revani.core.sequence.day import clashes, day_list
from revani.core.sequence.film import Film, Kept, drift_across, laid, view_of
from revani.core.sequence.way import apart_m
from revani.core.shown.sequence import sequence_view
from revani.exports.sequence_csv import cuts_of_csv, sequence_csv
from revani.exports.sequence_otio import cuts_of_otio, sequence_otio
from revani.jobs.sample import CARD_A, LONG_WICKET, NOD, OLD_HERON, RAIL, sample_sequence, sample_shots
from tests.conftest import make_kit, make_place, make_shot
from tests.core.legal import legal_shots

TODAY = date(2026, 11, 29)


def film_of(shots: Sequence[Shot], cuts: Sequence[dict[str, object]] | None = None, **more: object) -> Film:
    """The film of shots, whole or cut as is said."""
    said = cuts or [{} for _ in shots]
    made = [{"shot": shot.id, "name": shot.name} | cut for shot, cut in zip(shots, said, strict=True)]
    sequence = ShotSequence.model_validate({"name": "Film", "cuts": made} | more)
    return laid(sequence, {shot.id: Kept(shot, False) for shot in shots})


def day(**change: object) -> Shot:
    """Ten seconds of film by day, in which nothing moves."""
    values: dict[str, object] = {
        "name": "By day", "start": {"by": "clock", "time": "11:00"}, "id": uuid4(),
        "timing": Timing.model_validate({"fps": 30, "interval_s": 4, "playback_s": 10}),
        "light": Light(school="fixed", aperture=8, shutter_s=Fraction(1, 125), iso=200),
    }  # fmt: skip
    return make_shot(**(values | change))


def looking(heading: float, **change: object) -> Shot:
    return day(framing={"heading_deg": heading, "tilt_deg": 5}, **change)


def said(film: Film, id: str) -> Remark | None:
    return next((one for one in judge_across(film) if one.id == id), None)


def changed(film: Film, remark: Remark, id: str) -> Film:
    """The film with one of a remark's changes taken."""
    kept = {piece.cut.shot: Kept(piece.program.shot, piece.archived) for piece in film.pieces if piece.program}
    return laid(next(one.sequence for one in remark.changes if one.id == id), kept)


def test_cuts_lie_end_to_end_and_use_the_frames_that_they_name() -> None:
    film = film_of([day(), day()], [{"in_s": 2, "out_s": "17/3"}, {"in_s": 4}])
    first, second = film.pieces
    assert [piece.from_s for piece in film.pieces] == pytest.approx([0, 11 / 3])
    assert film.length_s == pytest.approx(11 / 3 + 6)
    # 2 s at 30 fps is frame 60 counted from 0; 17/3 s is over with frame 169.
    assert first.frames == (60, 169) and second.frames == (120, 299)


def test_a_cut_at_one_end_of_a_frame_never_takes_the_next() -> None:
    shot = day(timing=Timing.model_validate({"fps": "23.976", "interval_s": 4, "frame_count": 240}))
    frame = Fraction(1001, 24000)
    for at in (1, 7, 100):
        piece = film_of([shot], [{"in_s": str(at * frame), "out_s": str((at + 5) * frame)}]).pieces[0]
        assert piece.frames == (at, at + 4)


def test_what_is_gone_or_put_away_keeps_its_place_and_says_so() -> None:
    here, away = day(name="Here"), day(name="Away")
    named = ((here.id, "Once"), (uuid4(), "Lost"), (away.id, "Once"))
    cuts = [{"shot": one, "name": name, "out_s": 4} for one, name in named]
    sequence = ShotSequence.model_validate({"name": "Film", "cuts": cuts})
    film = laid(sequence, {here.id: Kept(here, False), away.id: Kept(away, True)})
    assert [piece.name for piece in film.pieces] == ["Here", "Lost", "Away"]
    assert film.length_s == 12
    gone, put_away = said(film, "across.gone"), said(film, "across.put-away")
    assert gone and gone.severity == "stop" and gone.cut == 1 and "Lost" in gone.sentence
    assert put_away and put_away.cut == 2
    assert [cut.name for cut in gone.changes[0].sequence.cuts] == ["Once", "Once"]
    assert len(sequence_view(film).cuts) == 3


@pytest.mark.parametrize(
    ("make", "id", "change"),
    [
        (lambda: film_of([day()], [{"out_s": 14}]), "across.beyond", "to-its-end"),
        (lambda: film_of([day()], [{"in_s": 12}]), "across.beyond", "from-its-start"),
        (lambda: film_of([day()], [{"in_s": 2, "out_s": 4}]), "across.too-short", "longer"),
        (lambda: film_of([day(timing={"fps": 30, "interval_s": 4, "playback_s": 20})]), "across.too-long", "shorter"),
        (lambda: film_of([day(), day()], fps=24), "across.rate", "rate-of-most"),
        (lambda: film_of([day(), looking(90)], wanted_s=8), "across.length", "fit"),
        (lambda: film_of([day(), looking(90)], [{"out_s": 4}, {"out_s": 3}], wanted_s=20), "across.length", "fit"),
        (lambda: film_of([day(), looking(90, date="2026-11-23")]), "across.backwards", None),
        (lambda: film_of([looking(10), looking(25)]), "across.alike", None),
        (lambda: film_of([day()] * 3, shape="9:16"), "across.shape", "as-16:9"),
    ],
)  # fmt: skip
def test_what_can_be_done_about_a_remark_mends_it(make: Callable[[], Film], id: str, change: str | None) -> None:
    film = make()
    remark = said(film, id)
    if id == "across.backwards":
        # An earlier day in the same light is no jump at all.
        assert remark is None
        return
    assert remark is not None and remark.rule and remark.source
    if change:
        assert said(changed(film, remark, change), id) is None


def test_light_that_goes_back_is_put_the_right_way_round() -> None:
    dusk = make_shot(id=uuid4(), name="Dusk")
    noon = day(name="Noon", date=dusk.date)
    film = film_of([dusk, noon])
    back = said(film, "across.backwards")
    assert back and back.cut == 1 and "Noon goes back in time" in back.sentence
    assert said(changed(film, back, "swap"), "across.backwards") is None
    night = make_shot(id=uuid4(), name="Night", start={"by": "clock", "time": "23:00"}, date=dusk.date)
    jump = said(film_of([noon, night]), "across.light")
    assert jump and "Noon ends in day, Night begins in night" in jump.figures


def test_two_views_of_one_thing_want_an_angle_between_them_or_another_size() -> None:
    assert said(film_of([looking(10), looking(41)]), "across.alike") is None
    assert said(film_of([looking(350), looking(15)]), "across.alike") is not None
    lens = {"focal_length_min_mm": 24, "focal_length_max_mm": 105}
    kit = make_kit(lens=lens)

    def at(focal: float) -> Shot:
        return day(kit=kit, framing={"heading_deg": 10, "tilt_deg": 5, "focal_length_mm": focal})

    # 24 mm on 36 mm sees 73.7°, 105 mm 19.5° (pinhole).
    near = film_of([at(24), at(105)])
    assert said(near, "across.alike") is None and said(near, "across.size-jump") is not None
    assert [view_of(piece) for piece in near.pieces] == ["wide", "close"]
    same = film_of([at(24), at(24)], [{}, {"joins": "same position"}])
    assert said(same, "across.alike") is None and said(same, "across.cannot-match") is None


def test_a_cut_that_should_match_names_all_that_differs() -> None:
    elsewhere = make_place(name="Elsewhere", id=uuid4(), latitude_deg=57.0)
    film = film_of([looking(10), looking(14, place=elsewhere)], [{}, {"joins": "same position"}])
    off = said(film, "across.cannot-match")
    assert off and off.severity == "fix" and "4° between" in off.figures and "Elsewhere" in off.figures
    assert said(changed(film, off, "plain"), "across.cannot-match") is None
    # The same action may be in two places, with the subject as large.
    assert said(film_of([looking(10), looking(14, place=elsewhere)], [{}, {"joins": "same action"}]),
                "across.cannot-match") is None  # fmt: skip


def test_a_matched_cut_has_its_framing_note_and_what_to_do_in_which_order() -> None:
    """The two frames agree within 3 % of the width and 5 % in size (common practice)."""
    near = [{"name": "Potter", "x_mm": 0, "y_mm": 3_000, "base_mm": -1_200, "height_mm": 1_800}]

    def of(things: list[dict[str, object]], **more: object) -> Shot:
        return looking(10, move={"things": things}, **more)

    joined = [{}, {"joins": "same action"}]
    assert said(film_of([of(near), of(near)], joined), "across.cannot-match") is None
    for change, word in ({"x_mm": 150}, "apart"), ({"y_mm": 3_400}, "height"):
        off = said(film_of([of(near), of([near[0] | change])], joined), "across.cannot-match")
        assert off and word in off.figures
    dim = Light(school="fixed", aperture=8, shutter_s=Fraction(1, 250), iso=200)
    darker = said(film_of([of(near), of(near, light=dim)], joined), "across.cannot-match")
    assert darker and "stops between their exposures" in darker.figures
    (match,) = sequence_view(film_of([of(near), of(near)], joined)).matches
    assert any("1.2 m above the foot of Potter" in line for line in match.note)
    (box,) = [line for line in match.note if line.startswith("Potter from")]
    # 520 mm or so at 3 m through 24 mm on 36 mm: 600 mm are 4.8 mm of 36, 13 % of the width around its middle.
    assert "from 43% to 57% across" in box and match.differs == []
    assert [step.what.split(" ")[0] for step in match.steps][:3] == ["Choose", "Set", "Film"]
    (place,) = sequence_view(film_of([looking(10), looking(10)], [{}, {"joins": "same position"}])).matches
    assert [step.takes for step in place.steps] == ["20 min", "20 min 3 s", "30 s", "20 min"]
    assert "do not touch the stand" in place.steps[2].what


def test_the_way_that_the_picture_goes_is_kept() -> None:
    kit = make_kit().model_copy(update={"movers": (RAIL, NOD)})

    def panned(to: float, **more: object) -> Shot:
        keys = [{"at": {"by": "after", "after_s": at}, "positions": {"pan": pan}} for at, pan in ((0, 0), (1000, to))]
        return day(kit=kit, move={"keys": keys} | more)

    # Panned to the right, the picture goes to the left.
    right, left = panned(40), panned(-40)
    assert [drift_across(piece) for piece in film_of([right, left, panned(2)]).pieces] == [-1, 1, 0]
    assert said(film_of([right, left]), "across.direction") is not None
    assert said(film_of([right, right]), "across.direction") is None
    slid = [{"at": {"by": "after", "after_s": at}, "positions": {"slide": mm}} for at, mm in ((0, 900), (1000, 100))]
    assert drift_across(film_of([day(kit=kit, move={"keys": slid})]).pieces[0]) == 1


def test_distances_are_those_of_a_sphere() -> None:
    """Against astropy's angular separation (Vincenty's formula), on a sphere of 6,371.0088 km."""
    import numpy as np

    for a, b in (((57.62, -7.41), (57.611, -7.432)), ((0, 179.9), (0, -179.9)), ((-45, 170), (69.6, 18.9))):
        places = [Place(name="P", latitude_deg=lat, longitude_deg=lon, time_zone="UTC") for lat, lon in (a, b)]
        rad = np.radians([a[1], a[0], b[1], b[0]])
        assert apart_m(*places) == pytest.approx(float(angular_separation(*rad)) * 6_371_008.8, rel=1e-9, abs=1e-3)


def test_the_day_has_its_set_ups_its_ways_and_what_is_needed_twice() -> None:
    pit = make_place(id=uuid4(), name="Pit", latitude_deg=57.611, longitude_deg=-7.432)
    shed = make_place(id=uuid4(), name="Shed", latitude_deg=57.62, longitude_deg=-7.41)

    def at(clock: str, minutes: int, **more: object) -> Shot:
        timing = Timing.model_validate({"fps": 30, "interval_s": 4, "event_s": minutes * 60})
        return day(start={"by": "clock", "time": clock}, timing=timing, **more)

    heron = {"kit": {"body": OLD_HERON, "lens": LONG_WICKET, "card": CARD_A}}
    long, beside = at("10:00", 240, name="Long", place=shed), at("11:00", 30, name="Beside", place=pit, **heron)
    programs = [compile_shot(one) for one in (beside, long)]
    steps = day_list(programs, 1200, 1.2)
    assert [(one.task.doing, one.task.program.shot.name) for one in steps] == [
        ("set up", "Long"), ("set up", "Beside"), ("fetch", "Beside"), ("fetch", "Long"),
    ]  # fmt: skip
    # 1,646 m as the crow flies, a third more on foot, and back again.
    assert steps[1].way_m == pytest.approx(1.3 * apart_m(shed, pit)) and steps[0].way_m == 0
    assert [one.shot.name for one in steps[1].meanwhile] == ["Long"]
    assert all(one.late_s == 0 for one in steps) and clashes(programs, 1200, 1.2) == ()
    soon = compile_shot(at("10:10", 30, name="Soon", place=pit, **heron))
    late = day_list([programs[1], soon], 1200, 1.2)
    assert late[1].late_s == pytest.approx(600 + late[1].way_s)
    again = at("13:50", 30, name="Next", place=pit, kit=long.kit)
    twice = clashes([programs[1], compile_shot(again)], 1200, 1.2)
    assert [one.names for one in twice] == [("Test body", "Test card", "Test lens")]
    assert twice[0].earlier.shot.name == "Long"


def test_a_person_stays_with_what_is_filmed_at_speed() -> None:
    talk = next(shot for shot in sample_shots(TODAY) if shot.live)
    steps = day_list([compile_shot(talk)], 1200, 1.2)
    assert [one.task.doing for one in steps] == ["set up", "film", "fetch"]


def test_what_is_typed_is_read_or_refused_at_its_field() -> None:
    film = film_of([day(), day()])
    document = film.sequence.model_dump(mode="json")
    typed = {"wanted_s": "1 min 30 s", "cuts.1.in_s": "0:04", "cuts.1.out_s": "6.5 s", "pace_m_s": "18 km/h",
             "cuts.0.view": "close"}  # fmt: skip
    read = filled(ShotSequence, document, typed, "metric")
    assert (read.wanted_s, read.cuts[1].in_s, read.cuts[1].out_s, read.pace_m_s) == (90, 4, Fraction(13, 2), 5)
    again = filled(ShotSequence, read.model_dump(mode="json"), {"cuts.1.out_s": "", "cuts.0.view": ""}, "metric")
    assert again.cuts[1].out_s is None and again.cuts[0].view is None
    for path, text in {"fps": "none", "cuts.0.in_s": "soon", "cuts.0.joins": "a wipe", "shape": "2:1",
                       "pace_m_s": "0"}.items():  # fmt: skip
        with pytest.raises(Refusals) as refused:
            filled(ShotSequence, document, {path: text}, "metric")
        assert refused.value.refused[0].path.startswith(path)
    with pytest.raises(Refusals):
        filled(ShotSequence, document, {"cuts.0.in_s": "5 s", "cuts.0.out_s": "4 s"}, "metric")


def test_a_cut_that_cannot_be_planned_is_made_shorter_with_the_others() -> None:
    first, gone = day(), day()
    cuts = [{"shot": first.id, "name": "A"}, {"shot": gone.id, "name": "B", "out_s": 40}]
    sequence = ShotSequence.model_validate({"name": "Film", "cuts": cuts, "wanted_s": 25})
    film = laid(sequence, {first.id: Kept(first, False)})
    remark = said(film, "across.length")
    assert film.length_s == 50 and remark is not None
    after = laid(remark.changes[0].sequence, {first.id: Kept(first, False)})
    assert after.length_s == pytest.approx(25) and said(after, "across.length") is None


def test_a_push_goes_on_over_a_cut_or_it_is_said() -> None:
    even = {"arrive": {"kind": "none"}, "leave": {"kind": "none"}}
    pushed = day(outputs=[{"name": "Film", "keys": [even | {"at_s": 0}, even | {"at_s": 6, "zoom": 1.2}]}])
    # The project's handbook: 1.0 to 1.2 in 6 s goes on, over 3 s, from 1.0 to 1.095.
    going_on = day(outputs=[{"name": "Film", "keys": [even | {"at_s": 0}, even | {"at_s": 3, "zoom": 1.0954}]}])
    cuts = [{"out_s": 6}, {"out_s": 3, "joins": "continued push"}]
    assert said(film_of([pushed, going_on], cuts), "across.push") is None
    still = said(film_of([pushed, day()], cuts), "across.push")
    assert still is not None and "1.095 ×" in still.figures and still.cut == 1
    nothing = said(film_of([day(), going_on], cuts), "across.push")
    assert nothing is not None and "not pushed where it ends" in nothing.sentence
    plain = [{"out_s": 6}, {"out_s": 3}]
    assert said(film_of([pushed, day()], plain), "across.push") is None


CUTS = st.fixed_dictionaries(
    {
        "in_s": st.sampled_from([0, "1/3", 1.5, 4]), "out_s": st.sampled_from([None, 5, "16/3", 40]),
        "joins": st.sampled_from(get_args(Join)), "view": st.sampled_from([None, *get_args(View)]),
    }
)  # fmt: skip


@settings(max_examples=12, phases=(Phase.generate,), suppress_health_check=list(HealthCheck))
@given(st.data())
def test_any_shots_make_a_film_whose_changes_mend_what_they_are_offered_for(data: st.DataObject) -> None:
    shots = [data.draw(legal_shots()).model_copy(update={"id": uuid4()}) for _ in range(data.draw(st.integers(1, 3)))]
    cuts = [data.draw(CUTS) for _ in shots]
    more = {"fps": data.draw(st.sampled_from([24, "29.97", 60])), "shape": data.draw(st.sampled_from(["16:9", "9:16"])),
            "wanted_s": data.draw(st.sampled_from([None, 1, 30]))}  # fmt: skip
    film = film_of(shots, cuts, **more)
    view = sequence_view(film)
    assert len(view.cuts) == len(shots) and len(view.skeins) in (0, len(film.planned))
    assert all(0 <= one.wall_from <= one.wall_to <= 1 + 1e-9 and one.film_from <= one.film_to for one in view.skeins)
    starts = [one.task.from_s for one in day_list(film.programs, 1200, 1.2)]
    assert starts == sorted(starts)
    remarks = judge_across(film)
    for remark in remarks:
        for change in remark.changes:
            after = laid(change.sequence, {shot.id: Kept(shot, False) for shot in shots})
            # Counted, for a cut that is left out gives its number to the next.
            still = [one for one in judge_across(after) if (one.id, one.sentence) == (remark.id, remark.sentence)]
            same = [one for one in remarks if (one.id, one.sentence) == (remark.id, remark.sentence)]
            assert len(still) < len(same), (remark.id, change.id)


def test_opentimelineio_is_read_by_its_own_library_and_comes_back_the_same() -> None:
    shots = sample_shots(TODAY)
    sequence = sample_sequence(shots)
    film = laid(sequence, {shot.id: Kept(shot, False) for shot in shots})
    text = sequence_otio(film)
    timeline = otio.adapters.read_from_string(text, "otio_json")
    assert timeline.name == "Fire on the island"
    clips = list(timeline.find_clips())
    assert [clip.name for clip in clips] == [cut.name for cut in sequence.cuts]
    seconds = [clip.source_range.duration.to_seconds() for clip in clips]
    assert seconds == pytest.approx([piece.length_s for piece in film.pieces], abs=1 / 24)
    assert sum(seconds) == pytest.approx(film.length_s, abs=0.2)
    stars = clips[4]
    assert stars.source_range.start_time == otio.opentime.RationalTime(720, 24)
    assert cuts_of_otio(text, {shot.id: shot.name for shot in shots}) == sequence.cuts


def test_a_timeline_that_was_trimmed_elsewhere_is_taken_as_it_says() -> None:
    shot = day(name="Tide")
    film = film_of([shot], [{"in_s": "1/3", "out_s": 4, "joins": "same action", "view": "close"}])
    timeline = otio.adapters.read_from_string(sequence_otio(film), "otio_json")
    clip = next(iter(timeline.find_clips()))
    clip.source_range = otio.opentime.TimeRange(otio.opentime.RationalTime(60, 30), otio.opentime.RationalTime(45, 30))
    (cut,) = cuts_of_otio(otio.adapters.write_to_string(timeline, "otio_json"), {shot.id: "Tide"})
    assert (cut.in_s, cut.out_s, cut.joins, cut.view) == (2, Fraction(7, 2), "same action", "close")
    # Without anything of ours, by its name.
    clip.metadata.clear()
    (named,) = cuts_of_otio(otio.adapters.write_to_string(timeline, "otio_json"), {shot.id: "Tide"})
    assert named.shot == shot.id and named.joins == "a plain cut"


@pytest.mark.parametrize(
    ("spoil", "path"),
    [
        (lambda _: "{", "file"),
        (lambda _: '{"OTIO_SCHEMA": "Clip.1"}', "file"),
        (lambda text: text.replace('"Video"', '"Audio"'), "file"),
        (lambda text: text.replace("Clip.2", "Gap.1"), "tracks.0.children.0"),
    ],
)
def test_a_timeline_that_cannot_be_read_is_refused_where_it_fails(spoil: Callable[[str], str], path: str) -> None:
    shot = day()
    text = spoil(sequence_otio(film_of([shot])))
    with pytest.raises(Refusal) as refused:
        cuts_of_otio(text, {shot.id: shot.name})
    assert refused.value.path == path


def test_csv_is_rfc_4180_and_comes_back_the_same() -> None:
    shot = day(name='Tide, "spring"')
    film = film_of([shot, shot], [{"in_s": "1/3", "out_s": 4}, {"joins": "continued push", "view": "middle"}])
    text = sequence_csv(film.sequence)
    rows = list(csv.reader(io.StringIO(text)))
    assert rows[0] == ["shot", "in_s", "out_s", "joins", "view", "id"] and rows[1][0] == 'Tide, "spring"'
    assert text.count("\r\n") == 3
    assert cuts_of_csv(text, {shot.id: shot.name}) == film.sequence.cuts


@pytest.mark.parametrize(
    ("text", "path", "word"),
    [
        ("what,in_s\nTide,0", "line 1", "heading"),
        ("shot,in_s\nTide,soon", "line 2", "in_s"),
        ("shot,in_s\nTide,0\n\nEbb,0", "line 4", "no shot"),
        ("shot,in_s,out_s\nTide,5,4", "line 2", "ends after"),
        ("shot,joins\nTide,a wipe", "line 2", "joins"),
        ("shot\nTide,3", "line 2", "values"),
        ("shot,id\nTide,x", "line 2", "id"),
        ("shot\nTwin", "line 2", "2 shots"),
    ],
)
def test_a_table_with_a_wrong_line_is_refused_at_that_line(text: str, path: str, word: str) -> None:
    known = {uuid4(): "Tide", uuid4(): "Twin", uuid4(): "Twin"}
    with pytest.raises(Refusal) as refused:
        cuts_of_csv(text, known)
    assert refused.value.path == path and word in refused.value.allowed


def test_every_rule_says_what_it_is_and_where_it_is_from() -> None:
    assert all(rule.said and rule.source and rule.ids for rule in ACROSS)
    ids = [id for rule in ACROSS for id in rule.ids]
    assert len(set(ids)) == len(ids)


def test_the_sample_says_what_is_true_of_it() -> None:
    shots = sample_shots(TODAY)
    film = laid(sample_sequence(shots), {shot.id: Kept(shot, False) for shot in shots})
    ids = {one.id for one in judge_across(film)}
    assert {"across.fails", "across.rate", "across.light"} <= ids
    assert {"across.gone", "across.beyond", "across.length", "across.missing"}.isdisjoint(ids)
