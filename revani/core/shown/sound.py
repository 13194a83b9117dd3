"""What the sound of a film comes to, in words."""

from collections.abc import Sequence

from pydantic import BaseModel

from revani.core.documents.take import Take
from revani.core.quantities.units import decimals, duration
from revani.core.watch.around import SILENT_DBFS, SILENT_FOR_S
from revani.core.watch.loudness import Loudness
from revani.core.watch.signs import Tone

# Peaks within so much of what was wanted are as wanted: the handbook's own band is so wide (handbook 8).
_AS_WANTED_DB = 3.0


class SoundRow(BaseModel):
    """One thing that is said of the sound of a film."""

    label: str
    text: str
    tone: Tone = "good"


def not_heard(why: str) -> SoundRow:
    """That the sound of a film is not known, and why."""
    return SoundRow(label="sound", text=f"not known: {why}", tone="mind")


def lost_told(rows: Sequence[SoundRow]) -> str:
    """That the sound of a film is lost, in a sentence; nothing where it is not."""
    lost = next((one for one in rows if one.tone == "bad"), None)
    return "" if lost is None else f"What was filmed has no sound: {lost.text}."


def sound_rows(take: Take, found: Loudness | None) -> list[SoundRow]:
    """The sound of a film against what was wanted of it; `found` is None where its file has none."""
    if found is None:
        text = "the file has none, though it was wanted" if take.hears else "none, as wanted"
        return [SoundRow(label="sound", text=text, tone="bad" if take.hears else "good")]
    if not take.hears:
        # The camera's own sound beside a recorder is a guide, and one that was not wanted is no fault.
        text = f"there is some, up to {decimals(found.peak_dbfs, 1)} dBFS; none was wanted of the camera"
        return [SoundRow(label="sound", text=text)]
    apart = found.peak_dbfs - take.level_dbfs
    wanted = f"{decimals(take.level_dbfs, 1)} dBFS was wanted"
    as_wanted = abs(apart) <= _AS_WANTED_DB
    rows = [
        SoundRow(
            label="peak", text=f"{decimals(found.peak_dbfs, 1)} dBFS, {wanted}", tone="good" if as_wanted else "mind"
        ),
        SoundRow(label="RMS", text=f"{decimals(found.rms_dbfs, 1)} dBFS"),
    ]
    under = f"under {decimals(SILENT_DBFS, 0)} dBFS"
    if found.longest_silent_s >= SILENT_FOR_S:
        silent, longest = (duration(round(one, 1)) for one in (found.silent_s, found.longest_silent_s))
        whole = found.silent_s >= found.seconds - 0.05
        text = f"all of it lies {under}" if whole else f"{silent} {under}, {longest} at once"
        rows.append(SoundRow(label="no sound", text=text, tone="bad" if whole else "mind"))
    elif found.silent_s >= 1:
        rows.append(SoundRow(label="pauses", text=f"{duration(round(found.silent_s, 1))} {under}"))
    clips = f"for {duration(round(found.clips_s, 1))}" if found.clips_s else "nowhere"
    rows.append(SoundRow(label="clips", text=clips, tone="mind" if found.clips_s else "good"))
    return rows
