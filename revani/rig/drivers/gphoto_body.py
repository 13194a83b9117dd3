"""A body that libgphoto2 knows: by USB, or over a network by PTP/IP.

Names, dials and their rungs are the body's own: what is asked for goes to the nearest that it lists. Every method
raises CameraError for what did not come about. It is used from one thread at a time.
"""

import os
import re
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager, suppress
from fractions import Fraction
from math import log2
from typing import Any
from urllib.parse import urlsplit

import gphoto2 as gp

from revani.core.light.white_balance import NAMED_K
from revani.rig.exif import settings_in
from revani.rig.ports import BodySays, CameraError, CameraSettings, Stored, Trouble, printable

_NETWORK_MODEL = "PTP/IP Camera"
_PTP_PORT = 15_740
_PIECE = 1 << 20
# The names that libgphoto2 gives one and the same dial of different makers.
_SHUTTER = ("shutterspeed", "shutterspeed2", "exptime")
_APERTURE = ("aperture", "f-number")
_ISO = ("iso", "isospeed")
_WHITE = ("whitebalance",)
_KELVIN = ("colortemperature", "whitebalancekelvin")
_PROGRAM = ("expprogram", "autoexposuremode", "exposuremode")
_BATTERY, _CLOCK, _MODEL, _DRIVE = ("batterylevel",), ("datetime",), ("cameramodel",), ("capturemode", "drivemode")
_WISH = ("exposurecompensation",)
# Under a sixth of a stop no dial has anything between, and none is asked for.
_NO_WISH = 1 / 6
# So much of a file holds what it says of itself.
_BEGINNING = 131_072
_SERIAL = ("serialnumber", "eosserialnumber")
_OPERATION = ("opcode",)
# Source: ISO 15740, operation PowerDown.
_POWER_DOWN = "0x1013"
_MODES = {
    "manual": ("m", "manual"), "automatic": ("auto", "p", "program"),
    "aperture priority": ("a", "av", "aperture priority"),
}  # fmt: skip
_AUTOMATIC_WHITE = ("automatic", "auto")
_TROUBLE: dict[int, Trouble] = {
    gp.GP_ERROR_CAMERA_BUSY: "busy", gp.GP_ERROR_NO_SPACE: "full card",
    gp.GP_ERROR: "refused", gp.GP_ERROR_NOT_SUPPORTED: "refused", gp.GP_ERROR_BAD_PARAMETERS: "refused",
    gp.GP_ERROR_CAMERA_ERROR: "refused", gp.GP_ERROR_FILE_NOT_FOUND: "refused",
    gp.GP_ERROR_CORRUPTED_DATA: "garbled",
}  # fmt: skip


def seconds_of(listed: str) -> float | None:
    """A shutter time as bodies write it: `1/125`, `0.0080s`, `2.5`, `30"`; None for what is no time, such as `bulb`."""
    found = re.fullmatch(r"\s*(\d+(?:\.\d+)?(?:/\d+(?:\.\d+)?)?)\s*(?:s|\"|sec)?\s*", listed)
    if found is None:
        return None
    over, _, under = found[1].partition("/")
    with suppress(ValueError, ZeroDivisionError):
        return float(Fraction(over) / Fraction(under or "1")) or None
    return None


def number_of(listed: str) -> float | None:
    """A number as bodies write it: `f/2.8`, `F2.8`, `400`; None for a word such as `Auto`."""
    found = re.fullmatch(r"\s*(?:[fF]/?)?\s*(\d+(?:\.\d+)?)\s*", listed)
    return float(found[1]) or None if found else None


def nearest(wanted: float, listed: Mapping[str, float]) -> str:
    """The rung that lies nearest to a value, in stops. `listed` is not empty."""
    return min(listed, key=lambda name: abs(log2(listed[name] / wanted)))


def stops_of(listed: str) -> float | None:
    """Stops as bodies write them: `-1.3`, `+1/3`, `0`; None for a word."""
    found = re.fullmatch(r"\s*([+-]?)(\d+(?:\.\d+)?(?:/\d+)?)\s*(?:EV)?\s*", listed.replace("−", "-"))
    if found is None:
        return None
    over, _, under = found[2].partition("/")
    with suppress(ValueError, ZeroDivisionError):
        return float(Fraction(over) / Fraction(under or "1")) * (-1 if found[1] == "-" else 1)
    return None


