"""What tests stand on: one PostgreSQL cluster and one running Revani for the whole session."""

import os
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import httpx
import psycopg
import pytest
from hypothesis import settings as hypothesis_settings

from revani.core.documents import Body, Card, Kit, Lens, Light, Place, Shot, SunStart
from revani.core.documents.timing import Timing
from revani.jobs.queue import install
from revani.store.cluster import Cluster
from revani.store.pool import migrate, wait_for_database

# The same examples each time, so that a red run is the fault of the change before it; REVANI_SEARCH=1 draws new ones.
hypothesis_settings.register_profile("same", deadline=None, max_examples=60, derandomize=True)
hypothesis_settings.register_profile("search", deadline=None, max_examples=60)
hypothesis_settings.load_profile("search" if os.environ.get("REVANI_SEARCH") else "same")

REVANI = str(Path(sys.executable).parent / "revani")

# These run real processes against the real clock. A machine that others share stands still for a second now and then,
# which spoils one measurement, not three in a row; what was measured again is listed at the end of a run.
BY_THE_CLOCK = (
    "runner/",
    "jobs/",
    "api/test_alarms.py",
    "api/test_arming.py",
    "browser/test_run_page.py",
    "test_newcomer.py",
    "test_supervisor.py",
)
MEASURED_AGAIN = int(os.environ.get("REVANI_MEASURED_AGAIN", "2"))


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    tests = Path(__file__).parent
    for item in items:
        if item.path.is_relative_to(tests) and item.path.relative_to(tests).as_posix().startswith(BY_THE_CLOCK):
            item.add_marker(pytest.mark.flaky(reruns=MEASURED_AGAIN))


def free_ports(count: int) -> int:
    """The first of `count` neighbouring ports that nobody uses."""
    for first in range(18_100 + os.getpid() % 500 * 10, 60_000, 10):
        try:
            for port in range(first, first + count):
                with socket.socket() as probe:
                    probe.bind(("127.0.0.1", port))
            return first
        except OSError:
            continue
    raise RuntimeError("no free ports")


@pytest.fixture(scope="session")
def scratch() -> Iterator[Path]:
    """A folder that the database's own user may enter, too."""
    folder = Path(tempfile.mkdtemp(prefix="revani-test-", dir="/var/tmp"))
    folder.chmod(0o755)
    yield folder
    shutil.rmtree(folder, ignore_errors=True)


@dataclass
class Database:
    """A PostgreSQL server that tests may stop and start."""

    cluster: Cluster
    log: Path
    process: subprocess.Popen[bytes] | None = None

    @property
    def url(self) -> str:
        return self.cluster.url

    def start(self) -> None:
        with self.log.open("ab") as log:
            self.process = subprocess.Popen(
                self.cluster.command(), stdout=log, stderr=log, cwd=self.cluster.folder, start_new_session=True
            )
        wait_for_database(self.cluster.owner_url, patience_s=60)

    def stop(self) -> None:
        """End it at once, as a lost machine would; connections break."""
        assert self.process
        self.process.send_signal(signal.SIGQUIT)
        self.process.wait(20)


@pytest.fixture(scope="session")
def database(scratch: Path) -> Iterator[Database]:
    server = Database(Cluster(scratch / "postgres", free_ports(10) + 2), scratch / "postgres.log")
    server.cluster.create()
    server.start()
    try:
        install(server.cluster.owner_url)
        migrate(server.cluster.owner_url, server.url)
        yield server
    finally:
        server.stop()


@pytest.fixture
def connection(database: Database) -> Iterator[psycopg.Connection]:
    """A plain connection for looking at what was really stored."""
    with psycopg.connect(database.cluster.owner_url, autocommit=True, options="-c lock_timeout=60s") as conn:
        yield conn


