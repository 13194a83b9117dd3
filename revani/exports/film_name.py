"""What the film of a shot is called as a file."""

from revani.core.documents import Shot


def film_name(shot: Shot) -> str:
    """The shot's name, without what file systems take amiss, and its date: `Chimney and tide, 2026-11-24.mp4`."""
    plain = "".join(one if one.isalnum() or one in " ,.-_()" else " " for one in shot.name)
    return f"{' '.join(plain.split()) or 'Film'}, {shot.date.isoformat()}.mp4"
