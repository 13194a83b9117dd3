"""What is kept of a document."""

from typing import Any

from pydantic import BaseModel


def said(document: BaseModel) -> dict[str, Any]:
    """What is kept of gear or a place: what was said of it, and not what is assumed."""
    given = document.model_dump(mode="json", exclude_unset=True)
    return given | document.model_dump(mode="json", include={"id", "kind"})
