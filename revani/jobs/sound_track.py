"""The sound of what was filmed, measured once and kept."""

import asyncio
import io

import av
import numpy as np

from revani.core.documents.run import Run
from revani.core.program.compiled import Program
from revani.core.quantities.refusal import Refusal
from revani.core.shown.sound import SoundRow, sound_rows
from revani.core.watch.loudness import Loudness, Meter
from revani.jobs.frame_file import content_of
from revani.jobs.source import Unreadable
from revani.rig.ports import CameraError
from revani.store import runs, sounds
from revani.store.pool import Connection
from revani.store.records import NotThere
from revani.store.sounds import Sound

# Why the sound of a film may not be had just now.
NOT_HAD = (CameraError, NotThere, Refusal, Unreadable)


def loudness_of(content: bytes) -> Loudness | None:
    """How loud a film is; None where it has no sound. Raises Unreadable."""
    try:
        with av.open(io.BytesIO(content), "r") as film:
            if not film.streams.audio:
                return None
            track = film.streams.audio[0]
            meter = Meter(track.rate)
            as_floats = av.AudioResampler(format="fltp")
            for frame in film.decode(track):
                for one in as_floats.resample(frame):
                    meter.add(np.clip(one.to_ndarray(), -1.0, 1.0))
            return meter.measured()
    except (av.FFmpegError, ValueError) as error:
        raise Unreadable("The sound of the file cannot be read.") from error


async def sound_of(conn: Connection, run: Run, program: Program) -> Sound | None:
    """The sound of what a run filmed, measured where it is not yet; None where it filmed nothing, or films still.

    Raises one of NOT_HAD where its file cannot be had, or not be read.
    """
    if not program.shot.live or not run.taken or run.ended_at is None:
        return None
    if (kept := await sounds.of_run(conn, run.id)) is not None:
        return kept
    frame = await runs.frame(conn, run.id, 1)
    # The file may take its time: nothing is held meanwhile.
    await conn.commit()
    if frame is None or not frame.file:
        raise NotThere("Nothing is known of the file of what was filmed.")
    found = await asyncio.to_thread(_measured, run, frame.file)
    await sounds.keep(conn, run.id, found)
    return Sound(found)


async def sound_told(conn: Connection, run: Run, program: Program) -> list[SoundRow]:
    """What is said of the sound of what a run filmed; nothing where it filmed nothing. Raises one of NOT_HAD."""
    found = await sound_of(conn, run, program)
    return [] if found is None else sound_rows(program.shot.take, found.loudness)


def _measured(run: Run, file: str) -> Loudness | None:
    return loudness_of(content_of(run.rig, run.id, 1, file))
