"""The simulated camera's own link: PTP/IP on loopback, as bodies on a network speak it.

What a camera does goes over this link: what it is, what can be set, taking a frame, its files, its events. What no
camera has (the scene before it, the clock of its stage, its faults) goes over HTTP. One who is linked keeps the link:
another is told that it is busy, as a body tells.
"""

import asyncio
import struct
from collections.abc import Callable
from contextlib import suppress
from datetime import UTC, datetime
from typing import NamedTuple

from PIL import Image

from revani.core.feed.card import capacity_bytes
from revani.core.light.dials import APERTURES, ISOS, SHUTTERS, true_aperture, true_iso, true_shutter_s
from revani.core.light.white_balance import NAMED_K
from revani.rig.ports import CameraError, Captured, Fault
from revani.rig.standins import ptp_words as ptp
from revani.rig.standins.camera import SimulatedCamera
from revani.rig.standins.ptp_words import Event, Kind, Op, Packet, Prop, Said

_GUID = b"simulated camera"
_NAME = ("simulated camera\0").encode("utf-16-le")
_BUSY = 2
_LONGEST_PACKET, _PIECE = 4_000_000, 65_536
# The white balances that PTP names, by its numbers (ISO 15740, property WhiteBalance); automatic is 2.
_AUTOMATIC = 2
_WHITE = {4: "daylight", 5: "fluorescent", 6: "tungsten"}
# The exposure programs that PTP names (property ExposureProgramMode), and biases in thousandths of a stop.
_PROGRAMS = {"manual": 1, "automatic": 2, "aperture priority": 3}
_BIASES = [round(1_000 * third / 3) for third in range(-15, 16)]
_TICKS_A_SECOND = 10_000
_SAYS = {
    "busy": Said.DEVICE_BUSY, "full card": Said.STORE_FULL, "refused": Said.ACCESS_DENIED,
}  # fmt: skip
_DCIM, _FOLDER = 1, 2
_FIRST_FILE = 1_000
_NONSENSE = struct.pack("<II", 40, 77) + b"\xff" * 32


class _Dial(NamedTuple):
    """A device property: how it is read, and set, where it can be; `rungs` are what it can be set to."""

    kind: Kind
    read: Callable[[], int | str]
    write: Callable[[int | str], None] | None = None
    rungs: Callable[[], list[int]] = list
    reach: tuple[int, int, int] | tuple[()] = ()


class _Refused(Exception):
    """An operation that is not carried out; `said` is the response."""

    def __init__(self, said: Said) -> None:
        super().__init__(said.name)
        self.said = said


def _nearest(value: float, rungs: list[int]) -> int:
    return min(rungs, key=lambda rung: abs(rung - value))


