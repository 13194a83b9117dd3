"""Any shot that a document may hold: every school, live, paced, over clock changes, at the kit's extremes."""

from datetime import UTC, date, datetime
from typing import get_args
from uuid import UUID

from hypothesis import strategies as st
from pydantic import ValidationError

from revani.core.documents import AXES, Fires, Shot, SunEventName
from revani.core.documents.mode import Keeps
from revani.core.documents.output import Becomes
from revani.core.documents.take import Focus, Sound, Stabilising, Use

_SOON = st.dates(date(2026, 1, 1), date(2027, 12, 31))
_ANY_DAY = st.sampled_from(
    [date(1900, 1, 1), date(2050, 12, 31), date(2026, 3, 28), date(2026, 10, 24), date(2026, 3, 29)]
)
_CLOCKS = st.times().map(lambda at: f"{at:%H:%M}")
_SUN = st.fixed_dictionaries(
    {
        "by": st.just("sun"),
        "event": st.sampled_from(get_args(SunEventName)),
        "offset_s": st.sampled_from([0, 0, -2400, 3600, -86_400, 86_400]),
    }
)
_RIDGE = st.just({"by": "ridge", "event": "sun behind the ridge"})
_CLOCK = st.fixed_dictionaries({"by": st.just("clock"), "time": _CLOCKS})
_STARTS = st.one_of(_CLOCK, _CLOCK, _SUN, _SUN, _RIDGE)


def _log(low: float, high: float) -> st.SearchStrategy[float]:
    """Numbers spread evenly over their orders of magnitude, both ends among them."""
    return st.one_of(
        st.floats(0, 1).map(lambda x: float(f"{low * (high / low) ** x:.4g}")), st.sampled_from([low, high])
    )


