"""The made-up documents of the demo: a potter on a tidal island films the firing of a wood kiln alone."""

from collections.abc import Mapping
from datetime import date, timedelta
from uuid import UUID, uuid5

from revani.core.documents import (
    Body,
    Card,
    Cut,
    Filter,
    Gear,
    Kit,
    Lens,
    Load,
    Mover,
    Place,
    Shot,
    ShotSequence,
    SmallPart,
    Source,
    Support,
    Wire,
)

_OURS = UUID("7a0d5b9e-0c1f-4d53-9a57-5a2f6b1e8030")


def _named(name: str, **values: object) -> Mapping[str, object]:
    """Values of a document whose id follows from its name, so that the demo is the same everywhere."""
    return {"id": uuid5(_OURS, name), "name": name} | values


TARN = Body.model_validate(
    _named(
        "Tarn 24", note="The good one. Its clock runs ahead.", iso_max=25_600, minimum_interval_s="1.5",
        overhead_s="1.2", bytes_per_frame=30_000_000, battery_wh=72, idle_w=2.6, frame_j=9, clock_offset_s=0.2,
        next_number=8412, sockets="USB-C, 3-pin",
    )
)  # fmt: skip


def _mode(name: str, wide: int, high: int, **more: object) -> dict[str, object]:
    """A mode of the action camera, which sees as its eye does unless it straightens the picture."""
    return {"name": name, "pixels_wide": wide, "pixels_high": high, "projection": "equidistant"} | more


