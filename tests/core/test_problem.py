"""Where a fault is said to be: the document's own path, whatever stands around it."""

import pytest
from pydantic import ValidationError

from revani.core.documents import Shot
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
    assert set(faults) == {"kit.body.battery_wh", "move.path"} and "greater than 0" in faults["kit.body.battery_wh"]
