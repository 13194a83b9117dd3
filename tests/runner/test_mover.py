"""The simulated mover over its real link, and whole runs in which body and mover go together."""

import json
import os
import re
import select
import socket
import threading
import tty
from collections.abc import Iterator
from contextlib import ExitStack, closing, contextmanager
from uuid import uuid4

import httpx
import numpy as np
import psycopg
import pytest

from revani.core.documents import AfterStart, Ease, Light, Move, MoveKey, Shot
from revani.core.documents.take import Take
from revani.core.documents.timing import Timing
from revani.core.move.gcode import LETTERS
from revani.core.program.compiled import compile_shot
from revani.core.quantities.refusal import Refusal
from revani.rig.drivers import mover_at
from revani.rig.ports import Mover, MoverError, Stage
from revani.rig.stage import StageClock
from tests.conftest import Stack, eventually
from tests.core.moving import PAN, SLIDE, moving_kit
from tests.runs import arm, saved, shot_whole, taken, until_state


@pytest.fixture
def port(stack: Stack) -> int:
    return int(stack.environment["REVANI_PORT"]) + 3


@pytest.fixture(params=["over TCP", "over a serial port"])
def mover(port: int, request: pytest.FixtureRequest) -> Iterator[Mover]:
    with ExitStack() as stack:
        if request.param == "over TCP":
            driver = mover_at(f"gcode://127.0.0.1:{port}")
        else:
            driver = mover_at(f"serial:{stack.enter_context(terminal(port))}")
        yield driver
        driver.close()


@contextmanager
def terminal(port: int) -> Iterator[str]:
    """A pseudo-terminal whose other end is the simulated mover: to its driver it is a serial port."""
    ours, theirs = os.openpty()
    tty.setraw(theirs)
    over = threading.Event()
    with socket.create_connection(("127.0.0.1", port)) as line:

        def carry() -> None:
            while not over.is_set():
                ready, _, _ = select.select([ours, line], [], [], 0.05)
                if ours in ready:
                    line.sendall(os.read(ours, 65_536))
                if line in ready and (said := line.recv(65_536)):
                    os.write(ours, said)

        wire = threading.Thread(target=carry, daemon=True)
        wire.start()
        try:
            yield os.ttyname(theirs)
        finally:
            over.set()
            wire.join(5)
            os.close(ours)
            os.close(theirs)


def test_an_address_that_leads_nowhere_is_refused_or_says_that_nothing_answers() -> None:
    for address in ("serial:", "serial:/dev/ttyUSB0?baud=fast", "gcode://127.0.0.1", "spoon://x"):
        with pytest.raises(Refusal, match="An address"):
            mover_at(address)
    with pytest.raises(MoverError) as error:
        mover_at("serial:/dev/no-such-port").where()
    assert error.value.trouble == "unreachable"
    # What is plugged in and says nothing but what it hears is no mover.
    with pytest.raises(MoverError) as error:
        mover_at("serial:loop://").where()
    assert error.value.trouble == "garbled"


def stand(mover: Mover, label: str, speed: float = 50) -> StageClock:
    clock = StageClock.starting(1_795_541_000.0, speed)
    # A label of its own: a mover that knows it stands where it was left.
    mover.stand(Stage(label=f"{label} {uuid4()}", axes=(SLIDE, PAN), clock=clock))
    return clock


def test_a_rapid_move_takes_the_time_its_limits_need_and_settles(mover: Mover) -> None:
    clock = stand(mover, "rapid", speed=10)
    begin = clock.now_s()
    mover.go({"slide": 600})
    assert mover.where().moving
    mover.rest(5)
    # At 100 mm/s no way of 600 mm takes under 6 s; a third of it on either ramp makes it 9.
    assert 9.3 <= clock.now_s() - begin < 20
    where = mover.where()
    assert not where.moving and where.positions["slide"] == pytest.approx(600, abs=0.2)


def test_play_lies_behind_the_way_that_an_axis_goes(mover: Mover) -> None:
    stand(mover, "play")
    reached = []
    for target in (400, 600, 400):
        mover.go({"slide": target})
        mover.rest(5)
        reached.append(mover.where().positions["slide"])
    assert reached[0] - reached[2] == pytest.approx(-SLIDE.backlash, abs=1e-3)


