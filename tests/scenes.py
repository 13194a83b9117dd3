"""Scenes that a simulated camera is stood before."""

from uuid import uuid4

from revani.rig.ports import Scene
from revani.rig.stage import StageClock
from tests.conftest import make_kit, make_place, make_shot

DUSK = 1_795_541_000.0


def scene(speed: float = 600, body: dict[str, object] | None = None, **kit: object) -> Scene:
    shot = make_shot(kit=make_kit(body=body).model_copy(update=kit))
    return Scene(
        label=str(uuid4()), kit=shot.kit, place=make_place(), framing=shot.framing, cloud="clear",
        scene_offset_stops=2.5, clock=StageClock.starting(DUSK, speed),
    )  # fmt: skip
