"""The move in words: what is typed, nudged and dragged on keys, things and a locked aim."""

import numpy as np
import pytest

from revani.core.documents import MOST_THINGS, MoveKey, Shot
from revani.core.edit.apply import Edit, apply_edit
from revani.core.edit.keys import MoveEdit, apply_move_edit
from revani.core.move.words import show_moment
from revani.core.program.compiled import compile_shot
from revani.core.quantities.measures import measured_in
from revani.core.quantities.refusal import Refusal
from revani.core.shown.sentence import aside, key_words, thing_words
from tests.core.moving import KILN, axis, key, pass_, rig, shot_of


def locked() -> Shot:
    return pass_(things=[KILN.model_dump()], aim={"thing": "Kiln"})


def edited(shot: Shot, edit: MoveEdit) -> Shot:
    return apply_move_edit(compile_shot(shot), edit)


def said(shot: Shot) -> str:
    return "".join(word.text for word in aside(shot)["move"])


def test_the_line_of_the_move_has_what_belongs_to_this_move() -> None:
    assert "px" in said(pass_()) and "across" not in said(pass_())
    assert "locked on Kiln at 50 % across, 50 % down" in said(locked())
    stepwise = apply_edit(locked(), Edit(field="move.kind", text="shoot, move, settle"))
    assert "px" not in said(stepwise)


@pytest.mark.parametrize(
    ("field", "text", "shown"),
    [
        ("move.aim.across", "33 %", "33 %"), ("move.aim.down", "0.6", "60 %"), ("move.incline_deg", "12.5°", "12.5°"),
        ("move.blur_limit_px", "9", "9 px"), ("move.things.0.name", "Old kiln", "Old kiln"),
        ("move.things.0.role", "background", "background"), ("move.things.0.x_mm", "-1.5 m", "−1,500 mm"),
        ("move.things.0.y_mm", "10 ft", "3,048 mm"), ("move.keys.0.slide", "1 ft", "304.8 mm"),
    ],
)  # fmt: skip
def test_a_value_is_typed_and_shown(field: str, text: str, shown: str) -> None:
    changed = apply_edit(locked(), Edit(field=field, text=text))
    words = [*aside(changed)["move"], *thing_words(changed, 0), *key_words(changed, 0)]
    assert next(word.text for word in words if word.field == field) == shown


