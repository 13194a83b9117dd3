"""What the simulated camera takes looks as it was rehearsed: one light through two ways."""

import io

import numpy as np
import pytest
from PIL import Image

from revani.core.documents import Light, Shot, SunStart
from revani.core.documents.place import WeatherHour
from revani.core.documents.timing import Timing
from revani.core.picture.planned import picture_of
from revani.core.picture.skylight import Picture, undeveloped
from revani.core.program.compiled import Program, compile_shot
from revani.jobs.residual import residual
from revani.rig.ports import CameraSettings
from revani.rig.stage import StageClock
from revani.rig.standins.seen import take
from revani.runner.scene import scene_of
from tests.conftest import make_shot

OFF = {"by": "sun", "event": "sunset", "offset_s": 0}
DUSK = {"start": SunStart(event="sunset", offset_s=-3600), "timing": Timing(fps=30, interval_s=480, frame_count=24)}


def stops_of(picture: np.ndarray) -> float:  # type: ignore[type-arg]
    # Under that nothing but the last steps of black is left.
    return max(float(np.log2(undeveloped(picture).mean())), -8.0)


def taken_of(program: Program, heading_deg: float, i: int) -> Picture:
    """What the simulated camera takes of a frame, turned away from where it was planned to look."""
    framing = program.shot.framing
    turned = framing.model_copy(update={"heading_deg": framing.heading_deg + heading_deg})
    scene = scene_of(
        compile_shot(program.shot.model_copy(update={"framing": turned})),
        StageClock.starting(program.start_s, 1),
        "off",
    )
    got = program.exposures
    settings = CameraSettings(
        shutter_s=float(got.shutter_s[i]), aperture=float(got.aperture[i]), iso=float(got.iso[i]),
        white_balance_k=round(float(program.white_balance_k[i])),
    )  # fmt: skip
    return np.asarray(Image.open(io.BytesIO(take(scene, settings, i + 1, float(program.at_s[i]), {}))))


@pytest.mark.parametrize("i", [0, 10, 20])
def test_what_came_is_held_against_the_rehearsal_in_stops_and_pixels(i: int) -> None:
    shot = make_shot(light=Light(aperture=4, shutter_s=20, iso_ceiling=1600), **DUSK)
    program = compile_shot(shot)
    as_planned, turned, elsewhere = (residual(program, i, taken_of(program, off, i)) for off in (0.0, 0.5, 40.0))
    assert as_planned.stops == pytest.approx(0, abs=0.05)
    assert as_planned.right_px == pytest.approx(0, abs=0.5) and as_planned.down_px == pytest.approx(0, abs=0.5)
    # Turned to the right the picture goes to the left: f tan(0.5°) in the middle, a little more beside it (pinhole).
    pixels = 480 * (shot.framing.focal_length_mm or 24) / shot.body.sensor_width_mm * np.tan(np.radians(0.5))
    assert turned.right_px == pytest.approx(-pixels, abs=0.6) and turned.down_px == pytest.approx(0, abs=0.5)
    # With nothing in common no shift is told.
    assert elsewhere.right_px is None


def covered() -> Shot:
    """From the middle on the weather says overcast, where clear was planned."""
    shot = make_shot(light=Light(aperture=4, shutter_s=20, iso_ceiling=1600), **DUSK)
    start = compile_shot(shot).start_s
    hours = tuple(WeatherHour(at_s=start + 3600 * k, cloud=float(k > 1)) for k in range(5))
    return shot.model_copy(update={"place": shot.place.model_copy(update={"weather": hours})})


@pytest.mark.parametrize(
    "shot",
    [
        make_shot(light=Light(aperture=4, shutter_s=20, iso_ceiling=1600, filters_off=OFF), **DUSK),
        make_shot(light=Light(school="fixed", aperture=8, shutter_s="1/30", iso=200), **DUSK),
        make_shot(light=Light(aperture=2.8, shutter_s=20, iso_ceiling=6400, night_stops=-2), **DUSK),
        covered(),
    ],
    ids=["ramp", "held", "dark night", "cloud comes in"],
)
def test_every_frame_is_as_bright_as_rehearsed(shot: Shot) -> None:
    program = compile_shot(shot)
    scene = scene_of(program, StageClock.starting(program.start_s, 1), "looks")
    got = program.exposures
    for i in range(0, program.frame_count, 3):
        settings = CameraSettings(
            shutter_s=float(got.shutter_s[i]), aperture=float(got.aperture[i]), iso=float(got.iso[i]),
            white_balance_k=round(float(program.white_balance_k[i])),
        )  # fmt: skip
        taken = np.asarray(Image.open(io.BytesIO(take(scene, settings, i + 1, float(program.at_s[i]), {}))))
        meant = picture_of(program, i, 480)
        # The film must look as it was rehearsed within 0.15 stop.
        assert stops_of(taken) == pytest.approx(stops_of(meant), abs=0.15), i
