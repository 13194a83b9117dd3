"""May I go? The files of the first frames against the plan: no false alarm over the whole range, no fault missed."""

import io
from collections.abc import Sequence
from datetime import date
from itertools import pairwise

import cv2
import numpy as np
import pytest
from PIL import Image

from revani.core.documents import ClockStart, Light, Shot
from revani.core.documents.timing import Timing
from revani.core.edit.apply import Edit, apply
from revani.core.program.compiled import Program, compile_shot
from revani.core.watch.first_frames import (
    FileSeen,
    GoVerdict,
    frames_looked_at,
    look_at_its_screen,
    looked_after,
    may_go,
)
from revani.jobs.look import look, sharpness, star_length_px
from revani.jobs.sample import sample_shots
from revani.rig.ports import CameraSettings
from revani.rig.stage import StageClock
from revani.rig.standins.seen import take
from revani.runner.scene import scene_of
from tests.conftest import make_shot


def files_of(
    program: Program, numbers: Sequence[int], heading_deg: float = 0.0, **other: float
) -> list[tuple[int, bytes]]:
    """The files of frames as the simulated camera takes them: as planned, turned away, or with other settings."""
    framing = program.shot.framing
    turned = framing.model_copy(update={"heading_deg": (framing.heading_deg + heading_deg) % 360})
    elsewhere = compile_shot(program.shot.model_copy(update={"framing": turned}))
    scene = scene_of(elsewhere, StageClock.starting(program.start_s, 1), "first")
    got, found = program.exposures, []
    for number in numbers:
        i = number - 1
        settings = {"shutter_s": float(got.shutter_s[i]), "aperture": float(got.aperture[i]), "iso": float(got.iso[i])}
        asked = CameraSettings(**(settings | other), white_balance_k=round(float(program.white_balance_k[i])))
        pose = program.pose(float(program.t_s[i]))
        moved = {"slide": float(pose.right_mm)} if program.motion is not None else {}
        found.append((number, take(scene, asked, number, float(program.at_s[i]), moved)))
    return found


def verdict_on(program: Program, files: list[tuple[int, bytes]], after: int = 5) -> GoVerdict:
    return may_go(program, after, look(program, files))


def lit(**change: object) -> dict[str, object]:
    return make_shot().light.model_dump() | change


RANGE: dict[str, dict[str, object]] = {
    "ramp at dusk": {},
    "by day": {"start": {"by": "clock", "time": "11:00"}},
    "night alone": {"start": {"by": "clock", "time": "23:00"}},
    "dark night": {"start": {"by": "clock", "time": "23:00"}, "light": lit(night_stops=-2)},
    "held": {"light": lit(school="fixed", shutter_s="1/30", aperture=8, iso=200)},
    "automatic by day": {"start": {"by": "clock", "time": "11:00"}, "light": lit(school="automatic")},
    "automatic by night": {"start": {"by": "clock", "time": "23:00"}, "light": lit(school="automatic")},
    "over midnight": {"start": {"by": "clock", "time": "23:58"}},
    "paced slowly": {"timing": {"fps": 30, "interval_s": 600, "frame_count": 60}},
    "paced fast": {
        "timing": {"fps": 30, "interval_s": 2, "frame_count": 300},
        "start": {"by": "clock", "time": "12:00"},
    },
    "a bright moon": {"date": "2026-11-24", "start": {"by": "clock", "time": "23:00"}},
    "over a clock change": {"date": "2026-10-25", "start": {"by": "clock", "time": "00:59"}},
}


@pytest.mark.parametrize("change", RANGE.values(), ids=RANGE)
def test_what_comes_as_planned_lets_one_go(change: dict[str, object]) -> None:
    program = compile_shot(Shot.model_validate(make_shot().model_dump() | change))
    for after in looked_after(program)[:3]:
        numbers = range(1, 6) if after <= 5 else (after - 1, after)
        found = verdict_on(program, files_of(program, list(numbers)), after)
        assert found.level == "go" and "as planned" in found.told, (after, found)


SAMPLES = [
    shot
    for shot in sample_shots(date(2026, 11, 29))
    if shot.fires == "linked" and not shot.makes_film and not shot.walk
]


@pytest.mark.parametrize("shot", SAMPLES, ids=[shot.name for shot in SAMPLES])
def test_no_shot_of_the_demo_is_told_off_that_comes_as_planned(shot: Shot) -> None:
    # One of them looks into the setting sun, which goes on from frame to frame; the camera does not.
    program = compile_shot(shot)
    for after in looked_after(program)[:2]:
        numbers = range(1, 6) if after <= 5 else (after - 1, after)
        files = files_of(program, list(numbers))
        found = verdict_on(program, files, after)
        assert "moved" not in found.told and found.level == "go", (after, found)
        if program.motion is None:
            shifts = [(one.right_px, one.down_px) for one in look(program, files)]
            assert all(abs(px) < 1 for shift in shifts for px in shift if px is not None), shifts


