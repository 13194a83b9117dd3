"""Shots that something is made of afterwards: a plain film, and one that records a sphere."""

from revani.core.documents import Mode, Shot
from revani.core.program.afterwards import CropWay, SphereWay, way_of
from revani.core.program.compiled import compile_shot
from tests.conftest import make_kit, make_shot

ROUND = Mode.model_validate(
    {"name": "Round", "projection": "sphere", "pixels_wide": 5760, "pixels_high": 2880, "rates": [30]}
)


def film(*outputs: dict[str, object], **change: object) -> Shot:
    """Ten seconds of film at 30 a second, and what is made of it."""
    values: dict[str, object] = {
        "timing": {"fps": 30, "interval_s": 4, "playback_s": 10}, "outputs": outputs,
        "light": {"school": "fixed", "aperture": 8, "shutter_s": "1/125", "iso": 200},
        "start": {"by": "clock", "time": "11:00"},
    }  # fmt: skip
    return Shot.model_validate(make_shot().model_dump() | values | change)


def ball(*outputs: dict[str, object], **change: object) -> Shot:
    return film(*outputs, kit=make_kit(body={"modes": [ROUND.model_dump()]}).model_dump(), mode="Round", **change)


def crop_way(shot: Shot, i: int = 0) -> CropWay:
    way = way_of(compile_shot(shot), shot.outputs[i])
    assert isinstance(way, CropWay)
    return way


def sphere_way(shot: Shot, i: int = 0) -> SphereWay:
    way = way_of(compile_shot(shot), shot.outputs[i])
    assert isinstance(way, SphereWay)
    return way
