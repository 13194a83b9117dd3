"""Parts of a shot kept by themselves, to be laid over others: what served in such surroundings once."""

from typing import Any, Literal, Self, get_args
from uuid import UUID, uuid4

from pydantic import Field, model_validator

from revani.core.documents.base import Document, Name

PresetPart = Literal["start", "timing", "light", "framing", "camera", "decisions", "move", "outputs", "kit"]
# Which values of a shot belong to each part.
PART_FIELDS: dict[PresetPart, tuple[str, ...]] = {
    "start": ("start", "until"),
    "timing": ("timing", "pace"),
    "light": ("light", "needs_dark", "moonlight_up_to", "trails"),
    "framing": ("framing",),
    "camera": ("fires", "mode", "keeps"),
    "decisions": ("take",),
    "move": ("move", "walk"),
    "outputs": ("outputs",),
    "kit": ("kit",),
}
PRESET_PARTS: tuple[PresetPart, ...] = get_args(PresetPart)


class Preset(Document):
    """Values of a shot by their names, all those of its parts; `surroundings` is what one looks for it by."""

    format: Literal["revani.preset/1"] = "revani.preset/1"
    id: UUID = Field(default_factory=uuid4)
    name: Name
    surroundings: str = Field("", max_length=200, description="Such as: moonless, frost, on the rail.")
    parts: tuple[PresetPart, ...] = Field(min_length=1, max_length=len(PRESET_PARTS))
    values: dict[str, Any]

    @model_validator(mode="after")
    def _whole(self) -> Self:
        wanted = {field for part in self.parts for field in PART_FIELDS[part]}
        if set(self.values) != wanted:
            raise ValueError(f"Just these values are needed: {', '.join(sorted(wanted))}.")
        return self
