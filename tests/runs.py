"""Runs on the rig of the tests: armed as fast as the machine allows, waited for, accounted for."""

import time

import httpx

from revani.core.documents import Light, Shot
from revani.core.documents.timing import Timing
from tests.conftest import eventually, make_shot


def saved(client: httpx.Client, **change: object) -> Shot:
    shot = make_shot(**change)
    assert client.post("/api/shots", json=shot.model_dump(mode="json")).status_code == 201
    return shot


def slowness() -> float:
    """How many times slower than a quiet machine this one is just now, 1 to 6: shared ones stand still at times."""
    begin = time.perf_counter()
    sum(i * i for i in range(300_000))
    return min(max((time.perf_counter() - begin) / _QUIET_S, 1.0), 6.0)


_QUIET_S = 0.03


def arm(client: httpx.Client, shot: Shot, speed: float = 300, **order: object) -> dict:  # type: ignore[type-arg]
    """Arm a run so many times as fast as the clock, or less where this machine is slow."""
    # A shot of a day that is over can only be run on a faster stage.
    fitting = max(2.0 if speed > 1 else 1.0, round(speed / slowness()))
    standing = {"shot_id": str(shot.id), "when": "planned", "speed": fitting, "anyway": True, "queue": True}
    answer = client.post("/api/runs", json=standing | order)
    assert answer.status_code == 201, answer.text
    return answer.json()


def until_state(client: httpx.Client, run: dict, *states: str) -> dict:  # type: ignore[type-arg]
    return eventually(lambda: (view := client.get(f"/api/runs/{run['id']}").json()).get("state") in states and view)


def taken(client: httpx.Client, run: dict) -> int:  # type: ignore[type-arg]
    """How many frames a run has; none while nobody answers."""
    return client.get(f"/api/runs/{run['id']}").json().get("taken", 0)


def short(frames: int = 40, **change: object) -> dict[str, object]:
    """A shot whose slots last 0.2 s at the speed of these tests: a busy machine must not cost it frames."""
    values = {"timing": Timing(fps=30, interval_s=60, frame_count=frames), "light": Light(aperture=2.8, shutter_s=10)}
    return values | change


def slots_s(run: dict, many: float) -> float:  # type: ignore[type-arg]
    """Real seconds that so many slots of a `short` shot take, at the speed at which it was armed; three at least."""
    return max(3.0, many * 60 / run["speed"])


# What a frame may be missed for on a machine that stands still for a second, and for nothing else.
LATE = ("Its time had passed.", "The rig was not in its place in time")


def assert_all_accounted_for(client: httpx.Client, done: dict, frames: int) -> None:  # type: ignore[type-arg]
    """Every frame is in the journal once; what was missed was missed for want of time, and is less than half."""
    rows = client.get(f"/api/runs/{done['id']}/frames").json()
    assert done["state"] == "finished" and [row["number"] for row in rows] == list(range(1, frames + 1))
    missed = [row["reason"] for row in rows if row["outcome"] == "missed"]
    assert done["missed"] == len(missed) < frames / 2
    otherwise = [reason for reason in missed if not reason.startswith(LATE)]
    assert not otherwise, otherwise


def shot_whole(client: httpx.Client, shot: Shot, frames: int, speed: float = 300) -> dict:  # type: ignore[type-arg]
    """A finished run in which every frame is accounted for; where the machine was too busy for it, a slower one."""
    for slower in (1, 3, 9):
        done = until_state(client, arm(client, shot, speed / slower), "finished", "failed", "stopped")
        if done["missed"] < frames / 4:
            break
    assert_all_accounted_for(client, done, frames)
    return done