def test_a_queued_way_is_where_it_should_be_at_every_instant(mover: Mover) -> None:
    clock = stand(mover, "queued", speed=1)
    mover.hold()
    for k in range(1, 6):
        assert mover.queue({"slide": 10.0 * k}, 0.2)
    start = clock.now_s() + 0.3
    mover.begin(start)
    looked = [mover.where() for _ in range(400)]
    inside = [one for one in looked if start < one.at_s < start + 1]
    for one in inside:
        # 50 mm/s: 5 ms of stage time are a quarter of a millimetre; the play comes on top.
        meant = (one.at_s - start) * 50
        assert one.positions["slide"] == pytest.approx(meant, abs=0.25 + SLIDE.backlash)


@pytest.mark.parametrize(
    ("block", "said"),
    [
        ("G1 X10", "F is needed"), ("G0 X5000", "X goes from 0 to 1200"), ("G1 X600 F60000", "at most 100"),
        ("G17 X1", "G17 is not known"), ("G0 Y3", "no axis"), ("hello", "not a block"),
    ],
)  # fmt: skip
def test_blocks_that_cannot_be_carried_out_are_refused_with_a_reason(
    mover: Mover, port: int, block: str, said: str
) -> None:
    stand(mover, f"refusal {block}")
    with socket.create_connection(("127.0.0.1", port), 5) as link:
        link.sendall(f"G94\n{block}\n".encode())
        answers = link.makefile()
        assert answers.readline() == "ok\n"
        answer = answers.readline()
    assert answer.startswith("error: ") and said in answer


def test_faults_stall_lose_steps_refuse_and_are_mended(mover: Mover, port: int) -> None:
    stand(mover, "faults")

    def show(fault: object) -> None:
        with socket.create_connection(("127.0.0.1", port), 5) as link:
            link.sendall(b"%" + json.dumps({"fault": fault}).encode() + b"\n")
            assert link.recv(100) == b"ok\n"

    show({"kind": "refuse"})
    with pytest.raises(MoverError):
        mover.go({"slide": 10})
    show({"kind": "lost step", "axis": "pan", "steps": 50})
    assert mover.where().positions["pan"] == pytest.approx(0.5)
    show({"kind": "stall", "axis": "slide"})
    mover.go({"slide": 300})
    with pytest.raises(MoverError) as error:
        mover.rest(5)
    assert error.value.trouble == "stalled" and mover.where().stalled == ["slide"]
    show(None)
    mover.rest(5)
    assert mover.where().positions["slide"] == pytest.approx(300, abs=0.3)


def keyed(kind: str, event_s: float, **change: object) -> Move:
    keys = (
        MoveKey(at=AfterStart(after_s=0), positions={"slide": 100, "pan": -20}),
        MoveKey(at=AfterStart(after_s=event_s), positions={"slide": 900, "pan": 20}),
    )
    return Move.model_validate({"kind": kind, "keys": [key.model_dump() for key in keys]} | change)


def rows_of(connection: psycopg.Connection, run: dict) -> list[tuple[int, float, dict]]:  # type: ignore[type-arg]
    return connection.execute(
        "SELECT number, fired_s, rig FROM journal_frame WHERE run_id = %s AND outcome = 'taken' ORDER BY number",
        [run["id"]],
    ).fetchall()


def test_shoot_move_settle_stands_still_on_its_place_for_every_frame(
    client: httpx.Client, connection: psycopg.Connection
) -> None:
    timing, light = Timing(fps=30, interval_s=60, frame_count=14), Light(aperture=2.8, shutter_s=5)
    shot = saved(client, kit=moving_kit(), move=keyed("stepwise", 780), timing=timing, light=light)
    program = compile_shot(shot)
    done = shot_whole(client, shot, 14, speed=100)
    rows = rows_of(connection, done)
    assert program.motion
    for number, _, rig in rows:
        planned = float(program.motion.positions["slide"][number - 1])
        assert rig["reached"]["slide"] == pytest.approx(planned, abs=SLIDE.backlash + SLIDE.step)
        assert rig["reached"]["pan"] == pytest.approx(float(program.motion.positions["pan"][number - 1]), abs=0.02)
    assert rows[-1][2]["reached"]["slide"] - rows[0][2]["reached"]["slide"] > 300


