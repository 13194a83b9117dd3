"""What the film of a shot is called as a file."""

from revani.core.documents import Shot


def film_name(shot: Shot, output: str = "", ending: str = ".mp4") -> str:
    """Shot, output and date without what file systems take amiss: `Tide, upright, 2026-11-24.mp4`."""
    named = ", ".join(_plain(one) for one in (shot.name, output) if _plain(one))
    return f"{named or 'Film'}, {shot.date.isoformat()}{ending}"


def _plain(text: str) -> str:
    return " ".join("".join(one if one.isalnum() or one in " ,.-_()" else " " for one in text).split())