_PLACES = st.fixed_dictionaries(
    {
        "name": st.just("Somewhere"),
        "latitude_deg": st.sampled_from([-90.0, -54.0, 0.0, 47.4, 57.6, 70.0, 90.0]),
        "longitude_deg": st.sampled_from([-180.0, -7.4, 8.5, 151.2, 180.0]),
        "elevation_m": st.sampled_from([-400.0, 0.0, 4_000.0]),
        "time_zone": st.sampled_from(["UTC", "Europe/Zurich", "America/New_York", "Pacific/Apia"]),
        "sky_brightness": st.sampled_from([14.0, 18.0, 21.7, 22.5]),
        "temperature_c": st.sampled_from([-60.0, -20.0, 10.0, 60.0]),
        "horizon": st.sampled_from(
            [[], [{"azimuth_deg": 240, "altitude_deg": 6}, {"azimuth_deg": 280, "altitude_deg": 80}],
             [{"azimuth_deg": a, "altitude_deg": 3} for a in (0, 120, 240)]]
        ),
        "window": st.sampled_from([None, {"opens": "19:00", "closes": "05:00"}, {"opens": "08:00", "closes": "08:00"}]),
    }
)  # fmt: skip
# Hours from noon of the shot's date, with temperature, humidity, cloud and wind; None is not known.
_Hour = tuple[float, float | None, float | None, float | None, float | None]
_WEATHERS: list[list[_Hour]] = [
    [], [], [(6.0, 10.0, 50.0, 0.0, 0.0)],
    [(0.0, -60.0, 100.0, 1.0, 0.0), (5.0, 60.0, 0.1, 0.0, 120.0), (14.0, None, 99.0, None, 9.0),
     (15.0, 4.0, None, 0.5, None)],
]  # fmt: skip
_WALKS: list[dict[str, object] | None] = [
    None, None, None, None,
    {"points": [{"x_mm": x, "y_mm": y} for x, y in ((0, 0), (0, 60_000), (60_000, 0), (0, 9))],
     "head_s": 3_600, "factor": 1_000, "hand_deg": 20, "roll_deg": 45},
    {"points": [{"x_mm": -1e7, "y_mm": 0}, {"x_mm": 1e7, "y_mm": 0}, {"x_mm": -1e7, "y_mm": 0}], "factor": 1,
     "towards": "a direction", "direction_deg": 90, "across": 0, "down": 1},
    {"points": [{"x_mm": 0, "y_mm": 0}, {"x_mm": 0, "y_mm": 11}], "way": "stills by stations", "pace_m_s": 60,
     "settle_s": 0, "support": "on a vehicle"},
]  # fmt: skip
_MODES = [
    {"name": "Still", "forgets": "its interval", "intervals": ["1/2", 5, 30, 60]},
    {"name": "Lapse", "makes": "own lapse film", "raw": False, "intervals": [1, 30], "lengths": [600, 7_200],
     "film_mbps": 60, "chapter_gb": 0.1, "projection": "equidistant"},
    {"name": "Film", "makes": "film", "raw": False, "rates": [24, 25, 30], "chapter_gb": 4, "crop": 0.1, "part": 0.8},
    {"name": "Slow", "makes": "film", "raw": False, "rates": [120, 240], "tracks": False, "afar": False},
    {"name": "Round", "makes": "film", "raw": False, "rates": [24, 30], "projection": "sphere", "pixels_wide": 5_760,
     "pixels_high": 2_880, "film_mbps": 100},
    {"name": "Round still", "projection": "sphere", "pixels_wide": 5_760, "pixels_high": 2_880},
]  # fmt: skip
_TAKES = st.fixed_dictionaries(
    {
        "focus": st.sampled_from(get_args(Focus)), "stabilising": st.sampled_from(get_args(Stabilising)),
        "brackets": st.sampled_from([1, 1, 3, 9]), "bracket_stops": st.sampled_from([1 / 3, 2.0, 4.0]),
        "sound": st.sampled_from(get_args(Sound)), "level_dbfs": st.sampled_from([-60.0, -9.0, 0.0]),
        "use": st.sampled_from(get_args(Use)), "dewarp": st.booleans(), "upright": st.booleans(),
    }
)  # fmt: skip
_BODY_ID, _BANK_ID = str(UUID(int=70)), str(UUID(int=71))
_BODIES = st.fixed_dictionaries(
    {
        "name": st.just("Body"),
        "id": st.just(_BODY_ID),
        "next_number": st.sampled_from([None, 0, 9_990]),
        "sealed": st.booleans(),
        "iso_min": st.sampled_from([6, 100, 640]),
        "iso_max": st.sampled_from([640, 12_800, 3_276_800]),
        "shutter_min_s": st.sampled_from(["1/100000", "1/4000", 1]),
        "manual_shutter_max_s": st.sampled_from([1, 30, 7_200]),
        "automatic_shutter_max_s": st.sampled_from(["1/10", 30, 7_200]),
        "automatic_order": st.sampled_from(["ISO first", "shutter first"]),
        "automatic_knee_s": st.sampled_from(["1/1000", "1/60", 60]),
        "metering_scatter_stops": st.sampled_from([0.0, 0.1, 2.0]),
        "bulb": st.booleans(),
        "minimum_interval_s": st.sampled_from(["1/100", 1, 3_600]),
        "overhead_s": st.sampled_from([0, "1/2", 600]),
        "controller_tick_s": st.sampled_from(["1/1000", "1/10", 60]),
        "bytes_per_frame": st.sampled_from([1_000, 25_000_000, 2_000_000_000]),
        "buffer_frames": st.sampled_from([1, 20]),
        "battery_wh": st.sampled_from([0.1, 16.0, 2_000.0]),
        "idle_w": st.sampled_from([0.0, 1.5, 500.0]),
        "frame_j": st.sampled_from([0.0, 6.0, 10_000.0]),
        "film_mbps": st.sampled_from([1.0, 100.0, 20_000.0]),
        "reports_recording": st.booleans(),
        "modes": st.sampled_from([[], [], _MODES]),
    }
)
_LENSES = st.sampled_from(
    [
        {"name": "Prime"},
        {"name": "Zoom", "focal_length_min_mm": 1, "focal_length_max_mm": 2_000, "aperture_widest": 0.7,
         "aperture_narrowest": 128},
        {"name": "By hand", "aperture_widest": 5.6, "aperture_narrowest": 5.6, "electronic_aperture": False},
        {"name": "Marked", "focus_marks": [{"scale": 0, "distance_m": 100}, {"scale": 50, "distance_m": 2},
                                           {"scale": 100, "distance_m": 0.5}]},
    ]
)  # fmt: skip
_CARDS = st.sampled_from([{"name": "Card"}, {"name": "Small", "capacity_gb": 0.01, "write_mb_s": 0.1}])
_EXTRAS: list[dict[str, object]] = [
    {}, {}, {},
    {"extras": [{"kind": "source", "id": _BANK_ID, "name": "Bank", "capacity_wh": 100, "cut_off_w": 1, "most_w": 5},
                {"kind": "load", "id": str(UUID(int=72)), "name": "Strap", "draws_w": 3, "on": "by night"},
                {"kind": "part", "id": str(UUID(int=73)), "name": "Lead", "end_a": "A", "end_b": "B"}],
     "wires": [{"source": _BANK_ID, "to": _BODY_ID, "by": [str(UUID(int=73))]},
               {"source": _BANK_ID, "to": str(UUID(int=72))}]},
    {"extras": [{"kind": "source", "id": _BANK_ID, "name": "Cells", "gives": "cells to change", "count": 50,
                 "capacity_wh": 0.1, "swap_s": 3_600},
                {"kind": "support", "id": str(UUID(int=74)), "name": "Stick", "payload_kg": 0.1}],
     "wires": [{"source": _BANK_ID, "to": _BODY_ID}], "carries_at_most_kg": 0.5},
]  # fmt: skip
_FILTER = {"id": str(UUID(int=7)), "name": "ND", "stops": 6}
_TIMINGS = st.one_of(
    st.fixed_dictionaries(
        {"fps": st.sampled_from(["0.01", "12", "23.976", "30", "1000"]), "interval_s": _log(0.01, 86_400),
         "frame_count": st.integers(1, 2_000)}
    ),
    st.fixed_dictionaries({"fps": st.just("24"), "playback_s": _log(0.1, 60), "event_s": _log(1, 200_000)}),
    st.fixed_dictionaries({"fps": st.just("30"), "interval_s": st.sampled_from([2, 30]), "event_s": _log(60, 60_000)}),
)  # fmt: skip
_LIGHTS = st.fixed_dictionaries(
    {
        "school": st.sampled_from(["fixed", "automatic", "aperture priority", "stepped", "continuous"]),
        "shutter_s": st.sampled_from(["1/8000", "1/60", 1, 20, 7_200]),
        "aperture": st.sampled_from([0.7, 2.8, 5.6, 16.0, 128.0]),
        "iso": st.sampled_from([6, 100, 640, 12_800]),
        "iso_ceiling": st.sampled_from([100, 3_200, 3_276_800]),
        "aperture_open": st.sampled_from([None, None, 1.4, 22.0]),
        "compensation_stops": st.sampled_from([0.0, -5.0, 5.0]),
        "dead_band_stops": st.sampled_from([0.05, 0.25, 3.0]),
        "hold_frames": st.sampled_from([1, 4, 10_000]),
        "rate_stops_per_min": st.sampled_from([0.01, 2.0, 100.0]),
        "noise_reduction": st.booleans(),
        "white_balance": st.sampled_from(["fixed", "ramp", "automatic"]),
        "angle_deg": st.sampled_from([None, 1.0, 180.0, 360.0]),
        "scene": st.sampled_from(["sky", "ground"]),
        "scene_offset_stops": st.sampled_from([None, -15.0, 15.0]),
        "cloud": st.sampled_from(["clear", "overcast"]),
        "filters": st.sampled_from([[], [], [_FILTER["id"]]]),
        "filters_off": st.one_of(st.none(), _CLOCK, _SUN, _RIDGE),
        "keys": st.sampled_from([[], [{"after_s": 0, "bias_stops": 6}, {"after_s": 40_000_000, "bias_stops": -6}]]),
    }
)
_LIMITS = {
    "slide": (0, 1300), "lift": (0, 800), "pan": (-170, 170), "tilt": (-45, 60), "roll": (-30, 30), "zoom": (24, 70),
    "focus": (0, 100),
}  # fmt: skip
_EASES = st.sampled_from([{}, {"kind": "none"}, {"kind": "linear", "s": 2}, {"kind": "jerk", "s": 5_000}])
_THINGS = [
    {"name": "Kiln", "x_mm": 600, "y_mm": 3_000}, {"name": "Wood", "role": "foreground", "x_mm": 100, "y_mm": 700},
]  # fmt: skip


