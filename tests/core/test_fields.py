"""Every value of a shot that can be edited: shown, read back, nudged, and refused in its own words."""

from functools import cache

import pytest
from hypothesis import given
from hypothesis import strategies as st

from revani.core.documents import Filter, Light, LightKey, Mode, Pace, Shot
from revani.core.edit.apply import Edit, apply_edit
from revani.core.edit.fields import FIELDS, field_of
from revani.core.quantities.measures import measured_in
from revani.core.quantities.refusal import Refusal
from revani.core.shown.sentence import aside, key_words, sentence, thing_words
from revani.core.timing.pace import solved
from tests.conftest import make_shot
from tests.core.moving import KILN, axis, key, rig


@cache
def rich() -> Shot:
    """A shot that has everything: filters, wishes, a pace, stars, keys, a thing, a locked aim."""
    smoke = Filter(name="Smoke 3", stops=3)
    kit = rig(*(axis(name) for name in ("slide", "pan", "tilt", "zoom", "focus")))
    body = kit.body.model_copy(update={"modes": (Mode(name="Whole"), Mode(name="Middle", part=0.5))})
    kit = kit.model_copy(update={"body": body, "filters": (smoke, Filter(name="Smoke 6", stops=6))})
    keys = [key(0, slide=100, zoom=30, focus=2), key(9_000, hold_s=600, slide=900, zoom=40, focus=5)]
    return make_shot(
        kit=kit, needs_dark=True, pace=Pace.model_validate({"night_factor": 2}),
        light=Light(
            school="stepped", aperture=4, filters=(smoke.id,), angle_deg=180,
            keys=(LightKey(after_s=600, bias_stops=0.5), LightKey(after_s=4_000, bias_stops=-1)),
            filters_off={"by": "sun", "event": "sunset", "offset_s": 600},
        ),
        move={
            "keys": [one.model_dump() for one in keys], "things": [KILN.model_dump()],
            "aim": {"thing": "Kiln", "across": 0.4},
        },
    )  # fmt: skip


def names_of(shot: Shot) -> list[str]:
    """Every field that the desk shows of a shot, and those that this shot does not show but another would."""
    words = [word for line in (*sentence(shot), *aside(shot).values()) for word in line]
    for i in range(len(shot.move.keys) if shot.move else 0):
        words += key_words(shot, i)
    for i in range(len(shot.move.things) if shot.move else 0):
        words += thing_words(shot, i)
    return sorted({word.field for word in words if word.field} | set(FIELDS))


NAMES = names_of(rich())


def shown(shot: Shot, name: str) -> str:
    field = field_of(name, shot)
    assert field
    return field.show(shot, solved(shot))


def test_a_rich_shot_has_them_all() -> None:
    assert {"pace.night_s", "light.keys.1", "light.filters_off", "move.keys.1.focus", "move.things.0.y_mm"} <= set(
        NAMES
    )
    assert {"move.aim.across", "moonlight_up_to", "light.dead_band_stops", "move.incline_deg"} <= set(NAMES)


@pytest.mark.parametrize("name", NAMES)
@pytest.mark.parametrize("system", ["metric", "imperial"])
def test_what_is_shown_can_be_typed(name: str, system: str) -> None:
    with measured_in(system):  # type: ignore[arg-type]
        text = shown(rich(), name)
        assert shown(apply_edit(rich(), Edit(field=name, text=text)), name) == text


@pytest.mark.parametrize("name", NAMES)
def test_a_nudge_moves_it_there_and_back_and_leaves_a_shot_that_can_be_planned(name: str) -> None:
    up = apply_edit(rich(), Edit(field=name, nudge=1))
    # What the shot is after an arrow key is a document like any other.
    assert Shot.model_validate_json(up.model_dump_json()) == up
    field = field_of(name, rich())
    assert field
    if field.choices_for(rich(), solved(rich())):
        assert shown(up, name) in field.choices_for(rich(), solved(rich())) and shown(up, name) != shown(rich(), name)
        return
    # Once it stands on a step, a step up and a step down lead back there.
    higher = apply_edit(up, Edit(field=name, nudge=1))
    assert shown(apply_edit(higher, Edit(field=name, nudge=-1)), name) == shown(up, name)


@pytest.mark.parametrize("name", [name for name in NAMES if field_of(name, rich()).choices_for(rich(), solved(rich()))])  # type: ignore[union-attr]
def test_a_choice_takes_each_of_its_words_and_no_other(name: str) -> None:
    field = field_of(name, rich())
    assert field
    for word in field.choices_for(rich(), solved(rich())):
        assert shown(apply_edit(rich(), Edit(field=name, text=word)), name) == word
    with pytest.raises(Refusal, match="Choose one of") as refused:
        apply_edit(rich(), Edit(field=name, text="otherwise"))
    assert refused.value.path == name


@given(st.sampled_from(NAMES), st.text(st.characters(exclude_characters="\0"), max_size=30))
def test_whatever_is_typed_is_taken_or_refused_at_its_field(name: str, text: str) -> None:
    try:
        after = apply_edit(rich(), Edit(field=name, text=text))
    except Refusal as refusal:
        assert refusal.path == name and refusal.allowed
    else:
        assert Shot.model_validate_json(after.model_dump_json()) == after


@given(st.sampled_from(NAMES), st.integers(-1000, 1000))
def test_no_nudge_however_long_breaks_a_shot(name: str, steps: int) -> None:
    try:
        after = apply_edit(rich(), Edit(field=name, nudge=steps))
    except Refusal as refusal:
        assert refusal.path == name and refusal.allowed
    else:
        assert Shot.model_validate_json(after.model_dump_json()) == after
