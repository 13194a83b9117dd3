"""A simulated camera of one's own, beside that of the running Revani."""

import os
import subprocess
from collections.abc import Iterator
from pathlib import Path

import httpx
import pytest

from tests.conftest import REVANI, eventually, free_ports


@pytest.fixture(scope="module")
def simulated(scratch: Path) -> Iterator[tuple[str, str]]:
    """A simulated camera of its own: where it speaks PTP/IP, and where it is told of its scene."""
    port = free_ports(10)
    folder = scratch / f"camera-{port}"
    folder.mkdir()
    environment = os.environ | {"REVANI_PORT": str(port), "REVANI_DATA_DIR": str(folder), "PYTHONWARNINGS": "ignore"}
    with (folder / "camera.log").open("ab") as log:
        process = subprocess.Popen([REVANI, "camera"], env=environment, stdout=log, stderr=log)
    stage = f"http://127.0.0.1:{port + 1}"

    def up() -> bool:
        try:
            return httpx.get(f"{stage}/status").status_code == 200
        except httpx.HTTPError:
            return False

    try:
        eventually(up)
        yield f"ptpip://127.0.0.1:{port + 4}?stage={stage}", stage
    finally:
        process.terminate()
        process.wait(20)