@st.composite
def _movers(draw: st.DrawFn) -> dict[str, object]:
    names = draw(st.sets(st.sampled_from(AXES), min_size=1))
    axes = [
        {
            "name": name, "low": _LIMITS[name][0], "high": _LIMITS[name][1],
            "speed": draw(st.sampled_from([0.01, 100, 100_000])),
            "acceleration": draw(st.sampled_from([0.01, 100, 1e6])),
            "step": draw(st.sampled_from([1e-6, 0.01, 100])), "backlash": draw(st.sampled_from([0, 0.1, 1_000])),
            "settle_s": draw(st.sampled_from([0, 0.5, 60])),
        }
        for name in sorted(names)
    ]  # fmt: skip
    return {
        "name": "Rig", "axes": axes, "payload_kg": draw(st.sampled_from([0.1, 9.0])),
        "battery_wh": draw(st.sampled_from([None, 1.0, 90.0])), "moving_w": draw(st.sampled_from([0.0, 14.0])),
    }  # fmt: skip


@st.composite
def _moves(draw: st.DrawFn) -> dict[str, object]:
    moment = st.one_of(
        st.fixed_dictionaries({"by": st.just("after"), "after_s": _log(0.01, 50_000)}),
        st.just({"by": "after", "after_s": 0}),
        st.fixed_dictionaries({"by": st.just("film"), "film_s": _log(0.01, 40)}),
        st.fixed_dictionaries({"by": st.just("frame"), "number": st.integers(1, 1_500)}),
        _CLOCK, _SUN, _RIDGE,
    )  # fmt: skip
    key = st.fixed_dictionaries(
        {
            "at": moment, "hold_s": st.sampled_from([0, 0, 5, 4_000]), "arrive": _EASES, "leave": _EASES,
            "positions": st.dictionaries(
                st.sampled_from(AXES), st.sampled_from([0.5, 24.0, 70.0, 900.0]), min_size=1, max_size=3
            ),
        }
    )  # fmt: skip
    return {
        "kind": draw(st.sampled_from(["stepwise", "continuous", "live"])),
        "path": draw(st.sampled_from(["legs", "smooth"])),
        "repeat": draw(st.sampled_from(["once", "loop", "ping-pong"])),
        "keys": draw(st.lists(key, max_size=5)),
        "things": _THINGS,
        "aim": draw(st.sampled_from([None, None, {"thing": "Kiln", "across": 0.2, "down": 1.0}])),
        "incline_deg": draw(st.sampled_from([0, 12, 90])),
        "on_stall": draw(st.sampled_from(["end", "hold"])),
        "afterwards": draw(st.sampled_from(["stays", "start"])),
    }


