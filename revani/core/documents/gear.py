"""Bodies, lenses, cards, filters."""

from collections.abc import Mapping
from fractions import Fraction
from functools import lru_cache
from math import log
from typing import Any, ClassVar, Literal, NamedTuple, TypeVar

from pydantic import Field, ValidationInfo, field_validator

from revani.core.documents.base import Document, Gear, KindWords
from revani.core.documents.mode import Keeps, Mode
from revani.core.documents.sockets import Sockets
from revani.core.quantities.measures import (
    Bytes,
    Distance,
    FNumber,
    Gigabytes,
    Iso,
    Joules,
    MegabitsASecond,
    MegabytesASecond,
    Millimetres,
    Number,
    OnScale,
    Part,
    Pixels,
    PlainNumber,
    PlainSeconds,
    Seconds,
    Shutter,
    Stops,
    Temperature,
    WattHours,
    Watts,
    Weight,
)

N = TypeVar("N", int, float, Fraction)


def at_least(value: N, info: ValidationInfo, name: str, words: str) -> N:
    """A value that must not lie under another one of its document. Raises ValueError that says the other in words."""
    other = info.data.get(name)
    if other is not None and value < other:
        raise ValueError(f"At least {words.format(other)}.")
    return value


class Body(Gear):
    """A camera body, with the limits that decide what it can do unattended."""

    said_of: ClassVar[KindWords] = KindWords(
        "Bodies", "Add a body", "Add the camera that you leave out at night; its limits decide most findings."
    )

    kind: Literal["body"] = "body"
    sensor_width_mm: Millimetres = Field(36.0, title="Sensor width", ge=2, le=70)
    sensor_height_mm: Millimetres = Field(24.0, title="Sensor height", ge=2, le=70)
    pixels_wide: Pixels = Field(6000, title="Picture width", ge=320, le=30_000)
    pixels_high: Pixels = Field(4000, title="Picture height", ge=240, le=30_000)
    iso_min: Iso = Field(100, title="Base ISO", ge=6, le=3_276_800)
    iso_max: Iso = Field(12_800, title="Highest ISO", validate_default=True, ge=6, le=3_276_800)
    shutter_min_s: Shutter = Field(Fraction(1, 4000), title="Shortest shutter", ge=Fraction(1, 100_000), le=1)
    manual_shutter_max_s: Shutter = Field(
        Fraction(30), title="Longest shutter, manual", validate_default=True, gt=0, le=7_200
    )
    automatic_shutter_max_s: Shutter = Field(
        Fraction(30), title="Longest shutter, automatic", validate_default=True, gt=0, le=7_200
    )
    automatic_order: Literal["ISO first", "shutter first"] = Field(
        "ISO first", title="In automatic it raises first", description="When it gets dark."
    )
    automatic_knee_s: Shutter = Field(
        Fraction(1, 60),
        title="Shutter it holds while ISO rises",
        gt=0,
        le=60,
        description="Of a body that raises ISO first.",
    )
    metering_scatter_stops: Stops = Field(
        0.1, title="Its meter scatters by", ge=0, le=2, description="Standard deviation from frame to frame."
    )
    clips_over_stops: Stops = Field(3.0, title="A frame is white from", gt=0, le=10, description="So much over.")
    clips_under_stops: Stops = Field(5.0, title="A frame is black from", gt=0, le=15, description="So much under.")
    minimum_interval_s: Seconds = Field(Fraction(1), title="Shortest interval", gt=0, le=3_600)
    overhead_s: Seconds = Field(
        Fraction(1, 2), title="Time to read a frame out", ge=0, le=600, description="Read-out and write, a frame."
    )
    wake_s: Seconds = Field(
        Fraction(2), title="Time to wake", ge=0, le=30, description="From asleep to its first frame."
    )
    controller_tick_s: Seconds = Field(Fraction(1, 10), title="Finest step of its trigger", gt=0, le=60)
    bytes_per_frame: Bytes = Field(25_000_000, title="Size of a frame", ge=1_000, le=2_000_000_000)
    jpeg_bytes: Bytes = Field(8_000_000, title="Size of a JPEG", ge=1_000, le=2_000_000_000)
    buffer_frames: Number = Field(
        20, title="Frames in its buffer", ge=1, le=10_000, description="Held while the card is written."
    )
    battery_wh: WattHours = Field(16.0, title="Battery", gt=0, le=2_000)
    battery_usable: Part = Field(0.9, title="Usable part of it", gt=0, le=1, description="A fraction, 0 to 1, or in %.")
    idle_w: Watts = Field(1.5, title="Draws while waiting", ge=0, le=500)
    frame_j: Joules = Field(6.0, title="Draws a frame", ge=0, le=10_000)
    weight_kg: Weight = Field(0.7, title="Weighs, battery in", gt=0, le=100)
    film_mbps: MegabitsASecond = Field(100.0, title="Bit rate of its film", gt=0, le=20_000)
    film_w: Watts | None = Field(None, title="Draws while filming, if other", gt=0, le=500)
    iso_clean: Iso = Field(
        6_400,
        title="Clean up to ISO",
        ge=6,
        le=3_276_800,
        description="Over it grain is seen; 800 – 1,600 where the sensor is small.",
    )
    clock_offset_s: PlainSeconds = Field(
        0.0, title="Its clock is ahead by", ge=-86_400, le=86_400, description="Of the true time."
    )
    bulb: bool = Field(True, title="Can be held open for any time", description="Of 1/10 s and over.")
    reports_recording: bool = Field(
        True, title="Says whether it really records", description="Over its link, whether it is taking frames."
    )
    sockets: Sockets = Field("", title="Sockets", description="Such as USB-C, 2.5 mm jack.")
    next_number: Number | None = Field(
        None, title="Next frame number", ge=0, le=9_999, description="On its counter; after 9999 names begin anew."
    )
    sealed: bool = Field(False, title="Is sealed", description="No air goes through it: it gets hot in the sun.")
    heats_c_per_w: PlainNumber = Field(
        4.0, title="Gets warmer by", ge=0, le=60, description="Degrees for each watt that it draws, in still air."
    )
    stops_at_c: Temperature = Field(60.0, title="Stops itself at", ge=30, le=120, description="Inside.")

    modes: tuple[Mode, ...] = Field((), title="Recording modes", max_length=30)

    @field_validator("modes")
    @classmethod
    def _once_each(cls, modes: tuple[Mode, ...]) -> tuple[Mode, ...]:
        names = [mode.name for mode in modes]
        for row, name in enumerate(names):
            if name in names[:row]:
                raise ValueError(f"Row {row + 1}, mode: “{name}” stands in another row already.")
        return modes

    @property
    def table(self) -> tuple[Mode, ...]:
        """Its modes; of a body without a table the one that its figures make."""
        return self.modes or (
            Mode(
                name=OWN_MODE, pixels_wide=self.pixels_wide, pixels_high=self.pixels_high, film_mbps=self.film_mbps,
            ),
        )  # fmt: skip

    def mode(self, name: str) -> Mode | None:
        """A mode by its name, the first where none is named; None where there is none of that name."""
        return next((mode for mode in self.table if not name or mode.name == name), None)

    def used(self, how: "Usage") -> "Body":
        """The body as it is used, a frame as large and as dear as what is taken and kept of it."""
        return _used(self, how) if self.modes or how != Usage(how.mode) else self

    def in_short(self, words: Mapping[str, str]) -> str:
        """Its chief figures."""
        return f"ISO {self.iso_min}–{self.iso_max} · {words['battery_wh']} Wh"

    @field_validator("iso_max")
    @classmethod
    def _over_base(cls, value: int, info: ValidationInfo) -> int:
        return at_least(value, info, "iso_min", "the base ISO, {:,}")

    @field_validator("manual_shutter_max_s", "automatic_shutter_max_s")
    @classmethod
    def _over_shortest(cls, value: Fraction, info: ValidationInfo) -> Fraction:
        return at_least(value, info, "shutter_min_s", "the shortest shutter, {} s")