SPRAT = Body.model_validate(
    _named(
        "Sprat 4", note="Action camera for wet places and second angles.", sensor_width_mm=6.2, sensor_height_mm=4.65,
        pixels_wide=4000, pixels_high=3000, iso_max=3_200, shutter_min_s="1/8000",
        manual_shutter_max_s=1, automatic_shutter_max_s=30, bulb=False, weight_kg=0.15,
        minimum_interval_s="0.5", overhead_s="0.4", controller_tick_s="0.5",
        bytes_per_frame=9_000_000,
        battery_wh=6.6, idle_w=1.1, frame_j=2.5, reports_recording=False, buffer_frames=8, film_w=2.9, iso_clean=800,
        jpeg_bytes=4_500_000,
        modes=[
            _mode("Photo", 4000, 3000, manual_shutter_max_s=30),
            _mode("Interval photo", 4000, 3000, intervals=["0.5", 1, 2, 5, 10, 30, 60], forgets="its interval"),
            _mode("Night photo", 4000, 3000, intervals=[4, 5, 10, 15, 20, 30, 60, 120], manual_shutter_max_s=30,
                  manual=True, forgets="its interval and its shutter"),
            _mode("Lapse film", 3840, 2160, makes="own lapse film", raw=False, film_mbps=60, chapter_gb=4,
                  intervals=["0.5", 1, 2, 5, 10, 30, 60], rates=[30]),
            _mode("Film, wide", 3840, 2160, makes="film", raw=False, rates=[24, 25, 30, 60], film_mbps=60,
                  chapter_gb=4, drain_w=2.9),
            _mode("Film, straight", 3840, 2160, makes="film", raw=False, rates=[24, 25, 30], film_mbps=60,
                  chapter_gb=4, projection="straight", part=0.86, crop=0.1, drain_w=3.2),
            _mode("Film, slow", 1920, 1080, makes="film", raw=False, rates=[120, 240], film_mbps=60, chapter_gb=4,
                  drain_w=3.3),
        ],
    )
)  # fmt: skip
# A camera and its head in one: what it sees with, and what carries it.
PERCH = Body.model_validate(
    _named(
        "Perch", note="Pocket gimbal. The eye; its neck is a mover of its own.", sensor_width_mm=13.2,
        sensor_height_mm=8.8, pixels_wide=5472, pixels_high=3648, shutter_min_s="1/8000", iso_max=6_400,
        iso_clean=1_600, bulb=False, manual_shutter_max_s=8, automatic_shutter_max_s=8, weight_kg=0.18,
        minimum_interval_s="0.5", overhead_s="0.5",
        controller_tick_s="0.5", bytes_per_frame=20_000_000, jpeg_bytes=9_000_000, battery_wh=9.5, idle_w=1.6,
        frame_j=3, film_w=4.1, reports_recording=False,
        modes=[
            {"name": "Photo", "pixels_wide": 5472, "pixels_high": 3648},
            {"name": "Lapse", "makes": "own lapse film", "pixels_wide": 3840, "pixels_high": 2160, "raw": False,
             "intervals": ["0.5", 1, 2, 3, 4, 5, 6, 8, 10, 15, 20, 25, 30, 40, 60], "rates": [25, 30],
             "lengths": [300, 600, 1200, 1800, 3600, 7200, 10800, 18000], "film_mbps": 100, "chapter_gb": 16},
            {"name": "Film", "makes": "film", "pixels_wide": 3840, "pixels_high": 2160, "raw": False,
             "rates": [24, 25, 30, 48, 50, 60], "film_mbps": 100, "chapter_gb": 16, "drain_w": 4.1},
        ],
    )
)  # fmt: skip
# Two eyes back to back: it films all round, and one looks about in that afterwards.
LIMPET = Body.model_validate(
    _named(
        "Limpet", note="All round, on the long stick. Charge both cells.", sensor_width_mm=12, sensor_height_mm=6,
        pixels_wide=5760, pixels_high=2880, iso_max=1_600, iso_clean=400, shutter_min_s="1/4000",
        manual_shutter_max_s="1/2", automatic_shutter_max_s="1/2", bulb=False, weight_kg=0.2, minimum_interval_s=1,
        overhead_s="0.5", bytes_per_frame=12_000_000, jpeg_bytes=7_000_000, battery_wh=6.9, idle_w=1.4, frame_j=3,
        film_w=4.6, reports_recording=False,
        modes=[
            {"name": "Round film", "makes": "film", "pixels_wide": 5760, "pixels_high": 2880, "raw": False,
             "rates": [24, 25, 30], "film_mbps": 100, "chapter_gb": 4, "drain_w": 4.6, "projection": "sphere"},
            {"name": "Round photo", "pixels_wide": 5760, "pixels_high": 2880, "projection": "sphere"},
        ],
    )
)  # fmt: skip
OLD_HERON = Body.model_validate(
    _named(
        "Old Heron", note="Lives in the kiln shed. Slow, but it never fails.", pixels_wide=4288, pixels_high=2848,
        sensor_width_mm=23.6, sensor_height_mm=15.6, iso_min=200, iso_max=3_200, minimum_interval_s=3, overhead_s=2,
        controller_tick_s=1, bytes_per_frame=11_000_000, battery_wh=11, idle_w=0.9, frame_j=7, clock_offset_s=-41,
        buffer_frames=6,
    )
)  # fmt: skip
WICKET = Lens.model_validate(_named("Wicket 24 f/2.8"))
LONG_WICKET = Lens.model_validate(
    _named("Wicket 35–105", focal_length_min_mm=35, focal_length_max_mm=105, aperture_widest=4, aperture_narrowest=22)
)
SPRAT_EYE = Lens.model_validate(
    _named(
        "Sprat's own eye", weight_kg=0.01, focal_length_min_mm=3, focal_length_max_mm=3, aperture_widest=2.8,
        aperture_narrowest=2.8, electronic_aperture=False,
    )
)  # fmt: skip
PERCH_EYE = Lens.model_validate(
    _named(
        "Perch's own eye", weight_kg=0.01, focal_length_min_mm=8.8, focal_length_max_mm=8.8, aperture_widest=2,
        aperture_narrowest=2, electronic_aperture=False,
    )
)  # fmt: skip
LIMPET_EYES = Lens.model_validate(
    _named(
        "Limpet's own eyes", weight_kg=0.01, focal_length_min_mm=2, focal_length_max_mm=2, aperture_widest=2,
        aperture_narrowest=2, electronic_aperture=False,
    )
)  # fmt: skip
CARD_A = Card.model_validate(_named("Card A, 128 GB", capacity_gb=128))
CARD_B = Card.model_validate(_named("Card B, 32 GB", capacity_gb=32, write_mb_s=30))
CARD_C = Card.model_validate(_named("Card C, 8 GB", capacity_gb=8, write_mb_s=10))
SHED = Place.model_validate(
    _named(
        "Skarrey, kiln shed", latitude_deg=57.62, longitude_deg=-7.41, elevation_m=9, time_zone="Europe/London",
        sky_brightness=21.6, temperature_c=3,
        horizon=[
            {"azimuth_deg": azimuth, "altitude_deg": altitude}
            for azimuth, altitude in ((0, 1), (90, 2), (200, 1), (222, 2.2), (240, 3), (262, 4.5), (300, 2))
        ],
        note="Above the tide line. The causeway is dry two hours either side of low water.",
    )
)  # fmt: skip
CLAY_PIT = Place.model_validate(
    _named(
        "Skarrey, clay pit", latitude_deg=57.611, longitude_deg=-7.432, elevation_m=3, time_zone="Europe/London",
        sky_brightness=21.6, temperature_c=2, window={"opens": "07:00", "closes": "19:30", "reason": "dry sand"},
    )
)  # fmt: skip
ND_SOFT = Filter.model_validate(_named("Smoke 3", stops=3, note="ND8, scratched at the edge."))
ND_DARK = Filter.model_validate(_named("Smoke 6", stops=6))
RAIL = Mover.model_validate(
    _named(
        "Rook rail", note="Four feet of rail on two stands. Weigh the stands down.", weight_kg=4.2, payload_kg=6,
        incline_deg=15, moving_w=14, idle_w=1.5, battery_wh=98,
        axes=[{"name": "slide", "low": 0, "high": 1220, "speed": 120, "acceleration": 60, "step": 0.02,
               "backlash": 0.15, "settle_s": 0.6}],
    )
)  # fmt: skip
NOD = Mover.model_validate(
    _named(
        "Nod head", note="Pans and tilts; likes its payload centred.", weight_kg=1.1, payload_kg=2.5, moving_w=8,
        battery_wh=48,
        axes=[
            {"name": "pan", "low": -170, "high": 170, "speed": 30, "acceleration": 40, "step": 0.01,
             "backlash": 0.04, "settle_s": 0.4},
            {"name": "tilt", "low": -40, "high": 60, "speed": 20, "acceleration": 30, "step": 0.01,
             "backlash": 0.04, "settle_s": 0.4},
        ],
    )
)  # fmt: skip
PERCH_NECK = Mover.model_validate(
    _named(
        "Perch's neck", note="Of the pocket gimbal; it carries nothing but its own eye.", weight_kg=0, payload_kg=0.2,
        moving_w=2, idle_w=1,
        axes=[
            {"name": "pan", "low": -230, "high": 50, "speed": 120, "acceleration": 200, "step": 0.02,
             "backlash": 0, "settle_s": 0.2},
            {"name": "tilt", "low": -100, "high": 50, "speed": 120, "acceleration": 200, "step": 0.02,
             "backlash": 0, "settle_s": 0.2},
        ],
    )
)  # fmt: skip
PEG = Support.model_validate(_named("Peg tripod", weight_kg=2.1, payload_kg=8, height_m=1.6, note="Hang the clay bag."))
STILT = Support.model_validate(_named("Stilt", stands_as="stick", weight_kg=0.4, payload_kg=0.5, height_m=3))
LOAF = Source.model_validate(
    _named("Loaf 74", capacity_wh=74, weight_kg=0.45, most_w=18, cut_off_w=0.4, sockets="USB-A, USB-C",
           note="Falls asleep when little is asked of it.")
)  # fmt: skip
SPRAT_CELLS = Source.model_validate(
    _named("Sprat cells", gives="cells to change", capacity_wh=6.6, count=3, swap_s=90, weight_kg=0.03)
)
CUFF = Load.model_validate(_named("Dew cuff", is_a="heater", draws_w=4.5, sockets="USB-A, USB-A plug", weight_kg=0.06))
TICKER = Load.model_validate(
    _named("Ticker", is_a="controller", draws_w=0.05, battery_wh=2.4, sockets="2.5 mm jack", weight_kg=0.12,
           note="Knows only when. Its end of the lead has the red tape.")
)  # fmt: skip
TARN_LEAD = SmallPart.model_validate(_named("Long power lead", end_a="USB-C, bank", end_b="USB-C, camera"))
TICKER_LEAD = SmallPart.model_validate(_named("Ticker lead", end_a="2.5 mm jack, Ticker", end_b="3-pin, Tarn"))
CHARGER = SmallPart.model_validate(_named("Two-bay charger", is_a="charger", charges_w=18, weight_kg=0.2))
CLAY_BAG = SmallPart.model_validate(_named("Clay bag", is_a="weight", weight_kg=4, note="Filled on the spot."))
GEAR: tuple[Gear, ...] = (
    RAIL,
    NOD,
    TARN,
    LIMPET,
    SPRAT,
    PERCH,
    PERCH_NECK,
    LIMPET_EYES,
    PERCH_EYE,
    OLD_HERON,
    WICKET,
    LONG_WICKET,
    SPRAT_EYE,
    CARD_A,
    CARD_B,
    CARD_C,
    ND_SOFT,
    ND_DARK,
    PEG,
    STILT,
    LOAF,
    SPRAT_CELLS,
    CUFF,
    TICKER,
    TARN_LEAD,
    TICKER_LEAD,
    CHARGER,
    CLAY_BAG,
)