def _keys(values: st.SearchStrategy[dict[str, object]]) -> st.SearchStrategy[list[dict[str, object]]]:
    """Up to four keys at moments of a film, with eases of all kinds."""
    moments = st.lists(st.sampled_from([0, 0.04, 1, 2.5, 6, 30, 4_000]), max_size=4, unique=True).map(sorted)
    return moments.flatmap(
        lambda at: st.tuples(*[st.tuples(values, _EASES, _EASES) for _ in at]).map(
            lambda each: [
                one | {"at_s": at_s, "arrive": arrive, "leave": leave}
                for at_s, (one, arrive, leave) in zip(at, each, strict=True)
            ]
        )
    )


_CROPS = _keys(
    st.fixed_dictionaries(
        {"zoom": st.sampled_from([1, 1, 1.005, 1.2, 1.4, 8, 40]), "across": st.sampled_from([0, 0.3, 0.5, 0.501, 1]),
         "down": st.sampled_from([0, 0.5, 0.7]), "roll_deg": st.sampled_from([-180, 0, 0, 2, 90])}
    )
)  # fmt: skip
_SPHERES = _keys(
    st.sampled_from(
        [{}, {"yaw_deg": 180, "view_deg": 5}, {"yaw_deg": -170, "view_deg": 100, "turns": "longer"},
         {"pitch_deg": -90, "view_deg": 260, "curve": 1}, {"roll_deg": 3_600, "view_deg": 170},
         {"pitch_deg": 90, "view_deg": 340, "curve": 1}]
    )
)  # fmt: skip
_OUTPUTS = st.fixed_dictionaries(
    {
        "becomes": st.sampled_from(get_args(Becomes)), "pixels_wide": st.sampled_from([64, 1_080, 1_920, 16_384]),
        "pixels_high": st.sampled_from([64, 1_080, 1_920]), "fps": st.sampled_from([None, None, 24, "29.97"]),
        "frames": st.sampled_from([1, 8]), "enlarging": st.sampled_from(["never", "by a fifth"]),
        "sections": st.sampled_from([[], [], [{"from_s": 1, "factor": 8}, {"from_s": 3, "factor": 1}]]),
        "keys": _CROPS, "sphere": st.one_of(st.just([]), _SPHERES),
        "lock": st.sampled_from(["the world", "the way ahead"]), "shake_part": st.sampled_from([0, 0, 0.004, 0.1]),
        "shake_roll_deg": st.sampled_from([0, 0, 20]), "measured": st.sampled_from([[], [], [[0, 0, 0], [0.1, 0, 1]]]),
    }
)  # fmt: skip


