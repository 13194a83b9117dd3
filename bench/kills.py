"""Kills and outages of all processes at seeded random moments: is the journal true, does all go on by itself?"""

import os
import random
import signal
import sys
import time

import httpx

from bench.own import Own, own_revani
from bench.table import Row
from revani.core.documents import AfterStart, Light, Move, MoveKey, Shot
from revani.core.documents.timing import Timing
from revani.processes import alive, send
from tests.conftest import make_kit, make_shot
from tests.core.moving import moving_kit

WANTED = int(os.environ.get("REVANI_BENCH_KILLS", "200"))
SEED = int(os.environ.get("REVANI_BENCH_SEED", "1"))
FRAMES, SPEED, A_RUN = 80, 240.0, 8
_ENDED = ("finished", "stopped", "failed", "missed")
_WITHIN_S = 150.0
# The runner oftenest, for it has most to lose; it and the database are also stopped for a while, and go on.
_VICTIMS = (
    "runner",
    "runner",
    "runner",
    "camera",
    "mover",
    "database",
    "worker",
    "web",
    "runner sleeps",
    "database sleeps",
)


def _shot(number: int) -> Shot:
    keys = [
        MoveKey(at=AfterStart(after_s=0), positions={"slide": 100}),
        MoveKey(at=AfterStart(after_s=60 * (FRAMES - 2)), positions={"slide": 1000}),
    ]
    kind = (None, "stepwise", "continuous")[number % 3]
    return make_shot(
        name=f"Kills {number}", timing=Timing(fps=30, interval_s=60, frame_count=FRAMES),
        light=Light(aperture=2.8, shutter_s=10), kit=moving_kit() if kind else make_kit(),
        move=Move(kind=kind, keys=keys) if kind else None,
    )  # fmt: skip


def _strike(own: Own, chosen: random.Random) -> str:
    """Do one thing to one process; it is its supervisor's affair to mend it."""
    victim = chosen.choice(_VICTIMS)
    name, _, sleeps = victim.partition(" ")
    process = own.children.get(name)
    if process is None or not alive(process):
        return ""
    if sleeps:
        send(process, signal.SIGSTOP)
        time.sleep(chosen.uniform(0.5, 3))
        send(process, signal.SIGCONT)
    else:
        send(process, signal.SIGQUIT if name == "database" else signal.SIGKILL)
    return victim


def rows() -> list[Row]:
    """Numbers missing or double, outcomes against the card, runs that did not come to their end by themselves."""
    chosen = random.Random(SEED)
    struck: list[str] = []
    wrong_numbers = untrue = stuck = runs = lost = 0
    with own_revani() as own:
        while len(struck) < WANTED:
            runs += 1
            shot = _shot(runs)
            own.ask("POST", "/api/shots", json=shot.model_dump(mode="json"))
            order = {"shot_id": str(shot.id), "when": "planned", "speed": SPEED, "anyway": True, "queue": True}
            run = own.ask("POST", "/api/runs", json=order).json()
            moments = sorted(chosen.uniform(0.5, FRAMES * 60 / SPEED) for _ in range(A_RUN))
            begin = time.monotonic()
            for moment in moments:
                time.sleep(max(0.0, moment - (time.monotonic() - begin)))
                if victim := _strike(own, chosen):
                    struck.append(victim)
            until = time.monotonic() + _WITHIN_S
            while (view := own.ask("GET", f"/api/runs/{run['id']}").json())["state"] not in _ENDED:
                if time.monotonic() > until:
                    stuck += 1
                    print(f"run {runs} is stuck: {view['state']}, {view['sign']}", file=sys.stderr)
                    own.ask("POST", f"/api/runs/{run['id']}/stop")
                    break
                time.sleep(0.3)
            numbers, untruths, missed = _against_the_card(own, run["id"])
            wrong_numbers += numbers
            untrue += untruths
            lost += missed
            print(f"run {runs}: {view['state']}, {missed} missed, {len(struck)} struck so far", file=sys.stderr)
    told = ", ".join(f"{name} {struck.count(name)}" for name in dict.fromkeys(_VICTIMS))
    return [
        Row(f"numbers missing or double, {len(struck)} strikes, {runs} runs", wrong_numbers, 0, "", told),
        Row("outcomes that the card denies", untrue, 0, "", f"{lost} of {runs * FRAMES} frames missed"),
        Row("runs that did not end by themselves", stuck, 0, ""),
    ]


def _against_the_card(own: Own, run: str) -> tuple[int, int, int]:
    journal = own.rows(b"SELECT number, outcome, sha256, reason FROM journal WHERE run_id = %s ORDER BY number", run)
    card = {}
    until = time.monotonic() + 60
    while time.monotonic() < until:
        try:
            card = {one["number"]: one["sha256"] for one in httpx.get(f"{own.camera}/frames?label={run}").json()}
            break
        except (httpx.HTTPError, ValueError):
            time.sleep(0.2)
    numbers = [row[0] for row in journal]
    wrong = len(set(range(1, FRAMES + 1)) ^ set(numbers)) + (len(numbers) - len(set(numbers)))
    untrue = 0
    for number, outcome, sha256, reason in journal:
        if (outcome == "taken") != (number in card) or (outcome == "taken" and card[number] != sha256):
            untrue += 1
            print(f"frame {number}: {outcome} ({reason}), on the card: {number in card}", file=sys.stderr)
    return wrong, untrue, sum(row[1] == "missed" for row in journal)
