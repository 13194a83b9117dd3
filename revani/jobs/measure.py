"""The unrest of a clip that was held by hand, measured."""

from fractions import Fraction
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from revani.core.documents import FilmOutput
from revani.core.quantities.units import plain_rate
from revani.core.reframe.shake import high_passed
from revani.jobs.align import motion_of
from revani.jobs.source import Clip, Unreadable, files_of, is_clip

# Long enough to know a hand by; it is laid out to and fro.
_LONGEST_S = 8.0
_WIDE_PX = 400


def shake_in(folder: Path) -> tuple[NDArray[np.float64], Fraction]:
    """What a hand did to the clip of a folder, over its first 8 s: shifts and roll (n, 3), and its rate.

    Raises Unreadable where there is no clip, or one that is too short to have any.
    """
    files = files_of(folder)
    if not is_clip(files):
        raise Unreadable(f"A clip is needed; {folder.name} holds stills.")
    clip = Clip(files[0])
    try:
        fps = min(clip.fps, 60.0)
        count = int(min(clip.duration_s, _LONGEST_S) * fps)
        if count < 4:
            raise Unreadable(f"{files[0].name} is too short to be measured.")
        pictures = (clip.picture(i, i / fps) for i in range(count))
        motion = motion_of([picture[:: max(picture.shape[1] // _WIDE_PX, 1), :: max(picture.shape[1] // _WIDE_PX, 1)]
                            for picture in pictures])  # fmt: skip
    finally:
        clip.close()
    return high_passed(motion, fps), Fraction(fps).limit_denominator(1001)


def shaken_as(output: FilmOutput, folder: Path) -> FilmOutput:
    """An output shaken as the clip of a folder is, as strongly, as far as a shake may go. Raises Unreadable."""
    rows, fps = shake_in(folder)
    most = np.abs(rows).max(axis=0)
    measured = {
        "measured": rows.round(6).tolist(), "measured_fps": plain_rate(fps),
        "shake_part": round(min(float(most[:2].max()), 0.1), 5), "shake_roll_deg": round(min(float(most[2]), 20.0), 3),
    }  # fmt: skip
    return FilmOutput.model_validate(output.model_dump() | measured)