def _weather(day: date, hours: list[_Hour]) -> list[dict[str, float | None]]:
    noon = datetime(day.year, day.month, day.day, 12, tzinfo=UTC).timestamp()
    names = ("temperature_c", "humidity_percent", "cloud", "wind_m_s")
    return [{"at_s": noon + hour * 3600, **dict(zip(names, values, strict=True))} for hour, *values in hours]


@st.composite
def legal_shots(draw: st.DrawFn) -> Shot:
    """A shot that a document may hold, whether or not its kit can do it."""
    for _ in range(20):
        document = {
            "name": "Any",
            "date": draw(st.one_of(_SOON, _SOON, _ANY_DAY)),
            "start": draw(_STARTS),
            "timing": draw(_TIMINGS),
            "pace": draw(st.sampled_from([None, None, {"night_factor": 3}, {"night_factor": "1/100"}])),
            "light": draw(_LIGHTS),
            "framing": {
                "heading_deg": draw(st.sampled_from([0, 180, 270])), "tilt_deg": draw(st.sampled_from([-90, 0, 8, 90]))
            },
            "move": draw(st.one_of(st.none(), _moves())),
            "needs_dark": draw(st.booleans()),
            "trails": draw(st.booleans()),
            "moonlight_up_to": draw(st.sampled_from([0.0, 0.25, 1.0])),
            "fires": draw(st.sampled_from(["linked", "linked", *get_args(Fires)])),
            "keeps": draw(st.sampled_from(get_args(Keeps))),
            "mode": draw(st.sampled_from(["", "", "Still", "Lapse", "Film", "Slow", "Round", "Round still"])),
            "take": draw(_TAKES),
            "kit": {
                "body": draw(_BODIES), "lens": draw(_LENSES), "card": draw(_CARDS), "filters": [_FILTER],
                "movers": draw(st.one_of(st.just([]), _movers().map(lambda one: [one]))),
                **draw(st.sampled_from(_EXTRAS)),
            },
            "place": draw(_PLACES),
        }  # fmt: skip
        walk = draw(st.sampled_from(_WALKS))
        if walk is not None and not (document["move"] or {}).get("keys"):
            filmed = walk.get("way", "filmed and sped up") == "filmed and sped up"
            things = (document["move"] or {}).get("things", [])
            document |= {"walk": walk, "move": {"kind": "live" if filmed else "continuous", "things": things}}
        outputs = draw(st.one_of(st.just([]), st.lists(_OUTPUTS, max_size=3)))
        document["outputs"] = [one | {"name": f"Output {i}"} for i, one in enumerate(outputs, 1)]
        weather = _weather(document["date"], draw(st.sampled_from(_WEATHERS)))
        document["place"] = document["place"] | {"weather": weather}
        try:
            return Shot.model_validate(document)
        except ValidationError:
            continue
    raise AssertionError("no legal shot was drawn")
