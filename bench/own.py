"""A Revani of a bench's own, started as a person starts it, and its clients."""

import os
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

import httpx
import psycopg

from revani.processes import Known, Register
from revani.settings import Settings
from tests.conftest import REVANI, free_ports


@dataclass
class Own:
    """Where it is."""

    folder: Path
    port: int

    @property
    def home(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    @property
    def camera(self) -> str:
        return f"http://127.0.0.1:{self.port + 1}"

    @property
    def children(self) -> dict[str, Known]:
        return Register.read(self.folder / "processes.json").children

    @property
    def settings(self) -> Settings:
        return Settings(port=self.port, data_dir=self.folder)

    def ask(self, method: str, path: str, **options: object) -> httpx.Response:
        """An answer of the page, however long it is away: bounded by two minutes."""
        until = time.monotonic() + 120
        while True:
            try:
                answer = httpx.request(method, self.home + path, timeout=30, trust_env=False, **options)  # type: ignore[arg-type]
                if answer.status_code < 500:
                    return answer
            except httpx.HTTPError:
                pass
            if time.monotonic() > until:
                raise TimeoutError(f"{method} {path} is not answered")
            time.sleep(0.2)

    def rows(self, query: bytes, *values: object) -> list[tuple]:  # type: ignore[type-arg]
        """What the database has, asked of it directly."""
        with psycopg.connect(self.settings.database_owner) as conn:
            return conn.execute(query, list(values)).fetchall()


@contextmanager
def own_revani() -> Iterator[Own]:
    """Started, and stopped and thrown away at the end."""
    outer = Path(tempfile.mkdtemp(prefix="revani-bench-", dir="/var/tmp"))
    outer.chmod(0o755)
    one = Own(outer / "data", free_ports(10))
    environment = os.environ | {"REVANI_DATA_DIR": str(one.folder), "REVANI_PORT": str(one.port)}
    environment.pop("REVANI_DATABASE_URL", None)
    with (outer / "up.log").open("ab") as log:
        supervisor = subprocess.Popen([REVANI, "up"], env=environment, stdout=log, stderr=log, start_new_session=True)
    try:
        one.ask("GET", "/api/health")
        yield one
    finally:
        subprocess.run([REVANI, "stop"], env=environment, stdout=sys.stderr, check=False)
        supervisor.wait(60)
        shutil.rmtree(outer, ignore_errors=True)
