"""How soon a page hears: of a frame with fifty pages watching, and of an alarm after its cause."""

import json
import signal
import statistics
import threading
import time

import httpx

from bench.own import Own, own_revani
from bench.table import Row
from revani.core.documents import Light
from revani.core.documents.timing import Timing
from revani.processes import send
from tests.conftest import make_shot

PAGES, FRAMES, ALARMS = 50, 60, 5


def rows() -> list[Row]:
    """Event lag of fifty pages, p95; and the longest time from a camera's death to its alarm on a page."""
    with own_revani() as own:
        run = _armed(own)
        heard: list[tuple[float, dict[str, object]]] = []
        over = threading.Event()
        pages = [threading.Thread(target=_watch, args=(own, run, heard, over), daemon=True) for _ in range(PAGES)]
        for page in pages:
            page.start()
        lags = _lags_s(own, run, heard)
        alarms = [_alarm_s(own, heard) for _ in range(ALARMS)]
        over.set()
        own.ask("POST", f"/api/runs/{run}/stop")
    told = f"median {statistics.median(lags):.2f} s, {len(lags)} events"
    return [
        Row(f"event lag of {PAGES} pages, p95", statistics.quantiles(lags, n=20)[-1], 1.0, "s", told),
        Row("alarm on the page after its cause, longest", max(alarms), 2.0, "s", f"{ALARMS} cameras killed"),
    ]


def _armed(own: Own) -> str:
    timing = Timing(fps=30, interval_s=60, frame_count=5_000)
    shot = make_shot(name="Calling", timing=timing, light=Light(school="fixed", aperture=2.8, shutter_s=1))
    own.ask("POST", "/api/shots", json=shot.model_dump(mode="json"))
    order = {"shot_id": str(shot.id), "when": "planned", "speed": 60, "anyway": True, "queue": True}
    return str(own.ask("POST", "/api/runs", json=order).json()["id"])


def _watch(own: Own, run: str, heard: list[tuple[float, dict[str, object]]], over: threading.Event) -> None:
    with (
        httpx.Client(base_url=own.home, trust_env=False, timeout=None) as page,
        page.stream("GET", f"/api/runs/{run}/events") as events,
    ):
        for line in events.iter_lines():
            if line.startswith("data:"):
                heard.append((time.monotonic(), json.loads(line[5:])))
            if over.is_set():
                return


def _lags_s(own: Own, run: str, heard: list[tuple[float, dict[str, object]]]) -> list[float]:
    """From the moment at which the journal has a frame to each page's first word of it."""
    stored: dict[int, float] = {}
    while len(stored) < FRAMES:
        found = own.rows(b"SELECT count(*) FROM journal_frame WHERE run_id = %s AND outcome = 'taken'", run)
        stored.setdefault(int(found[0][0]), time.monotonic())
        time.sleep(0.02)
    begun = min(stored)
    return [
        at - stored[taken]
        for at, view in list(heard)
        if isinstance(taken := view["taken"], int) and taken in stored and taken > begun + 2 and at - stored[taken] < 30
    ]


def _alarm_s(own: Own, heard: list[tuple[float, dict[str, object]]]) -> float:
    """From the death of the camera to the first page that is told to come."""
    before = len(heard)
    begin = time.monotonic()
    send(own.children["camera"], signal.SIGKILL)
    while time.monotonic() < begin + 30:
        for at, view in heard[before:]:
            standing = [one for one in view["alarms"] if one["level"] == "come" and not one["over"]]  # type: ignore[attr-defined]
            if standing:
                _quiet(own, view)
                return at - begin
        time.sleep(0.02)
    return 30.0


def _quiet(own: Own, view: dict[str, object]) -> None:
    """See every alarm, and wait until the camera is back."""
    while True:
        now = own.ask("GET", f"/api/runs/{view['id']}").json()
        for one in now["alarms"]:
            own.ask("POST", f"/api/alarms/{one['id']}/seen", json={"by": "bench"})
        if (
            not [one for one in now["alarms"] if one["level"] == "come" and not one["over"]]
            and "it records" in now["sign"]
        ):
            return
        time.sleep(0.5)
