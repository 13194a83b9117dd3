"""How PTP is spelt: codes, data types, datasets and the packets that carry them over TCP.

Sources: ISO 15740:2013 (PTP 1.1) for operations, responses, events, properties and datasets; CIPA DC-005 (PTP/IP) for
the packets. All numbers are little-endian, as DC-005 asks.
"""

import struct
from collections.abc import Iterable, Sequence
from enum import IntEnum
from typing import NamedTuple


class Packet(IntEnum):
    """Kinds of packet of PTP/IP."""

    INIT_COMMAND = 1
    INIT_COMMAND_ACK = 2
    INIT_EVENT = 3
    INIT_EVENT_ACK = 4
    INIT_FAIL = 5
    REQUEST = 6
    RESPONSE = 7
    EVENT = 8
    START_DATA = 9
    DATA = 10
    CANCEL = 11
    END_DATA = 12
    PING = 13
    PONG = 14


class Op(IntEnum):
    """Operations that a still camera of ours knows."""

    GET_DEVICE_INFO = 0x1001
    OPEN_SESSION = 0x1002
    CLOSE_SESSION = 0x1003
    GET_STORAGE_IDS = 0x1004
    GET_STORAGE_INFO = 0x1005
    GET_NUM_OBJECTS = 0x1006
    GET_OBJECT_HANDLES = 0x1007
    GET_OBJECT_INFO = 0x1008
    GET_OBJECT = 0x1009
    DELETE_OBJECT = 0x100B
    INITIATE_CAPTURE = 0x100E
    POWER_DOWN = 0x1013
    GET_PROPERTY_DESCRIPTION = 0x1014
    GET_PROPERTY = 0x1015
    SET_PROPERTY = 0x1016
    GET_PARTIAL_OBJECT = 0x101B


class Said(IntEnum):
    """Responses."""

    OK = 0x2001
    GENERAL_ERROR = 0x2002
    SESSION_NOT_OPEN = 0x2003
    OPERATION_NOT_SUPPORTED = 0x2005
    INVALID_STORAGE = 0x2008
    INVALID_OBJECT = 0x2009
    PROPERTY_NOT_SUPPORTED = 0x200A
    STORE_FULL = 0x200C
    ACCESS_DENIED = 0x200F
    DEVICE_BUSY = 0x2019
    INVALID_VALUE = 0x201C
    SESSION_ALREADY_OPEN = 0x201E


class Event(IntEnum):
    """Events."""

    OBJECT_ADDED = 0x4002
    OBJECT_REMOVED = 0x4003
    PROPERTY_CHANGED = 0x4006
    CAPTURE_COMPLETE = 0x400D


class Prop(IntEnum):
    """Device properties."""

    BATTERY = 0x5001
    WHITE_BALANCE = 0x5005
    F_NUMBER = 0x5007
    FOCAL_LENGTH = 0x5008
    EXPOSURE_TIME = 0x500D
    EXPOSURE_PROGRAM = 0x500E
    ISO = 0x500F
    EXPOSURE_BIAS = 0x5010
    DATE_TIME = 0x5011


class Kind(NamedTuple):
    """A data type: its code, and how `struct` writes it; none for a string."""

    code: int
    form: str


U8, I16, U16 = Kind(0x0002, "B"), Kind(0x0003, "h"), Kind(0x0004, "H")
U32, TEXT = Kind(0x0006, "I"), Kind(0xFFFF, "")
EXIF_JPEG, ASSOCIATION = 0x3801, 0x3001
STORE = 0x0001_0001
EVERYTHING = 0xFFFF_FFFF


def text(said: str) -> bytes:
    """A PTP string: how many UTF-16 units with the final zero, then they; nothing is a single zero byte."""
    return b"\0" if not said else bytes([len(said[:254]) + 1]) + (said[:254] + "\0").encode("utf-16-le")


def read_text(content: bytes) -> str:
    """A PTP string read; what is damaged in it is passed over."""
    return content[1 : 1 + 2 * content[0]].decode("utf-16-le", "ignore").rstrip("\0") if content else ""


def many(kind: Kind, values: Sequence[int]) -> bytes:
    """An array: its length, then its members."""
    return struct.pack(f"<I{len(values)}{kind.form}", len(values), *values)


def value(kind: Kind, said: int | str) -> bytes:
    """One value of a kind."""
    return text(str(said)) if kind is TEXT else struct.pack(f"<{kind.form}", said)


def read_value(kind: Kind, content: bytes) -> int | str:
    """One value of a kind, read. Raises ValueError for what is none."""
    if kind is TEXT:
        return read_text(content)
    if len(content) < struct.calcsize(kind.form):
        raise ValueError("A value that is cut short.")
    return int(struct.unpack_from(f"<{kind.form}", content)[0])


def device_info(maker: str, model: str, version: str, serial: str) -> bytes:
    """The DeviceInfo dataset of ISO 15740, with all that is listed above."""
    return b"".join(
        (
            struct.pack("<HIH", 100, 0, 100), text(""), struct.pack("<H", 0),
            many(U16, list(Op)), many(U16, list(Event)), many(U16, list(Prop)), many(U16, [EXIF_JPEG]),
            many(U16, [EXIF_JPEG, ASSOCIATION]), text(maker), text(model), text(version), text(serial),
        )
    )  # fmt: skip


def storage_info(capacity: int, free: int, label: str) -> bytes:
    """The StorageInfo dataset: removable, files in folders, read and write with deletion."""
    return struct.pack("<HHHQQI", 4, 2, 0, capacity, free, 0xFFFF_FFFF) + text("card") + text(label)


def object_info(form: int, size: int, across: int, up: int, parent: int, name: str, stamp: str) -> bytes:
    """The ObjectInfo dataset: of a picture, or of a folder, which has no size."""
    folder = 1 if form == ASSOCIATION else 0
    return struct.pack(
        "<IHHIHIIIIIIIHII", STORE, form, 0, size, form if not folder else 0, 0, 0, 0, across, up, 24 if up else 0,
        parent, folder, 0, 0,
    ) + text(name) + text(stamp) + text(stamp) + text("")  # fmt: skip


def property_description(
    code: int, kind: Kind, settable: bool, now: int | str, rungs: Iterable[int] = (), reach: Sequence[int] = ()
) -> bytes:
    """The DevicePropDesc dataset, with an enumeration of `rungs`, a range `reach` (from, to, step), or neither."""
    described = struct.pack("<HHB", code, kind.code, settable) + value(kind, now) + value(kind, now)
    listed = list(rungs)
    if listed:
        return described + b"\x02" + struct.pack(f"<H{len(listed)}{kind.form}", len(listed), *listed)
    if reach:
        return described + b"\x01" + struct.pack(f"<3{kind.form}", *reach)
    return described + b"\x00"


def packet(kind: Packet, body: bytes = b"") -> bytes:
    """A packet of PTP/IP: its length, its kind, its body."""
    return struct.pack("<II", len(body) + 8, kind) + body
