"""The made-up documents of the demo: a potter on a tidal island films the firing of a wood kiln alone."""

from datetime import date, timedelta
from uuid import UUID, uuid5

from revani.core.documents import (
    Body,
    Card,
    Framing,
    HorizonPoint,
    Kit,
    Lens,
    Light,
    Place,
    Shot,
    SunStart,
    Window,
)  # fmt: skip
from revani.core.timing import Timing

_OURS = UUID("7a0d5b9e-0c1f-4d53-9a57-5a2f6b1e8030")


def _id(name: str) -> UUID:
    return uuid5(_OURS, name)


TARN = Body(
    id=_id("Tarn 24"), name="Tarn 24", note="The good one. Its clock runs slow.",
    iso_max=25_600, manual_shutter_max_s=30, automatic_shutter_max_s=30, minimum_interval_s="1.5",
    overhead_s="1.2", bytes_per_frame=30_000_000, battery_wh=72, idle_w=2.6, frame_j=9,
)  # fmt: skip
SPRAT = Body(
    id=_id("Sprat 4"), name="Sprat 4", note="Action camera for wet places and second angles.",
    sensor_width_mm=6.2, sensor_height_mm=4.65, pixels_wide=4000, pixels_high=3000, iso_max=3_200,
    manual_shutter_max_s=1, automatic_shutter_max_s=30, bulb=False, minimum_interval_s="0.5", overhead_s="0.4",
    controller_tick_s="0.5", bytes_per_frame=9_000_000, battery_wh=6.6, idle_w=1.1, frame_j=2.5,
    reports_recording=False,
)  # fmt: skip
WICKET = Lens(id=_id("Wicket 24"), name="Wicket 24 f/2.8", focal_length_min_mm=24, focal_length_max_mm=24)
SPRAT_EYE = Lens(
    id=_id("Sprat eye"), name="Sprat's own eye", focal_length_min_mm=3, focal_length_max_mm=3,
    aperture_widest=2.8, aperture_narrowest=2.8, electronic_aperture=False,
)  # fmt: skip
CARD_A = Card(id=_id("card A"), name="Card A, 128 GB", capacity_gb=128)
CARD_B = Card(id=_id("card B"), name="Card B, 32 GB", capacity_gb=32, write_mb_s=30)
SHED = Place(
    id=_id("Skarrey, kiln shed"), name="Skarrey, kiln shed", latitude_deg=57.62, longitude_deg=-7.41,
    elevation_m=9, time_zone="Europe/London", sky_brightness=21.6, temperature_c=3,
    horizon=tuple(
        HorizonPoint(azimuth_deg=azimuth, altitude_deg=altitude)
        for azimuth, altitude in ((0, 1), (90, 2), (200, 1), (235, 4), (262, 6), (300, 2))
    ),
    note="Above the tide line. The causeway is dry two hours either side of low water.",
)  # fmt: skip
CLAY_PIT = Place(
    id=_id("Skarrey, clay pit"), name="Skarrey, clay pit", latitude_deg=57.611, longitude_deg=-7.432,
    elevation_m=3, time_zone="Europe/London", sky_brightness=21.6, temperature_c=2,
    window=Window(opens="15:00", closes="23:30", reason="the sand is dry"),
)  # fmt: skip


def sample_shots(today: date) -> list[Shot]:
    """The potter's shots, around a date."""
    tarn = Kit(body=TARN, lens=WICKET, card=CARD_A)
    sprat = Kit(body=SPRAT, lens=SPRAT_EYE, card=CARD_B)
    return [
        Shot(
            id=_id("Tide over the causeway"), name="Tide over the causeway", date=today - timedelta(days=1),
            start=SunStart(event="sunset", offset_s=-3600),
            timing=Timing(fps="30", interval_s=40, playback_s=10),
            light=Light(shutter_s=20, aperture=4, iso=100, iso_ceiling=3200),
            framing=Framing(heading_deg=232, tilt_deg=9), kit=tarn, place=SHED,
        ),
        Shot(
            id=_id("Chimney and tide"), name="Chimney and tide", date=today,
            start=SunStart(event="sunset", offset_s=-2400),
            timing=Timing(fps="30", interval_s=30, playback_s=40),
            light=Light(shutter_s=26, aperture=2.8, iso=100, iso_ceiling=3200, white_balance_k=4600),
            framing=Framing(heading_deg=250, tilt_deg=12), kit=tarn, place=SHED,
            note="First frame before the fire is lit; the chimney stands on the left third.",
        ),
        Shot(
            id=_id("Stars over the stack"), name="Stars over the stack", date=today,
            start=SunStart(event="nautical dusk", offset_s=-1200),
            timing=Timing(fps="30", interval_s="1.2", event_s=5 * 3600),
            light=Light(school="fixed", shutter_s=1, aperture=2.8, iso=3200, white_balance_k=3900),
            framing=Framing(heading_deg=10, tilt_deg=25), needs_dark=True, kit=sprat, place=SHED,
        ),
    ]  # fmt: skip
