"""What a rig says of itself just now, in words; what it does not say is not shown."""

from collections.abc import Iterable, Iterator, Mapping
from typing import Any

from pydantic import BaseModel

from revani.core.documents.rig import KeptRig, Rig
from revani.core.documents.run import RunnerSign
from revani.core.quantities.units import decimals, duration, gigabytes
from revani.core.timing.triggers import SILENT_S, HeardAgo, HeardKind
from revani.core.watch.signs import BATTERY_LOW, CARD_LOW_BYTES, CLOCK_APART_S, WORD_S, Tone


class RigSays(BaseModel):
    """One thing that a rig says."""

    label: str
    text: str
    tone: Tone = "good"


class RigView(BaseModel):
    """A rig as it is kept, and as its runner told of it last.

    `own` is this machine's; `gear` what it is made of, in words; `answers` the number of the camera that answers now,
    where it says one.
    """

    rig: Rig
    version: int
    archived: bool
    own: bool
    gear: str
    told: str
    tone: Tone
    says: list[RigSays]
    answers: str = ""
    mover_answers: str = ""


def rig_views(
    kept: Iterable[KeptRig], signs: Iterable[RunnerSign], names: Mapping[str, str], own: str
) -> list[RigView]:
    """Every rig with the last sign of its runner; `names` has those of gear by id, `own` is this machine's key."""
    by_rig = {sign.rig: sign for sign in signs}
    found = []
    for one in kept:
        rig, sign = one.rig, by_rig.get(one.rig.key)
        told, tone, says = _told(sign, one.archived)
        camera = (sign and sign.camera) or {}
        found.append(
            RigView(
                rig=rig, version=one.version, archived=one.archived, own=rig.key == own,
                gear=", ".join(names[str(id)] for id in (rig.body, *rig.movers) if str(id) in names),
                told=told, tone=tone, says=says, answers=str(camera.get("serial", "")),
                mover_answers=str(camera.get("mover_number", "")),
            )
        )  # fmt: skip
    return found


def _told(sign: RunnerSign | None, archived: bool) -> tuple[str, Tone, list[RigSays]]:
    if archived:
        return "Put away: nobody drives it.", "good", []
    if sign is None:
        return "Its runner has given no sign yet.", "mind", []
    if sign.age_s > WORD_S:
        told = f"No word from its runner for {duration(round(sign.age_s))}: what it does is not known."
        return told, "bad", []
    camera = sign.camera or {}
    says = list(_says(camera))
    if trouble := camera.get("trouble"):
        return f"Its runner is up. {trouble}", "bad", says
    if camera.get("asleep"):
        return "Its runner is up; the camera is left to sleep.", "good", says
    tone: Tone = "mind" if any(one.tone != "good" for one in says) else "good"
    return "Its runner is up, and the camera answers.", tone, says


_HEARD_AS = {"motion": "movement", "light": "light", "sound": "sound", "code card": "code card"}


class Hears(BaseModel):
    """The last that a sensor said, and how long ago."""

    label: str
    text: str
    ago: str
    tone: Tone


def heard_told(kind: HeardKind, value: float, word: str) -> str:
    """What was heard, in words."""
    if kind == "motion":
        return f"{decimals(value * 100, 1)} % of the picture"
    if kind == "light":
        return f"EV {decimals(value, 1)}"
    if kind == "sound":
        return f"{decimals(value, 1)} dBFS"
    if kind == "temperature":
        return f"{decimals(value, 1)} °C"
    return f"{decimals(value, 2)}° from level" if kind == "level" else word


def hears(rows: Iterable[HeardAgo]) -> list[Hears]:
    """What sensors said last, kind by kind; what is old says nothing of now."""
    return [
        Hears(
            label=_HEARD_AS.get(row.kind, row.kind), text=heard_told(row.kind, row.value, row.word),
            ago=f"{duration(max(0, round(row.ago_s)))} ago", tone="mind" if row.ago_s > SILENT_S else "good",
        )
        for row in rows
    ]  # fmt: skip


def _says(camera: dict[str, Any]) -> Iterator[RigSays]:
    if name := camera.get("name"):
        yield RigSays(label="camera", text=f"{name}, {camera.get('state', '')}".rstrip(", "))
    if serial := camera.get("serial"):
        yield RigSays(label="its number", text=serial)
    if (left := camera.get("battery_left")) is not None:
        yield RigSays(label="battery", text=f"{left:.0%}", tone="good" if left > BATTERY_LOW else "mind")
    if (free := camera.get("card_free_bytes")) is not None:
        yield RigSays(label="card", text=f"{gigabytes(free)} free", tone="good" if free > CARD_LOW_BYTES else "mind")
    if (ahead := camera.get("clock_ahead_s")) is not None:
        apart = abs(ahead) >= CLOCK_APART_S
        yield RigSays(label="clock", text=f"{ahead:+.1f} s", tone="mind" if apart else "good")
    if (homed := camera.get("homed")) is not None:
        text = "answers, no axis is stalled" if homed else "an axis is stalled"
        yield RigSays(label="mover", text=text, tone="good" if homed else "mind")
    if number := camera.get("mover_number"):
        yield RigSays(label="mover's number", text=number)
    if trouble := camera.get("mover_trouble"):
        yield RigSays(label="mover", text=trouble, tone="mind")
    if (disk := camera.get("disk_free_bytes")) is not None:
        yield RigSays(label="runner's disk", text=f"{gigabytes(disk)} free")
