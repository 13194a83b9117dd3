"""What carries a camera, and the small parts without which nothing goes: supports, cables, adapters, chargers."""

from collections.abc import Mapping
from typing import ClassVar, Literal

from pydantic import Field, ValidationInfo, field_validator

from revani.core.documents.base import Gear, KindWords
from revani.core.quantities.measures import Distance, Watts, Weight

StandsAs = Literal["tripod", "stick", "clamp", "mast", "chest mount", "backpack mount", "vehicle mount"]


class Support(Gear):
    """What a camera, or the mover under it, stands on or is carried by."""

    said_of: ClassVar[KindWords] = KindWords(
        "Supports", "Add a tripod, a stick, a clamp", "Add what the camera stands on, and what that carries."
    )

    kind: Literal["support"] = "support"
    stands_as: StandsAs = Field("tripod", title="It is a")
    weight_kg: Weight = Field(1.8, title="Weighs", ge=0, le=200)
    payload_kg: Weight = Field(5.0, title="Carries at most", gt=0, le=1_000)
    height_m: Distance = Field(1.5, title="Reaches up to", gt=0, le=30)

    def in_short(self, words: Mapping[str, str]) -> str:
        """What it is and carries."""
        return f"{self.stands_as} · carries {words['payload_kg']}"


class SmallPart(Gear):
    """A cable with its ends, an adapter, a charger, a tether: what is forgotten at home."""

    said_of: ClassVar[KindWords] = KindWords(
        "Cables and small parts", "Add a cable, an adapter, a charger",
        "Add cables with both their ends: what cannot be connected is then known at the table.",
    )  # fmt: skip

    kind: Literal["part"] = "part"
    is_a: Literal["cable", "adapter", "charger", "tether", "shield", "weight"] = Field("cable", title="It is a")
    end_a: str = Field("", title="One end", max_length=80, description="Such as USB-C; of a cable or an adapter.")
    end_b: str = Field("", title="Other end", max_length=80, description="Such as 2.5 mm jack, or USB-C, camera.")
    charges_w: Watts | None = Field(None, title="Charges with", gt=0, le=1_000, description="Of a charger.")
    weight_kg: Weight = Field(0.05, title="Weighs", ge=0, le=200)

    @field_validator("end_b")
    @classmethod
    def _told_apart(cls, end: str, info: ValidationInfo) -> str:
        ends = [" ".join(one.split()).casefold() for one in (info.data.get("end_a", ""), end)]
        if info.data.get("is_a") in ("cable", "adapter") and all(ends) and ends[0] == ends[1]:
            raise ValueError("The two ends must be told apart: say what each goes into, such as USB-C, camera.")
        return end

    @property
    def ends(self) -> tuple[str, str]:
        """Both its ends."""
        return self.end_a, self.end_b

    def in_short(self, words: Mapping[str, str]) -> str:
        """What it is, and its ends."""
        del words
        return f"{self.is_a} · {self.end_a} to {self.end_b}" if self.end_a and self.end_b else self.is_a