class _Session:
    """One initiator: its operations, in order, and the events that it is told."""

    def __init__(self, camera: SimulatedCamera, commands: asyncio.StreamWriter) -> None:
        self._camera = camera
        # Another camera is another link.
        self.serial = camera.serial
        self._commands = commands
        self._open = False
        self._taking: asyncio.Task[None] | None = None
        self.events: asyncio.StreamWriter | None = None
        self._dials: dict[int, _Dial] = {
            Prop.BATTERY: _Dial(ptp.U8, lambda: round(100 * max(camera.battery_left(), 0.0)), reach=(0, 100, 1)),
            Prop.WHITE_BALANCE: _Dial(ptp.U16, self._white, self._set_white, lambda: [_AUTOMATIC, *_WHITE]),
            Prop.F_NUMBER: _Dial(
                ptp.U16, lambda: _nearest(camera.settings.aperture * 100, self._apertures()),
                lambda said: camera.dial({"aperture": true_aperture(int(said) / 100)}), self._apertures,
            ),
            Prop.FOCAL_LENGTH: _Dial(ptp.U32, lambda: round(camera.focal_mm * 100)),
            Prop.EXPOSURE_TIME: _Dial(
                ptp.U32, lambda: _nearest(camera.settings.shutter_s * _TICKS_A_SECOND, self._shutters()),
                self._set_shutter, self._shutters,
            ),
            Prop.EXPOSURE_PROGRAM: _Dial(
                ptp.U16, lambda: _PROGRAMS[camera.settings.mode],
                lambda said: camera.dial({"mode": next(mode for mode, code in _PROGRAMS.items() if code == said)}),
                lambda: [*_PROGRAMS.values()],
            ),
            Prop.EXPOSURE_BIAS: _Dial(
                ptp.I16, lambda: _nearest(camera.settings.compensation_stops * 1_000, _BIASES),
                lambda said: camera.dial({"compensation_stops": int(said) / 1_000}), lambda: _BIASES,
            ),
            Prop.ISO: _Dial(
                ptp.U16, lambda: _nearest(camera.settings.iso, self._isos()),
                lambda said: camera.dial({"iso": true_iso(int(said))}), self._isos,
            ),
            Prop.DATE_TIME: _Dial(ptp.TEXT, lambda: _stamp(camera.now_s() + camera.clock_ahead_s())),
        }  # fmt: skip

    def _shutters(self) -> list[int]:
        body = self._camera.kit.body
        fits = [s for s in SHUTTERS if body.shutter_min_s <= s <= max(body.manual_shutter_max_s, body.shutter_min_s)]
        # The standard counts tenths of a millisecond: what is shorter cannot be told apart.
        return sorted({max(1, round(true_shutter_s(float(s)) * _TICKS_A_SECOND)) for s in fits})

    def _set_shutter(self, said: int | str) -> None:
        ticks = int(said)
        meant = min((true_shutter_s(float(s)) for s in SHUTTERS), key=lambda s: abs(s * _TICKS_A_SECOND - ticks))
        self._camera.dial({"shutter_s": meant})

    def _apertures(self) -> list[int]:
        lens = self._camera.kit.lens
        return [round(f * 100) for f in APERTURES if lens.aperture_widest - 0.01 <= f <= lens.aperture_narrowest + 0.01]

    def _isos(self) -> list[int]:
        body = self._camera.kit.body
        return [iso for iso in ISOS if body.iso_min <= iso <= min(body.iso_max, 65_535)]

    def _white(self) -> int:
        now = self._camera.settings
        if now.automatic_white_balance:
            return _AUTOMATIC
        return min(_WHITE, key=lambda code: abs(NAMED_K[_WHITE[code]] - now.white_balance_k))

    def _set_white(self, said: int | str) -> None:
        automatic = said == _AUTOMATIC
        kelvin = {} if automatic else {"white_balance_k": NAMED_K[_WHITE[int(said)]]}
        self._camera.dial({"automatic_white_balance": automatic, **kelvin})

    def over(self) -> None:
        """The link is gone; a frame that is being taken is taken to its end."""
        if self.events is not None:
            self.events.close()

    async def do(self, op: int, transaction: int, words: list[int], sent: bytes) -> tuple[bytes | None, list[int]]:
        """Carry an operation out: the data that it gives, if it gives any, and its answer's parameters.

        Raises _Refused.
        """
        if op == Op.GET_DEVICE_INFO:
            return ptp.device_info("Revani", self._camera.kit.body.name, "1", self._camera.serial), []
        if op == Op.OPEN_SESSION:
            if self._open:
                raise _Refused(Said.SESSION_ALREADY_OPEN)
            self._open = True
            return None, []
        if not self._open:
            raise _Refused(Said.SESSION_NOT_OPEN)
        if op == Op.CLOSE_SESSION:
            self._open = False
            return None, []
        if op == Op.POWER_DOWN:
            self._camera.switch_off()
            return None, []
        if op == Op.INITIATE_CAPTURE:
            await self._initiate(transaction)
            return None, []
        if op in (Op.GET_PROPERTY_DESCRIPTION, Op.GET_PROPERTY, Op.SET_PROPERTY):
            return self._property(op, words, sent), []
        return self._of_the_card(op, words)

    def _property(self, op: int, words: list[int], sent: bytes) -> bytes | None:
        dial = self._dials.get(words[0] if words else 0)
        if dial is None:
            raise _Refused(Said.PROPERTY_NOT_SUPPORTED)
        if op == Op.GET_PROPERTY:
            return ptp.value(dial.kind, dial.read())
        if op == Op.GET_PROPERTY_DESCRIPTION:
            settable = dial.write is not None
            return ptp.property_description(words[0], dial.kind, settable, dial.read(), dial.rungs(), dial.reach)
        if dial.write is None:
            raise _Refused(Said.ACCESS_DENIED)
        said = ptp.read_value(dial.kind, sent)
        if said not in dial.rungs():
            raise _Refused(Said.INVALID_VALUE)
        dial.write(said)
        return None

    def _of_the_card(self, op: int, words: list[int]) -> tuple[bytes | None, list[int]]:
        first = words[0] if words else 0
        if op == Op.GET_STORAGE_IDS:
            return ptp.many(ptp.U32, [ptp.STORE]), []
        if op == Op.GET_STORAGE_INFO:
            if first != ptp.STORE:
                raise _Refused(Said.INVALID_STORAGE)
            capacity = capacity_bytes(self._camera.kit.card.capacity_gb)
            return ptp.storage_info(capacity, max(self._camera.card_free(), 0), "CARD"), []
        if op in (Op.GET_NUM_OBJECTS, Op.GET_OBJECT_HANDLES):
            found = self._handles(words[2] if len(words) > 2 else 0)
            return (None, [len(found)]) if op == Op.GET_NUM_OBJECTS else (ptp.many(ptp.U32, found), [])
        if op == Op.GET_OBJECT_INFO:
            return self._object_info(first), []
        if op in (Op.GET_OBJECT, Op.GET_PARTIAL_OBJECT):
            content = self._camera.path(self._stored(first).file).read_bytes()
            if op == Op.GET_OBJECT:
                return content, []
            piece = content[words[1] : words[1] + words[2]] if len(words) > 2 else b""
            return piece, [len(piece)]
        if op == Op.DELETE_OBJECT:
            self._camera.erase(self._stored(first).number)
            return None, []
        raise _Refused(Said.OPERATION_NOT_SUPPORTED)

    def _handles(self, within: int) -> list[int]:
        files = [_FIRST_FILE + number for number in sorted(self._camera.frames)]
        if within == ptp.EVERYTHING:
            return [_DCIM]
        if within == _DCIM:
            return [_FOLDER]
        return files if within == _FOLDER else [_DCIM, _FOLDER, *files]

    def _stored(self, handle: int) -> Captured:
        found = self._camera.frames.get(handle - _FIRST_FILE)
        if found is None:
            raise _Refused(Said.INVALID_OBJECT)
        return found

    def _object_info(self, handle: int) -> bytes:
        if handle in (_DCIM, _FOLDER):
            name, within = ("DCIM", 0) if handle == _DCIM else (self._camera.card, _DCIM)
            return ptp.object_info(ptp.ASSOCIATION, 0, 0, 0, within, name, "")
        stored = self._stored(handle)
        with Image.open(self._camera.path(stored.file)) as picture:
            across, up = picture.size
        stamp = _stamp(stored.opened_s + self._camera.clock_ahead_s())
        name = stored.file.rsplit("/", 1)[-1].upper()
        return ptp.object_info(ptp.EXIF_JPEG, stored.size_bytes, across, up, _FOLDER, name, stamp)

    async def _initiate(self, transaction: int) -> None:
        """Open the shutter; that it was stored is an event. Raises CameraError where it cannot."""
        fault = self._camera.faults.next_fault()
        if fault and fault.kind in ("refuse", "hang"):
            await asyncio.sleep(fault.seconds if fault.kind == "hang" else 0)
            raise _Refused(Said.ACCESS_DENIED)
        self._camera.check_ready()
        if self._taking is not None and not self._taking.done():
            raise _Refused(Said.DEVICE_BUSY)
        self._taking = asyncio.get_running_loop().create_task(self._take(transaction, fault))

    async def _take(self, transaction: int, fault: Fault | None) -> None:
        added = []
        with suppress(CameraError):
            captured = await self._camera.capture(self._camera.next_number(), self._camera.pose)
            added = [_FIRST_FILE + captured.number]
        if self._camera.faults.asleep:
            self._commands.close()
            return
        if fault and fault.kind == "slow":
            await asyncio.sleep(fault.seconds)
        if fault and fault.kind == "drop":
            self._commands.close()
            return
        if added:
            await self._tell(Event.OBJECT_ADDED, transaction, added)
        await self._tell(Event.CAPTURE_COMPLETE, transaction, [])

    async def _tell(self, event: Event, transaction: int, words: list[int]) -> None:
        if self.events is None:
            return
        with suppress(ConnectionError):
            body = struct.pack(f"<HI{len(words)}I", event, transaction, *words)
            self.events.write(ptp.packet(Packet.EVENT, body))
            await self.events.drain()


