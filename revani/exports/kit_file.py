"""All gear and places as one JSON file, out and in."""

import json
from collections.abc import Sequence
from typing import Literal

from pydantic import Field

from revani.core.documents import AnyGear, Document, Gear, Place, said


class KitFile(Document):
    """What is owned and where it is used."""

    format: Literal["revani.kit/1"] = "revani.kit/1"
    gear: tuple[AnyGear, ...] = Field((), max_length=5_000)
    places: tuple[Place, ...] = Field((), max_length=5_000)


def kit_json(gear: Sequence[Gear], places: Sequence[Place]) -> str:
    """All of it as a file; of each what was said of it, and not what is assumed."""
    document = {
        "format": "revani.kit/1", "gear": [said(one) for one in gear], "places": [said(one) for one in places],
    }  # fmt: skip
    return json.dumps(document, indent=1, ensure_ascii=False) + "\n"
