"""Where a fault is said to be: the document's own path, whatever stands around it."""

import pytest
from pydantic import BaseModel, ValidationError

from revani.core.documents import Axis, Body, Lens, Place, Shot
from revani.core.quantities.measures import measured_in
from revani.exports.problem import faults_of, path_of
from tests.conftest import make_shot


@pytest.mark.parametrize(
    ("location", "path"),
    [
        (("body", "shot", "timing", "interval_s"), "shot.timing.interval_s"),
        (("body", "shot", "kit", "body", "iso_min"), "shot.kit.body.iso_min"),
        (("body", "shot", "move", "path"), "shot.move.path"),
        (("body", "lens", "focus_marks", 1, "distance_m"), "focus_marks.1.distance_m"),
        (("body", "body", "iso_min"), "iso_min"),
        (("query", "most"), "most"), (("path", "id"), "id"), (("body",), ""), ((), ""),
        (("kit", "body", "iso_min"), "kit.body.iso_min"),
    ],
)  # fmt: skip
def test_a_place_is_named_as_the_document_names_it(location: tuple[int | str, ...], path: str) -> None:
    assert path_of(location) == path


def test_every_fault_of_a_document_is_told_at_its_own_field() -> None:
    wrong = make_shot().model_dump(mode="json")
    wrong["kit"]["body"]["battery_wh"] = -1
    wrong["move"] = {"path": "zigzag"}
    with pytest.raises(ValidationError) as refused:
        Shot.model_validate(wrong)
    faults = {fault.path: fault.allowed for fault in faults_of(refused.value)}
    assert faults == {"kit.body.battery_wh": "More than 0 Wh.", "move.path": "One of: legs, smooth."}


@pytest.mark.parametrize(
    ("kind", "values", "path", "allowed"),
    [
        (Body, {"iso_min": 20_000}, "iso_max", "At least the base ISO, 20,000."),
        (Body, {"shutter_min_s": 1, "manual_shutter_max_s": "1/2"}, "manual_shutter_max_s", "shortest shutter, 1 s"),
        (Body, {"manual_shutter_max_s": 9_000}, "manual_shutter_max_s", "At most 2 h 00 min."),
        (Body, {"battery_usable": 2}, "battery_usable", "At most 1."),
        (Body, {"battery_wh": "full"}, "battery_wh", "Type a number."),
        (Body, {"iso_max": 99.5}, "iso_max", "Type a whole number."),
        (Body, {"bytes_per_frame": 5e9}, "bytes_per_frame", "At most 2 GB."),
        (Body, {"name": ""}, "name", "This must not be empty."),
        (Body, {"name": "  "}, "name", "A name is needed."),
        (Lens, {"focal_length_min_mm": 50}, "focal_length_max_mm", "At least the shortest focal length, 50 mm."),
        (Lens, {"aperture_widest": 22}, "aperture_narrowest", "At least the widest aperture, f/22."),
        (Lens, {"aperture_widest_long": 32}, "aperture_narrowest_long", "f/32"),
        (Lens, {"focus_marks": [{"scale": 0, "distance_m": 1}]}, "focus_marks", "Three marks"),
        (Lens, {"closest_m": 200}, "closest_m", "At most 100 m."),
        (Axis, {"low": 5, "high": 5, "speed": 1, "acceleration": 1, "step": 1}, "high", "above where the axis begins"),
        (Axis, {"low": 0, "high": 5, "acceleration": 1, "step": 1}, "speed", "This is needed."),
        (Place, {"time_zone": "Mars"}, "time_zone", "time zone such as"),
        (Place, {"window": {"opens": "9", "closes": "18:00"}}, "window.opens", "a clock time such as 19:50"),
        (Place, {"latitude_deg": 95}, "latitude_deg", "At most 90°."),
        (Place, {"temperature_c": -99}, "temperature_c", "At least −60 °C."),
    ],
)  # fmt: skip
def test_a_fault_is_a_sentence_of_the_job_at_the_field_that_has_it(
    kind: type[BaseModel], values: dict[str, object], path: str, allowed: str
) -> None:
    whole = {"name": "Tarn"} | ({"latitude_deg": 57, "longitude_deg": 7} if kind is Place else {})
    whole = {"name": "slide"} if kind is Axis else whole
    with pytest.raises(ValidationError) as refused:
        kind.model_validate(whole | values)
    faults = {fault.path: fault.allowed for fault in faults_of(refused.value)}
    assert allowed in faults[path]
    for said in faults.values():
        assert said.endswith(".") and "nput should" not in said and "_" not in said


def test_every_fault_is_told_at_once() -> None:
    with pytest.raises(ValidationError) as refused:
        Body.model_validate({"name": "", "iso_min": 0, "battery_wh": 0, "pixels_wide": "many", "frame_j": -1})
    assert {fault.path for fault in faults_of(refused.value)} == {
        "name", "iso_min", "battery_wh", "pixels_wide", "frame_j",
    }  # fmt: skip


def test_a_bound_is_told_in_the_measures_that_are_shown() -> None:
    with pytest.raises(ValidationError) as refused:
        Lens.model_validate({"name": "Wicket", "closest_m": 200})
    with measured_in("imperial"):
        assert faults_of(refused.value)[0].allowed == "At most 328.08 ft."
    assert faults_of(refused.value)[0].allowed == "At most 100 m."
