"""What a camera sees from where it stands, against rotation matrices of SciPy."""

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from revani.core.optics.projection import seen_from

ANGLE = st.floats(-170, 170)
PART = st.floats(-5_000, 5_000)


def by_matrices(
    away: tuple[float, float, float], heading: float, tilt: float, roll: float
) -> tuple[float, float, float]:
    """The same by SciPy: right, ahead and up turned clockwise about up, then up about right, then about ahead."""
    turned = Rotation.from_euler("z", -heading, degrees=True)
    turned = turned * Rotation.from_euler("x", tilt, degrees=True) * Rotation.from_euler("y", roll, degrees=True)
    right, ahead, up = turned.inv().apply(away)
    assume(abs(ahead) > 1)
    return right / ahead, up / ahead, ahead


@given(st.tuples(PART, PART, PART), ANGLE, st.floats(-89, 89), ANGLE)
def test_a_point_stands_where_rotation_matrices_put_it(
    away: tuple[float, float, float], heading: float, tilt: float, roll: float
) -> None:
    right, up, depth = by_matrices(away, heading, tilt, roll)
    assert tuple(map(float, seen_from(away, heading, tilt, roll))) == pytest.approx(
        (right, up, depth), rel=1e-6, abs=1e-6
    )


def test_headings_go_clockwise_tilts_up_and_a_rolled_camera_turns_clockwise() -> None:
    # A point to the right comes to the middle when the camera turns right, one above when it tilts up.
    assert seen_from([1000.0, 1000.0, 0.0], 45, 0)[0] == pytest.approx(0, abs=1e-12)
    assert seen_from([0.0, 1000.0, 1000.0], 0, 45)[1] == pytest.approx(0, abs=1e-12)
    # What was above the middle leans to the left in the picture of a camera that leans to the right.
    right, up, _ = seen_from([0.0, 1000.0, 100.0], 0, 0, 90)
    assert right == pytest.approx(-0.1) and up == pytest.approx(0, abs=1e-12)
    assert seen_from([0.0, -1000.0, 0.0], 0, 0)[2] < 0


def test_many_points_and_many_poses_broadcast() -> None:
    points = np.array([[0.0, 1000.0, 0.0], [500.0, 1000.0, 0.0]])
    headings = np.linspace(-20, 20, 5)[:, None]
    right, _, depth = seen_from(points, headings, np.zeros((5, 1)))
    assert right.shape == depth.shape == (5, 2)
    assert right[0, 0] == pytest.approx(np.tan(np.radians(20))) and right[2].tolist() == pytest.approx([0, 0.5])
