"""What the desk says and draws: every field of the sentence in every school, traces, handles, posts, limits."""

from typing import get_args

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from revani.core.documents import Filter, Light, LightKey, Move, Pace, School, Shot
from revani.core.documents.timing import Timing
from revani.core.edit.apply import Edit, apply_edit
from revani.core.edit.fields import field_of
from revani.core.light.dials import show_shutter
from revani.core.program.compiled import compile_shot
from revani.core.quantities.refusal import Refusal
from revani.core.shown.light_panel import filter_rows, night_rows, reading_told, stars_told
from revani.core.shown.loom import lanes
from revani.core.shown.readout import readout
from revani.core.shown.sentence import aside, key_words, sentence
from revani.core.timing.law import solve
from revani.core.timing.pace import solved
from tests.conftest import make_kit, make_shot
from tests.core.moving import KILN, axis, key, pass_, rig, shot_of


def said(shot: Shot, step: str = "") -> str:
    lines = [aside(shot)[step]] if step else sentence(shot)  # type: ignore[index]
    return " | ".join("".join(word.text for word in line) for line in lines)


def with_filters(**light: object) -> Shot:
    kit = make_kit().model_copy(update={"filters": (Filter(name="Soft", stops=3), Filter(name="Dark", stops=6))})
    return make_shot(kit=kit, light=Light.model_validate({"aperture": 2.8} | light))


@pytest.mark.parametrize("school", get_args(School))
def test_every_school_says_just_the_numbers_that_it_uses(school: School) -> None:
    shot = make_shot(light=Light(school=school, aperture=2.8))
    fields = {word.field for line in sentence(shot) for word in line if word.field}
    assert ("light.iso_ceiling" in fields) == (school in ("automatic", "stepped", "continuous"))
    assert ("light.shutter_s" in fields) == (school in ("fixed", "stepped", "continuous"))
    assert ("light.compensation_stops" in fields) == (school in ("automatic", "aperture priority"))
    assert {"light.white_balance", "light.white_balance_k", "light.school", "light.aperture"} <= fields


@pytest.mark.parametrize(
    ("field", "text", "shown"),
    [
        ("pace", "longer by night", "longer by night"), ("pace.night_s", "90s", "1 min 30 s"),
        ("light.school", "leave all of it to the body", "leave all of it to the body"),
        ("light.compensation_stops", "−1", "−1 stops"),
        ("light.white_balance", "going from", "going from"), ("light.white_balance_night_k", "3600", "3,600 K"),
        ("light.angle_deg", "180°", "180°"), ("light.angle_deg", "none", "none"),
        ("light.hold_frames", "12", "12 frames"),
        ("light.dead_band_stops", "0.3 stops", "0.3 stops"), ("light.scene", "ground", "ground"),
        ("light.noise_reduction", "yes", "yes"), ("needs_dark", "filmed", "filmed"),
        ("moonlight_up_to", "40 %", "40% of a moon"), ("light.aperture_open", "f/2.8", "f/2.8"),
        ("light.filters", "Soft + Dark", "Soft + Dark"), ("light.filters_off", "sunset + 10 min", "sunset + 10 min"),
        ("light.filters_off", "never", "never"), ("move.kind", "shoot, move, settle", "shoot, move, settle"),
        ("move.path", "as one smooth way", "as one smooth way"), ("move.repeat", "back and forth", "back and forth"),
        ("move.on_stall", "leaves the rig where it stands", "leaves the rig where it stands"),
    ],
)  # fmt: skip
def test_what_is_typed_is_shown_and_reads_back(field: str, text: str, shown: str) -> None:
    shot = apply_edit(with_filters(), Edit(field=field, text=text))
    found = field_of(field, shot)
    assert found and found.show(shot, solved(shot)) == shown
    again = apply_edit(shot, Edit(field=field, text=shown))
    assert found.show(again, solved(again)) == shown
    assert Shot.model_validate_json(shot.model_dump_json()) == shot