def test_a_continuous_move_stays_in_step_with_its_frames_to_5_ms(
    client: httpx.Client, connection: psycopg.Connection
) -> None:
    kit = moving_kit()
    kit = kit.model_copy(update={"body": kit.body.model_copy(update={"minimum_interval_s": 0.5})})
    ease = Ease(kind="linear", s=1).model_dump()
    move = keyed("continuous", 10)
    move = move.model_copy(
        update={
            "keys": tuple(MoveKey.model_validate(k.model_dump() | {"leave": ease, "arrive": ease}) for k in move.keys)
        }
    )
    timing = Timing(fps=30, interval_s=1, frame_count=10)
    light = Light(school="fixed", aperture=2.8, shutter_s="1/60", iso=100)
    shot = saved(client, kit=kit, move=move, timing=timing, light=light)
    done = until_state(client, arm(client, shot, when="now", speed=1), "finished", "failed", "stopped")
    rows = rows_of(connection, done)
    assert len(rows) >= 9
    armed = connection.execute("SELECT shot FROM run WHERE id = %s", [done["id"]]).fetchone()
    assert armed
    program = compile_shot(Shot.model_validate(armed[0]))
    assert program.motion
    for _, _, rig in rows[2:-1]:
        # Against the plan at the instant at which the rig was asked, be that a moment late on a busy machine. Linear
        # pieces between frames; play is there whatever the timing. 800 mm in 9 s of cruise: 88.9 mm/s.
        meant = float(program.motion.at(np.array(rig["at_s"] - program.start_s))["slide"])
        off = abs(rig["reached"]["slide"] - meant) - SLIDE.backlash / 2
        assert off / 88.9 < 0.005


@pytest.mark.parametrize(("rule", "state"), [("end", "stopped"), ("hold", "finished")])
def test_a_stalled_axis_ends_or_holds_the_run_by_the_shots_own_rule(
    client: httpx.Client, port: int, rule: str, state: str
) -> None:
    timing, light = Timing(fps=30, interval_s=60, frame_count=16), Light(aperture=2.8, shutter_s=5)
    shot = saved(client, kit=moving_kit(), move=keyed("stepwise", 900, on_stall=rule), timing=timing, light=light)
    run = arm(client, shot, speed=150)
    eventually(lambda: taken(client, run) >= 4)
    with socket.create_connection(("127.0.0.1", port), 5) as link:
        link.sendall(b'%{"fault": {"kind": "stall", "axis": "slide"}}\n')
        assert link.recv(100) == b"ok\n"
    try:
        done = until_state(client, run, "finished", "failed", "stopped")
    finally:
        with socket.create_connection(("127.0.0.1", port), 5) as link:
            link.sendall(b'%{"fault": null}\n')
            link.recv(100)
    assert done["state"] == state
    assert ("stalled" in done["reason"]) == (rule == "end")
    if rule == "end":
        assert 4 <= done["taken"] < 16


def test_an_unplugged_mover_is_asked_again_and_the_run_goes_on(client: httpx.Client, stack: Stack) -> None:
    timing, light = Timing(fps=30, interval_s=120, frame_count=11), Light(aperture=2.8, shutter_s=5)
    shot = saved(client, kit=moving_kit(), move=keyed("stepwise", 1200, on_stall="hold"), timing=timing, light=light)
    run = arm(client, shot, speed=120)
    eventually(lambda: taken(client, run) >= 3)
    stack.kill("mover")
    stack.start("mover")
    done = until_state(client, run, "finished", "failed", "stopped")
    assert done["state"] == "finished" and done["taken"] >= 6


