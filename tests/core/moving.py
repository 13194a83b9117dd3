"""Rigs and moves to try things on; invented."""

from revani.core.documents import AfterStart, Axis, Ease, Move, MoveKey, Mover, Shot, Thing
from tests.conftest import make_kit, make_shot

SLIDE = Axis(name="slide", low=0, high=1200, speed=100, acceleration=200, step=0.05, backlash=0.2, settle_s=0.4)
PAN = Axis(name="pan", low=-90, high=90, speed=20, acceleration=40, step=0.01, settle_s=0.3)

LIMITS: dict[str, tuple[float, float, float, float]] = {
    "slide": (0, 1300, 150, 200), "lift": (0, 800, 60, 80), "pan": (-170, 170, 30, 60), "tilt": (-45, 60, 20, 40),
    "roll": (-30, 30, 20, 40), "zoom": (24, 70, 10, 20), "focus": (0, 100, 50, 100),
}  # fmt: skip


def axis(name: str, **change: object) -> Axis:
    low, high, speed, force = LIMITS[name]
    values = {"name": name, "low": low, "high": high, "speed": speed, "acceleration": force, "step": 0.01}
    return Axis.model_validate(values | change)


def rig(*axes: Axis, **change: object):  # type: ignore[no-untyped-def]
    lens = {
        "focal_length_max_mm": 70,
        "focus_marks": [
            {"scale": 0, "distance_m": 100},
            {"scale": 50, "distance_m": 2},
            {"scale": 100, "distance_m": 0.5},
        ],
    }
    mover = Mover.model_validate(
        {"name": "Test rig", "axes": [one.model_dump() for one in axes], "payload_kg": 9} | change
    )
    return make_kit(lens=lens).model_copy(update={"movers": (mover,)})


def key(at: object, hold_s: float = 0, ease: Ease | None = None, **positions: float) -> MoveKey:
    moment = AfterStart(after_s=at) if isinstance(at, int | float) else at
    ease = ease or Ease()
    return MoveKey.model_validate(
        {"at": moment.model_dump(), "positions": positions, "hold_s": hold_s, "leave": ease.model_dump(),  # type: ignore[attr-defined]
         "arrive": ease.model_dump()}
    )  # fmt: skip


def shot_of(
    *keys: MoveKey, axes: tuple[str, ...] = ("slide", "pan", "tilt"), kit: object = None, **change: object
) -> Shot:
    move_fields = {name: change.pop(name) for name in list(change) if name in Move.model_fields}
    move = Move.model_validate({"keys": [one.model_dump() for one in keys]} | move_fields)
    return make_shot(kit=kit or rig(*(axis(name) for name in axes)), move=move, **change)


def pass_(*, hold_s: float = 0, ease: Ease | None = None, event_s: float = 18_000, **change: object) -> Shot:
    return shot_of(key(0, slide=100, ease=ease), key(event_s, hold_s, slide=1100, ease=ease), **change)


KILN = Thing(name="Kiln", x_mm=600, y_mm=3000)


def moving_kit():  # type: ignore[no-untyped-def]
    slider = Mover(name="Test slider", axes=(SLIDE,), payload_kg=8)
    head = Mover(name="Test head", axes=(PAN,), payload_kg=4)
    kit = make_kit(body={"overhead_s": "0.5"})
    return kit.model_copy(update={"movers": (slider, head)})
