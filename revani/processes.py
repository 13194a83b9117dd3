"""Processes of ours, known by number and birth, so that no other is ever signalled or waited for.

A process number is given again to others after its process has ended; the moment of birth is not.
Source: proc(5), pidfd_open(2).
"""

import os
import select
import signal
from contextlib import suppress
from pathlib import Path

from pydantic import BaseModel, ConfigDict, ValidationError


class Known(BaseModel):
    """A process as it was started: its number, and when it was born in which boot of the machine."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    pid: int
    born: str


class Register(BaseModel):
    """What one data folder has running: who looks after it, on which port, the processes by name, and what each was
    started for."""

    model_config = ConfigDict(extra="forbid")

    port: int = 0
    keeper: Known | None = None
    children: dict[str, Known] = {}
    started_for: dict[str, str] = {}

    @classmethod
    def read(cls, path: Path) -> "Register":
        """The register in a file; an empty one where the file is missing, empty or damaged."""
        try:
            return cls.model_validate_json(path.read_bytes())
        except (OSError, ValidationError):
            return cls()

    def write(self, path: Path) -> None:
        """Put the register in place of the file, whole or not at all."""
        partial = path.with_suffix(".part")
        with partial.open("w") as out:
            out.write(self.model_dump_json())
            out.flush()
            os.fsync(out.fileno())
        partial.rename(path)


def known(pid: int) -> Known | None:
    """The process of a number as it is now; None where there is none, or it has ended and is only not yet buried."""
    try:
        # The name stands in brackets and may contain anything; state and birth come after it.
        after_name = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()
    except (OSError, UnicodeDecodeError):
        return None
    if after_name[0] in "ZX":
        return None
    return Known(pid=pid, born=f"{boot()}/{after_name[19]}")


def boot() -> str:
    """Which boot of the machine this is."""
    try:
        return Path("/proc/sys/kernel/random/boot_id").read_text().strip()
    except OSError:
        return ""


def alive(process: Known | None) -> bool:
    """Whether the process still runs, and is the same."""
    return process is not None and known(process.pid) == process


def send(process: Known, number: signal.Signals) -> None:
    """Signal a process if it is still the one that is known; nothing happens to any other."""
    with suppress(OSError):
        # The handle stands for this very process, even if the number is given again in this moment.
        handle = os.pidfd_open(process.pid)
        try:
            if alive(process):
                signal.pidfd_send_signal(handle, number)
        finally:
            os.close(handle)


def gone(process: Known, patience_s: float) -> bool:
    """Wait until a process has ended; False where it has not after `patience_s`."""
    try:
        handle = os.pidfd_open(process.pid)
    except OSError:
        return True
    try:
        if not alive(process):
            return True
        return bool(select.select([handle], [], [], patience_s)[0])
    finally:
        os.close(handle)
