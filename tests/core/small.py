"""A small body with modes, shots on it, and what is found of them; invented."""

from revani.core.documents import Light, Mode, Shot
from revani.core.documents.timing import Timing
from revani.core.findings import Finding, judge
from revani.core.program.compiled import Program
from tests.conftest import make_kit, make_shot

STILLS = Mode(name="Stills", pixels_wide=4000, pixels_high=3000, intervals=(1, 2, 5, 10, 30))
NIGHT = Mode(name="Night", pixels_wide=4000, pixels_high=3000, intervals=(4, 10, 30, 60), projection="equidistant",
             manual=False, raw=False, automatic_shutter_max_s=30, forgets="its interval")  # fmt: skip
LAPSE = Mode(name="Lapse", makes="own lapse film", pixels_wide=3840, pixels_high=2160, raw=False,
             intervals=(2, 10), lengths=(600, 3600))  # fmt: skip
FILM = Mode(name="Film", makes="film", pixels_wide=3840, pixels_high=2160, part=0.9, crop=0.1, rates=(25, 30),
            film_mbps=60, drain_w=3)  # fmt: skip


def small(**change: object) -> dict[str, object]:
    return {
        "sensor_width_mm": 6.17, "sensor_height_mm": 4.63, "pixels_wide": 4000, "pixels_high": 3000, "bulb": False,
        "minimum_interval_s": "0.5", "overhead_s": "0.4", "modes": (STILLS, NIGHT, LAPSE, FILM), "iso_max": 64_000,
    } | change  # fmt: skip


def shot_of(**change: object) -> Shot:
    lens = {"focal_length_min_mm": 3, "focal_length_max_mm": 3}
    values = {"kit": make_kit(body=small(), lens=lens), "timing": Timing(fps=30, interval_s=10, frame_count=60)}
    light = Light(school="automatic", aperture=2.8, iso=100, iso_ceiling=3200)
    return make_shot(**(values | {"light": light, "fires": "own timer"} | change))


def film(**change: object) -> Shot:
    """A film at speed, without a mover: twelve minutes by day."""
    timing = Timing.model_validate({"fps": 30, "interval_s": "1/30", "event_s": 720})
    values = {"fires": "linked", "mode": "Film", "timing": timing, "move": {"kind": "live"}, "keeps": "raw"}
    light = Light(school="fixed", aperture=2.8, shutter_s="1/60", iso=200)
    return shot_of(**(values | {"light": light, "start": {"by": "clock", "time": "12:00"}} | change))


def night(ceiling: int) -> Shot:
    """A night alone, dark from the first frame to the last: an ISO-first body, automatic, a frame every 30 s."""
    light = Light(school="automatic", aperture=2.8, iso=100, iso_ceiling=ceiling)
    body = small(automatic_shutter_max_s=30, metering_scatter_stops=0)
    place = make_shot().place.model_copy(update={"sky_brightness": 20.65})
    return shot_of(
        light=light, kit=make_kit(body=body), start={"by": "clock", "time": "20:30"}, place=place, needs_dark=True,
        timing=Timing(fps=30, interval_s=30, frame_count=120), date="2026-12-09",
    )  # fmt: skip


def told(program: Program, id: str) -> Finding | None:
    return next((one for one in judge(program) if one.id == id), None)
