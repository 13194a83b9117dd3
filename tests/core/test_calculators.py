"""Every calculator against figures from outside."""

import json

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import quad

from revani.core.calculators import calculate, calculators
from revani.core.move.profile import Trapezoid
from revani.core.quantities.refusal import Refusal

FULL_FRAME = {"sensor_width_mm": 36, "sensor_height_mm": 24, "focal_length_mm": 24}
STARS = {"focal_length_mm": 24, "aperture": 2.8, "pixel_pitch_um": 5.9, "declination_deg": 0, "crop_factor": 1}
BATTERY = {"capacity_wh": 10, "usable_fraction": 0.9, "temperature_factor": 0.85, "idle_w": 1}
SOURCES = [
    # Common practice, no source: the four-foot slide in 20 s with ramps of 5 s.
    ("move_profile", {"distance_mm": 1219.2, "duration_s": 20, "ramp_up_s": 5, "ramp_down_s": 5},
     {"peak_speed_mm_s": 81.28, "acceleration_mm_s2": 16.256, "deceleration_mm_s2": 16.256}),
    # Flash & Hogan 1985: 1.875 d/T and 5.7735 d/T².
    ("minimum_jerk", {"distance_mm": 100, "duration_s": 2},
     {"peak_speed_mm_s": 93.75, "peak_acceleration_mm_s2": 144.3376}),
    # Plane trigonometry.
    ("aim", {"target_x_mm": 500, "target_y_mm": 500, "x_mm": [0, 500, 1000]}, {"pan_deg": [45, 0, -45]}),
    # Pinhole geometry, 2 atan(w/2f).
    ("field_of_view", FULL_FRAME, {"horizontal_deg": 73.7398, "vertical_deg": 53.1301, "diagonal_deg": 84.0622}),
    # f²/(N c) + f: 50 mm, f/8, 0.03 mm is 10.467 m; focused there, sharp from half of it to infinity.
    ("depth_of_field", {"focal_length_mm": 50, "aperture": 8, "subject_distance_m": 10.466666667,
     "circle_of_confusion_mm": 0.03}, {"hyperfocal_m": 10.466667, "near_m": 5.2333, "far_m": None}),
    # Pinhole projection: 24 mm · 100 mm / 2 m / 6 µm = 200 px.
    ("parallax", {"focal_length_mm": 24, "pixel_pitch_um": 6, "slider_step_mm": 100, "near_m": 2, "far_m": 20},
     {"near_px": 200, "far_px": 20, "difference_px": 180}),
    # 500 rule: common practice, no source. NPF (Société Astronomique du Havre) and drift: from memory.
    ("star_limit", STARS, {"rule_500_s": 20.8333, "npf_s": 5.43735, "drift_px_per_s": 0.296627}),
    # The sky turns 15.041° an hour.
    ("star_trail", {"arc_deg": 15.041}, {"duration_s": 3600}),
    # ISO 2720 / APEX.
    ("exposure", {"aperture": 8, "shutter_s": "1/125", "iso": 100}, {"ev100": 12.9658}),
    # Densities add: ND4, ND8 and ND16 are 2, 3 and 4 stops; a stop is 0.30103.
    ("nd", {"factors": [4, 8, 16]}, {"stops": 9, "density": 2.70927, "combined_factor": 512}),
    # ISO 2720, C = 250.
    ("illuminance_to_ev", {"illuminance_lx": 81920}, {"ev100": 15}),
    # Explanatory Supplement (1992); from memory.
    ("illuminance", {"sun_altitude_deg": 90}, {"illuminance_lx": 128825}),
    # Arithmetic: 1920 of 6000 × 4000 px; 16:9 to 9:16 keeps 31.64 % of the width.
    ("crop", {"source_width_px": 3840, "source_height_px": 2160, "output_width_px": 1080, "output_height_px": 1920,
     "zoom": 1}, {"crop_width_px": 0.31640625 * 3840, "crop_height_px": 2160, "max_lossless_zoom": 1.125}),
    # Common practice, no source: 14.29 % of pan room each side at 1.4.
    ("crop", {"source_width_px": 3840, "source_height_px": 2160, "output_width_px": 1920, "output_height_px": 1080,
     "zoom": 1.4}, {"pan_room_each_side_fraction": 0.142857, "max_lossless_zoom": 2, "upscale_factor": 0.7}),
    # Arithmetic on the law of the sped-up walk.
    ("speed_section", {"walk_s": 120, "speed_up": 16, "normal_head_s": 1, "normal_tail_s": 1}, {"playback_s": 9.375}),
    # Arithmetic: 128 GB less a tenth in frames of 30 MB.
    ("card", {"bytes_per_frame": 30_000_000, "frame_count": 3841, "card_gb": 128, "reserve_fraction": 0.1},
     {"total_bytes": 115_230_000_000, "fits": False, "frames_that_fit": 3840}),
    # FAT32's largest file at 100 Mbit/s; 12 GB at the same rate.
    ("chapters", {"bitrate_mbps": 100, "duration_s": 3600, "chapter_bytes": 4_294_967_295},
     {"chapter_count": 11, "chapter_duration_s": 343.597}),
    ("chapters", {"bitrate_mbps": 100, "duration_s": 960, "chapter_bytes": 12_000_000_000},
     {"chapter_count": 1, "chapter_duration_s": 960}),
    # Arithmetic: 7.65 Wh at 1 W and 15 J every 30 s.
    ("battery", BATTERY | {"per_frame_j": 15, "interval_s": 30},
     {"average_w": 1.5, "runtime_s": 18_360, "frames": 612}),
    ("battery", BATTERY | {"idle_w": 0, "per_frame_j": 0, "interval_s": 30}, {"runtime_s": None, "frames": None}),
]  # fmt: skip


