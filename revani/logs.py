"""Log files of the processes: appended to by them, read out and turned over by the supervisor."""

import shutil
import time
from pathlib import Path
from typing import BinaryIO

_MOST_BYTES = 5_000_000
_KEPT = 3
_LONGEST_LOOK = 200_000


class LogFile:
    """One process's log: at most four files of 5 MB, the newest without a number."""

    def __init__(self, path: Path) -> None:
        self._path = path
        path.parent.mkdir(parents=True, exist_ok=True)
        path.touch(mode=0o600)
        self._read_to = path.stat().st_size
        self._half = b""

    def open(self) -> BinaryIO:
        """The file, for a process to append to."""
        return self._path.open("ab")

    def note(self, text: str) -> None:
        """Append a line of the supervisor's own."""
        with self.open() as out:
            out.write(f"{time.strftime('%H:%M:%S')} [supervisor] {text}\n".encode())

    def news(self) -> list[str]:
        """The whole lines since the last call; turns the file over where it has grown large."""
        try:
            size = self._path.stat().st_size
        except FileNotFoundError:
            return []
        if size < self._read_to:
            self._read_to = 0
        if size == self._read_to:
            return []
        with self._path.open("rb") as file:
            file.seek(self._read_to)
            new = file.read(_LONGEST_LOOK)
        self._read_to += len(new)
        *lines, self._half = (self._half + new).split(b"\n")
        if len(self._half) > _LONGEST_LOOK:
            self._half = b""
        if self._read_to >= size > _MOST_BYTES:
            self._turn_over()
        return [line.decode(errors="replace") for line in lines]

    def _turn_over(self) -> None:
        """Keep what is written under a number. The process goes on in the same file, which begins anew."""
        for number in range(_KEPT, 1, -1):
            older = self._path.with_name(f"{self._path.name}.{number - 1}")
            if older.exists():
                older.rename(self._path.with_name(f"{self._path.name}.{number}"))
        shutil.copy2(self._path, self._path.with_name(f"{self._path.name}.1"))
        # Appending processes write at the end, wherever that is.
        with self._path.open("r+b") as file:
            file.truncate(0)
        self._read_to = 0
