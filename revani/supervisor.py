"""All processes of one data folder under one supervisor: each is started again, none is ended for another.

The processes write their logs to files of their own and hang on nothing of the supervisor's: when it is
killed they go on, and the next supervisor takes them over. (Why not a ready-made supervisor: those that
are known end or lose their processes when they themselves are killed.)
"""

import fcntl
import os
import shutil
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Iterable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from threading import Event, Thread

import httpx

from revani.logs import LogFile
from revani.processes import Known, Register, alive, gone, known, send
from revani.rig.known import Reached, driven
from revani.settings import CHECKOUT, Settings, settings
from revani.store.cluster import ClusterError, private_cluster

_TICK_S = 0.2
_FIRST_BACK_OFF_S, _MOST_BACK_OFF_S, _STEADY_S = 0.5, 10.0, 20.0
# A second without a runner is a frame: it is waited for less.
_MOST_RUNNER_BACK_OFF_S = 1.0
_LEAST_FREE_BYTES = 500_000_000
# In this order they are started, and in the other they are ended: the database last. Those of another rig than this
# machine's own have its key behind their name: `runner@hill`.
ORDER = ("database", "camera", "mover", "link", "runner", "worker", "web", "sensors")
# What carries a night is taken over from a supervisor that was killed; the page and the queue are started anew.
_TAKEN_OVER = ("database", "camera", "mover", "link", "runner")
# PostgreSQL ends properly, and without waiting for its clients, on SIGINT; it writes out what it has first.
_ENDS_ON = {"database": signal.SIGINT}
_PATIENCE_S = {"database": 120.0}
_ORDINARY_PATIENCE_S = 10.0


def _say(text: str) -> None:
    """Tell the terminal, if it is still there."""
    with suppress(OSError, ValueError):
        print(text, flush=True)


class Kept:
    """One process that is to run for ever."""

    def __init__(self, name: str, words: list[str], environment: dict[str, str], log: LogFile, of: str = "") -> None:
        self.name = name
        # What it was started for: where that has changed, it is started anew.
        self.of = of
        self._words = words
        self._environment = environment
        self._log = log
        self._process: subprocess.Popen[bytes] | None = None
        self.known: Known | None = None
        self._due_s = 0.0
        self._started_s = 0.0
        self._back_off_s = _FIRST_BACK_OFF_S

    def take_over(self, process: Known) -> None:
        """Look after a process that another supervisor started."""
        self.known, self._started_s = process, time.monotonic()

    def look(self) -> bool:
        """Start it where it does not run and is due; True where something changed."""
        now_s = time.monotonic()
        # Also buries a child of ours that has ended.
        ended = self._process is not None and self._process.poll() is not None
        if self.known is not None:
            if not ended and alive(self.known):
                return False
            status = "" if self._process is None else f" with status {self._process.returncode}"
            if now_s - self._started_s > _STEADY_S:
                self._back_off_s = _FIRST_BACK_OFF_S
            self.known, self._process = None, None
            self._due_s = now_s + self._back_off_s
            self._log.note(f"ended{status}; started again in {self._back_off_s:g} s")
            most_s = _MOST_RUNNER_BACK_OFF_S if kind_of(self.name) == "runner" else _MOST_BACK_OFF_S
            self._back_off_s = min(2 * self._back_off_s, most_s)
            return True
        if now_s < self._due_s:
            return False
        with self._log.open() as out:
            # A session of its own: what is typed at the terminal reaches the supervisor alone.
            self._process = subprocess.Popen(
                self._words, env=self._environment, cwd=CHECKOUT, stdin=subprocess.DEVNULL, stdout=out, stderr=out,
                start_new_session=True,
            )  # fmt: skip
        self.known, self._started_s = known(self._process.pid), now_s
        if self.known is None:
            # It ended before it could be looked at; the next look buries it.
            self.known = Known(pid=self._process.pid, born="")
        return True

    def bury(self) -> None:
        """Take note of a child that was ended."""
        if self._process is not None:
            with suppress(subprocess.TimeoutExpired):
                self._process.wait(1)

    def show_log(self) -> None:
        """Write what is new in its log to the terminal."""
        for line in self._log.news():
            _say(f"{self.name:>9} | {line}")


@contextmanager
def _data_folder(here: Settings) -> Iterator[bool]:
    """The data folder, for this process alone as long as the block lasts; False where another has it."""
    # A lock goes with the process that has it, however that ends; its own processes do not inherit it.
    with (here.data_dir / "lock").open("w") as file:
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            yield False
            return
        yield True


def _taken(port: int) -> bool:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError:
            return True
    return False