@pytest.mark.parametrize(("name", "question", "figures"), SOURCES)
def test_calculators_give_the_figures_of_their_sources(name: str, question: dict, figures: dict) -> None:  # type: ignore[type-arg]
    answer = calculate(name, question)
    for field, figure in figures.items():
        if figure is None or isinstance(figure, bool):
            assert answer[field] is figure
        else:
            assert answer[field] == pytest.approx(figure, rel=2e-5), field


def test_timing_is_read_as_the_decimals_that_were_typed() -> None:
    answer = calculate("timing", {"fps": "23.976", "interval_s": 0.1, "event_s": 0.3})
    assert answer["frame_count"] == 3 and answer["fps_text"] == "23.976"
    assert answer["speed_up"] == pytest.approx(2.3976, abs=1e-4)
    card = {"bytes_per_frame": 41, "frame_count": 1, "card_gb": 4.1, "reserve_fraction": 0}
    assert calculate("card", card)["frames_that_fit"] == 100_000_000


def test_the_sky_calculator_is_a_known_noon() -> None:
    # U.S. Naval Observatory definitions: at an equinox noon on the equator the sun is overhead.
    place = {"latitude_deg": 0, "longitude_deg": 0, "elevation_m": 0}
    noon = calculate("sky", place | {"at": "2026-03-20T12:07:30Z"})
    assert noon["sun_altitude_deg"] > 89.5 and noon["ev100"] == pytest.approx(15.65, abs=0.05)
    assert calculate("sky", place | {"at": "2026-03-20T13:07:30+01:00"}) == noon


def test_twilight_answers_null_where_there_is_none() -> None:
    arctic = {"latitude_deg": 70, "longitude_deg": 25, "date": "2026-12-21", "time_zone": "Europe/Oslo"}
    answer = calculate("twilight", arctic)
    assert answer["sunrise"] is None and answer["civil_dawn"].endswith("Z")


moves = st.tuples(st.floats(1, 5000), st.floats(1, 1000), st.floats(0, 0.5), st.floats(0, 0.5))