# What is dialled in each mode: the rest the body chooses. An ISO that it chooses from is dialled for its floor.
_CHOSEN = {
    "manual": (("shutter_s", _SHUTTER, seconds_of), ("aperture", _APERTURE, number_of), ("iso", _ISO, number_of)),
    "aperture priority": (("aperture", _APERTURE, number_of), ("iso", _ISO, number_of)),
    "automatic": (("iso", _ISO, number_of),),
}  # fmt: skip


class GphotoBody:
    """One body over one link, which is made when it is first needed and made anew where it was lost."""

    def __init__(self, address: str) -> None:
        self._address = address
        self._camera: Any = None
        self._names: dict[str, str] = {}
        self._largest = 0
        self.serial = ""
        _keep_zero()

    def close(self) -> None:
        """Let the link go; it raises nothing."""
        if self._camera is not None:
            with suppress(gp.GPhoto2Error):
                self._camera.exit()
        self._camera = None
        self._names = {}
        _keep_zero()

    def says(self) -> BodySays:
        """Model, battery, room on the card, clock, drive."""
        with self._linked() as camera:
            battery = re.match(r"\s*(\d+)\s*%", self._read(camera, _BATTERY) or "")
            clock = self._read(camera, _CLOCK)
            stores = camera.get_storageinfo()
            free = [store.freekbytes * 1024 for store in stores if store.fields & gp.GP_STORAGEINFO_FREESPACEKBYTES]
            return BodySays(
                name=printable(self._read(camera, _MODEL) or "A body without a name"),
                battery_left=int(battery[1]) / 100 if battery else None,
                card_free_bytes=sum(free) if free else None,
                clock_s=float(clock) if clock and clock.lstrip("-").isdigit() else None,
                drive=printable(self._read(camera, _DRIVE) or "") or None,
                serial=self.serial,
            )

    def dial(self, wanted: CameraSettings) -> CameraSettings:
        """Set its dials to the nearest that it lists; returns how they stand then."""
        with self._linked() as camera:
            self._put_into(camera, wanted.mode)
            got: dict[str, object] = self._set_wish(camera, wanted)
            for field, names, read in _CHOSEN[wanted.mode]:
                dial = self._dial(camera, names)
                rungs = {name: size for name in _choices(dial) if (size := read(name))}
                if rungs:
                    rung = nearest(getattr(wanted, field), rungs)
                    self._turn(camera, dial, rung)
                    got[field] = rungs[rung]
            return wanted.model_copy(update=got | self._set_white(camera, wanted))

    def fire(self) -> Stored:
        """Take a frame, and return when it is on the card."""
        try:
            with self._linked() as camera:
                path = camera.capture(gp.GP_CAPTURE_IMAGE)
                stored = self._stored(camera, path.folder, path.name)
        except CameraError as error:
            raise self._why(error) if error.trouble == "refused" else error from error
        self._largest = max(self._largest, stored.size_bytes)
        return stored

    def _why(self, error: CameraError) -> CameraError:
        """Why it took no frame: a bare no is told apart by what it says of itself; one that says nothing is away."""
        try:
            said = self.says()
        except CameraError:
            self.close()
            return CameraError("unreachable", str(error))
        if said.battery_left is not None and said.battery_left <= 0:
            return CameraError("empty battery", "The camera says that its battery is empty.")
        if said.card_free_bytes is not None and said.card_free_bytes <= self._largest:
            return CameraError("full card", "The camera says that its card is full.")
        return error

    def took(self, file: str) -> dict[str, float]:
        """What it was taken with, by the beginning of its file."""
        folder, _, name = f"/{file}".rpartition("/")
        beginning = bytearray(_BEGINNING)
        with self._linked() as camera:
            read = camera.file_read(folder, name, gp.GP_FILE_TYPE_NORMAL, 0, beginning)
        return settings_in(bytes(beginning[:read]))

    def stored(self) -> list[Stored]:
        """Every file on its card, folder by folder."""
        with self._linked() as camera:
            return list(self._walk(camera, "/"))

    @contextmanager
    def fetch(self, file: str) -> Iterator[Iterator[bytes]]:
        """The bytes of a stored file, in pieces."""
        folder, _, name = f"/{file}".rpartition("/")
        with self._linked() as camera:
            content = _bytes_of(camera.file_get(folder, name, gp.GP_FILE_TYPE_NORMAL))
        yield (content[at : at + _PIECE] for at in range(0, len(content), _PIECE))

    def live(self) -> bytes:
        """What it sees now, as a JPEG, where it shows that over its link."""
        with self._linked() as camera:
            return _bytes_of(camera.capture_preview())

    def switch_off(self) -> None:
        """Switch it off by the standard's own operation. Raises CameraError where this body does not know that.

        Whether it is off is seen from what it answers then: over a network libgphoto2 waits in vain for data of it.
        """
        try:
            with self._linked() as camera:
                if (name := self._name(camera, _OPERATION)) is None:
                    raise CameraError("refused", "It cannot be switched off from here.")
                dial = camera.get_single_config(name)
                dial.set_value(_POWER_DOWN)
                camera.set_single_config(name, dial)
        except CameraError as error:
            if error.trouble != "unreachable":
                raise
        # What is off has no link; what did not obey is asked anew.
        self.close()

    @contextmanager
    def _linked(self) -> Iterator[Any]:
        """The link, made where there is none; whatever goes wrong over it is a CameraError."""
        linked = False
        try:
            if self._camera is None:
                self._camera = self._connected()
                self.serial = printable(self._read(self._camera, _SERIAL) or "")
            linked = True
            yield self._camera
        except gp.GPhoto2Error as error:
            trouble = _TROUBLE.get(error.code, "unreachable") if linked else "unreachable"
            if trouble in ("unreachable", "garbled"):
                self.close()
            raise CameraError(trouble, f"The camera says: {printable(str(error.string))}.") from error

    def _connected(self) -> Any:
        """A link to the body at the address. Raises gp.GPhoto2Error or CameraError."""
        parts = urlsplit(self._address)
        camera = gp.Camera()
        if parts.scheme == "ptpip":
            abilities = gp.CameraAbilitiesList()
            abilities.load()
            camera.set_abilities(abilities[abilities.lookup_model(_NETWORK_MODEL)])
            port = parts.port or _PTP_PORT
            self._plug(camera, f"ptpip:{parts.hostname}:{port}:{port}")
        elif parts.netloc:
            self._plug(camera, f"usb:{parts.netloc}")
        camera.init()
        return camera

    @staticmethod
    def _plug(camera: Any, path: str) -> None:
        ports = gp.PortInfoList()
        ports.load()
        camera.set_port_info(ports[ports.lookup_path(path)])

    def _name(self, camera: Any, names: Sequence[str]) -> str | None:
        """What this body calls a dial; None where it has none of that."""
        for name in names:
            if self._names.get(name) == name:
                return name
            if name not in self._names:
                try:
                    camera.get_single_config(name)
                    self._names[name] = name
                    return name
                except gp.GPhoto2Error as error:
                    if error.code not in (gp.GP_ERROR_BAD_PARAMETERS, gp.GP_ERROR_NOT_SUPPORTED):
                        raise
                    self._names[name] = ""
        return None

    def _read(self, camera: Any, names: Sequence[str]) -> str | None:
        name = self._name(camera, names)
        return None if name is None else str(camera.get_single_config(name).get_value())

    def _dial(self, camera: Any, names: Sequence[str]) -> Any:
        """A dial that can be turned to what it lists, as it stands; None where this body has none of that."""
        name = self._name(camera, names)
        if name is None:
            return None
        dial = camera.get_single_config(name)
        listed = dial.get_type() in (gp.GP_WIDGET_RADIO, gp.GP_WIDGET_MENU)
        return dial if listed and not dial.get_readonly() else None

    @staticmethod
    def _turn(camera: Any, dial: Any, to: str) -> None:
        """Turn a dial; one that stands there is not touched, for each turn takes its time."""
        if dial.get_value() != to:
            dial.set_value(to)
            camera.set_single_config(dial.get_name(), dial)

    def _set_white(self, camera: Any, wanted: CameraSettings) -> dict[str, object]:
        """By kelvins where the body takes them, else by the nearest of its names."""
        white = self._dial(camera, _WHITE)
        listed = {name: name.lower() for name in _choices(white)}
        if wanted.automatic_white_balance:
            for name, word in listed.items():
                if word in _AUTOMATIC_WHITE:
                    self._turn(camera, white, name)
            return {}
        if (kelvin := self._name(camera, _KELVIN)) is not None:
            dial = camera.get_single_config(kelvin)
            said = str(wanted.white_balance_k)
            dial.set_value(float(said) if dial.get_type() == gp.GP_WIDGET_RANGE else said)
            camera.set_single_config(kelvin, dial)
            return {}
        known = {name: float(NAMED_K[word]) for name, word in listed.items() if word in NAMED_K}
        if not known:
            return {}
        name = nearest(wanted.white_balance_k, known)
        self._turn(camera, white, name)
        return {"white_balance_k": int(known[name])}

    def _set_wish(self, camera: Any, wanted: CameraSettings) -> dict[str, object]:
        """How much brighter a body that meters is to expose. Raises CameraError where it cannot be told that."""
        if wanted.mode == "manual":
            return {}
        dial = self._dial(camera, _WISH)
        rungs = {name: size for name in _choices(dial) if (size := stops_of(name)) is not None}
        if not rungs:
            if abs(wanted.compensation_stops) < _NO_WISH:
                return {}
            raise CameraError("refused", "The camera cannot be told from here to expose brighter or darker.")
        rung = min(rungs, key=lambda name: abs(rungs[name] - wanted.compensation_stops))
        self._turn(camera, dial, rung)
        return {"compensation_stops": rungs[rung]}

    def _put_into(self, camera: Any, mode: str) -> None:
        """A mode, where its dial can be turned from here. Raises CameraError for an automatic one that cannot."""
        program = self._dial(camera, _PROGRAM)
        for name in _choices(program):
            if name.lower() in _MODES[mode]:
                self._turn(camera, program, name)
                return
        # By hand is what most bodies are left at, and many have a dial of metal for it that nothing turns from here.
        if mode != "manual":
            raise CameraError("refused", f"The camera cannot be put into {mode} from here: turn its own dial.")

    def _stored(self, camera: Any, folder: str, name: str) -> Stored:
        info = camera.file_get_info(folder, name).file
        stamped = info.mtime if info.fields & gp.GP_FILE_INFO_MTIME else None
        return Stored(file=f"{folder}/{name}".lstrip("/"), size_bytes=info.size, stamped_s=stamped)

    def _walk(self, camera: Any, folder: str) -> Iterator[Stored]:
        for name in _names(camera.folder_list_files(folder)):
            yield self._stored(camera, folder.rstrip("/"), name)
        for name in _names(camera.folder_list_folders(folder)):
            yield from self._walk(camera, f"{folder.rstrip('/')}/{name}")


def _keep_zero() -> None:
    """Have something harmless stand as the process's file 0.

    With every link over a network libgphoto2 closes file 0 (a number of its own that it never set), which would
    otherwise be given to the next socket and be closed with the next link.
    """
    number = os.open(os.devnull, os.O_RDWR)
    if number == 0:
        # As a process's standard input is: what it starts has one, too.
        os.set_inheritable(0, True)
    else:
        os.close(number)


def _choices(dial: Any) -> list[str]:
    return [] if dial is None else [str(dial.get_choice(i)) for i in range(dial.count_choices())]


def _names(listed: Any) -> list[str]:
    return [listed.get_name(i) for i in range(listed.count())]


def _bytes_of(file: Any) -> bytes:
    # Copied while the file lives: what it shows is its own memory, which goes with it.
    return bytes(memoryview(file.get_data_and_size()))
