"""The processes of one data folder: killed, closed, started twice, left over. Each is started again alone."""

import json
import os
import signal
import socket
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import httpx
import pytest

from revani.logs import LogFile
from revani.processes import Known, Register, alive, known, send
from revani.store.cluster import Cluster, ClusterError
from tests.conftest import REVANI, eventually, free_ports

CARRIES_THE_NIGHT = ("database", "camera", "mover", "runner")
ALL = {*CARRIES_THE_NIGHT, "worker", "web"}


@dataclass
class House:
    """A Revani of its own, at a path with a space in it, started as a person starts it."""

    folder: Path
    port: int
    supervisor: subprocess.Popen[bytes] | None = None

    @property
    def environment(self) -> dict[str, str]:
        ours = {"REVANI_DATA_DIR": str(self.folder), "REVANI_PORT": str(self.port), "PYTHONWARNINGS": "ignore"}
        return {key: value for key, value in os.environ.items() if key != "REVANI_DATABASE_URL"} | ours

    def up(self) -> None:
        out = (self.folder.parent / "up.log").open("ab")
        self.supervisor = subprocess.Popen(
            [REVANI, "up"], env=self.environment, stdout=out, stderr=out, start_new_session=True
        )
        eventually(self.answers)

    def say(self, *words: str) -> subprocess.CompletedProcess[str]:
        return subprocess.run([REVANI, *words], env=self.environment, capture_output=True, text=True, timeout=240)

    def answers(self) -> bool:
        try:
            return httpx.get(f"http://127.0.0.1:{self.port}/api/health", timeout=2).status_code == 200
        except httpx.HTTPError:
            return False

    @property
    def children(self) -> dict[str, Known]:
        return Register.read(self.folder / "processes.json").children

    def log(self, name: str) -> str:
        return (self.folder / "logs" / f"{name}.log").read_text()

    def kill_supervisor(self) -> None:
        assert self.supervisor
        self.supervisor.kill()
        self.supervisor.wait(10)


@pytest.fixture(scope="module")
def house() -> Iterator[House]:
    outer = Path(tempfile.mkdtemp(prefix="revani house ", dir="/var/tmp"))
    outer.chmod(0o755)
    one = House(outer / "data", free_ports(10))
    one.up()
    try:
        yield one
    finally:
        one.say("stop")
        subprocess.run(["rm", "-rf", "--", str(outer)], check=True)


@pytest.mark.parametrize("name", sorted(ALL))
def test_a_process_that_is_killed_is_started_again_and_no_other_is_touched(house: House, name: str) -> None:
    before = eventually(lambda: (now := house.children).keys() == ALL and all(map(alive, now.values())) and now)
    send(before[name], signal.SIGQUIT if name == "database" else signal.SIGKILL)
    after = eventually(lambda: (now := house.children).get(name) not in (None, before[name]) and now)
    assert {other: after[other] for other in ALL - {name}} == {other: before[other] for other in ALL - {name}}
    eventually(house.answers)
    assert all(alive(process) for process in house.children.values())


def test_a_closed_terminal_and_a_second_start_change_nothing(house: House) -> None:
    before = house.children
    assert house.supervisor
    house.supervisor.send_signal(signal.SIGHUP)
    second = house.say("up")
    assert second.returncode == 0 and f"http://127.0.0.1:{house.port}" in second.stdout
    assert house.children == before and house.supervisor.poll() is None and house.answers()


def test_another_rig_has_processes_of_its_own_that_come_and_go_with_it(house: House) -> None:
    before = eventually(lambda: house.children.keys() == ALL and house.children)
    address = f"http://127.0.0.1:{house.port}/api/rigs"
    more = {f"{kind}@far-barn" for kind in ("camera", "mover", "link", "runner")}
    with httpx.Client(timeout=30) as client:
        assert client.post(address, json={"name": "Far barn", "camera": "simulated:ptpip"}).status_code == 201
        eventually(lambda: house.children.keys() == ALL | more and all(map(alive, house.children.values())))
        eventually(lambda: "camera answers" in client.get(address).json()[1]["told"])
        # With another number to go by, its runner alone is started anew.
        first = house.children
        rig = {"name": "Far barn", "camera": "simulated:ptpip", "serial": "SIM-1"}
        assert client.put(f"{address}/far-barn", json=rig, headers={"If-Match": "1"}).status_code == 200
        eventually(
            lambda: (now := house.children.get("runner@far-barn")) not in (None, first["runner@far-barn"]) and now
        )
        assert {name: house.children[name] for name in more - {"runner@far-barn"}} == {
            name: first[name] for name in more - {"runner@far-barn"}
        }
        eventually(lambda: "where SIM-1 was linked" in client.get(address).json()[1]["told"])
        assert client.delete(f"{address}/far-barn").status_code == 200
    eventually(lambda: house.children.keys() == ALL)
    assert house.children == before and not any(alive(first[name]) for name in more)


def test_what_a_killed_supervisor_leaves_goes_on_and_is_taken_over_by_the_next(house: House) -> None:
    before = eventually(lambda: house.children.keys() == ALL and house.children)
    house.kill_supervisor()
    assert all(alive(process) for process in before.values()) and house.answers()
    house.up()
    after = eventually(lambda: house.children.keys() == ALL and house.children)
    assert {name: after[name] for name in CARRIES_THE_NIGHT} == {name: before[name] for name in CARRIES_THE_NIGHT}
    # One that was taken over is looked after as well as one that was started here.
    send(after["mover"], signal.SIGKILL)
    eventually(lambda: house.children.get("mover") not in (None, after["mover"]))


