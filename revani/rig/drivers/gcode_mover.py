"""A mover that speaks G-code, a line a block, over TCP as the simulated one does, or over a serial port.

Whatever it answers, a method returns what it promises or raises MoverError. A link that is lost is made anew, and the
mover is told its stage again: one that had forgotten it answers so, and what was queued there is gone.
"""

import json
import re
import socket
import time
from collections.abc import Callable
from contextlib import suppress
from threading import Event, Lock
from typing import Protocol
from urllib.parse import urlsplit

import serial
from pydantic import ValidationError

from revani.core.documents import AxisName
from revani.core.move.gcode import LETTERS, word
from revani.core.quantities.refusal import Refusal
from revani.rig.ports import MoverError, MoverTrouble, Stage, Where, printable

_NAMES: dict[str, AxisName] = {letter: name for name, letter in LETTERS.items()}
_LONGEST_ANSWER = 65_536
_BAUD = 115_200
_LOOK_S = 0.01
_NEVER = Event()
_NUMBER = re.compile(r"\bUUID:(\S{1,80})")


class Wire(Protocol):
    """What lines go over. Its methods raise OSError where nothing comes or goes."""

    def send(self, content: bytes) -> None:
        """Send all of it."""

    def receive(self) -> bytes:
        """What has come, at least a byte; nothing where the other side is gone."""

    def close(self) -> None:
        """Let it go."""


class _Tcp:
    def __init__(self, host: str, port: int, timeout_s: float) -> None:
        self._socket = socket.create_connection((host, port), timeout_s)
        self._socket.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)

    def send(self, content: bytes) -> None:
        self._socket.sendall(content)

    def receive(self) -> bytes:
        return self._socket.recv(65_536)

    def close(self) -> None:
        self._socket.close()


class _Serial:
    def __init__(self, url: str, baud: int, timeout_s: float) -> None:
        self._port = serial.serial_for_url(url, baudrate=baud, timeout=timeout_s, write_timeout=timeout_s)
        # What was left in it is no answer to what will be asked.
        self._port.reset_input_buffer()

    def send(self, content: bytes) -> None:
        self._port.write(content)

    def receive(self) -> bytes:
        piece = bytes(self._port.read(max(self._port.in_waiting, 1)))
        if not piece:
            raise TimeoutError
        return piece

    def close(self) -> None:
        with suppress(OSError):
            self._port.close()


def over_tcp(address: str, number: str = "") -> "GcodeMover":
    """The mover of a number at `gcode://HOST:PORT`. Raises Refusal."""
    parts = urlsplit(address)
    try:
        port = parts.port
    except ValueError:
        port = None
    host = parts.hostname
    if not host or port is None:
        raise Refusal("mover_url", "An address with host and port, such as gcode://127.0.0.1:8013.", address)
    return GcodeMover(lambda timeout_s: _Tcp(host, port, timeout_s), number)


def over_serial(address: str, number: str = "") -> "GcodeMover":
    """The mover of a number at `serial:/dev/ttyUSB0` or `serial:loop://`, with `?baud=` where it is not 115,200.

    Raises Refusal.
    """
    url, _, asked = address.removeprefix("serial:").partition("?baud=")
    if not url or (asked and not asked.isdigit()):
        raise Refusal("mover_url", "An address such as serial:/dev/ttyUSB0 or serial:/dev/ttyUSB0?baud=9600.", address)
    return GcodeMover(lambda timeout_s: _Serial(url, int(asked or _BAUD), timeout_s), number)


