"""Moves and aims."""

from typing import Annotated

from pydantic import Field

from revani.core.calculators.registry import Answer, Ask, ExactOrNone, ExactSeconds, Place1D, calculator
from revani.core.move.profile import Trapezoid, aim_pan_deg, minimum_jerk_peaks
from revani.core.quantities.refusal import Refusal


class MoveAsk(Ask):
    """A move with even speed ramps; a negative distance goes the other way."""

    distance_mm: Place1D
    duration_s: ExactSeconds
    ramp_up_s: ExactOrNone
    ramp_down_s: ExactOrNone
    positions_at_s: list[Annotated[float, Field(ge=0, le=1e9)]] = Field([], max_length=10_000)


class MoveAnswer(Answer):
    """Peaks of the move, and where it stands at the times asked for; null: no ramp, so no finite figure."""

    peak_speed_mm_s: float
    acceleration_mm_s2: float | None
    deceleration_mm_s2: float | None
    positions_mm: list[float]


@calculator
def move_profile(ask: MoveAsk) -> MoveAnswer:
    """Peak speed, acceleration and positions of a move with linear speed ramps."""
    move = Trapezoid(ask.distance_mm, ask.duration_s, ask.ramp_up_s, ask.ramp_down_s)
    return MoveAnswer(
        peak_speed_mm_s=move.peak_speed_mm_s, acceleration_mm_s2=move.acceleration_mm_s2,
        deceleration_mm_s2=move.deceleration_mm_s2, positions_mm=move.position_mm(ask.positions_at_s).tolist(),
    )  # fmt: skip


class JerkAsk(Ask):
    """A move of minimum jerk."""

    distance_mm: Place1D
    duration_s: Annotated[float, Field(ge=1e-3, le=1e9)]


class JerkAnswer(Answer):
    """Peaks of the move."""

    peak_speed_mm_s: float
    peak_acceleration_mm_s2: float


@calculator
def minimum_jerk(ask: JerkAsk) -> JerkAnswer:
    """Peak speed and acceleration of a minimum-jerk move."""
    speed, acceleration = minimum_jerk_peaks(ask.distance_mm, ask.duration_s)
    return JerkAnswer(peak_speed_mm_s=speed, peak_acceleration_mm_s2=acceleration)


class AimAsk(Ask):
    """A target in the slider's plan view and places along the slider; y is straight ahead."""

    target_x_mm: Place1D
    target_y_mm: Place1D
    x_mm: list[Place1D] = Field(min_length=1, max_length=10_000)


class AimAnswer(Answer):
    """Pan a place, clockwise from straight ahead."""

    pan_deg: list[float]


@calculator
def aim(ask: AimAsk) -> AimAnswer:
    """The pan that keeps a target in the middle from every place along a slider."""
    if ask.target_y_mm == 0 and ask.target_x_mm in ask.x_mm:
        raise Refusal("target_y_mm", "The target must not stand where the camera does.", ask.target_y_mm)
    return AimAnswer(pan_deg=aim_pan_deg(ask.target_x_mm, ask.target_y_mm, ask.x_mm).tolist())