def test_a_filmed_back_and_forth_lists_its_turning_points_and_its_clip_is_a_film(client: httpx.Client) -> None:
    keys = [
        MoveKey(at=AfterStart(after_s=0), positions={"slide": 100}).model_dump(),
        MoveKey(at=AfterStart(after_s=4), positions={"slide": 260}).model_dump(),
    ]
    move = Move.model_validate({"kind": "live", "keys": keys, "repeat": "ping-pong"})
    timing = Timing(fps=25, interval_s="1/25", event_s=20)
    light = Light(school="fixed", aperture=2.8, shutter_s="1/50", iso=800)
    take = Take(sound="a microphone on it", level_dbfs=-20)
    shot = saved(client, kit=moving_kit(), move=move, timing=timing, light=light, take=take)
    done = until_state(client, arm(client, shot, speed=6), "finished", "failed", "stopped")
    assert (done["state"], done["taken"]) == ("finished", 1)
    assert len(done["turns"]) == 4
    apart = []
    for i, turn in enumerate(done["turns"]):
        assert turn.startswith(f"{(i + 1) * 4} s")
        at, off = (
            float(part.replace(",", "").replace("−", "-"))
            for part in re.findall(r"slide ([\d.,]+) mm \((\S+) mm off\)", turn)[0]
        )
        planned = at - off
        apart.append(abs(off))
        # At six times the clock's speed a look may come late, and a machine that stands still for a moment starves
        # the mover: but on the right side of the middle.
        assert (planned > 180) == (at > 180) == (i % 2 == 0)
    assert min(apart) < 5
    answer = client.get(f"/api/runs/{done['id']}/frames/1/picture")
    assert answer.headers["content-type"] == "video/mp4" and b"ftyp" in answer.content[:32]
    # What was spoken before it lies at the level that was wanted, but for what AAC makes of it, with breaths between.
    heard = sound_of(client, done)
    peak = float(heard["peak"]["text"].split()[0].replace("−", "-"))
    assert peak == pytest.approx(-20, abs=1.5) and heard["peak"]["tone"] == "good"
    assert heard["pauses"]["tone"] == "good" and heard["clips"]["text"] == "nowhere"
    lines = {one["label"]: one for one in client.get(f"/api/runs/{done['id']}/report").json()["lines"]}
    assert f"Peak {heard['peak']['text']}; RMS" in lines["sound"]["text"] and lines["sound"]["tone"] == "good"


def sound_of(client: httpx.Client, run: dict) -> dict[str, dict]:  # type: ignore[type-arg]
    return {row["label"]: row for row in client.get(f"/api/runs/{run['id']}/sound").json()}


def test_a_film_whose_microphone_was_dead_calls_as_soon_as_its_file_is_closed(
    client: httpx.Client, stack: Stack, connection: psycopg.Connection
) -> None:
    shot = saved(
        client, move=Move(kind="live"), timing=Timing(fps=25, interval_s="1/25", event_s=12),
        light=Light(school="fixed", aperture=2.8, shutter_s="1/50", iso=800), take=Take(sound="a microphone on it"),
    )  # fmt: skip
    assert client.post("/api/drills", json={"name": "microphone dead"}).status_code == 200
    try:
        done = until_state(client, arm(client, shot, speed=6), "finished", "failed", "stopped")
    finally:
        client.delete("/api/drills")
    told = "What was filmed has no sound: all of it lies under −50 dBFS."
    path = f"/api/runs/{done['id']}"
    alarms = eventually(lambda: [one for one in client.get(path).json()["alarms"] if one["text"] == told])
    assert alarms[0]["level"] == "come"
    # It was measured without anybody looking, and is not measured again.
    assert connection.execute("SELECT count(*) FROM sound_of_film WHERE run_id = %s", [done["id"]]).fetchone() == (1,)
    report = client.get(f"{path}/report").json()
    lines = {one["label"]: one for one in report["lines"]}
    assert lines["sound"]["tone"] == "bad" and "; all of it lies under" in lines["sound"]["text"]
    # A film is one file: nothing is said of when its only frame ended.
    assert lines["from, to"]["text"].startswith("It began at")
    assert any(todo.startswith(told) for todo in report["todo"])
    stack.kill("camera")
    try:
        assert sound_of(client, done)["no sound"]["tone"] == "bad"
    finally:
        stack.start("camera")
        stack.wait_for_camera()


def test_every_axis_has_a_letter_of_its_own() -> None:
    assert len(set(LETTERS.values())) == 7 and np.all([len(letter) == 1 for letter in LETTERS.values()])


def test_a_mover_of_another_number_is_asked_for_nothing(port: int) -> None:
    here = f"gcode://127.0.0.1:{port}"
    with closing(mover_at(here)) as any_one:
        number = any_one.number()
    assert number == f"SIM-M{port}"
    with closing(mover_at(here, number)) as right:
        assert right.where().stalled == []
    with closing(mover_at(here, "SIM-M1")) as wrong:
        for ask in (wrong.where, wrong.stop, wrong.number):
            with pytest.raises(MoverError, match=f"Another mover answers: {number}, where SIM-M1 was linked") as caught:
                ask()
            assert caught.value.trouble == "another"