@dataclass
class Stack:
    """A running Revani: camera, runner, worker and web server, each a process of its own."""

    home: str
    camera: str
    environment: dict[str, str]
    folder: Path
    processes: dict[str, subprocess.Popen[bytes]]

    def start(self, command: str, name: str = "", rig: str = "", **environment: str) -> None:
        """Start a process; one of a further rig is called by its key, too: `runner@hill`."""
        name = name or (f"{command}@{rig}" if rig else command)
        words = [REVANI, command, *([f"--rig={rig}"] if rig else [])]
        with (self.folder / f"{name}.log").open("ab") as log:
            self.processes[name] = subprocess.Popen(
                words, env=self.environment | environment, stdout=log, stderr=log, start_new_session=True
            )

    def wait_for_mover(self) -> None:
        """Return when somebody listens at the mover's port."""

        def listens() -> bool:
            with socket.socket() as probe:
                return probe.connect_ex(("127.0.0.1", int(self.environment["REVANI_PORT"]) + 3)) == 0

        eventually(listens)

    def wait_for_camera(self) -> None:
        """Return when the camera answers: what comes next may ask it at once."""

        def answers() -> bool:
            try:
                return httpx.get(f"{self.camera}/status").status_code == 200
            except httpx.HTTPError:
                return False

        eventually(answers)

    def kill(self, name: str) -> None:
        """End a process as `kill -9` does."""
        self.processes[name].kill()
        self.processes[name].wait(20)

    def wait_until_up(self) -> None:
        until = time.monotonic() + 180
        while time.monotonic() < until:
            try:
                if httpx.get(f"{self.home}/api/health").status_code == 200:
                    return
            except httpx.HTTPError:
                pass
            pause()
        raise AssertionError("Revani did not come up: " + (self.folder / "web.log").read_text()[-2000:])


def pause(seconds: float = 0.1) -> None:
    """The one place in which a test waits between two looks at something: each look costs what it looks at, too."""
    time.sleep(seconds)


def eventually(look, seconds: float = 120.0):  # type: ignore[no-untyped-def]
    """The first truthy value of `look()`; fails when there is none in time. What takes long is looked at less often."""
    begin = time.monotonic()
    while (gone := time.monotonic() - begin) < seconds:
        if found := look():
            return found
        pause(min(max(0.1, gone / 20), 0.4))
    raise AssertionError(f"not within {seconds} s")


@pytest.fixture(scope="session")
def stack(database: Database, scratch: Path) -> Iterator[Stack]:
    port = database.cluster.port - 2
    folder = scratch / "data"
    folder.mkdir()
    environment = os.environ | {
        "REVANI_PORT": str(port),
        "REVANI_DATABASE_URL": database.url,
        "REVANI_OWNER_URL": database.cluster.owner_url,
        "REVANI_DATA_DIR": str(folder),
        "PYTHONWARNINGS": "ignore",
    }
    running = Stack(f"http://127.0.0.1:{port}", f"http://127.0.0.1:{port + 1}", environment, folder, {})
    try:
        for name in ("camera", "mover", "runner", "worker", "web"):
            running.start(name)
        running.wait_until_up()
        yield running
    finally:
        for process in running.processes.values():
            process.terminate()
        for process in running.processes.values():
            try:
                process.wait(10)
            except subprocess.TimeoutExpired:
                process.kill()


@pytest.fixture(scope="session")
def client(stack: Stack) -> Iterator[httpx.Client]:
    with httpx.Client(base_url=stack.home, timeout=30) as http:
        yield http


# Documents -------------------------------------------------------------------------------------------


def make_place(**change: object) -> Place:
    """An invented place on an invented coast."""
    values = {
        "name": "Test skerry", "latitude_deg": 57.6, "longitude_deg": -7.4, "time_zone": "Europe/London",
        "sky_brightness": 21.7, "temperature_c": 20,
    }  # fmt: skip
    return Place.model_validate(values | change)


def make_kit(body: dict[str, object] | None = None, lens: dict[str, object] | None = None) -> Kit:
    return Kit(
        body=Body.model_validate({"name": "Test body", "battery_wh": 200} | (body or {})),
        lens=Lens.model_validate({"name": "Test lens"} | (lens or {})),
        card=Card(name="Test card", capacity_gb=256),
    )


def make_shot(**change: object) -> Shot:
    """A shot through sunset that compiles; `change` replaces fields."""
    values: dict[str, object] = {
        "name": "Test shot",
        "date": "2026-11-24",
        "start": SunStart(event="sunset", offset_s=-2400),
        "timing": Timing(fps="30", interval_s=30, playback_s=20),
        "light": Light(aperture=2.8),
        "kit": make_kit(),
        "place": make_place(),
    }
    return Shot.model_validate(values | change)


@pytest.fixture
def quiet_rig(client: httpx.Client) -> Iterator[None]:
    """A rig without runs, before and afterwards."""
    from tests.desk import on_the_rig

    def end() -> None:
        for id in on_the_rig(client):
            client.post(f"/api/runs/{id}/stop")
        eventually(lambda: not on_the_rig(client))

    end()
    yield
    end()
