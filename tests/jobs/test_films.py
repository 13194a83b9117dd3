"""Films on the queue: two at once, a worker that is killed, frames that are gone or cut short."""

import hashlib
import socket
import time
from pathlib import Path
from uuid import uuid4

import av
import httpx
import psycopg
import pytest

from tests.conftest import Stack, eventually
from tests.runs import arm, saved, short, taken, until_state


@pytest.fixture(scope="module")
def run(client: httpx.Client, stack: Stack) -> dict:  # type: ignore[type-arg]
    """A run that lost a few frames."""
    run = arm(client, saved(client, **short(20)))
    eventually(lambda: taken(client, run) >= 3)
    httpx.put(f"{stack.camera}/fault", json={"kind": "refuse", "count": 100_000}).raise_for_status()
    eventually(lambda: client.get(f"/api/runs/{run['id']}").json().get("missed", 0) >= 2)
    httpx.delete(f"{stack.camera}/fault").raise_for_status()
    done = until_state(client, run, "finished", "stopped", "failed")
    assert done["state"] == "finished" and done["missed"]
    return done


def order(client: httpx.Client, run: dict) -> str:  # type: ignore[type-arg]
    answer = client.post(f"/api/runs/{run['id']}/films")
    assert answer.status_code == 201
    return answer.json()["id"]


def film(client: httpx.Client, run: dict, id: str) -> dict:  # type: ignore[type-arg]
    return next(one for one in client.get(f"/api/runs/{run['id']}/films").json() if one["id"] == id)


def made(client: httpx.Client, run: dict, id: str) -> dict:  # type: ignore[type-arg]
    ended = ("finished", "failed", "cancelled")
    return eventually(lambda: (found := film(client, run, id))["state"] in ended and found)


def pictures(path: Path) -> int:
    with av.open(str(path)) as opened:
        return sum(1 for _ in opened.decode(video=0))


def test_two_films_of_one_run_at_once_are_whole_and_say_what_they_are_closed_over(
    client: httpx.Client,
    stack: Stack,
    run: dict,  # type: ignore[type-arg]
) -> None:
    ordered = [order(client, run) for _ in range(2)]
    for id in ordered:
        done = made(client, run, id)
        lost = run["missed"]
        told = f"closed over {lost} frame{'s' if lost > 1 else ''} without a picture"
        assert done["state"] == "finished" and told in done["summary"]
        assert pictures(stack.folder / "runs" / run["id"] / f"{id}.mp4") == run["taken"]
    assert not list((stack.folder / "runs").rglob("*.part*"))
    # What belongs to a run is for nobody else to read.
    assert all(path.stat().st_mode & 0o077 == 0 for path in (stack.folder / "runs" / run["id"]).rglob("*"))


def test_a_frame_at_home_that_was_cut_short_is_fetched_anew(
    client: httpx.Client,
    stack: Stack,
    run: dict,
    connection: psycopg.Connection,  # type: ignore[type-arg]
) -> None:
    made(client, run, order(client, run))
    frames = sorted((stack.folder / "runs" / run["id"] / "frames").glob("*.jpg"))
    frames[0].write_bytes(frames[0].read_bytes()[:100])
    frames[1].write_bytes(b"\0" * frames[1].stat().st_size)
    assert made(client, run, order(client, run))["state"] == "finished"
    wanted = dict(connection.execute("SELECT number, sha256 FROM journal WHERE run_id = %s", [run["id"]]).fetchall())
    for path in frames:
        assert hashlib.sha256(path.read_bytes()).hexdigest() == wanted[int(path.stem)]


def test_a_frame_that_is_gone_from_the_card_is_left_out_and_told(
    client: httpx.Client,
    stack: Stack,
    run: dict,
    connection: psycopg.Connection,  # type: ignore[type-arg]
) -> None:
    number, file = connection.execute(
        "SELECT number, file FROM journal WHERE run_id = %s AND file IS NOT NULL ORDER BY number LIMIT 1", [run["id"]]
    ).fetchone() or (0, "")
    (stack.folder / "camera" / file).unlink()
    (stack.folder / "runs" / run["id"] / "frames" / f"{number:06d}.jpg").unlink(missing_ok=True)
    done = made(client, run, order(client, run))
    assert done["state"] == "finished" and f"closed over {run['missed'] + 1} frames" in done["summary"]


def test_the_film_of_a_killed_worker_is_taken_up_by_the_next(
    client: httpx.Client,
    stack: Stack,
    run: dict,  # type: ignore[type-arg]
) -> None:
    # A camera that answers slowly, so that the worker is killed in the middle of it.
    for path in (stack.folder / "runs" / run["id"] / "frames").glob("*.jpg"):
        path.unlink()
    id = order(client, run)
    eventually(lambda: film(client, run, id)["state"] in ("working", "finished"))
    stack.kill("worker")
    stack.start("worker")
    assert made(client, run, id)["state"] == "finished"
    assert pictures(stack.folder / "runs" / run["id"] / f"{id}.mp4") >= run["taken"] - 1


def test_a_film_that_no_worker_speaks_of_is_cancelled_at_once_and_stays_so(
    client: httpx.Client,
    stack: Stack,
    run: dict,
    connection: psycopg.Connection,  # type: ignore[type-arg]
) -> None:
    id = uuid4()
    connection.execute(
        "INSERT INTO film (id, run_id, total, fps, state, noted_at) VALUES (%s, %s, 40, '30', 'working',"
        " now() - interval '1 minute')", [id, run["id"]],
    )  # fmt: skip
    assert client.post(f"/api/films/{id}/cancel").json()["state"] == "cancelled"
    assert film(client, run, str(id))["reason"] == "Cancelled."


def test_ten_downloads_that_stand_still_leave_everything_else_answering(
    client: httpx.Client,
    stack: Stack,
    run: dict,  # type: ignore[type-arg]
) -> None:
    id = order(client, run)
    assert made(client, run, id)["state"] == "finished"
    # Too large for what lies between the two ends.
    (stack.folder / "runs" / run["id"] / f"{id}.mp4").write_bytes(b"\0" * 40_000_000)
    port = int(stack.environment["REVANI_PORT"])
    request = f"GET /api/films/{id}/file HTTP/1.1\r\nHost: 127.0.0.1:{port}\r\n\r\n".encode()
    standing = [socket.create_connection(("127.0.0.1", port), 10) for _ in range(20)]
    try:
        for one in standing:
            one.sendall(request)
            assert one.recv(15) == b"HTTP/1.1 200 OK"
        begin = time.monotonic()
        assert {client.get("/api/shots").status_code for _ in range(20)} == {200}
        assert time.monotonic() - begin < 20
    finally:
        for one in standing:
            one.close()


def test_a_film_answers_conditional_and_partial_requests(client: httpx.Client, run: dict) -> None:  # type: ignore[type-arg]
    id = order(client, run)
    assert made(client, run, id)["state"] == "finished"
    whole = client.get(f"/api/films/{id}/file")
    again = client.get(f"/api/films/{id}/file", headers={"If-None-Match": whole.headers["etag"]})
    assert again.status_code == 304 and again.content == b""
    part = client.get(f"/api/films/{id}/file", headers={"Range": "bytes=100-199"})
    assert part.status_code == 206 and part.content == whole.content[100:200]
    head = client.head(f"/api/films/{id}/file")
    assert head.content == b"" and head.headers["content-length"] == str(len(whole.content))