@pytest.mark.parametrize(
    ("field", "text"),
    [
        ("pace", "sometimes"), ("pace.night_s", "long"), ("light.angle_deg", "wide"), ("light.angle_deg", "400"),
        ("light.filters", "Sunglasses"), ("light.filters_off", "soonish"), ("moonlight_up_to", "140 %"),
        ("light.keys.0", "+1"), ("move.kind", "fast"), ("move.aim", "the cat"), ("needs_dark", "maybe"),
        ("light.compensation_stops", "much"), ("light.hold_frames", "0"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_refused_at_its_field(field: str, text: str) -> None:
    with pytest.raises(Refusal) as refusal:
        apply_edit(with_filters(), Edit(field=field, text=text))
    assert refusal.value.path == field and len(refusal.value.allowed) > 8


@pytest.mark.parametrize(
    "field",
    ["pace", "pace.night_s", "light.compensation_stops", "light.dead_band_stops", "light.hold_frames", "light.filters",
     "light.angle_deg", "light.scene", "light.noise_reduction", "needs_dark", "moonlight_up_to", "move.kind",
     "move.path", "move.repeat", "move.on_stall", "light.white_balance", "light.white_balance_night_k"],
)  # fmt: skip
def test_arrows_change_every_value_and_back(field: str) -> None:
    shot = with_filters(angle_deg=180)
    up = apply_edit(shot, Edit(field=field, nudge=1))
    found = field_of(field, up)
    assert found and found.show(up, solved(up)) != found.show(shot, solved(shot))
    assert Shot.model_validate_json(up.model_dump_json()) == up


def test_the_aside_of_a_step_has_what_that_step_needs() -> None:
    assert "it ends when its frames are taken; the interval is the same throughout" in said(make_shot(), "time").lower()
    stars = make_shot(needs_dark=True)
    assert "moonlight up to 25% of a moon" in said(stars, "time")
    keyed = with_filters(keys=[LightKey(after_s=3600, bias_stops=-1).model_dump()])
    assert "wishes: −1.0 at" in said(keyed, "light") and "begins with no filter" in said(keyed, "light")
    assert "No mover" not in said(pass_(), "move") and "no mover" in said(make_shot(), "move")
    paced = make_shot(pace=Pace.model_validate({}))
    assert "by day and 1 min 30 s by night" in said(paced)


def test_a_wish_is_typed_nudged_and_taken_away() -> None:
    shot = with_filters(keys=[LightKey(after_s=3600, bias_stops=0.5).model_dump()])
    typed = apply_edit(shot, Edit(field="light.keys.0", text="−1 at 18:00"))
    assert typed.light.keys[0].bias_stops == -1
    assert apply_edit(typed, Edit(field="light.keys.0", nudge=3)).light.keys[0].bias_stops == pytest.approx(0)
    assert apply_edit(typed, Edit(field="light.keys.0", text="none")).light.keys == ()
    with pytest.raises(Refusal):
        apply_edit(typed, Edit(field="light.keys.0", text="brighter"))


def test_traces_share_one_scale_of_stops_and_handles_stand_at_their_limits() -> None:
    program = compile_shot(make_shot(light=Light(aperture=2.8, shutter_s=20, iso_ceiling=1600)))
    drawn = lanes(program)
    traces = {one.name: one for one in drawn.traces}
    assert traces["shutter"].most == pytest.approx(np.ptp(np.log2(program.exposures.shutter_s)), abs=0.01)
    assert min(drawn.frames["shutter_stops"]) == 0 and traces["aperture"].most == 0
    heights = {one.field: one.stops for one in drawn.handles}
    assert heights["light.iso_ceiling"] == pytest.approx(4)
    assert heights["light.shutter_s"] >= traces["shutter"].most - 0.01
    assert [one.handles for one in (lanes(compile_shot(make_shot(light=Light(school="fixed", aperture=2.8)))),)] == [[]]


def test_the_band_of_cloud_reaches_from_overcast_to_clear() -> None:
    # Common practice, no source: three stops lie between a clear and an overcast sky.
    assert lanes(compile_shot(make_shot(light=Light(aperture=2.8, cloud="haze")))).cloud_stops == [-2, 1]


def test_a_limit_is_noted_with_whose_it_is() -> None:
    tight = make_shot(
        light=Light(aperture=2.8, shutter_s=30, iso_ceiling=400), timing=Timing(fps=30, interval_s=4, frame_count=6000)
    )
    (note, *_) = lanes(compile_shot(tight)).notes
    assert "the interval" in note.text and "ISO 400" in note.text
    body = make_kit(body={"automatic_shutter_max_s": 2, "automatic_order": "shutter first"})
    auto = make_shot(kit=body, light=Light(school="automatic", aperture=2.8, iso_ceiling=200))
    assert any("the body" in one.text for one in lanes(compile_shot(auto)).notes)


def test_posts_and_breaches_are_drawn_where_they_are() -> None:
    drawn = lanes(compile_shot(pass_(hold_s=0, event_s=9000)))
    assert [post.value for post in drawn.axes[0].posts] == [100, 1100]
    assert drawn.axes[0].posts[1].at_s - drawn.axes[0].posts[0].at_s == pytest.approx(9000)
    over = lanes(compile_shot(shot_of(key(0, slide=0), key(9000, slide=5000))))
    (breach,) = over.axes[0].breaches
    assert breach.text == "out of range" and breach.from_s > over.start_s
    held = lanes(compile_shot(shot_of(key(0, slide=0), key(6000, 1200, slide=500), key(12_000, slide=900))))
    assert held.holds[0].to_s - held.holds[0].from_s == pytest.approx(1200)


def test_a_focus_pull_is_drawn_with_what_is_sharp() -> None:
    shot = shot_of(key(0, focus=1.0, slide=0), key(9000, focus=6.0), axes=("slide", "focus"))
    frames = lanes(compile_shot(shot)).frames
    near, focus, far = (np.array(frames[name]) for name in ("focus_near", "focus", "focus_far"))
    assert (near < focus).all() and (focus < far).all() and far.max() <= 1000


def test_the_read_out_names_axes_and_filters_where_there_are_any() -> None:
    program = compile_shot(pass_(things=[KILN.model_dump()], aim={"thing": "Kiln"}))
    labels = {reading.label: reading.text for reading in readout(program, 1)}
    assert labels["slide"] == "100 mm" and labels["pan"].endswith("°")
    filtered = with_filters()
    on = filtered.model_copy(
        update={"light": filtered.light.model_copy(update={"filters": (filtered.kit.filters[1].id,)})}
    )
    assert {reading.label: reading.text for reading in readout(compile_shot(on), 1)}["filter"] == "6 stops"


def test_keys_are_said_in_the_words_that_read_them_back() -> None:
    shot = pass_(hold_s=60)
    for index in (0, 1):
        for word in key_words(shot, index):
            assert word.field
            if word.text != "–":
                after = apply_edit(shot, Edit(field=word.field, text=word.text))
                assert key_words(after, index) == key_words(shot, index)


def test_becoming_live_and_ceasing_to_be_retimes_the_shot() -> None:
    live = apply_edit(pass_(), Edit(field="move.kind", text="at live speed"))
    assert solve(live.timing).interval_s * solve(live.timing).fps == 1
    assert solve(live.timing).event_s == 60
    # The keys keep their places within the event.
    assert live.move and [one.at.after_s for one in live.move.keys] == [0, 60]  # type: ignore[union-attr]
    assert compile_shot(live).motion
    again = apply_edit(live, Edit(field="move.kind", text="without stopping"))
    assert solve(again.timing).interval_s >= again.kit.body.minimum_interval_s


def test_the_light_panel_speaks_of_stars_filters_and_the_reading() -> None:
    program = compile_shot(with_filters(angle_deg=180))
    rows = filter_rows(program)
    assert {row.name for row in rows} == {"Soft", "Dark", "Soft + Dark"}
    assert all(row.shot.light.filters for row in rows)
    assert filter_rows(compile_shot(with_filters())) == []
    high, low = night_rows(program)
    assert high.iso == "12800" and low.iso == "100"
    told = stars_told(program)
    assert "NPF" in told[0] and any("moon" in line for line in told)
    assert reading_told(program).startswith("No reading yet")


@given(st.floats(1 / 9000, 7000))
def test_a_shutter_is_shown_within_a_sixth_of_a_stop_of_what_it_is(shutter_s: float) -> None:
    text = show_shutter(shutter_s).removesuffix(" s").replace(",", "")
    over, _, under = text.partition("/")
    shown = float(over) / float(under) if under else float(over)
    assert abs(np.log2(shown / shutter_s)) < 0.17


def test_seven_axes_move_together_and_each_has_its_column() -> None:
    names = ("slide", "lift", "pan", "tilt", "roll", "zoom", "focus")
    ends = {"slide": 900.0, "lift": 300.0, "pan": 20.0, "tilt": 9.0, "roll": 4.0, "zoom": 50.0, "focus": 3.0}
    starts = dict.fromkeys(names, 0.0) | {"zoom": 24.0, "focus": 1.0}
    move = Move.model_validate({"keys": [key(0, **starts).model_dump(), key(18_000, **ends).model_dump()]})
    program = compile_shot(make_shot(kit=rig(*(axis(name) for name in names)), move=move))
    columns = program.columns()
    assert program.motion and tuple(program.motion.positions) == names
    for name, end in ends.items():
        assert float(columns[name][0]) == pytest.approx(starts[name])
        assert float(program.motion.at(np.array(18_000.0))[name]) == pytest.approx(end)
