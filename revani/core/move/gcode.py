"""The letters of axes in G-code (ISO 6983 / RS-274), and how a word is written."""

from revani.core.documents import AxisName

LETTERS: dict[AxisName, str] = {
    "slide": "X", "lift": "Z", "pan": "A", "tilt": "B", "roll": "C", "zoom": "U", "focus": "V",
}  # fmt: skip


def word(letter: str, value: float, digits: int = 4) -> str:
    """One word: `X12.5`."""
    text = f"{value:.{digits}f}".rstrip("0").rstrip(".")
    return f"{letter}{'0' if text in ('-0', '') else text}"