def _stamp(at_s: float) -> str:
    """A date as PTP writes it, by the camera's own clock. Source: ISO 15740, the DateTime string."""
    return f"{datetime.fromtimestamp(at_s, UTC):%Y%m%dT%H%M%S}"


async def _read(reader: asyncio.StreamReader) -> tuple[int, bytes]:
    """The next packet's kind and body. Raises EOFError or ValueError."""
    length, kind = struct.unpack("<II", await reader.readexactly(8))
    if not 8 <= length <= _LONGEST_PACKET:
        raise ValueError("A packet of no good length.")
    return kind, await reader.readexactly(length - 8)


class PtpServer:
    """Listens for one initiator at a time."""

    def __init__(self, camera: SimulatedCamera) -> None:
        self._camera = camera
        self._session: _Session | None = None

    async def attend(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        """One connection, to its end: of commands, or of events."""
        # A link that is cut, or one that speaks something else: it is over.
        with suppress(EOFError, ConnectionError):
            kind, _ = await _read(reader)
            if self._camera.off:
                # Nobody is there.
                raise ConnectionError
            if kind == Packet.INIT_EVENT and self._session is not None and self._session.events is None:
                self._session.events = writer
                writer.write(ptp.packet(Packet.INIT_EVENT_ACK))
                await self._stay(reader, writer)
            elif kind == Packet.INIT_COMMAND and self._session is None:
                await self._converse(reader, writer)
            else:
                writer.write(ptp.packet(Packet.INIT_FAIL, struct.pack("<I", _BUSY)))
                await writer.drain()
        writer.close()

    @staticmethod
    async def _stay(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        """The connection of events: nothing comes over it but whether we are there."""
        while True:
            kind, _ = await _read(reader)
            if kind == Packet.PING:
                writer.write(ptp.packet(Packet.PONG))

    async def _converse(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        session = self._session = _Session(self._camera, writer)
        try:
            writer.write(ptp.packet(Packet.INIT_COMMAND_ACK, struct.pack("<I", 1) + _GUID + _NAME + b"\0\0\1\0"))
            while True:
                kind, body = await _read(reader)
                if kind == Packet.PING:
                    writer.write(ptp.packet(Packet.PONG))
                if kind != Packet.REQUEST:
                    continue
                phase, op, transaction = struct.unpack_from("<IHI", body)
                words = list(struct.unpack_from(f"<{(len(body) - 10) // 4}I", body, 10))
                sent = await self._sent(reader) if phase == 2 else b""
                await self._answer(session, writer, op, transaction, words, sent)
        finally:
            self._session = None
            session.over()

    @staticmethod
    async def _sent(reader: asyncio.StreamReader) -> bytes:
        """The data that follow a request."""
        found = b""
        while True:
            kind, body = await _read(reader)
            if kind in (Packet.DATA, Packet.END_DATA):
                found += body[4:]
            if kind == Packet.END_DATA:
                return found
            if len(found) > _LONGEST_PACKET:
                raise ValueError("Data without end.")

    async def _answer(
        self, session: _Session, writer: asyncio.StreamWriter, op: int, transaction: int, words: list[int], sent: bytes
    ) -> None:
        if self._camera.faults.asleep or self._camera.off or session.serial != self._camera.serial:
            raise ConnectionError
        if self._camera.faults.next_nonsense():
            writer.write(_NONSENSE)
            raise ConnectionError
        said, given = Said.OK, None
        out: list[int] = []
        try:
            given, out = await session.do(op, transaction, words, sent)
        except _Refused as refused:
            said = refused.said
        except CameraError as error:
            said = _SAYS.get(error.trouble, Said.ACCESS_DENIED)
        except ValueError:
            said = Said.INVALID_VALUE
        if given is not None:
            writer.write(ptp.packet(Packet.START_DATA, struct.pack("<IQ", transaction, len(given))))
            for at in range(0, max(len(given) - _PIECE, 0), _PIECE):
                writer.write(ptp.packet(Packet.DATA, struct.pack("<I", transaction) + given[at : at + _PIECE]))
            last = max((len(given) - 1) // _PIECE * _PIECE, 0)
            writer.write(ptp.packet(Packet.END_DATA, struct.pack("<I", transaction) + given[last:]))
        writer.write(ptp.packet(Packet.RESPONSE, struct.pack(f"<HI{len(out)}I", said, transaction, *out)))
        await writer.drain()


async def listen(camera: SimulatedCamera, port: int) -> asyncio.Server:
    """A server that listens on loopback from now on."""
    return await asyncio.start_server(PtpServer(camera).attend, "127.0.0.1", port)
