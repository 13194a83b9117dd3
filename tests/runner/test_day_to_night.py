"""A day-to-night shot by the real runner and camera: the frames that come home are those that were predicted."""

import io

import exifread
import httpx
import numpy as np
import pytest

from revani.core.documents import Light, Pace, SunStart
from revani.core.documents.timing import Timing
from revani.core.program.compiled import compile_shot
from tests.conftest import make_kit
from tests.runs import saved, shot_whole


def exif_of(client: httpx.Client, run: dict, number: int) -> tuple[float, float, float]:  # type: ignore[type-arg]
    """Shutter, aperture and ISO that a frame's own file says, read by a library that did not write it."""
    content = client.get(f"/api/runs/{run['id']}/frames/{number}/picture").content
    tags = exifread.process_file(io.BytesIO(content))
    return (
        float(tags["EXIF ExposureTime"].values[0]), float(tags["EXIF FNumber"].values[0]),
        float(tags["EXIF ISOSpeedRatings"].values[0]),
    )  # fmt: skip


# From an hour before sunset into the night in twenty frames.
DUSK = {
    "start": SunStart(event="sunset", offset_s=-3600),
    "timing": Timing(fps=30, interval_s=480, frame_count=24),
}  # fmt: skip


def shoot(client: httpx.Client, light: Light, **change: object):  # type: ignore[no-untyped-def]
    shot = saved(client, light=light, **(DUSK | change))
    done = shot_whole(client, shot, 24, speed=2000)
    taken = [one["number"] for one in client.get(f"/api/runs/{done['id']}/frames").json() if one["outcome"] == "taken"]
    return compile_shot(shot), {number: exif_of(client, done, number) for number in taken}


def test_a_planned_ramp_comes_home_as_it_was_planned(client: httpx.Client) -> None:
    off = {"by": "sun", "event": "sunset", "offset_s": 0}
    light = Light(aperture=4, shutter_s=20, iso_ceiling=1600, white_balance="ramp", filters_off=off)
    program, frames = shoot(client, light)
    got = program.exposures
    assert program.exposures.shutter_s.max() / program.exposures.shutter_s.min() > 1000
    for number, (shutter, aperture, iso) in frames.items():
        assert shutter == pytest.approx(float(got.shutter_s[number - 1]), rel=0.01)
        assert aperture == pytest.approx(float(got.aperture[number - 1]), abs=0.01)
        assert iso == pytest.approx(float(got.iso[number - 1]), rel=0.01)


def test_the_firmware_takes_by_itself_what_the_plan_said_it_would(client: httpx.Client) -> None:
    # The camera is told only mode, limits and interval, and meters what it sees.
    kit = make_kit(body={"automatic_order": "ISO first", "metering_scatter_stops": 0.1})
    light = Light(school="automatic", aperture=4, iso=100, iso_ceiling=1600)
    program, frames = shoot(client, light, kit=kit)
    got = program.exposures
    apart = [
        np.log2(shutter * iso / aperture**2) - np.log2(got.shutter_s[n - 1] * got.iso[n - 1] / got.aperture[n - 1] ** 2)
        for n, (shutter, aperture, iso) in frames.items()
    ]
    # Scatter of a tenth on either side, and the third on which a dial stands; a late frame sees less light.
    assert np.quantile(np.abs(apart), 0.9) < 1.1 and np.median(np.abs(apart)) < 0.4
    night = [n for n in frames if n > 18]
    assert night and all(frames[n][2] == pytest.approx(1600, rel=0.02) for n in night)


def test_frames_of_a_changing_pace_are_fired_at_their_own_times(client: httpx.Client) -> None:
    pace = Pace.model_validate({"night_factor": 2})
    timing = Timing(fps=30, interval_s=240, frame_count=24)
    shot = saved(client, pace=pace, timing=timing, start=DUSK["start"], light=Light(aperture=4, shutter_s=20))
    program = compile_shot(shot)
    assert program.slot_s.max() > program.slot_s.min() * 1.5
    done = shot_whole(client, shot, 24, speed=800)
    for frame in client.get(f"/api/runs/{done['id']}/frames").json():
        if frame["late_s"] is not None:
            assert -1 <= frame["late_s"] < 480
