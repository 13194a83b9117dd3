"""What the simulated camera takes looks as it was rehearsed: one light through two ways."""

import io

import numpy as np
import pytest
from PIL import Image

from revani.core.documents import Light, Shot, SunStart
from revani.core.documents.place import WeatherHour
from revani.core.documents.timing import Timing
from revani.core.picture.planned import picture_of
from revani.core.program.compiled import compile_shot
from revani.rig.ports import CameraSettings
from revani.rig.stage import StageClock
from revani.rig.standins.seen import take
from revani.runner.main import scene_of
from tests.conftest import make_shot

OFF = {"by": "sun", "event": "sunset", "offset_s": 0}
DUSK = {"start": SunStart(event="sunset", offset_s=-3600), "timing": Timing(fps=30, interval_s=480, frame_count=24)}


def stops_of(picture: np.ndarray) -> float:  # type: ignore[type-arg]
    part = np.clip((picture.astype(np.float64) + 0.5) / 255, 0, 0.998)
    # Under that nothing but the last steps of black is left.
    return max(float(np.log2((-np.log(1 - part**2) / 1.9).mean())), -8.0)


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