# What a body without a table is in.
OWN_MODE = "as it is"


class Usage(NamedTuple):
    """How a body is used: in a mode, what is kept of a frame, steadied, upright, with so many exposures a frame."""

    mode: str = ""
    keeps: Keeps = "raw"
    stabilised: bool = False
    upright: bool = False
    brackets: int = 1


@lru_cache(maxsize=128)
def _used(body: Body, how: Usage) -> Body:
    n = how.brackets
    frame = {"raw": body.bytes_per_frame, "JPEG": body.jpeg_bytes, "both": body.bytes_per_frame + body.jpeg_bytes}
    each: dict[str, Any] = {
        "bytes_per_frame": n * frame[how.keeps], "overhead_s": n * body.overhead_s, "frame_j": n * body.frame_j,
    }  # fmt: skip
    body = _in_mode(body.model_copy(update=each), how)
    if not how.upright:
        return body
    turned = {
        "sensor_width_mm": body.sensor_height_mm, "sensor_height_mm": body.sensor_width_mm,
        "pixels_wide": body.pixels_high, "pixels_high": body.pixels_wide,
    }  # fmt: skip
    return body.model_copy(update=turned)


def _in_mode(body: Body, how: Usage) -> Body:
    mode = body.mode(how.mode)
    if mode is None or not body.modes:
        return body
    own: dict[str, Any] = {
        part: value
        for part in ("film_mbps", "shutter_min_s", "manual_shutter_max_s", "automatic_shutter_max_s")
        if (value := getattr(mode, part)) is not None
    }
    # The sensor that is used keeps the picture's shape; what stabilisation takes away is not in the picture.
    wide_mm = body.sensor_width_mm * mode.part * (1 - (mode.crop if how.stabilised else 0.0))
    high_mm = wide_mm * mode.pixels_high / mode.pixels_wide
    own |= {"sensor_width_mm": wide_mm, "sensor_height_mm": high_mm}
    own |= {"pixels_wide": mode.pixels_wide, "pixels_high": mode.pixels_high}
    if mode.drain_w is not None:
        own["film_w"] = mode.drain_w
    if mode.waits_w is not None:
        own["idle_w"] = mode.waits_w
    return body.model_copy(update=own)