def unusable(here: Settings) -> str | None:
    """Why the data folder cannot be used, in one sentence; None if it can."""
    try:
        here.make_folders()
        probe = here.data_dir / f".probe-{os.getpid()}"
        probe.write_bytes(b"")
        probe.unlink()
    except OSError as error:
        return f"Revani cannot write to {here.data_dir} ({error.strerror}): choose another with REVANI_DATA_DIR."
    if shutil.disk_usage(here.data_dir).free < _LEAST_FREE_BYTES:
        return f"Under 500 MB are free at {here.data_dir}: make room, then try again."
    return None


def _obstacle(here: Settings, standing: set[str]) -> str | None:
    """Why nothing can be started, in one sentence; None if all is well. `standing` runs already and is ours."""
    ports = {"web": (here.port, "the page")}
    for rig in driven(here, socket.gethostname()):
        ports |= {
            process_of(here, "camera", rig): (rig.camera_port, "the simulated camera"),
            process_of(here, "mover", rig): (rig.mover_port, "the simulated mover"),
            process_of(here, "link", rig): (rig.link_port, "the link to the camera"),
        }
    if not here.database_url:
        ports["database"] = (here.database_port, "the database")
    wanted = wanted_processes(here, demo=False)
    for name, (port, use) in ports.items():
        if name in wanted and name not in standing and _taken(port):
            return (
                f"Port {port}, wanted for {use}, is taken: run `make stop` if it is an older Revani, "
                f"or choose other ports with REVANI_PORT=8040 make demo."
            )
    if not (here.web_dist / "index.html").exists():
        return "The interface is not built yet: run `make setup`."
    return None


def _announce(here: Settings, over: Event) -> None:
    address = f"http://127.0.0.1:{here.port}"
    for _ in range(600):
        try:
            if httpx.get(f"{address}/api/health", timeout=2, trust_env=False).status_code == 200:
                _say(f"\n    Revani is at {address}\n")
                return
        except httpx.HTTPError:
            pass
        if over.wait(0.1):
            return
    _say("Revani does not answer after a minute; the lines above say why.")


def run_everything(demo: bool) -> int:
    """Start everything under one supervisor and stay until it is told to end; returns the exit status."""
    here = settings()
    os.umask(0o077)
    if obstacle := unusable(here):
        _say(obstacle)
        return 1
    with _data_folder(here) as ours:
        if not ours:
            _say(f"Revani runs from here already, at http://127.0.0.1:{Register.read(here.register_file).port}.")
            _say("`make stop` ends it.")
            return 0
        return _supervise(here, demo)


def _supervise(here: Settings, demo: bool) -> int:
    standing = _taken_over(here, wanted_processes(here, demo))
    if obstacle := _obstacle(here, set(standing)):
        _say(obstacle)
        return 1
    if not here.database_url:
        try:
            private_cluster(here).create()
        except ClusterError as error:
            _say(str(error))
            return 1
    over = Event()
    for number in (signal.SIGTERM, signal.SIGINT):
        signal.signal(number, lambda *_: over.set())
    # A terminal that is closed ends nothing: the night goes on. (A handler, for what is ignored is inherited.)
    signal.signal(signal.SIGHUP, lambda *_: None)
    kept = {name: _kept(here, name, demo, of) for name, of in wanted_processes(here, demo).items()}
    for name, process in standing.items():
        kept[name].take_over(process)
    Thread(target=_announce, args=(here, over), daemon=True).start()
    _register(here, kept)
    rigs_as_of = _written_at(here.rigs_file)
    while not over.wait(_TICK_S):
        if (now := _written_at(here.rigs_file)) != rigs_as_of:
            rigs_as_of = now
            _follow_rigs(here, kept, demo)
        for one in kept.values():
            # Written after each, so that a supervisor that is killed leaves nobody unknown.
            if one.look():
                _register(here, kept)
            one.show_log()
    for name in _last_first(kept):
        _let_go(kept[name])
    here.register_file.unlink(missing_ok=True)
    return 0


def kind_of(name: str) -> str:
    """What a process does, whichever rig it does it for."""
    return name.partition("@")[0]


def process_of(here: Settings, kind: str, rig: Reached) -> str:
    """What a process of a rig is called."""
    return kind if rig.rig.key == here.rig else f"{kind}@{rig.rig.key}"


def _last_first(names: Iterable[str]) -> list[str]:
    return sorted((name for name in names if kind_of(name) in ORDER), key=lambda name: ORDER.index(kind_of(name)))[::-1]


def _written_at(path: Path) -> float:
    try:
        return path.stat().st_mtime_ns
    except OSError:
        return 0


