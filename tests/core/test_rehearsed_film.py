"""The film that a shot would give: its frames, what tells it from others, what rules a frame."""

import numpy as np

from revani.core.documents import Shot
from revani.core.program.compiled import compile_shot
from revani.core.rehearsal import film as films
from revani.core.rehearsal.film import rehearsed
from revani.core.rehearsal.outcome import rehearse, stands_from, taken_frames
from revani.core.rehearsal.ruling import ruling
from tests.conftest import make_kit, make_shot
from tests.core.moving import SLIDE, rig


def shot(**change: object) -> Shot:
    return Shot.model_validate(make_shot().model_dump() | change)


def test_frames_that_would_not_be_taken_are_not_in_the_film() -> None:
    whole = compile_shot(make_shot())
    assert rehearsed(whole, 480).frames.tolist() == list(range(600))
    dying = compile_shot(shot(kit=make_kit(body={"battery_wh": 3}).model_dump()))
    outcome = rehearse(dying)
    film = rehearsed(dying, 480)
    assert outcome.end == "battery empty" and len(film.frames) == outcome.frames_taken < 600
    assert f"{600 - outcome.frames_taken} frames would not be taken" in film.told
    # A buffer that is full lets frames go by in the middle.
    slow = make_kit(body={"buffer_frames": 2, "bytes_per_frame": 2_000_000_000})
    slow = slow.model_copy(update={"card": slow.card.model_copy(update={"write_mb_s": 40.0, "capacity_gb": 9_000.0})})
    blocked = compile_shot(shot(kit=slow.model_dump()))
    there = taken_frames(blocked)
    assert rehearse(blocked).frames_blocked == int((~there).sum()) > 0
    assert np.diff(rehearsed(blocked, 480).frames).max() > 1


def test_the_same_plan_is_the_same_film_and_an_edit_changes_only_what_it_changes() -> None:
    plain = rehearsed(compile_shot(make_shot()), 480)
    assert plain.key == rehearsed(compile_shot(make_shot()), 480).key
    # What is not in the picture makes no other film.
    renamed = make_shot().model_copy(update={"name": "Another", "note": "Words."})
    assert rehearsed(compile_shot(renamed), 480).key == plain.key
    assert rehearsed(compile_shot(make_shot()), 640).key != plain.key
    late = shot(light=make_shot().light.model_dump() | {"shutter_s": 10})
    before, after = (one.parts(200) for one in (plain, rehearsed(compile_shot(late), 480)))
    same = [a[2] == b[2] for a, b in zip(before, after, strict=True)]
    # By day a shorter limit of the shutter rules nothing: that part is not made anew.
    assert same[0] and not same[-1]


def test_parts_cover_the_film_once_and_a_very_long_one_is_thinned() -> None:
    film = rehearsed(compile_shot(make_shot()), 480)
    parts = film.parts(200)
    assert [first for first, _, _ in parts] == [0, 200, 400] and sum(count for _, count, _ in parts) == 600
    kit = make_kit(body={"battery_wh": 2_000, "bytes_per_frame": 1_000}).model_dump()
    long = compile_shot(shot(timing={"fps": 30, "interval_s": 2, "frame_count": films.MOST + 1}, kit=kit))
    thin = rehearsed(long, 480)
    assert thin.every == 2 and len(thin.frames) == films.MOST // 2 + 1 and "every 2. is shown" in thin.told
    assert thin.fps == 15


def test_what_rules_a_frame_is_said_with_the_value_that_would_change_it() -> None:
    def said(**light: object) -> tuple[str, str]:
        program = compile_shot(shot(light=make_shot().light.model_dump() | light))
        return ruling(program, int(np.argmax(program.exposures.shutter_s)))

    assert said(school="fixed", shutter_s="1/60") == ("You hold the shutter at 1/60.", "light.shutter_s")
    assert said(shutter_s=5) == ("You let the shutter open up to 5 s; from there on ISO goes up.", "light.shutter_s")
    assert said(shutter_s=30) == ("The interval leaves the shutter no more than 29.5 s.", "timing.interval_s")
    day = compile_shot(shot(start={"by": "clock", "time": "12:00"}))
    assert ruling(day, 0)[0].startswith("The light asks for 1/") and ruling(day, 0)[1] == "light.aperture"


def test_the_film_of_a_walk_is_as_long_as_it_is_sped_up() -> None:
    walk = {"points": [{"x_mm": 0, "y_mm": 0}, {"x_mm": 0, "y_mm": 60_000}], "factor": 16, "head_s": 1, "tail_s": 1}
    program = compile_shot(
        shot(
            walk=walk, move={"kind": "live"}, timing={"fps": 30, "interval_s": "1/30", "event_s": 50},
            start={"by": "clock", "time": "12:00"}, light={"shutter_s": "1/60"},
        )
    )  # fmt: skip
    film = rehearsed(program, 480)
    assert len(film.frames) == int(program.film_length_s * 30) < program.frame_count / 8
    # A second as it was, then sixteen times as fast.
    steps = np.diff(film.frames)
    assert set(steps[:28].tolist()) == {1} and 15 <= np.median(steps) <= 17


def test_a_rig_without_power_stands_in_the_film_too() -> None:
    kit = rig(SLIDE, battery_wh=1.0, idle_w=1.0, moving_w=5.0).model_dump()
    keys = [{"at": {"by": "after", "after_s": s}, "positions": {"slide": x}} for s, x in ((0, 0), (17_000, 900))]
    dying = compile_shot(shot(kit=kit, move={"kind": "stepwise", "keys": keys, "on_stall": "hold"}))
    stands = stands_from(dying)
    assert stands is not None and 0 < stands < 500 and rehearse(dying).end == "whole"
    posed_at = rehearsed(dying, 160).posed_at
    assert posed_at[:stands].tolist() == list(range(stands)) and set(posed_at[stands:].tolist()) == {stands - 1}
    # A film in which it went on is another one.
    powered = compile_shot(shot(kit=rig(SLIDE).model_dump(), move={"kind": "stepwise", "keys": keys}))
    assert rehearsed(powered, 160).parts(200)[-1] != rehearsed(dying, 160).parts(200)[-1]
