"""What feeds a rig, and what else draws on it: cells, banks and mains; heaters, screens, radios, lamps."""

from collections.abc import Mapping
from fractions import Fraction
from math import inf
from typing import ClassVar, Literal

from pydantic import Field

from revani.core.documents.base import Gear, KindWords
from revani.core.documents.sockets import Sockets
from revani.core.quantities.measures import Number, Part, Seconds, WattHours, Watts, Weight


class Source(Gear):
    """What energy comes from. Cells are changed by hand; a bank and the mains feed by a cable while it runs."""

    said_of: ClassVar[KindWords] = KindWords(
        "Power", "Add cells or a power bank",
        "Add spare cells and power banks, so that Revani says which of them a night wants.",
    )  # fmt: skip

    kind: Literal["source"] = "source"
    gives: Literal["cells to change", "a power bank", "the mains"] = Field("a power bank", title="It is")
    capacity_wh: WattHours = Field(40.0, title="Capacity of each", gt=0, le=20_000, description="The mains has no end.")
    count: Number = Field(1, title="How many of it", ge=1, le=50)
    conversion: Part = Field(
        0.85, title="Of that it gives", gt=0, le=1, description="A bank loses some when it converts; cells lose none."
    )
    cut_off_w: Watts = Field(0.0, title="Switches off under", ge=0, le=50, description="A bank that thinks it is done.")
    most_w: Watts = Field(15.0, title="Gives at most", gt=0, le=5_000)
    swap_s: Seconds = Field(Fraction(60), title="A change takes", ge=0, le=3_600, description="Of cells, by hand.")
    sockets: Sockets = Field("", title="Sockets", description="Such as USB-A, USB-C.")
    weight_kg: Weight = Field(0.3, title="Weighs, each", ge=0, le=200)

    @property
    def cells(self) -> bool:
        """Whether it is changed by hand rather than plugged in."""
        return self.gives == "cells to change"

    @property
    def gives_wh(self) -> float:
        """All that it gives at 20 °C, after conversion, infinite for the mains; of cells the gear may use a part."""
        if self.gives == "the mains":
            return inf
        return self.capacity_wh * self.count * (1.0 if self.cells else self.conversion)

    def in_short(self, words: Mapping[str, str]) -> str:
        """What it holds."""
        if self.gives == "the mains":
            return "the mains"
        return f"{self.count} × {words['capacity_wh']} Wh" if self.count > 1 else f"{words['capacity_wh']} Wh"


class Load(Gear):
    """What draws energy beside camera and movers."""

    said_of: ClassVar[KindWords] = KindWords(
        "Heaters, screens, radios", "Add one of them", "Add what else draws on a battery: it shortens the night too."
    )

    kind: Literal["load"] = "load"
    is_a: Literal["heater", "screen", "radio", "lamp", "recorder", "controller"] = Field("heater", title="It is a")
    draws_w: Watts = Field(5.0, title="Draws", gt=0, le=5_000)
    battery_wh: WattHours | None = Field(None, title="Its own battery, if any", gt=0, le=5_000)
    on: Literal["all the time", "by night"] = Field("all the time", title="It is on")
    sockets: Sockets = Field("", title="Sockets", description="Such as USB-A plug.")
    weight_kg: Weight = Field(0.1, title="Weighs", ge=0, le=200)

    def in_short(self, words: Mapping[str, str]) -> str:
        """What it is and draws."""
        return f"{self.is_a} · {words['draws_w']} W"