class GcodeMover:
    """Driver over one connection, which `plug` makes. It may be used from several threads.

    Where `number` is said, a mover that answers with another is asked for nothing.
    """

    def __init__(self, plug: Callable[[float], Wire], number: str = "", timeout_s: float = 1.5) -> None:
        self._plug = plug
        self._meant = number
        self._timeout_s = timeout_s
        self._lock = Lock()
        self._link: Wire | None = None
        self._rest = b""
        self._stage: Stage | None = None
        # Whether the mover has once taken the present stage: only then can it have forgotten it.
        self._taken = False

    def close(self) -> None:
        """Let the connection go."""
        with self._lock:
            self._drop()

    def stand(self, stage: Stage) -> None:
        """Put a simulated mover on its stage; it is put there again whenever the link is made anew."""
        with self._lock:
            self._stage, self._taken = stage, False
            if self._link is None:
                self._connect()
            else:
                self._tell_stage(stage)

    def go(self, positions: dict[AxisName, float]) -> None:
        """Go to positions as fast as the axes can."""
        self._ask("G90 G21")
        self._ask("G0 " + self._words(positions))

    def rest(self, patience_s: float, halt: Event | None = None) -> None:
        """Return when everything stands still, or `halt` comes; `patience_s` are real seconds."""
        until_s = time.monotonic() + patience_s
        while True:
            found = self.where()
            if found.stalled:
                raise MoverError("stalled", f"The mover says: stalled: {', '.join(found.stalled)}")
            if not found.moving:
                return
            if time.monotonic() > until_s:
                raise MoverError("unreachable", "The mover has not come to rest.")
            if (halt or _NEVER).wait(_LOOK_S):
                return

    def queue(self, positions: dict[AxisName, float], seconds: float) -> bool:
        """Queue a straight way that takes so many stage seconds; False where the queue is full."""
        try:
            self._ask(f"G90 G21 G93 G1 {self._words(positions)} {word('F', 60 / seconds)}")
        except MoverError as error:
            if str(error).endswith("busy"):
                return False
            raise
        return True

    def hold(self) -> None:
        """Let what is queued from here on wait for `begin`."""
        self._ask("M0")

    def begin(self, at_s: float) -> None:
        """Begin what is queued at an instant of stage time."""
        self._ask(f"M24 P{at_s:.4f}")

    def stop(self) -> None:
        """Stop at once."""
        self._ask("M112")

    def where(self) -> Where:
        """Where the axes are now."""
        text = self._ask("M114")
        try:
            said = json.loads(text)
            return Where(
                at_s=said["at_s"], positions={_NAMES[letter]: value for letter, value in said["axes"].items()},
                moving=said["moving"], queued=said["queued"], stalled=[_NAMES[letter] for letter in said["stalled"]],
            )  # fmt: skip
        except (ValueError, LookupError, TypeError, AttributeError, ValidationError) as error:
            raise MoverError("garbled", "The mover's answer could not be read.") from error

    def number(self) -> str:
        """Its maker's number, as M115 says it (common practice); empty where it says none."""
        try:
            return _number_in(self._ask("M115"))
        except MoverError as error:
            if error.trouble == "refused":
                return ""
            raise

    @staticmethod
    def _words(positions: dict[AxisName, float]) -> str:
        return " ".join(word(LETTERS[name], value) for name, value in positions.items())

    def _ask(self, line: str) -> str:
        with self._lock:
            if self._link is None:
                self._connect()
            return self._exchange(line)

    def _connect(self) -> None:
        """Make the link, and tell the stage. Raises MoverError("restarted") where one that was taken is forgotten."""
        try:
            self._link = self._plug(self._timeout_s)
        except OSError as error:
            self._drop()
            raise _away(error) from error
        self._rest = b""
        self._check_number()
        knew = self._taken
        if self._stage is not None and self._tell_stage(self._stage) and knew:
            raise MoverError("restarted", "The mover had been started anew.")

    def _check_number(self) -> None:
        """Let go of a mover that is not the one that is meant. Raises MoverError("another")."""
        if not self._meant:
            return
        try:
            found = _number_in(self._exchange("M115"))
        except MoverError as error:
            if error.trouble != "refused":
                raise
            found = ""
        if found != self._meant:
            self._drop()
            told = f"Another mover answers: {found or 'it says no number'}, where {self._meant} was linked."
            raise MoverError("another", told)

    def _tell_stage(self, stage: Stage) -> bool:
        """True where the mover had not known it."""
        try:
            answer = self._exchange("%" + json.dumps({"stage": stage.model_dump(mode="json")}))
            self._taken = True
            return answer == "ok new"
        except MoverError:
            # A link over which the stage was not taken is no link: the next order begins with it again.
            self._drop()
            raise

    def _exchange(self, line: str) -> str:
        assert self._link
        until_s = time.monotonic() + self._timeout_s
        try:
            self._link.send(line.encode() + b"\n")
            while b"\n" not in self._rest:
                if len(self._rest) > _LONGEST_ANSWER or time.monotonic() > until_s:
                    raise TimeoutError
                piece = self._link.receive()
                if not piece:
                    raise ConnectionError
                self._rest += piece
        except OSError as error:
            self._drop()
            raise _away(error) from error
        answer, _, self._rest = self._rest.partition(b"\n")
        text = answer.decode(errors="replace")
        if text.startswith("error:"):
            why = printable(text.removeprefix("error:"))
            trouble: MoverTrouble = (
                "stalled" if why.startswith("stalled") else "fenced" if why.startswith("taken over") else "refused"
            )
            raise MoverError(trouble, f"The mover says: {why}")
        return text

    def _drop(self) -> None:
        if self._link is not None:
            self._link.close()
        self._link, self._rest = None, b""


def _number_in(answer: str) -> str:
    found = _NUMBER.search(answer)
    return printable(found[1]) if found else ""


def _away(error: OSError) -> MoverError:
    in_time = " in time" if isinstance(error, TimeoutError) else ""
    return MoverError("unreachable", f"The mover does not answer{in_time}.")
