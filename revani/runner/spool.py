"""What the runner has noted, on its own disk, before the database has it.

One file a run, one JSON object a line: the run as it was taken up, `{"firing": 7}` before a frame is taken, then its
journal entry; notes about the run in between. Whatever happens to the process, the file tells which frame numbers
are used up. Whatever happens to the file, the run goes on: a line that cannot be read is set aside, and while nothing
can be written the entries are kept in memory and written when there is room again.
"""

import json
import os
import shutil
from collections.abc import Iterator
from pathlib import Path
from threading import Lock
from typing import Any
from uuid import UUID

import structlog
from pydantic import BaseModel, ConfigDict, ValidationError

from revani.core.documents.run import Begun, Entry, Intervention, JournalFrame

log = structlog.get_logger()


class TakenUp(BaseModel):
    """A run as its runner has it: enough to go on with it while the database is away."""

    model_config = ConfigDict(extra="ignore")

    id: UUID
    shot: dict[str, Any]
    speed: float
    frame_count: int
    fence: int
    clock: dict[str, Any] | None = None
    interventions: tuple[Intervention, ...] = ()
    begins_s: float | None = None


class Spool:
    """The spool of one run; written by the shooting thread, read by the one that empties it.

    `numbers` are those that are used up, `missed` what was said of those that were not taken, `told` what was changed
    by hand.
    """

    def __init__(self, folder: Path, run_id: UUID) -> None:
        self.run_id = run_id
        self._path = folder / f"{run_id}.jsonl"
        self._lock = Lock()
        # What is not home yet, and how much is: a long run needs no more memory than a short one.
        self._entries: list[Entry] = []
        self._home = 0
        self._remarks: set[str] = set()
        self.numbers: set[int] = set()
        self.missed: dict[int, JournalFrame] = {}
        self.told: dict[int, Intervention] = {}
        self.begun: Begun | None = None
        self._firing: int | None = None
        self._file: Any = None
        self._unwritten: list[str] = []
        self.taken_up: TakenUp | None = None
        self.in_memory = False
        damaged = self._read()
        if damaged:
            self._set_aside(damaged)
            self.remark(
                f"{len(damaged)} of the runner's own notes were damaged and are set aside; the camera was asked."
            )

    def _read(self) -> list[bytes]:
        """Read what is there; returns the lines that are damaged."""
        damaged: list[bytes] = []
        try:
            lines = self._path.read_bytes().split(b"\n")
        except FileNotFoundError:
            return []
        except OSError as error:
            # A folder of that name, or a disk that does not read: it blocks nothing.
            log.warning("spool not readable", error=str(error))
            return []
        for line in filter(None, lines):
            try:
                said = json.loads(line)
                if "run" in said:
                    self.taken_up = TakenUp.model_validate(said["run"])
                else:
                    self._remember(Entry.model_validate(said))
            except (ValueError, TypeError, RecursionError, ValidationError):
                damaged.append(line)
        # The last line has no newline, and is no loss, if the process was ended while writing it.
        if lines[-1] and damaged and damaged[-1] == lines[-1]:
            damaged.pop()
        if lines[-1]:
            # What is appended begins on a line of its own.
            self._rewrite()
        return damaged

    def _set_aside(self, damaged: list[bytes]) -> None:
        try:
            with self._path.with_suffix(".damaged").open("ab") as out:
                out.write(b"\n".join(damaged) + b"\n")
        except OSError as error:
            log.warning("damaged notes not kept", error=str(error))
        self._rewrite()

    def _rewrite(self) -> None:
        """The file anew, of what is known; the one before stays until the new one is whole."""
        partial = self._path.with_suffix(".part")
        try:
            with partial.open("w", encoding="utf-8") as out:
                out.writelines(line + "\n" for line in self._lines())
                out.flush()
                os.fsync(out.fileno())
            partial.rename(self._path)
        except OSError as error:
            log.warning("spool not rewritten", error=str(error))

    def _lines(self) -> Iterator[str]:
        if self.taken_up is not None:
            yield json.dumps({"run": self.taken_up.model_dump(mode="json")})
        for entry in self._entries:
            yield entry.model_dump_json(exclude_defaults=True)
        if self._firing is not None:
            yield Entry(firing=self._firing).model_dump_json(exclude_defaults=True)

    def _remember(self, entry: Entry) -> None:
        if entry.firing is not None:
            self._firing = entry.firing
            return
        if entry.frame is not None:
            number = entry.frame.number
            if number == self._firing:
                self._firing = None
            self.numbers.add(number)
            self.missed.pop(number, None)
            if entry.frame.outcome == "missed":
                self.missed[number] = entry.frame
        if entry.begun is not None:
            self.begun = entry.begun
        if entry.told is not None:
            self.told[entry.told.nth] = entry.told
        if entry.note:
            self._remarks.add(entry.note)
        with self._lock:
            self._entries.append(entry)

    @property
    def unfinished(self) -> int | None:
        """The frame that was being taken when the process ended, if any."""
        return self._firing

    def take_up(self, run: TakenUp) -> None:
        """Note the run that is taken up."""
        self.taken_up = run
        self._write(json.dumps({"run": run.model_dump(mode="json")}))

    def firing(self, number: int) -> None:
        """Note that a frame number is about to be used."""
        self._put(Entry(firing=number))

    def note(self, *frames: JournalFrame) -> None:
        """Note what became of frames."""
        self._put(*(Entry(frame=frame) for frame in frames))

    def remark(self, text: str) -> None:
        """Note something about the run, once."""
        if text not in self._remarks:
            self._put(Entry(note=text))

    def begin(self, begun: Begun) -> None:
        """Note that what was waited for has come."""
        self._put(Entry(begun=begun, note=begun.told))

    def heed(self, told: Intervention) -> None:
        """Note a change that was taken up, or could not be."""
        self._put(Entry(told=told))

    def after(self, count: int) -> list[Entry]:
        """The entries after the first `count`, in order."""
        with self._lock:
            return self._entries[count - self._home :]

    def home(self, count: int) -> None:
        """The first `count` entries are in the database, and need not be kept in memory."""
        with self._lock:
            del self._entries[: count - self._home]
            self._home = count

    @property
    def before(self) -> Path:
        """The folder of what its camera saw before it began."""
        return self._path.with_suffix(".before")

    def discard(self) -> None:
        """Throw the spool away, once the database has all of it."""
        self._close()
        shutil.rmtree(self.before, ignore_errors=True)
        self._path.unlink(missing_ok=True)

    def leave(self) -> None:
        """Set the spool aside: another has taken the run up."""
        self._close()
        for path in (self._path, self.before):
            if path.exists():
                aside = path.with_name(f"{path.name.removesuffix('.jsonl')}.superseded")
                shutil.rmtree(aside, ignore_errors=True)
                path.rename(aside)

    def _put(self, *entries: Entry) -> None:
        for entry in entries:
            self._remember(entry)
        self._write(*(entry.model_dump_json(exclude_defaults=True) for entry in entries))

    def _write(self, *lines: str) -> None:
        """Put lines on the disk; what cannot be written now is written before the next that can."""
        self._unwritten += [line + "\n" for line in lines]
        try:
            if self._file is None:
                self._path.parent.mkdir(parents=True, exist_ok=True)
                # Unbuffered: what is refused is refused at once, and never written later out of turn.
                self._file = self._path.open("ab", buffering=0)
            pending = "".join(self._unwritten).encode()
            written = self._file.write(pending)
            if written != len(pending):
                # A line that was cut off by a full disk is ended, and read as damaged; it is written again whole.
                self._unwritten.insert(0, "\n")
                raise OSError(28, "the disk is full")
            os.fdatasync(self._file.fileno())
            self._unwritten.clear()
            self.in_memory = False
        except OSError as error:
            self._close()
            if not self.in_memory:
                log.warning("spool not written; going on in memory", error=str(error))
                self.in_memory = True
                note = Entry(note=f"The runner's disk took no notes for a while ({error.strerror}); memory kept them.")
                self._remember(note)
                self._unwritten.append(note.model_dump_json(exclude_defaults=True) + "\n")

    def _close(self) -> None:
        if self._file is not None:
            self._file.close()
            self._file = None


def left_over(folder: Path) -> list[UUID]:
    """The runs whose spools lie in a folder."""
    found = []
    for path in sorted(folder.glob("*.jsonl")):
        try:
            found.append(UUID(path.stem))
        except ValueError:
            continue
    return found