@pytest.mark.parametrize(
    ("field", "text", "allowed"),
    [
        ("move.aim.across", "130 %", "100 %"), ("move.aim.down", "middle", "part of the picture"),
        ("move.incline_deg", "95°", "At most 90°"), ("move.incline_deg", "5 mm", "angle"),
        ("move.blur_limit_px", "0", "More than 0 px"), ("move.blur_limit_px", "some", "pixels"),
        ("move.things.0.width_mm", "0", "More than 0 mm"), ("move.things.0.y_mm", "far", "length"),
        ("move.things.0.name", " ", "must not be empty"), ("move.things.0.role", "star", "Choose one of"),
        ("move.things.4.name", "Nobody", "can be edited"), ("move.aim.up", "50 %", "can be edited"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_refused_at_its_own_field(field: str, text: str, allowed: str) -> None:
    with pytest.raises(Refusal) as refused:
        apply_edit(locked(), Edit(field=field, text=text))
    assert refused.value.path == field and allowed in refused.value.allowed


def test_an_aim_has_a_place_in_the_picture_only_while_it_is_locked() -> None:
    with pytest.raises(Refusal, match="can be edited"):
        apply_edit(pass_(), Edit(field="move.aim.across", text="50 %"))


def test_a_thing_that_is_named_anew_keeps_the_aim_and_one_that_is_taken_away_lets_it_go() -> None:
    shot = apply_edit(locked(), Edit(field="move.things.0.name", text="Old kiln"))
    assert shot.move and shot.move.aim and shot.move.aim.thing == "Old kiln"
    shot = edited(shot, MoveEdit(action="add thing"))
    assert shot.move and [thing.name for thing in shot.move.things] == ["Old kiln", "Thing 1"]
    shot = edited(shot, MoveEdit(action="remove thing", index=0))
    assert shot.move and shot.move.aim is None and [thing.name for thing in shot.move.things] == ["Thing 1"]
    with pytest.raises(Refusal, match="From 0 to 0"):
        edited(shot, MoveEdit(action="remove thing", index=3))


def test_two_things_of_one_name_and_one_too_many_are_refused() -> None:
    shot = edited(locked(), MoveEdit(action="add thing"))
    with pytest.raises(Refusal, match="name of its own"):
        apply_edit(shot, Edit(field="move.things.1.name", text="Kiln"))
    many = [KILN.model_copy(update={"name": f"Post {i}"}).model_dump() for i in range(MOST_THINGS)]
    with pytest.raises(Refusal) as refused:
        edited(pass_(things=many), MoveEdit(action="add thing"))
    assert refused.value.path == "move.things"


def test_dragging_the_picture_of_a_locked_aim_drags_its_target() -> None:
    shot = edited(locked(), MoveEdit(action="aim", across=-0.2, down=0.1))
    assert shot.move and shot.move.aim
    assert (shot.move.aim.across, shot.move.aim.down) == pytest.approx((0.7, 0.4))
    assert shot.move.keys == locked().move.keys  # type: ignore[union-attr]
    # It stays in the picture however far it is dragged.
    far = edited(shot, MoveEdit(action="aim", across=-9.0))
    assert far.move and far.move.aim and far.move.aim.across == 1


def test_an_arrow_key_steps_as_the_shown_measures_do() -> None:
    def slide(shot: Shot) -> float:
        return shot.move.keys[0].positions["slide"]  # type: ignore[union-attr]

    before = slide(locked())
    nudge = Edit(field="move.keys.0.slide", nudge=2)
    assert slide(apply_edit(locked(), nudge)) == pytest.approx(before + 20)
    with measured_in("imperial"):
        assert slide(apply_edit(locked(), nudge)) == pytest.approx(before + 25.4)


def focusing(*keys: MoveKey) -> Shot:
    """A rig that slides, pans and focuses past a pot at one metre and a kiln at three."""
    pot = KILN.model_copy(update={"name": "Pot", "x_mm": 100.0, "y_mm": 1000.0})
    kit = rig(*(axis(name) for name in ("slide", "pan", "focus")))
    return shot_of(*keys, kit=kit, things=[KILN.model_dump(), pot.model_dump()])


def test_focus_is_pulled_from_one_thing_to_another_within_so_much_of_the_film() -> None:
    shot = focusing(key(0, slide=100, focus=1.0), key(18_000, slide=100))
    program = compile_shot(shot)
    pulled = edited(shot, MoveEdit(action="pull", index=0, at_s=program.start_s + 6_000, over="2 s"))
    assert pulled.move
    # Two seconds of a film at 30 fps are 60 frames, 30 s apart.
    moments = [one.at.after_s for one in pulled.move.keys if "focus" in one.positions]  # type: ignore[union-attr]
    assert moments == [0, 6_000, 7_800]
    after = compile_shot(pulled)
    assert after.motion
    focus = after.motion.positions["focus"]
    # What is sharp is a plane across the optical axis, here 8° up: 3 m ahead and 0.35 m below the lens.
    away = 3.0 * np.cos(np.radians(8)) - 0.35 * np.sin(np.radians(8))
    assert focus[:200] == pytest.approx(np.ones(200)) and focus[-1] == pytest.approx(away, abs=1e-3)
    # On the way it goes straight in 1/distance.
    assert float(after.motion.at(np.array(6_900.0))["focus"]) == pytest.approx(2 / (1 + 1 / away), abs=1e-3)
    # The rest of the move is as it was.
    assert after.motion.positions["slide"] == pytest.approx(program.motion.positions["slide"])  # type: ignore[union-attr]


def test_a_first_pull_begins_at_the_hyperfocal_distance() -> None:
    shot = focusing(key(0, slide=100), key(18_000, slide=900))
    program = compile_shot(shot)
    pulled = compile_shot(edited(shot, MoveEdit(action="pull", index=1, at_s=program.start_s, over="1")))
    assert pulled.motion
    # H = f²/(N c) + f with c a 1500th of the diagonal: 24²/(2.8284 · 0.028844) + 24 mm.
    assert pulled.motion.positions["focus"][0] == pytest.approx(7.08, abs=0.02)


@pytest.mark.parametrize(
    ("change", "allowed"),
    [
        ({"over": "soon"}, "length of time"), ({"over": "0"}, "Between 0 s and"),
        ({"over": "1 min"}, "Between 0 s and"),
        ({"index": 7}, "From 0 to 1"), ({"index": None}, "From 0 to 1"),
    ],
)  # fmt: skip
def test_a_pull_that_cannot_be_is_refused(change: dict[str, object], allowed: str) -> None:
    shot = focusing(key(0, slide=100, focus=2.0), key(18_000, slide=900))
    values = {"action": "pull", "index": 0, "at_s": compile_shot(shot).start_s, "over": "2 s"} | change
    with pytest.raises(Refusal) as refused:
        edited(shot, MoveEdit.model_validate(values))
    assert refused.value.path == "move.pull" and allowed in refused.value.allowed


def test_a_rig_without_a_focus_motor_and_a_thing_behind_it_cannot_be_pulled_to() -> None:
    with pytest.raises(Refusal, match="drives the focus"):
        edited(locked(), MoveEdit(action="pull", index=0, over="2 s"))
    behind = KILN.model_copy(update={"y_mm": -3000.0})
    shot = focusing(key(0, slide=100, focus=2.0), key(18_000, slide=900)).with_move(things=[behind.model_dump()])
    with pytest.raises(Refusal, match="behind the camera"):
        edited(shot, MoveEdit(action="pull", index=0, over="2 s"))


def nudged(shot: Shot, field: str, steps: int) -> MoveKey:
    after = apply_edit(shot, Edit(field=field, nudge=steps))
    assert after.move
    return after.move.keys[1]


@pytest.mark.parametrize(
    ("moment", "later"),
    [
        ("+ 40 min", "+ 41 min 30 s"), ("frame 120", "frame 123"), ("film 4 s", "film 4.1 s"),
        ("18:02", "18:15"), ("sunset − 10 min", "sunset + 5 min"), ("sun behind the ridge", "sun behind the ridge"),
    ],
)  # fmt: skip
def test_an_arrow_key_moves_a_moment_by_frames_or_by_five_minutes(moment: str, later: str) -> None:
    # A frame comes every 30 s, and is a thirtieth of a second of film.
    shot = apply_edit(pass_(), Edit(field="move.keys.1.at", text=moment))
    assert show_moment(nudged(shot, "move.keys.1.at", 3).at, shot) == later


def test_an_arrow_key_lengthens_a_hold_by_a_frame_and_never_makes_it_negative() -> None:
    assert nudged(pass_(), "move.keys.1.hold", 2).hold_s == 60
    assert nudged(pass_(), "move.keys.1.hold", -5).hold_s == 0


def test_the_key_next_to_the_plumb_line_is_set_again_or_taken_away() -> None:
    shot = pass_()
    assert shot.move
    start_s, end_s = compile_shot(shot).start_s, compile_shot(shot).end_s
    again = edited(shot, MoveEdit(action="duplicate", at_s=start_s + 900))
    assert again.move and len(again.move.keys) == 3
    assert again.move.keys[1].positions == shot.move.keys[0].positions
    left = edited(shot, MoveEdit(action="remove", at_s=end_s - 900))
    assert left.move and left.move.keys == shot.move.keys[:1]
    with pytest.raises(Refusal, match="none yet"):
        edited(edited(left, MoveEdit(action="remove", at_s=start_s)), MoveEdit(action="remove", at_s=start_s))