def test_it_is_looked_again_whenever_the_light_has_fallen_three_stops() -> None:
    program = compile_shot(make_shot())
    after = looked_after(program)
    assert after[0] == 5 and len(after) > 2
    for a, b in pairwise(after):
        fallen = program.scene_ev[a - 1] - program.scene_ev[a:b]
        assert fallen[-1] >= 3 and (fallen[:-1] < 3).all()
    assert looked_after(compile_shot(make_shot(timing=Timing(fps=30, interval_s=60, frame_count=3)))) == (3,)


def test_a_file_that_says_two_and_a_half_seconds_where_thirty_were_planned_stops_one() -> None:
    # The night of the handbook: the body raises its ISO to the ceiling instead of taking its longest.
    light = lit(school="automatic", iso_ceiling=100, shutter_s=30)
    shot = Shot.model_validate(make_shot().model_dump() | {
        "light": light, "start": {"by": "clock", "time": "23:00"},
        "timing": {"fps": 30, "interval_s": 35, "frame_count": 200},
    })  # fmt: skip
    program = compile_shot(shot)
    assert float(program.exposures.shutter_s[0]) > 10
    found = verdict_on(program, files_of(program, range(1, 6), shutter_s=2.5, iso=100.0))
    assert found.level == "stop" and found.price == "To begin anew costs the 5 frames so far."
    assert "came with 2.5 s" in found.told and "was planned" in found.told and "ISO stands at the ceiling" in found.told
    assert found.reasons[0].field == "light.iso_ceiling" and found.reasons[0].fix is None, "there is no lower ISO"
    # With room under it, the ceiling is lowered by as much as the shutter was shortened, and the plan holds then.
    high = shot.with_light(iso_ceiling=1600)
    planned_s = float(compile_shot(high).exposures.shutter_s[0])
    seen = files_of(compile_shot(high), range(1, 6), shutter_s=planned_s / 8, iso=1600.0)
    (why, *_) = verdict_on(compile_shot(high), seen).reasons
    # Which frame is the furthest off decides between two neighbours on the dial, three stops down or a third more.
    assert why.fix is not None and why.fix.typed in ("160", "200")
    assert why.fix.label == f"Lower the ceiling to ISO {why.fix.typed}" and "stops less grain" in why.fix.price
    mended = apply(high, Edit(field=why.field, text=why.fix.typed))
    assert mended.light.iso_ceiling == int(why.fix.typed) and compile_shot(mended)


@pytest.mark.parametrize(
    ("other", "level", "field"),
    [
        ({"shutter_s": 1.5}, "stop", "light.shutter_s"),
        ({"aperture": 8.0}, "stop", "light.aperture"),
        ({"iso": 6400.0}, "stop", "light.iso"),
    ],
)
def test_settings_that_nobody_planned_are_named_with_their_field(
    other: dict[str, float], level: str, field: str
) -> None:
    program = compile_shot(make_shot(light=Light(aperture=2.8, shutter_s=10, school="fixed", iso=800)))
    found = verdict_on(program, files_of(program, range(1, 6), **other))
    assert (found.level, found.reasons[0].field) == (level, field), found


def test_the_camera_that_was_pushed_is_told_by_day_and_by_night() -> None:
    for time in ("12:00", "23:00"):
        program = compile_shot(make_shot(start=ClockStart(time=time)))
        files = [*files_of(program, (1, 2, 3)), *files_of(program, (4, 5), heading_deg=1.5)]
        found = verdict_on(program, files)
        assert found.level == "mind" and "the camera has moved" in found.told, (time, found)
        # That it looks elsewhere than planned from the first frame on is not this one's matter.
        assert verdict_on(program, files_of(program, range(1, 6), heading_deg=1.5)).level == "go"


def blank(value: int) -> bytes:
    out = io.BytesIO()
    Image.fromarray(np.full((320, 480, 3), value, dtype=np.uint8)).save(out, "JPEG")
    return out.getvalue()


def test_black_white_unchanging_and_lost_frames_stop_one() -> None:
    program = compile_shot(make_shot())
    black = verdict_on(program, [(n, blank(0)) for n in range(1, 6)])
    assert black.level == "stop" and any("is black: is the cap on" in one.text for one in black.reasons)
    white = verdict_on(program, [(n, blank(255)) for n in range(1, 6)])
    assert any("is white" in one.text and one.level == "stop" for one in white.reasons)
    files = files_of(program, (1,))
    same = verdict_on(program, [(n, files[0][1]) for n in range(1, 6)])
    assert same.level == "stop" and any("The same picture came 5 times" in one.text for one in same.reasons)
    good = files_of(program, (1, 5))
    assert may_go(program, 5, look(program, good), missed=1).level == "mind"
    lost = may_go(program, 5, look(program, good), missed=3)
    assert lost.level == "stop" and "3 of the first 5 frames did not come" in lost.told
    assert may_go(program, 5, []).level == "mind"
    # What is no picture says nothing, and what says nothing of its settings is told so.
    assert look(program, [(1, b"no picture")]) == []
    plain = verdict_on(program, [(1, blank(90)), (2, blank(91))], 2)
    assert any("say nothing of their settings" in one.text for one in plain.reasons)