def wanted_processes(here: Settings, demo: bool) -> dict[str, str]:
    """The processes that are wanted, in their order, each with what it is started for."""
    rigs = driven(here, socket.gethostname())
    found = {name: "" for name, is_so in (("database", not here.database_url), ("sensors", demo)) if is_so}
    found |= {"worker": "", "web": ""}
    for rig in rigs:
        # A camera that is played stands where it stands, whatever its runner goes by.
        started_for = {
            "camera": str(rig.camera_port) if rig.plays_camera else None,
            "mover": str(rig.mover_port) if rig.plays_mover else None,
            "link": f"{rig.body} {rig.link_port}" if rig.body else None,
            "runner": f"{rig.camera} {rig.mover} {rig.rig.serial} {rig.rig.mover_serial}",
        }
        found |= {process_of(here, kind, rig): of for kind, of in started_for.items() if of is not None}
    return {name: found[name] for name in reversed(_last_first(found))}


def _follow_rigs(here: Settings, kept: dict[str, Kept], demo: bool) -> None:
    """End what is for rigs that are driven no more, or elsewhere; let what is new begin."""
    wanted = wanted_processes(here, demo)
    for name in _last_first(kept):
        if kept[name].of != wanted.get(name):
            _let_go(kept.pop(name))
    for name, of in wanted.items():
        if name not in kept:
            kept[name] = _kept(here, name, demo, of)
    _register(here, kept)


def _let_go(one: Kept) -> None:
    if one.known:
        _end(one.name, one.known)
        one.bury()
        one.show_log()


def _kept(here: Settings, name: str, demo: bool, of: str) -> Kept:
    kind, _, rig = name.partition("@")
    words = [str(Path(sys.executable).parent / "revani"), kind]
    words += ["--demo"] if demo and kind == "worker" else []
    words += [f"--rig={rig}"] if rig else []
    environment = os.environ | {
        "PYTHONUNBUFFERED": "1", "PYTHONWARNINGS": "ignore", "REVANI_DATA_DIR": str(here.data_dir),
    }  # fmt: skip
    return Kept(name, words, environment, LogFile(here.log_dir / f"{name}.log"), of)


def _register(here: Settings, kept: dict[str, Kept]) -> None:
    children = {name: one.known for name, one in kept.items() if one.known is not None}
    started_for = {name: kept[name].of for name in children}
    Register(port=here.port, keeper=known(os.getpid()), children=children, started_for=started_for).write(
        here.register_file
    )


def _taken_over(here: Settings, wanted: dict[str, str]) -> dict[str, Known]:
    """What a supervisor that was killed has left running and can go on as it is wanted now; what cannot is ended."""
    found = Register.read(here.register_file)
    standing = {}
    for name in _last_first(found.children):
        process = found.children[name]
        if not alive(process):
            continue
        as_wanted = name in wanted and found.started_for.get(name, "") == wanted[name]
        if kind_of(name) in _TAKEN_OVER and found.port == here.port and as_wanted:
            standing[name] = process
        else:
            _end(name, process)
    return standing


def _end(name: str, process: Known | None) -> None:
    """End a process: as it likes to be asked first, by force if it does not."""
    if process is None:
        return
    send(process, _ENDS_ON.get(name, signal.SIGTERM))
    if not gone(process, _PATIENCE_S.get(name, _ORDINARY_PATIENCE_S)):
        # PostgreSQL that is ended at once recovers; one that is killed leaves its shared memory behind.
        send(process, signal.SIGQUIT if name == "database" else signal.SIGKILL)
        gone(process, _ORDINARY_PATIENCE_S)


def end_everything() -> int:
    """End what runs from this folder, whoever looks after it, and wait for it."""
    here = settings()
    found = Register.read(here.register_file)
    if alive(found.keeper) and found.keeper is not None:
        send(found.keeper, signal.SIGTERM)
        if not gone(found.keeper, 180):
            _say(f"Process {found.keeper.pid} does not end; look at it yourself.")
            return 1
        _say("Ended.")
        return 0
    left = [name for name in _last_first(found.children) if alive(found.children[name])]
    for name in left:
        _end(name, found.children[name])
    here.register_file.unlink(missing_ok=True)
    _say("Ended." if left else "Nothing is running from here.")
    return 0


def forget_everything() -> int:
    """Throw away the private database and the files of runs; refuses another server's database."""
    here = settings()
    if here.database_url:
        _say("REVANI_DATABASE_URL is set: empty that database yourself; nothing was changed.")
        return 1
    if (status := end_everything()) != 0:
        return status
    folder = private_cluster(here).folder
    for path in (folder, here.card_dir, here.data_dir / "link", here.rigs_dir, here.runs_dir, here.spool_dir):
        if path.exists():
            shutil.rmtree(path)
    here.rigs_file.unlink(missing_ok=True)
    _say("The demo's data are gone; `make demo` makes them anew.")
    return 0
