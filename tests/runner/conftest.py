"""A simulated camera of one's own, beside that of the running Revani."""

import os
import subprocess
import tempfile
from collections.abc import Iterator
from pathlib import Path

import httpx
import pytest

from tests.conftest import REVANI, eventually, free_ports


@pytest.fixture(scope="module")
def simulated(scratch: Path) -> Iterator[tuple[str, str]]:
    """A simulated camera of its own: where it speaks PTP/IP, and where it is told of its scene."""
    port = free_ports(10)
    # Of its own, for a port is given again once it has been let go.
    folder = Path(tempfile.mkdtemp(prefix="camera-", dir=scratch))
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
