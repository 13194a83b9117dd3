"""The rigs that this machine knows, and where each is to be reached.

The database has them; a copy lies in the data folder, so that whoever drives gear waits for no database. The rig of
this machine's own settings is known before anything is kept.
"""

import re
import secrets
import socket
from collections.abc import Collection, Iterable
from pathlib import Path
from typing import NamedTuple, Protocol
from urllib.parse import urlsplit

from pydantic import BaseModel, ConfigDict, ValidationError

from revani.core.documents.rig import SIMULATED, SIMULATED_BODY, Rig
from revani.core.quantities.refusal import Refusal
from revani.rig.drivers import BODIES, CAMERAS, MOVERS, is_body, stage_of


class Machine(Protocol):
    """The settings of a machine, as far as rigs go by them."""

    port: int
    rig: str
    camera_url: str
    mover_url: str
    data_dir: Path

    @property
    def rigs_file(self) -> Path:
        """Where the copy lies."""

    @property
    def rigs_dir(self) -> Path:
        """What processes of further rigs keep, a folder a rig."""


class Known(BaseModel):
    """All rigs, and the keys of those that are put away: their cameras may still be asked for what they took."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    rigs: tuple[Rig, ...] = ()
    away: frozenset[str] = frozenset()


class Reached(NamedTuple):
    """Where a rig is.

    `camera` is the address that everybody asks; `body` that of a body whose one connection the link has, else empty;
    `stage` where simulated gear is told what no camera has, else empty. What is simulated, or linked, listens at the
    ports, and keeps its things in the folders.
    """

    rig: Rig
    camera: str
    body: str
    mover: str
    stage: str
    camera_port: int
    mover_port: int
    ptp_port: int
    link_port: int
    card_dir: Path
    link_dir: Path
    spool_dir: Path

    @property
    def plays_camera(self) -> bool:
        """Whether its camera is a process of ours."""
        return self.rig.simulated

    @property
    def may_hurry(self) -> bool:
        """Whether its stage's clock may go faster than the wall's: real gear has only that."""
        return not self.body or bool(self.stage)

    @property
    def plays_mover(self) -> bool:
        """Whether its mover is a process of ours."""
        return self.rig.mover == SIMULATED


def check_addresses(rig: Rig, others: Iterable[Rig]) -> None:
    """Whether what a rig says of its gear can be driven, and no other rig has it. Raises Refusal at the address."""
    for what, address, played, drivers in (
        ("camera", rig.camera, (SIMULATED, SIMULATED_BODY), (*CAMERAS, *BODIES)),
        ("mover", rig.mover, (SIMULATED,), (*MOVERS,)),
    ):
        if address in played:
            continue
        if urlsplit(address).scheme not in drivers:
            begins = " or ".join(f"{one}:" for one in drivers)
            raise Refusal(what, f"{SIMULATED} or an address that begins with {begins}.", address)
        for other in others:
            if getattr(other, what) == address:
                raise Refusal(what, f"“{other.name}” has what is there: one rig an address.", address)


def plain_key(name: str) -> str:
    """The key of a rig of this name: its letters and figures alone. Raises Refusal("name") where it has none."""
    key = re.sub(r"\W+", "-", name.casefold()).strip("-_")[:40].strip("-_")
    if not key:
        raise Refusal("name", "A name with letters or figures in it.", name)
    return key


def free_ports(after: int, taken: Collection[int]) -> int:
    """The first of ten neighbouring ports that no rig has and nobody listens at. Raises Refusal("ports")."""
    for first in range(after + 100, min(after + 2_000, 65_500), 10):
        if first not in taken and not any(map(_listens, range(first, first + 10))):
            return first
    raise Refusal("ports", "No ports are free on this machine for another rig.", str(after))


def _listens(port: int) -> bool:
    with socket.socket() as probe:
        return probe.connect_ex(("127.0.0.1", port)) == 0


def own(here: Machine) -> Rig:
    """The rig of this machine's settings, as it is before anybody has said more of it."""
    return Rig(key=here.rig, name=here.rig[:1].upper() + here.rig[1:])


def keep(here: Machine, known: Known) -> None:
    """Put the copy in place of the one before, whole or not at all. Raises OSError."""
    fresh = here.rigs_file.with_suffix(f".{secrets.token_hex(4)}")
    fresh.write_text(known.model_dump_json())
    fresh.rename(here.rigs_file)


def known(here: Machine) -> Known:
    """The rigs as they were kept last; the own one alone where nothing was, or it cannot be read."""
    try:
        found = Known.model_validate_json(here.rigs_file.read_bytes())
    except (OSError, ValidationError):
        found = Known()
    return found if found.rigs else Known(rigs=(own(here),))


def everywhere(here: Machine) -> dict[str, Reached]:
    """Where all rigs are, those too that are put away, by key."""
    return {rig.key: _reached(here, rig) for rig in known(here).rigs}


def driven(here: Machine, machine: str) -> list[Reached]:
    """The rigs whose runner is on this machine: those that name it, or none, and are not put away."""
    away = known(here).away
    return [one for key, one in everywhere(here).items() if key not in away and one.rig.runner in ("", machine)]


def reached(here: Machine, key: str) -> Reached:
    """Where the rig of a key is, be it put away or not. Raises Refusal("rig")."""
    found = everywhere(here)
    if key not in found:
        raise Refusal("rig", f"One of: {', '.join(found)}.", key)
    return found[key]


def _reached(here: Machine, rig: Rig) -> Reached:
    ours = rig.key == here.rig
    if ours:
        # The environment's word is that of whoever starts it, and holds against what is kept.
        camera, mover = here.camera_url or rig.camera, here.mover_url or rig.mover
        rig = rig.model_copy(update={"camera": camera, "mover": mover})
    first, folder = rig.ports or here.port, here.data_dir if ours else here.rigs_dir / rig.key
    played, asked = f"http://127.0.0.1:{first + 1}", f"http://127.0.0.1:{first + 5}"
    if rig.camera == SIMULATED_BODY:
        body, stage = f"ptpip://127.0.0.1:{first + 4}?stage={played}", played
    elif rig.camera == SIMULATED:
        body, stage = "", played
    else:
        body, stage = (rig.camera, stage_of(rig.camera)) if is_body(rig.camera) else ("", rig.camera)
    return Reached(
        rig=rig, camera=asked if body else stage, body=body,
        mover=f"gcode://127.0.0.1:{first + 3}" if rig.mover == SIMULATED else rig.mover, stage=stage,
        camera_port=first + 1, mover_port=first + 3, ptp_port=first + 4, link_port=first + 5,
        card_dir=folder / "camera", link_dir=folder / "link", spool_dir=folder / "spool",
    )  # fmt: skip
