"""Metric and imperial against the defined factors (international yard and pound, 1959) and fixed points."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from revani.core.documents import Axis, FocusMark, Lens, Mover, Place, Thing
from revani.core.edit.form import filled
from revani.core.quantities.measures import (
    ANGLE,
    DISTANCE,
    LENGTH,
    SPEED,
    TEMPERATURE,
    WEIGHT,
    Measure,
    chosen,
    measured_in,
)
from revani.core.quantities.refusal import Refusal
from revani.core.shown.records import worded


@pytest.mark.parametrize(
    ("measure", "text", "value"),
    [
        (LENGTH, "1200", 1200), (LENGTH, "1,200 mm", 1200), (LENGTH, "1.2 m", 1200), (LENGTH, "120cm", 1200),
        (LENGTH, "1 in", 25.4), (LENGTH, '12"', 304.8), (LENGTH, "1 ft", 304.8), (LENGTH, "4 ft", 1219.2),
        (LENGTH, "5' 10\"", 1778), (LENGTH, "5'10", 1778), (LENGTH, "5 ft 10 in", 1778), (LENGTH, "5′ 10″", 1778),
        (LENGTH, "7 1/2 in", 190.5), (LENGTH, "1/2\"", 12.7), (LENGTH, "−3 ft", -914.4), (LENGTH, "-10", -10),
        (LENGTH, "1,5 cm", 15), (LENGTH, "+40", 40), (LENGTH, "5 FT", 1524),
        (DISTANCE, "8 ft", 2.4384), (DISTANCE, "0.25", 0.25), (DISTANCE, "3 km", 3000),
        (WEIGHT, "1 lb", 0.45359237), (WEIGHT, "16 oz", 0.45359237), (WEIGHT, "900 g", 0.9),
        (SPEED, "36 km/h", 10), (SPEED, "1 mph", 0.44704), (SPEED, "2", 2),
        # Where the scales meet and where water freezes and boils.
        (TEMPERATURE, "-40 °F", -40), (TEMPERATURE, "32 F", 0), (TEMPERATURE, "212 °F", 100), (TEMPERATURE, "−3", -3),
        (ANGLE, "12.5°", 12.5), (ANGLE, "-90 deg", -90),
    ],
)  # fmt: skip
def test_what_people_type_is_read(measure: Measure, text: str, value: float) -> None:
    assert measure.read(text) == pytest.approx(value, abs=1e-9)


@pytest.mark.parametrize(
    ("measure", "text"),
    [
        (LENGTH, ""), (LENGTH, "long"), (LENGTH, "3 kg"), (LENGTH, "1 2 3"), (LENGTH, "3 in 2 ft"),
        (LENGTH, "1 m 5 in"),
        (LENGTH, "--3"), (LENGTH, "1/0 in"), (LENGTH, "3 ft 2 ft"), (LENGTH, "nan"), (LENGTH, "1e3"),
        (DISTANCE, "5 °"), (TEMPERATURE, "5 K"), (WEIGHT, "1 ft"), (ANGLE, "5 mm"), (SPEED, "3 m"),
    ],
)  # fmt: skip
def test_what_is_none_is_refused_with_an_example(measure: Measure, text: str) -> None:
    with pytest.raises(Refusal) as refused:
        measure.read(text)
    assert measure.kind in refused.value.allowed and "such as" in refused.value.allowed


def test_a_number_without_a_unit_is_in_the_measures_in_which_it_is_typed() -> None:
    assert chosen() == "metric"
    assert LENGTH.read("12", "imperial") == pytest.approx(304.8)
    assert DISTANCE.read("10", "imperial") == pytest.approx(3.048)
    assert TEMPERATURE.read("50", "imperial") == pytest.approx(10)
    assert WEIGHT.read("2", "imperial") == pytest.approx(0.90718474)
    # One that is named stays what it is.
    assert LENGTH.read("12 mm", "imperial") == 12 and TEMPERATURE.read("10 °C", "imperial") == 10
    # What is shown changes nothing of it.
    with measured_in("imperial"):
        assert LENGTH.read("12") == 12


def test_values_are_shown_in_the_measures_that_were_chosen() -> None:
    assert (LENGTH.show(212.4), DISTANCE.show(2.5, 1), TEMPERATURE.show(-3, 0)) == ("212.4 mm", "2.5 m", "−3 °C")
    assert LENGTH.show_fine(0.0042) == "0.0042 mm" and LENGTH.show_fine(40, "/s") == "40 mm/s"
    with measured_in("imperial"):
        assert (LENGTH.show(25.4), DISTANCE.show(3.048, 1), TEMPERATURE.show(0, 0)) == ("1 in", "10 ft", "32 °F")
        assert WEIGHT.show(0.45359237) == "1 lb" and LENGTH.show_fine(254, "/s²") == "10 in/s²"
        # Degrees are degrees in either world.
        assert ANGLE.show(-3.6) == "−3.6°"


@given(st.sampled_from([LENGTH, DISTANCE, WEIGHT, TEMPERATURE]), st.floats(-200, 5_000), st.booleans())
def test_what_is_shown_reads_back_as_what_it_was(measure: Measure, value: float, imperial: bool) -> None:
    with measured_in("imperial" if imperial else "metric"):
        # Half a last decimal of an inch.
        assert measure.read(measure.show(value, 4), chosen()) == pytest.approx(value, abs=1.5e-4)


def test_documents_take_a_text_that_says_its_unit_and_keep_their_own() -> None:
    marks = [{"scale": scale, "distance_m": distance} for scale, distance in ((0, "1 ft"), (1, 2), (2, "30 ft"))]
    lens = Lens.model_validate({"name": "L", "closest_m": "10 in", "weight_kg": "2 lb", "focus_marks": marks})
    assert lens.closest_m == pytest.approx(0.254) and lens.weight_kg == pytest.approx(0.90718474)
    assert [mark.distance_m for mark in lens.focus_marks] == pytest.approx([0.3048, 2, 9.144])
    place = {"name": "P", "latitude_deg": 50, "longitude_deg": 0, "temperature_c": "26.6 °F", "elevation_m": "30 ft"}
    assert Place.model_validate(place).temperature_c == pytest.approx(-3)
    thing = Thing.model_validate({"name": "T", "x_mm": "1 ft", "y_mm": "3 m", "height_mm": "5' 10\""})
    assert (thing.x_mm, thing.y_mm, thing.height_mm) == pytest.approx((304.8, 3000, 1778))
    # What is written out is numbers alone, whatever is chosen.
    with measured_in("imperial"):
        assert Thing.model_validate(thing.model_dump(mode="json")) == thing
        assert FocusMark.model_validate({"scale": 1, "distance_m": 2}).distance_m == 2


def test_an_axis_reads_its_figures_by_what_it_is() -> None:
    slide = Axis.model_validate({
        "name": "slide", "low": "0 in", "high": "4 ft", "speed": "2 in/s", "acceleration": '3"/s²', "step": "0.05",
        "backlash": "0.004 in", "settle_s": "0.4 s",
    })  # fmt: skip
    assert (slide.high, slide.speed, slide.acceleration) == pytest.approx((1219.2, 50.8, 76.2))
    assert (slide.step, slide.backlash, slide.settle_s) == pytest.approx((0.05, 0.1016, 0.4))
    figures = {"low": "-170°", "high": "170", "speed": "20°/s", "acceleration": 40, "step": 0.01}
    pan = Axis.model_validate({"name": "pan"} | figures)
    assert (pan.low, pan.high, pan.speed) == (-170, 170, 20)
    with pytest.raises(ValueError, match=r"angle such as"):
        Axis.model_validate(pan.model_dump() | {"high": "4 ft"})
    # In a document a bare number is in the document's own unit, whatever is shown; typed into a form it is in that.
    document = {"name": "M", "axes": [slide.model_dump()]}
    with measured_in("imperial"):
        assert Mover.model_validate({"name": "M", "axes": [slide.model_dump() | {"high": "48"}]}).axes[0].high == 48
    assert filled(Mover, document, {"axes.0.high": "48"}, "imperial").axes[0].high == 1219.2


def test_a_documents_measured_values_are_worded_by_their_paths() -> None:
    axis = {"name": "slide", "low": 0, "high": 1200, "speed": 40, "acceleration": 60, "step": 0.0125}
    mover = Mover.model_validate({"name": "M", "axes": [axis], "weight_kg": 2.5})
    said = worded(mover)
    assert said["axes.0.high"] == "1,200 mm" and said["axes.0.step"] == "0.0125 mm" and said["weight_kg"] == "2.5 kg"
    assert said["axes.0.speed"] == "40 mm/s" and said["axes.0.settle_s"] == "0.5 s"
    with measured_in("imperial"):
        there = worded(mover)
        assert there["axes.0.high"] == "47.24 in" and there["axes.0.acceleration"] == "2.362 in/s²"
        assert there["weight_kg"] == "5.512 lb"
        # What is shown can be sent back.
        again = filled(Mover, mover.model_dump(), there, "imperial").axes[0]
        assert again.high == pytest.approx(1200, rel=1e-3) and again.settle_s == 0.5


def test_five_ounces_are_shown_to_the_gram() -> None:
    assert WEIGHT.show_whole(WEIGHT.read("5 oz")) == "0.142 kg"
    assert LENGTH.show_whole(1219.2) == "1,219.2 mm" and LENGTH.show_whole(0.0125) == "0.0125 mm"
