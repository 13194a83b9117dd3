"""A mover that speaks G-code over TCP, a line a block, as the simulated one does."""

import json
import socket
from threading import Lock

from revani.core.documents import AxisName
from revani.core.gcode import LETTERS, word
from revani.rig.ports import MoverError, Stage, Where

_NAMES: dict[str, AxisName] = {letter: name for name, letter in LETTERS.items()}


class GcodeMover:
    """Driver over one connection, made anew when it is lost. It may be used from several threads."""

    def __init__(self, host: str, port: int, timeout_s: float = 5.0) -> None:
        self._address = (host, port)
        self._timeout_s = timeout_s
        self._lock = Lock()
        self._link: socket.socket | None = None
        self._rest = b""

    def close(self) -> None:
        """Let the connection go."""
        with self._lock:
            self._drop()

    def stand(self, stage: Stage) -> None:
        """Put a simulated mover on its stage."""
        self._ask("%" + json.dumps({"stage": stage.model_dump(mode="json")}))

    def go(self, positions: dict[AxisName, float]) -> None:
        """Go to positions as fast as the axes can."""
        self._ask("G90 G21")
        self._ask("G0 " + self._words(positions))

    def rest(self, patience_s: float) -> None:
        """Return when everything stands still; `patience_s` are real seconds."""
        self._ask("M400", patience_s)

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
        said = json.loads(self._ask("M114"))
        return Where(
            at_s=said["at_s"], positions={_NAMES[letter]: value for letter, value in said["axes"].items()},
            moving=said["moving"], queued=said["queued"], stalled=[_NAMES[letter] for letter in said["stalled"]],
        )  # fmt: skip

    @staticmethod
    def _words(positions: dict[AxisName, float]) -> str:
        return " ".join(word(LETTERS[name], value) for name, value in positions.items())

    def _ask(self, line: str, timeout_s: float | None = None) -> str:
        with self._lock:
            try:
                link = self._connected()
                link.settimeout(timeout_s or self._timeout_s)
                link.sendall(line.encode() + b"\n")
                while b"\n" not in self._rest:
                    piece = link.recv(65_536)
                    if not piece:
                        raise ConnectionError("the link was closed")
                    self._rest += piece
            except OSError as error:
                self._drop()
                raise MoverError("unreachable", f"The mover does not answer ({error}).") from error
            answer, _, self._rest = self._rest.partition(b"\n")
        text = answer.decode()
        if text.startswith("error:"):
            why = text.removeprefix("error:").strip()
            raise MoverError("stalled" if why.startswith("stalled") else "refused", f"The mover says: {why}")
        return text

    def _connected(self) -> socket.socket:
        if self._link is None:
            self._link = socket.create_connection(self._address, self._timeout_s)
            self._link.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
            self._rest = b""
        return self._link

    def _drop(self) -> None:
        if self._link is not None:
            self._link.close()
        self._link, self._rest = None, b""