def sample_shots(today: date) -> list[Shot]:
    """The potter's shots, around a date. The second and the fourth have findings worth reading."""
    tarn = Kit(
        body=TARN, lens=WICKET, card=CARD_A, filters=(ND_SOFT, ND_DARK),
        extras=(PEG, CLAY_BAG, LOAF, CUFF, TARN_LEAD),
        wires=(Wire(source=LOAF.id, to=CUFF.id),),
        carries_at_most_kg=18,
    )  # fmt: skip
    sprat = Kit(body=SPRAT, lens=SPRAT_EYE, card=CARD_B, extras=(STILT, SPRAT_CELLS))
    still: dict[str, object] = {"arrive": {"kind": "none"}, "leave": {"kind": "none"}}
    heron = Kit(body=OLD_HERON, lens=LONG_WICKET, card=CARD_C)
    shots = (
        _named(
            "Tide over the causeway", date=today - timedelta(days=1),
            start={"by": "sun", "event": "sunset", "offset_s": -3600},
            timing={"fps": "30", "interval_s": 40, "playback_s": 10},
            light={"shutter_s": 20, "aperture": 4, "iso_ceiling": 3200},
            framing={"heading_deg": 232, "tilt_deg": 9}, kit=tarn, place=SHED,
            outputs=[
                {"name": "Upright", "pixels_wide": 1080, "pixels_high": 1920,
                 "keys": [{"at_s": 0, "zoom": 1.1, "across": 0.3}, {"at_s": 10, "zoom": 1.1, "across": 0.6}]},
                {"name": "Its light", "becomes": "a trail picture"},
            ],
        ),
        _named(
            "Chimney and tide", date=today, start={"by": "sun", "event": "sunset", "offset_s": -2400},
            timing={"fps": "30", "interval_s": 30, "playback_s": 40},
            light={"shutter_s": 8, "aperture": 5.6, "iso_ceiling": 800, "white_balance_k": 4600,
                   "cloud": "light cloud"},
            framing={"heading_deg": 238, "tilt_deg": 12}, kit=tarn, place=SHED,
            note="First frame before the fire is lit; the chimney stands on the left third.",
            outputs=[
                {"name": "Film", "pixels_wide": 3840, "pixels_high": 2160,
                 "keys": [still | {"at_s": 0}, still | {"at_s": 40, "zoom": 1.15, "across": 0.46}]},
                {"name": "Upright", "pixels_wide": 1080, "pixels_high": 1920,
                 "keys": [{"at_s": 0, "across": 0.3, "zoom": 1.1}, {"at_s": 14, "across": 0.3, "zoom": 1.1},
                          {"at_s": 30, "across": 0.72, "zoom": 1.4, "down": 0.45}]},
                {"name": "Comet", "becomes": "a comet film", "frames": 30, "pixels_wide": 1080, "pixels_high": 1080},
            ],
        ),
        _named(
            "Clay pit at first light", date=today + timedelta(days=1),
            start={"by": "sun", "event": "civil dawn", "offset_s": -1200},
            timing={"fps": "30", "interval_s": 12, "playback_s": 15},
            light={"shutter_s": 6, "aperture": 4, "iso": 200, "iso_ceiling": 1600},
            framing={"heading_deg": 135, "tilt_deg": 7}, kit=heron, place=CLAY_PIT,
        ),
        _named(
            "Stars over the stack", date=today, start={"by": "sun", "event": "nautical dusk", "offset_s": -1200},
            timing={"fps": "24", "interval_s": 5, "event_s": 5 * 3600}, fires="own timer", mode="Night photo",
            light={"school": "automatic", "aperture": 2.8, "iso": 100, "iso_ceiling": 3200, "white_balance_k": 3900,
                   "night_stops": -2},
            framing={"heading_deg": 10, "tilt_deg": 25}, needs_dark=True, kit=sprat, place=SHED,
            ways=[
                {"name": "A frame every 30 s", "changes": [{"path": "timing.interval_s", "value": 30}]},
                {"name": "Every 30 s, ISO at most 800",
                 "changes": [{"path": "timing.interval_s", "value": 30}, {"path": "light.iso_ceiling", "value": 800}]},
            ],
        ),
        _named(
            "Past the stacked wood", date=today + timedelta(days=1),
            start={"by": "sun", "event": "sunset", "offset_s": -1800},
            timing={"fps": "30", "interval_s": 20, "playback_s": 12},
            light={"shutter_s": 8, "aperture": 5.6, "iso_ceiling": 1600, "cloud": "light cloud"},
            framing={"heading_deg": 300, "tilt_deg": 0}, place=SHED,
            kit=tarn.model_copy(update={"movers": (RAIL, NOD)}),
            move={
                "kind": "stepwise",
                "keys": [
                    {"at": {"by": "after", "after_s": 0}, "positions": {"slide": 60}},
                    {"at": {"by": "after", "after_s": 3000}, "positions": {"slide": 560}, "hold_s": 1200},
                    {"at": {"by": "after", "after_s": 7100}, "positions": {"slide": 1160}},
                ],
                "aim": {"thing": "Kiln mouth"},
                "things": [
                    {"name": "Kiln mouth", "x_mm": 900, "y_mm": 4200, "width_mm": 700, "height_mm": 800,
                     "base_mm": -700},
                    {"name": "Stacked wood", "role": "foreground", "x_mm": 300, "y_mm": 1300, "width_mm": 500,
                     "height_mm": 450, "base_mm": -750},
                    {"name": "Chimney", "role": "background", "x_mm": 2100, "y_mm": 7800, "width_mm": 900,
                     "height_mm": 5200, "base_mm": -1200},
                ],
            },
        ),
        _named(
            "Tide line to chimney", date=today + timedelta(days=2),
            start={"by": "sun", "event": "sunset", "offset_s": -3600},
            timing={"fps": "30", "interval_s": 15, "playback_s": 16},
            light={"shutter_s": 5, "aperture": 8, "iso_ceiling": 1600, "school": "stepped"},
            framing={"heading_deg": 250, "tilt_deg": 6}, place=SHED, kit=tarn.model_copy(update={"movers": (NOD,)}),
            move={
                "kind": "continuous", "path": "smooth",
                "keys": [
                    {"at": {"by": "after", "after_s": 0}, "positions": {"pan": -35, "tilt": 2}},
                    {"at": {"by": "ridge"}, "positions": {"pan": -12, "tilt": 4}},
                    {"at": {"by": "after", "after_s": 7100}, "positions": {"pan": 38, "tilt": 14}},
                ],
                "things": [{"name": "Chimney", "role": "background", "x_mm": 5200, "y_mm": 7000, "width_mm": 900,
                            "height_mm": 5200, "base_mm": -1200}],
            },
        ),
        _named(
            "The potter talks", date=today - timedelta(days=1), start={"by": "clock", "time": "11:20"},
            take={"sound": "a microphone on it", "wind_filter": True, "use": "a talk"},
            timing={"fps": "30", "interval_s": "1/30", "event_s": 180},
            light={"school": "fixed", "shutter_s": "1/60", "aperture": 4.5, "iso": 200, "scene": "ground",
                   "cloud": "overcast"},
            framing={"heading_deg": 40, "tilt_deg": 0}, place=SHED,
            kit=Kit(body=OLD_HERON, lens=WICKET, card=CARD_A, movers=(RAIL, NOD)),
            move={
                "kind": "live", "repeat": "ping-pong",
                "keys": [
                    {"at": {"by": "after", "after_s": 0}, "positions": {"slide": 200}},
                    {"at": {"by": "after", "after_s": 20}, "positions": {"slide": 1000}},
                ],
                "aim": {"thing": "Potter", "across": 0.38, "down": 0.45},
                "things": [
                    {"name": "Potter", "x_mm": 600, "y_mm": 2400, "width_mm": 520, "height_mm": 700, "base_mm": -350},
                    {"name": "Shelf of pots", "role": "foreground", "x_mm": 1150, "y_mm": 1100, "width_mm": 300,
                     "height_mm": 500, "base_mm": -500},
                ],
            },
        ),
        _named(
            "Clay pit to shed", date=today + timedelta(days=1), start={"by": "clock", "time": "12:30"},
            timing={"fps": "30", "interval_s": "1/30", "event_s": 120}, mode="Film, straight", fires="by hand",
            take={"stabilising": "afterwards", "use": "part of a longer film"},
            light={"school": "automatic", "aperture": 2.8, "iso_ceiling": 400, "scene": "ground",
                   "cloud": "light cloud"},
            framing={"heading_deg": 50, "tilt_deg": 0}, kit=sprat, place=CLAY_PIT,
            walk={
                "points": [{"x_mm": x, "y_mm": y} for x, y in (
                    (0, 0), (-8_520, 25_560), (7_573, 44_493), (-2_840, 71_000), (-15_147, 88_040), (-21_773, 106_973),
                    (-28_021, 128_750),
                )],
                "towards": "a thing", "thing": "Shed", "across": 0.62, "support": "on a stick",
            },
            move={
                "kind": "live",
                "things": [
                    {"name": "Shed", "x_mm": -44_000, "y_mm": 165_000, "width_mm": 7_000, "height_mm": 4_500},
                    {"name": "Drying rack", "role": "foreground", "x_mm": -24_000, "y_mm": 92_000, "width_mm": 9_000,
                     "height_mm": 2_600},
                    {"name": "Chimney", "role": "background", "x_mm": -52_000, "y_mm": 171_000, "width_mm": 900,
                     "height_mm": 5_200},
                ],
            },
        ),
        _named(
            "Round the kilns", date=today + timedelta(days=1), start={"by": "clock", "time": "14:10"},
            timing={"fps": "30", "interval_s": "1/30", "event_s": 150}, mode="Round film", fires="by hand",
            take={"use": "a feed"}, light={"school": "automatic", "aperture": 2, "iso_ceiling": 400},
            framing={"heading_deg": 200, "tilt_deg": 0}, place=SHED,
            kit=Kit(body=LIMPET, lens=LIMPET_EYES, card=CARD_B),
            walk={
                "points": [{"x_mm": x, "y_mm": y} for x, y in (
                    (0, 0), (6_000, 38_000), (40_000, 64_000), (92_000, 70_000), (128_000, 44_000), (146_000, 12_000),
                )],
                "support": "on a stick", "stick_m": 1.2,
            },
            move={
                "kind": "live",
                "things": [
                    {"name": "Old kiln", "x_mm": 62_000, "y_mm": 34_000, "width_mm": 6_000, "height_mm": 5_200},
                    {"name": "Boat", "role": "foreground", "x_mm": 26_000, "y_mm": 76_000, "width_mm": 5_000},
                ],
            },
            outputs=[
                {"name": "Ahead", "lock": "the way ahead", "sphere": [
                    {"at_s": 0, "view_deg": 100}, {"at_s": 3, "view_deg": 100},
                    {"at_s": 5, "pitch_deg": -90, "view_deg": 250, "curve": 1},
                    {"at_s": 7.2, "pitch_deg": -90, "view_deg": 250, "curve": 1},
                    {"at_s": 9.2, "yaw_deg": 180, "pitch_deg": -8, "view_deg": 110, "curve": 0.3},
                ]},
                {"name": "Upright", "pixels_wide": 1080, "pixels_high": 1920, "sphere": [
                    {"at_s": 0, "yaw_deg": 60, "view_deg": 75}, {"at_s": 11, "yaw_deg": -40, "view_deg": 75},
                ]},
            ],
        ),
    )  # fmt: skip
    return [Shot.model_validate(shot) for shot in shots]


def sample_sequence(shots: list[Shot]) -> ShotSequence:
    """A short film of the potter's shots."""
    named = {shot.name: shot for shot in shots}

    def cut(name: str, **more: object) -> Cut:
        return Cut.model_validate({"shot": named[name].id, "name": name} | more)

    values = _named(
        "Fire on the island", use="part of a longer film", wanted_s=60,
        cuts=[
            cut("Clay pit at first light", out_s=8, view="wide"),
            cut("The potter talks", in_s=12, out_s=26, view="close"),
            cut("Chimney and tide", in_s=4, out_s=14),
            cut("Past the stacked wood"),
            cut("Stars over the stack", in_s=30, out_s=40),
            cut("Tide over the causeway", in_s=3, out_s=9),
        ],
    )  # fmt: skip
    return ShotSequence.model_validate(values)