@given(moves)
def test_a_trapezoids_speed_integrates_to_its_distance_and_its_peak_is_never_passed(move) -> None:  # type: ignore[no-untyped-def]
    distance, duration, up, down = move
    profile = Trapezoid(distance, duration, up * duration, down * duration)
    at = np.linspace(0, duration, 400)
    position = profile.position_mm(at)
    assert position[0] == pytest.approx(0, abs=1e-6) and position[-1] == pytest.approx(distance)
    assert (np.diff(position) >= -1e-6 * distance).all()
    assert np.diff(position).max() <= profile.peak_speed_mm_s * (at[1] - at[0]) * (1 + 1e-6)


def test_minimum_jerk_peaks_are_those_of_the_integrated_polynomial() -> None:
    def jerk_speed(tau: float) -> float:
        return 30 * tau**2 - 60 * tau**3 + 30 * tau**4

    # scipy's quadrature as the outside reference.
    assert quad(jerk_speed, 0, 1)[0] == pytest.approx(1)
    answer = calculate("minimum_jerk", {"distance_mm": 1, "duration_s": 1})
    assert answer["peak_speed_mm_s"] == pytest.approx(max(jerk_speed(t) for t in np.linspace(0, 1, 1001)))


@pytest.mark.parametrize(
    ("name", "question", "path"),
    [
        ("exposure", {"aperture": 8, "shutter_s": 0, "iso": 100}, "shutter_s"),
        ("exposure", {"aperture": -8, "shutter_s": 1, "iso": 100}, "aperture"),
        ("exposure", {"aperture": 8, "shutter_s": 1}, "iso"),
        ("exposure", {"aperture": 8, "shutter_s": 1, "iso": 100, "mood": 1}, "mood"),
        ("nd", {"factors": []}, "factors"), ("nd", {"factors": [0.5]}, "factors.0"),
        ("move_profile", {"distance_mm": 1, "duration_s": 2, "ramp_up_s": 2, "ramp_down_s": 1}, "ramp_up_s"),
        ("depth_of_field", {"focal_length_mm": 50, "aperture": 8, "subject_distance_m": 0.04,
         "circle_of_confusion_mm": 0.03}, "subject_distance_m"),
        ("parallax", {"focal_length_mm": 24, "pixel_pitch_um": 6, "slider_step_mm": 1, "near_m": 5, "far_m": 2},
         "far_m"),
        ("twilight", {"latitude_deg": 0, "longitude_deg": 0, "date": "2026-01-01", "time_zone": "Moon"}, "time_zone"),
        ("sky", {"latitude_deg": 0, "longitude_deg": 0, "elevation_m": 0, "at": "2026-01-01T00:00"}, "at"),
        ("sky", {"latitude_deg": 0, "longitude_deg": 0, "elevation_m": 0, "at": "1066-10-14T00:00Z"}, "at"),
        ("timing", {"fps": 30, "interval_s": 1}, "frame_count"), ("speed_section", {"walk_s": 1, "speed_up": 2,
         "normal_head_s": 1, "normal_tail_s": 1}, "normal_head_s"),
        ("alchemy", {}, "name"), ("exposure", {"aperture": float("nan"), "shutter_s": 1, "iso": 100}, "aperture"),
    ],
)  # fmt: skip
def test_bad_questions_are_refused_at_their_field(name: str, question: dict, path: str) -> None:  # type: ignore[type-arg]
    with pytest.raises(Refusal) as refusal:
        calculate(name, question)
    assert refusal.value.path == path and refusal.value.allowed


numbers = st.one_of(
    st.integers(), st.floats(), st.text(max_size=5), st.none(), st.just([1, 2]), st.floats(1e-9, 1e9), st.just("1/0")
)


@given(st.sampled_from(sorted(calculators())), st.data())
def test_no_question_whatever_breaks_a_calculator(name: str, data: st.DataObject) -> None:
    fields = calculators()[name].ask.model_fields
    question = {field: data.draw(numbers) for field in fields}
    try:
        answer = calculate(name, question)
    except Refusal as refusal:
        assert refusal.allowed
    else:
        assert "NaN" not in json.dumps(answer) and "Infinity" not in json.dumps(answer)