class FocusMark(Document):
    """A point on a focus scale, and the distance that is sharp there."""

    scale: OnScale = Field(title="Scale", ge=-1e6, le=1e6)
    distance_m: Distance = Field(title="Distance", gt=0, le=100_000)


class Lens(Gear):
    """A lens; a prime has one focal length at both ends."""

    said_of: ClassVar[KindWords] = KindWords("Lenses", "Add a lens", "Add the lens that sits on it.")

    kind: Literal["lens"] = "lens"
    focal_length_min_mm: Millimetres = Field(24.0, title="Shortest focal length", ge=1, le=2_000)
    focal_length_max_mm: Millimetres = Field(24.0, title="Longest focal length", validate_default=True, ge=1, le=2_000)
    aperture_widest: FNumber = Field(2.8, title="Widest aperture", ge=0.7, le=64)
    aperture_narrowest: FNumber = Field(16.0, title="Narrowest aperture", validate_default=True, ge=0.7, le=128)
    aperture_widest_long: FNumber | None = Field(None, title="Widest at its longest, if other", ge=0.7, le=64)
    aperture_narrowest_long: FNumber | None = Field(
        None, title="Narrowest at its longest, if other", validate_default=True, ge=0.7, le=128
    )
    weight_kg: Weight = Field(0.4, title="Weighs", gt=0, le=50)
    closest_m: Distance = Field(0.25, title="Focuses from", gt=0, le=100)
    focus_marks: tuple[FocusMark, ...] = Field(
        (),
        title="Focus marks",
        max_length=40,
        description="Scale:distance … such as 0:0.5 90:2 180:30; three at least, or none.",
    )
    electronic_aperture: bool = Field(True, title="Aperture is driven electronically")

    def in_short(self, words: Mapping[str, str]) -> str:
        """Its chief figures."""
        low, high = words["focal_length_min_mm"], words["focal_length_max_mm"]
        return f"{low if low == high else f'{low}–{high}'} mm · f/{words['aperture_widest']}"

    @field_validator("focal_length_max_mm")
    @classmethod
    def _over_shortest(cls, value: float, info: ValidationInfo) -> float:
        return at_least(value, info, "focal_length_min_mm", "the shortest focal length, {:g} mm")

    @field_validator("aperture_narrowest")
    @classmethod
    def _over_widest(cls, value: float, info: ValidationInfo) -> float:
        return at_least(value, info, "aperture_widest", "the widest aperture, f/{:g}")

    @field_validator("aperture_narrowest_long")
    @classmethod
    def _over_widest_long(cls, value: float | None, info: ValidationInfo) -> float | None:
        widest = info.data.get("aperture_widest_long") or info.data.get("aperture_widest")
        narrowest = value or info.data.get("aperture_narrowest")
        if widest is not None and narrowest is not None and narrowest < widest:
            raise ValueError(f"At least the widest aperture there, f/{widest:g}.")
        return value

    @field_validator("focus_marks")
    @classmethod
    def _one_way(cls, given: tuple[FocusMark, ...]) -> tuple[FocusMark, ...]:
        marks = sorted(given, key=lambda mark: mark.scale)
        if marks and len(marks) < 3:
            raise ValueError("Three marks at least, or none.")
        distances = [mark.distance_m for mark in marks]
        if distances != sorted(set(distances)) and distances != sorted(set(distances), reverse=True):
            raise ValueError("Distances must go one way along the scale, each mark at one of its own.")
        return given

    def widest_at(self, focal_length_mm: float) -> float:
        """The widest aperture at a focal length; between the ends it follows log f (common practice)."""
        return self._between(self.aperture_widest, self.aperture_widest_long, focal_length_mm)

    def narrowest_at(self, focal_length_mm: float) -> float:
        """The narrowest aperture at a focal length."""
        return self._between(self.aperture_narrowest, self.aperture_narrowest_long, focal_length_mm)

    def _between(self, short: float, long: float | None, focal_length_mm: float) -> float:
        low, high = self.focal_length_min_mm, self.focal_length_max_mm
        if long is None or high == low:
            return short
        share = min(max(log(focal_length_mm / low) / log(high / low), 0.0), 1.0)
        return round(float(short * (long / short) ** share), 1)


