import pytest
from hypothesis import given
from hypothesis import strategies as st

from revani.core.documents import Light, Shot
from revani.core.documents.timing import Timing
from revani.core.edit.apply import Edit, apply_edit
from revani.core.edit.fields import FIELDS
from revani.core.quantities.refusal import Refusal
from revani.core.shown.sentence import sentence
from revani.core.timing.law import solve
from tests.conftest import make_shot


def say(shot: Shot, line: int = 0) -> str:
    """The sentence with solved values marked, as the page does."""
    return "".join(f"{word.text}=" if word.state == "solved" else word.text for word in sentence(shot)[line])


def test_the_shot_is_said_in_words() -> None:
    assert say(make_shot()) == (
        "Film 20 s at 30 fps, a frame every 30 s from sunset − 40 min, so 5 h 00 min= and 600 frames=."
    )
    fixed = make_shot(light=Light(school="fixed", aperture=2.8, iso=1600, shutter_s=8))
    assert "hold the exposure at 8 s, ISO 1600, f/2.8" in say(fixed, 1)


def test_typing_the_event_solves_the_interval() -> None:
    shot = apply_edit(make_shot(), Edit(field="timing.event_s", text="10h"))
    assert say(shot).startswith("Film 20 s at 30 fps, a frame every 1 min= from")


def test_equals_frees_a_quantity_and_changes_no_number() -> None:
    before = make_shot()
    after = apply_edit(before, Edit(field="timing.playback_s", text="="))
    assert after.timing.playback_s is None
    assert after == apply_edit(before, Edit(field="timing.playback_s", free=True))
    assert say(after).replace("=", "") == say(before).replace("=", "")


def test_what_rounding_changed_is_told_beside_the_value() -> None:
    shot = apply_edit(make_shot(), Edit(field="timing.playback_s", text="10.01s"))
    notes = [word.note for word in sentence(shot)[0] if word.note]
    assert notes == ["10.01 s at 30 fps is 300 frames, 10 s"]


@pytest.mark.parametrize(
    ("field", "steps", "text"),
    [
        ("timing.interval_s", 1, "40 s"), ("timing.interval_s", -1, "25 s"), ("timing.fps", 1, "48 fps"),
        ("timing.fps", -1, "29.97 fps"), ("timing.playback_s", 5, "25 s"), ("timing.event_s", 1, "5 h 15 min"),
        ("start", 1, "sunset − 35 min"), ("light.iso_ceiling", 1, "4000"), ("light.aperture", -1, "f/2.5"),
        ("light.white_balance_k", 1, "4,900 K"), ("timing.frame_count", 1, "610 frames"), ("date", 7, "2026-12-01"),
        ("light.cloud", 1, "haze"), ("light.shutter_s", 1, "25 s"),
    ],
)  # fmt: skip
def test_arrows_nudge_by_a_sensible_step(field: str, steps: int, text: str) -> None:
    shot = apply_edit(make_shot(), Edit(field=field, nudge=steps))
    assert FIELDS[field].show(shot, solve(shot.timing)) == text


@pytest.mark.parametrize("field", FIELDS)
def test_what_a_field_shows_it_reads_back(field: str) -> None:
    shot = make_shot()
    shown = FIELDS[field].show(shot, solve(shot.timing))
    assert FIELDS[field].show(apply_edit(shot, Edit(field=field, text=shown)), solve(shot.timing)) == shown


@pytest.mark.parametrize(
    ("field", "text"),
    [
        ("timing.playback_s", "long"), ("timing.fps", "0"), ("timing.fps", "nan"), ("timing.interval_s", "-3"),
        ("timing.frame_count", "1.5"), ("timing.frame_count", "0"), ("timing.event_s", "500 d"), ("start", "noonish"),
        ("light.iso", "fast"), ("light.shutter_s", "0"), ("light.aperture", "f/"), ("light.cloud", "snow"),
        ("light.white_balance_k", "1"), ("date", "tomorrow"), ("date", "1492-10-12"), ("light.iso", "9" * 90),
    ],
)  # fmt: skip
def test_bad_text_is_refused_at_the_field_that_was_edited(field: str, text: str) -> None:
    with pytest.raises(Refusal) as refusal:
        shot = apply_edit(make_shot(), Edit(field=field, text=text))
        solve(shot.timing)
    assert refusal.value.path == field or refusal.value.path == ""
    assert len(refusal.value.allowed) > 10


def test_an_edit_must_be_one_thing_on_a_field_that_exists() -> None:
    for edit in (Edit(field="name", text="x"), Edit(field="start"), Edit(field="start", text="9:00", nudge=1)):
        with pytest.raises(Refusal):
            apply_edit(make_shot(), edit)
    with pytest.raises(Refusal):
        apply_edit(make_shot(), Edit(field="start", free=True))


@given(st.sampled_from(sorted(FIELDS)), st.text(st.characters(exclude_characters="\x00"), max_size=20))
def test_no_text_whatever_breaks_the_desk(field: str, text: str) -> None:
    try:
        after = apply_edit(make_shot(), Edit(field=field, text=text))
    except Refusal as refusal:
        assert refusal.path == field
    else:
        assert Shot.model_validate_json(after.model_dump_json()) == after


@given(st.lists(st.sampled_from([f"timing.{name}" for name in Timing.model_fields]), max_size=8))
def test_freeing_over_and_over_always_leaves_a_shot_that_solves(fields: list[str]) -> None:
    shot = make_shot()
    expected = solve(shot.timing)
    for field in fields:
        shot = apply_edit(shot, Edit(field=field, free=True))
    assert solve(shot.timing).model_dump() == expected.model_dump()


@pytest.mark.parametrize(
    ("timing", "field", "known"),
    [
        (Timing(fps=30, interval_s=30, playback_s=20), "timing.frame_count", "20 s × 30 fps = 600 frames"),
        (Timing(fps=30, interval_s=30, playback_s=20), "timing.event_s", "600 frames × 30 s = 5 h 00 min"),
        (Timing(fps=30, interval_s=7, event_s=100), "timing.frame_count", "1 min 40 s / 7 s = 14 frames, whole ones"),
        (Timing(fps=30, event_s=18_000, frame_count=600), "timing.interval_s", "5 h 00 min / 600 frames = 30 s"),
        (Timing(frame_count=600, playback_s=20, interval_s=30), "timing.fps", "600 frames / 20 s = 30 fps"),
    ],
)
def test_a_solved_number_says_how_it_follows(timing: Timing, field: str, known: str) -> None:
    words = {word.field: word for word in sentence(make_shot(timing=timing))[0]}
    said = words[field]
    assert said.known == known
    assert all(not word.known for word in words.values() if word.state != "solved")
