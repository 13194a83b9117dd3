"""All processes under one supervisor, and the checks before they start."""

import os
import shutil
import signal
import socket
import subprocess
import sys
import time
from pathlib import Path
from threading import Thread

import httpx
from honcho.manager import Manager

from revani.settings import CHECKOUT, Settings, settings
from revani.store.cluster import ClusterError, private_cluster


def _say(text: str) -> None:
    print(text, flush=True)


def _taken(port: int) -> bool:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError:
            return True
    return False


def _obstacle(here: Settings) -> str | None:
    """Why nothing can be started, in one sentence; None if all is well."""
    ports = [
        (here.port, "the page"),
        (here.camera_port, "the simulated camera"),
        (here.mover_port, "the simulated mover"),
    ]
    if not here.database_url:
        ports.append((here.database_port, "the database"))
    for port, use in ports:
        if _taken(port):
            return (
                f"Port {port}, wanted for {use}, is taken: run `make stop` if it is an older Revani, "
                f"or choose other ports with REVANI_PORT=8040 make demo."
            )
    here.data_dir.mkdir(parents=True, exist_ok=True)
    if shutil.disk_usage(here.data_dir).free < 500_000_000:
        return f"Under 500 MB are free at {here.data_dir}: make room, then try again."
    if not (here.web_dist / "index.html").exists():
        return "The interface is not built yet: run `make setup`."
    return None


def _announce(here: Settings) -> None:
    address = f"http://127.0.0.1:{here.port}"
    for _ in range(600):
        try:
            if httpx.get(f"{address}/api/health", timeout=2, trust_env=False).status_code == 200:
                _say(f"\n    Revani is at {address}\n")
                return
        except httpx.HTTPError:
            pass
        time.sleep(0.1)
    _say("Revani does not answer after a minute; the lines above say why.")


def run_everything(demo: bool) -> int:
    """Start everything under one supervisor and stay until it ends; returns the exit status."""
    here = settings()
    obstacle = _obstacle(here)
    if obstacle:
        _say(obstacle)
        return 1
    if not here.database_url:
        try:
            private_cluster(here).create()
        except ClusterError as error:
            _say(str(error))
            return 1
    manager = Manager()
    revani = str(Path(sys.executable).parent / "revani")
    environment = os.environ | {"PYTHONUNBUFFERED": "1", "PYTHONWARNINGS": "ignore"}
    commands = {
        "database": None if here.database_url else "database",
        "camera": "camera",
        "mover": "mover",
        "runner": "runner",
        "worker": "worker --demo" if demo else "worker",
        "web": "web",
    }
    for name, command in commands.items():
        if command:
            manager.add_process(name, f"exec {revani} {command}", env=environment, cwd=str(CHECKOUT))
    pid_file = here.data_dir / "supervisor.pid"
    pid_file.write_text(str(os.getpid()))
    Thread(target=_announce, args=(here,), daemon=True).start()
    try:
        manager.loop()
    finally:
        pid_file.unlink(missing_ok=True)
    return int(manager.returncode or 0)


def end_everything() -> int:
    """End the supervisor that was started from this folder, and wait for it."""
    pid_file = settings().data_dir / "supervisor.pid"
    if not pid_file.exists():
        _say("Nothing is running from here.")
        return 0
    pid = int(pid_file.read_text())
    try:
        os.kill(pid, signal.SIGTERM)
    except ProcessLookupError:
        pid_file.unlink()
        _say("Nothing is running from here.")
        return 0
    for _ in range(150):
        try:
            os.kill(pid, 0)
        except ProcessLookupError:
            _say("Ended.")
            return 0
        time.sleep(0.1)
    _say(f"Process {pid} does not end; look at it yourself.")
    return 1


def forget_everything() -> int:
    """Throw away the private database and the files of runs; refuses another server's database."""
    here = settings()
    if here.database_url:
        _say("REVANI_DATABASE_URL is set: empty that database yourself; nothing was changed.")
        return 1
    if (status := end_everything()) != 0:
        return status
    folder = private_cluster(here).folder
    for path in (folder, here.data_dir / "camera", here.runs_dir, here.spool_dir):
        if path.exists():
            subprocess.run(["rm", "-rf", "--", str(path)], check=True)
    _say("The demo's data are gone; `make demo` makes them anew.")
    return 0
