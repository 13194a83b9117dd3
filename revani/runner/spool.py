"""What the runner has noted, on its own disk, before the database has it.

One file a run, one JSON object a line: `{"firing": 7}` before a frame is taken, then its journal
entry. Whatever happens to the process, the file tells which frame numbers are used up.
"""

import json
import os
from pathlib import Path
from threading import Lock
from uuid import UUID

from revani.store.runs import JournalFrame


class Spool:
    """The spool of one run; written by the shooting thread, read by the one that empties it."""

    def __init__(self, folder: Path, run_id: UUID) -> None:
        folder.mkdir(parents=True, exist_ok=True)
        self._path = folder / f"{run_id}.jsonl"
        self._lock = Lock()
        self._frames: list[JournalFrame] = []
        self._firing: int | None = None
        self._read()
        self._file = self._path.open("a", encoding="utf-8")

    def _read(self) -> None:
        if not self._path.exists():
            return
        lines = self._path.read_bytes().split(b"\n")
        # The last line has no newline if the process was ended while writing it.
        whole = lines[:-1]
        for line in whole:
            entry = json.loads(line)
            if "firing" in entry:
                self._firing = entry["firing"]
            else:
                frame = JournalFrame.model_validate(entry)
                self._frames.append(frame)
                if frame.number == self._firing:
                    self._firing = None
        if lines[-1]:
            self._path.write_bytes(b"".join(line + b"\n" for line in whole))

    @property
    def last_number(self) -> int:
        """The highest frame number that is used up; 0 at the beginning."""
        return max([frame.number for frame in self._frames], default=0)

    @property
    def unfinished(self) -> int | None:
        """The frame that was being taken when the process ended, if any."""
        return self._firing

    def firing(self, number: int) -> None:
        """Note that a frame number is about to be used."""
        self._firing = number
        self._write({"firing": number})

    def note(self, frame: JournalFrame) -> None:
        """Note what became of a frame."""
        with self._lock:
            self._frames.append(frame)
        if frame.number == self._firing:
            self._firing = None
        self._write(frame.model_dump(mode="json"))

    def after(self, count: int) -> list[JournalFrame]:
        """The entries after the first `count`, in order."""
        with self._lock:
            return self._frames[count:]

    def discard(self) -> None:
        """Throw the spool away, once the database has all of it."""
        self._file.close()
        self._path.unlink(missing_ok=True)

    def _write(self, entry: dict[str, object]) -> None:
        self._file.write(json.dumps(entry) + "\n")
        self._file.flush()
        os.fdatasync(self._file.fileno())
