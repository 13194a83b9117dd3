"""Code cards: orders that a camera reads off paper and a phone opens as a link, signed for one rig and one shot.

A card is `address#body.signature`, both parts in base64 of the kind for addresses. The body is short, so that the card
is coarse: how many commands, and each by its place; seconds since 1970 until which it is good (4 bytes); what tells it
from others (6); the shot (16); the rig's name after its length; settings as JSON. The signature is the first half of
HMAC-SHA-256 (RFC 2104, FIPS 180-4) over the body with the rig's own key. A card is good until it expires, and once.
"""

import hashlib
import hmac
import json
import secrets
import struct
from base64 import urlsafe_b64decode, urlsafe_b64encode
from collections.abc import Collection, Sequence
from fractions import Fraction
from math import floor
from typing import Literal, get_args
from uuid import UUID

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from revani.core.light.firing import fires_itself
from revani.core.program.compiled import Program
from revani.core.quantities.refusal import Refusal

Command = Literal["set the clock", "set", "arm", "start", "stop", "power down"]
COMMANDS: tuple[Command, ...] = get_args(Command)
_SIGNATURE_BYTES = 16


class Code(BaseModel):
    """What a card orders: the commands in their order, for a shot on a rig; `settings` belong to “set”."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    rig: str = Field(min_length=1, max_length=60)
    shot: UUID
    commands: tuple[Command, ...] = Field(min_length=1, max_length=6)
    settings: dict[str, str] = Field(default={}, max_length=12)
    expires_s: int = Field(ge=0, le=2_600_000_000)
    nonce: str = Field(pattern=r"^[0-9a-f]{12}$")


# A card is good until so long after its shot's end.
GOOD_FOR_S = 12 * 3600.0
_DIALS = {
    "drive": "drive", "white_balance_k": "white balance", "aperture": "f/", "iso": "ISO", "shutter_s": "shutter, s",
}  # fmt: skip


def new_nonce() -> str:
    """What tells a card from every other."""
    return secrets.token_hex(6)


def signed(code: Code, key: bytes) -> str:
    """The text behind the address: body and signature. The order of commands is part of what is signed."""
    rig = code.rig.encode()
    body = bytes([len(code.commands), *map(COMMANDS.index, code.commands)])
    body += struct.pack(">I", code.expires_s) + bytes.fromhex(code.nonce) + code.shot.bytes + bytes([len(rig)]) + rig
    if code.settings:
        body += json.dumps(code.settings, separators=(",", ":")).encode()
    return f"{_text(body)}.{_text(_signature(body, key))}"


def read_code(text: str, key: bytes, rigs: Collection[str], now_s: float, used: bool = False) -> Code:
    """The code of a text, with or without its address. Raises Refusal("code") that says what is wrong with it.

    `used` tells that its nonce was seen before; to learn that, ask `nonce_of` first.
    """
    body, signature = _parts(text)
    if not hmac.compare_digest(signature, _signature(body, key)):
        raise Refusal("code", "This card was not made by this Revani, or was changed.")
    code = _code(body)
    if code.rig not in rigs:
        raise Refusal("code", f"This card is for another rig, {code.rig}.")
    if now_s > code.expires_s:
        raise Refusal("code", "This card has expired; print the field sheet anew.")
    if used:
        raise Refusal("code", "This card was used already; each is good once.")
    return code


def nonce_of(text: str) -> str:
    """What tells a card from every other, before it is known to be good. Raises Refusal("code")."""
    return _code(_parts(text)[0]).nonce


def _parts(text: str) -> tuple[bytes, bytes]:
    tail = text.strip().rpartition("#")[2]
    body, dot, signature = tail.partition(".")
    try:
        if not dot or len(tail) > 2_000:
            raise ValueError
        return _bytes(body), _bytes(signature)
    except ValueError:
        raise Refusal("code", "This is no card of Revani's.") from None


def _code(body: bytes) -> Code:
    try:
        many = body[0]
        commands = tuple(COMMANDS[one] for one in body[1 : 1 + many])
        rest = body[1 + many :]
        (expires_s,), nonce, shot, wide = (
            struct.unpack(">I", rest[:4]),
            rest[4:10].hex(),
            UUID(bytes=rest[10:26]),
            rest[26],
        )
        rig, settings = rest[27 : 27 + wide].decode(), rest[27 + wide :]
        return Code(
            rig=rig, shot=shot, commands=commands, settings=json.loads(settings) if settings else {},
            expires_s=expires_s, nonce=nonce,
        )  # fmt: skip
    except (ValueError, IndexError, struct.error, ValidationError):
        raise Refusal("code", "This is no card of Revani's.") from None


def _signature(body: bytes, key: bytes) -> bytes:
    return hmac.new(key, body, hashlib.sha256).digest()[:_SIGNATURE_BYTES]


def _text(data: bytes) -> str:
    return urlsafe_b64encode(data).decode().rstrip("=")


def _bytes(text: str) -> bytes:
    return urlsafe_b64decode(text.encode("ascii") + b"=" * (-len(text) % 4))


class CodeCard(BaseModel):
    """A card of a field sheet: what it is called, what the camera does about it, in order, and its text."""

    model_config = ConfigDict(frozen=True)

    title: str
    does: str
    text: str


def settings_of(program: Program) -> dict[str, str]:
    """What a “set” dials for a shot: drive, and what of its first frame the camera does not choose itself."""
    shot, first = program.shot, program.exposures
    found = {"drive": "its own timer" if fires_itself(shot) else "single"}
    if shot.light.white_balance != "automatic":
        found["white_balance_k"] = str(shot.light.white_balance_k)
    if not shot.light.automatic:
        found |= {
            "aperture": f"{float(first.aperture[0]):.2g}", "iso": f"{float(first.iso[0]):.0f}",
            "shutter_s": str(Fraction(float(first.shutter_s[0])).limit_denominator(8_000)),
        }  # fmt: skip
    return found


def cards(program: Program, rig: str, key: bytes, address: str) -> list[CodeCard]:
    """The cards of a shot: clock, settings, arm, start, stop, stop and power down; each good once."""
    shot, settings = program.shot, settings_of(program)
    pace = {"interval": str(program.timing.interval_s), "frames": str(program.frame_count)}
    expires_s = program.end_s + GOOD_FOR_S
    wanted: Sequence[tuple[str, str, tuple[Command, ...]]] = (
        ("Set the clock", "its clock goes right", ("set the clock",)),
        ("Set it", ", ".join(f"{_DIALS[dial]} {to}" for dial, to in settings.items()), ("set",)),
        ("Arm", "it waits for its start", ("arm",)),
        ("Start", "it takes the first frame now", ("start",)),
        ("Stop", "it stops after this frame", ("stop",)),
        ("Stop and power down", "it stops, writes, then switches itself off", ("stop", "power down")),
    )
    found = []
    for title, does, commands in wanted:
        said = settings if "set" in commands else pace if "start" in commands else {}
        code = Code(
            rig=rig, shot=shot.id, commands=commands, settings=said, expires_s=floor(expires_s), nonce=new_nonce(),
        )  # fmt: skip
        found.append(CodeCard(title=title, does=does, text=f"{address}/code#{signed(code, key)}"))
    return found
