"""Which steps a device can answer for by itself: what it says now, against what the shot wants."""

from collections.abc import Mapping
from typing import Any

from revani.core.program.compiled import Program
from revani.core.rigup.step import RigStep

# A clock that is no further off than this is set (handbook: a tenth of a second); a frame is as exact.
CLOCK_S = 0.1


def answered(step: RigStep, program: Program, camera: Mapping[str, Any] | None) -> bool | None:
    """Whether a step is done, as the camera itself says; None where nobody but a person can know.

    `camera` is what it said last, None where it did not answer.
    """
    if step.answer is None or (camera is None and step.answer != "camera answers"):
        return None
    if camera is None:
        return False
    if step.answer == "camera answers":
        return True
    shot = program.shot
    said = {
        "clock": camera.get("clock_ahead_s"), "drive": camera.get("drive"), "card": camera.get("card_free_bytes"),
        "white balance": camera.get("white_balance_k"), "homed": camera.get("homed"),
    }[step.answer]  # fmt: skip
    if said is None:
        return None
    if step.answer == "clock":
        return abs(float(said)) <= CLOCK_S
    if step.answer == "drive":
        return bool(said == "single")
    if step.answer == "card":
        return float(said) >= float(program.card_bytes[-1])
    if step.answer == "white balance":
        return int(said) == shot.light.white_balance_k
    return bool(said)