SpeedClass = Literal["none", "C2", "C4", "C6", "C10", "U1", "U3", "V6", "V10", "V30", "V60", "V90"]


class Card(Gear):
    """A memory card."""

    said_of: ClassVar[KindWords] = KindWords("Cards", "Add a card", "Add a card, so that its end is known beforehand.")

    kind: Literal["card"] = "card"
    capacity_gb: Gigabytes = Field(128.0, title="Size, as sold", gt=0, le=100_000, description="Decimal gigabytes.")
    write_mb_s: MegabytesASecond = Field(90.0, title="Writes at least", gt=0, le=100_000)
    reads_mb_s: MegabytesASecond = Field(90.0, title="Is read at", gt=0, le=100_000, description="When copied off.")
    speed_class: SpeedClass = Field("none", title="Speed class", description="Printed on it.")
    file_system: Literal["exFAT", "FAT32"] = Field("exFAT", title="File system", description="FAT32 ends at 4 GiB.")

    def in_short(self, words: Mapping[str, str]) -> str:
        """Its chief figures."""
        return f"{words['capacity_gb']} GB · {words['write_mb_s']} MB/s"


class Filter(Gear):
    """A neutral-density filter. ND8 is 3 stops."""

    said_of: ClassVar[KindWords] = KindWords(
        "Filters",
        "Add a filter",
        "Add the neutral-density filters that you own; Revani says which one gives the wanted blur.",
    )

    kind: Literal["filter"] = "filter"
    stops: Stops = Field(3.0, title="Darkens by", gt=0, le=24, description="ND8 is 3 stops.")

    def in_short(self, words: Mapping[str, str]) -> str:
        """Its chief figure."""
        return f"{words['stops']} stops"