def test_stop_ends_what_a_killed_supervisor_has_left_and_the_database_last_and_properly(house: House) -> None:
    before = eventually(lambda: house.children.keys() == ALL and house.children)
    written = len(house.log("database"))
    house.kill_supervisor()
    assert house.say("stop").stdout.strip() == "Ended."
    assert not any(alive(process) for process in before.values())
    assert "database system is shut down" in house.log("database")[written:]
    assert house.say("stop").stdout.strip() == "Nothing is running from here."
    house.up()
    # PostgreSQL found its files as it had left them.
    assert "interrupted" not in house.log("database")[written:]


@pytest.mark.parametrize("left", [b"", b"\x00garbage", b"4711", b'{"port": 1, "keeper": {"pid": 1}}'])
def test_a_damaged_register_is_no_register(tmp_path: Path, left: bytes) -> None:
    (tmp_path / "processes.json").write_bytes(left)
    assert Register.read(tmp_path / "processes.json") == Register()


def test_stop_signals_nobody_who_only_has_the_number_of_a_process_of_ours(tmp_path: Path) -> None:
    with subprocess.Popen([sys.executable, "-c", "input()"], stdin=subprocess.PIPE) as stranger:
        try:
            there = known(stranger.pid)
            assert there
            reborn = there.model_copy(update={"born": "another-boot/1"})
            Register(keeper=reborn, children={"runner": reborn}).write(tmp_path / "processes.json")
            environment = os.environ | {"REVANI_DATA_DIR": str(tmp_path)}
            said = subprocess.run([REVANI, "stop"], env=environment, capture_output=True, text=True)
            assert said.stdout.strip() == "Nothing is running from here." and stranger.poll() is None
        finally:
            stranger.kill()
    assert not alive(there)


@pytest.mark.parametrize("command", ["up", "runner"])
def test_a_folder_that_cannot_be_written_is_one_sentence(command: str) -> None:
    environment = os.environ | {"REVANI_DATA_DIR": "/proc/nobody writes here"}
    said = subprocess.run([REVANI, command], env=environment, capture_output=True, text=True)
    told = (said.stdout + said.stderr).strip()
    assert said.returncode == 1 and told.startswith("Revani cannot write to") and "\n" not in told


def test_a_taken_port_is_one_sentence_that_names_it(tmp_path: Path) -> None:
    port = free_ports(10)
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", port + 1))
        taken.listen()
        environment = os.environ | {"REVANI_DATA_DIR": str(tmp_path), "REVANI_PORT": str(port)}
        said = subprocess.run([REVANI, "up"], env=environment, capture_output=True, text=True)
    assert said.returncode == 1 and f"Port {port + 1}, wanted for the simulated camera, is taken" in said.stdout


MAKE_CLUSTER = """
import sys
from pathlib import Path
from revani.store.cluster import Cluster
Cluster(Path(sys.argv[1]), 1).create()
"""


@pytest.mark.parametrize("after_s", [0.05, 0.4, 0.9])
def test_a_cluster_whose_making_was_killed_is_made_anew(scratch: Path, after_s: float) -> None:
    folder = scratch / f"half made {after_s}"
    making = subprocess.Popen([sys.executable, "-c", MAKE_CLUSTER, str(folder)], start_new_session=True)
    try:
        making.wait(after_s)
    except subprocess.TimeoutExpired:
        os.killpg(making.pid, signal.SIGKILL)
        making.wait()
    cluster = Cluster(folder, 1)
    cluster.create()
    control = subprocess.run(
        [next(Path("/usr/lib/postgresql").glob("*/bin/pg_controldata")), "-D", cluster.data],
        capture_output=True, text=True, check=True,
    )  # fmt: skip
    assert "shut down" in control.stdout
    # Pages carry checksums (PostgreSQL: "Data page checksum version: 1").
    assert control.stdout.split("Data page checksum version:")[1].split()[0] == "1"
    assert {path.stat().st_mode & 0o077 for path in folder.glob("password*")} == {0}


def test_a_cluster_is_not_made_where_another_may_have_prepared_its_folder(scratch: Path) -> None:
    elsewhere = scratch / "elsewhere"
    elsewhere.mkdir()
    (scratch / "prepared").symlink_to(elsewhere)
    with pytest.raises(ClusterError, match="belongs to somebody else"):
        Cluster(scratch / "prepared", 1).create()
    assert list(elsewhere.iterdir()) == []


def test_a_log_that_has_grown_is_turned_over_and_nothing_of_it_is_shown_twice(tmp_path: Path) -> None:
    log = LogFile(tmp_path / "one.log")
    with log.open() as out:
        seen = []
        for number in range(60):
            out.write(b"%d %s\n" % (number, b"x" * 99_000))
            out.flush()
            seen += [int(line.split()[0]) for line in log.news()]
    while news := log.news():
        seen += [int(line.split()[0]) for line in news]
    assert seen == list(range(60))
    assert sorted(path.name for path in tmp_path.iterdir()) == ["one.log", "one.log.1"]
    assert (tmp_path / "one.log").stat().st_size < 1_000_000


def test_the_register_is_whole_or_the_one_before(tmp_path: Path) -> None:
    path = tmp_path / "processes.json"
    Register(port=1).write(path)
    (tmp_path / "processes.part").write_bytes(b"{ha")
    assert Register.read(path).port == 1 and json.loads(path.read_text())["children"] == {}