def seen(program: Program, number: int, **change: object) -> FileSeen:
    """The file of a frame as planned, but for what is said."""
    (one,) = look(program, files_of(program, (number,)))
    return one._replace(**change)


def test_a_clock_that_goes_otherwise_white_balance_and_softness_are_minded() -> None:
    program = compile_shot(make_shot())
    every = [seen(program, n) for n in range(1, 6)]
    assert may_go(program, 5, every).level == "go"
    slow = [one._replace(opened_s=(one.opened_s or 0) + 6 * n) for n, one in enumerate(every)]
    found = may_go(program, 5, slow)
    interval = float(program.slot_s[0])
    assert f"every {interval + 6:g} s, {interval:g} s was planned" in found.told
    # A camera that keeps the clock of its place, on the night on which that goes back.
    back = [one._replace(opened_s=(one.opened_s or 0) - 3_600 * (n > 2)) for n, one in enumerate(every)]
    assert may_go(program, 5, back).level == "go"
    # What a body says of an aperture that is turned by hand is none of its knowledge.
    lens = program.shot.kit.lens.model_copy(update={"electronic_aperture": False})
    kit = program.shot.kit.model_copy(update={"lens": lens})
    by_hand = compile_shot(program.shot.model_copy(update={"kit": kit}))
    assert may_go(by_hand, 5, [one._replace(aperture=1.0) for one in every]).level == "go"
    automatic = may_go(program, 5, [one._replace(automatic_white=True) for one in every])
    assert automatic.level == "mind" and "white balance is automatic" in automatic.told
    soft = may_go(program, 5, [*every[:4], every[4]._replace(sharpness=every[0].sharpness / 3)])
    assert soft.level == "mind" and "softer" in soft.told


@pytest.mark.parametrize("length", [0.0, 6.0, 14.0, 30.0])
def test_stars_of_known_length_are_measured(length: float) -> None:
    draw = np.random.default_rng(5)
    sky = np.full((800, 1200), 30.0)
    for _ in range(60):
        x, y = draw.uniform(60, 1140), draw.uniform(60, 740)
        for step in np.linspace(-length / 2, length / 2, 200):
            column, row = x + step * np.cos(0.6), y + step * np.sin(0.6)
            sky[int(row), int(column)] += 40.0 * max(length, 3) / 200
    spread = cv2.GaussianBlur(sky - 30, (0, 0), 1.0) * 12 + 30 + draw.normal(0, 1.5, sky.shape)
    picture = np.repeat(np.clip(spread, 0, 255).astype(np.uint8)[..., None], 3, axis=2)
    measured = star_length_px(picture)
    # A line drawn with an even brush: its length is known.
    assert measured == pytest.approx(length, abs=max(1.6, 0.12 * length))
    assert star_length_px(np.full((400, 600, 3), 30, dtype=np.uint8)) is None


def test_stars_longer_than_planned_say_that_it_shakes() -> None:
    program = compile_shot(make_shot(start=ClockStart(time="23:00")))
    one = seen(program, 1)
    assert may_go(program, 1, [one._replace(star_px=30.0)]).told.startswith("Mind: the stars of frame 1 are 30 px long")
    trails = compile_shot(program.shot.model_copy(update={"trails": True}))
    assert may_go(trails, 1, [one._replace(star_px=30.0)]).level == "go"


def test_a_blurred_picture_has_less_fine_drawing() -> None:
    noise = np.random.default_rng(3).uniform(0, 255, (300, 400)).astype(np.float32)
    fine, soft = (
        np.repeat(cv2.GaussianBlur(noise, (0, 0), sigma).astype(np.uint8)[..., None], 3, axis=2) for sigma in (1.0, 3.0)
    )
    assert sharpness(soft) < 0.3 * sharpness(fine)


def test_where_nobody_is_linked_it_says_what_to_look_at() -> None:
    said = look_at_its_screen(compile_shot(make_shot()))
    assert "Nobody is linked" in said and "its counter goes on every" in said and "f/" in said


def test_the_shot_says_after_how_many_frames_it_is_first_looked_at() -> None:
    light = Light(school="fixed", aperture=2.8, shutter_s=10, first_frames=12)
    program = compile_shot(make_shot(timing=Timing(fps=30, interval_s=60, frame_count=40), light=light))
    first = looked_after(program)[0]
    assert first == 12 and list(frames_looked_at(program, first)) == list(range(1, 13))
    later = looked_after(program)[1:]
    assert all(len(frames_looked_at(program, after)) == 2 for after in later)
