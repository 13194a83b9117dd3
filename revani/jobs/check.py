"""The journal held against the files at home and against the card."""

import hashlib
from contextlib import ExitStack, closing, suppress
from pathlib import Path

from revani.core.documents.run import ENDED, JournalFrame, Run
from revani.core.quantities.refusal import Refusal
from revani.jobs.assemble import frame_path, frames_folder
from revani.jobs.reaching import camera_of
from revani.rig.ports import Camera, CameraError
from revani.store import runs
from revani.store.pool import Pool

MOST_RUNS = 10_000


async def check(pool: Pool) -> list[str]:
    """What does not agree, a sentence each; empty where everything does."""
    found: list[str] = []
    cameras: dict[str, Camera] = {}
    with ExitStack() as asked:
        async with pool.connection() as conn:
            for run in await runs.latest(conn, MOST_RUNS):
                journal = await runs.journal(conn, run.id)
                found += _numbers(run, journal) + _files(run, journal)
                # One that nobody is linked to, or whose rig nobody knows, has no camera to be asked.
                with suppress(Refusal):
                    if run.rig not in cameras:
                        cameras[run.rig] = asked.enter_context(closing(camera_of(run.rig)))
                    found += _card(run, journal, cameras[run.rig])
    return found


def _numbers(run: Run, journal: list[JournalFrame]) -> list[str]:
    numbers = [frame.number for frame in journal]
    if numbers != list(range(1, len(numbers) + 1)):
        gap = next(want for want, have in enumerate([*numbers, 0], 1) if want != have)
        return [f"{_name(run)}: frame {gap} is not in the journal, though later ones are."]
    if run.state == "finished" and len(numbers) != run.frame_count:
        return [f"{_name(run)}: it finished with {len(numbers)} of {run.frame_count} frames in the journal."]
    return []


def _files(run: Run, journal: list[JournalFrame]) -> list[str]:
    wanted = {frame_path(run.id, frame.number): frame for frame in journal if frame.outcome == "taken"}
    found = [
        f"{_name(run)}: frame {frame.number} at home is not what the camera stored; the next film fetches it anew."
        for path, frame in wanted.items()
        if path.exists() and not frame.is_file(path.stat().st_size, _hash(path))
    ]
    strays = {path for path in frames_folder(run.id).glob("*.jpg")} - wanted.keys()
    return found + [f"{_name(run)}: {path.name} is at home and no frame of its journal." for path in sorted(strays)]


def _card(run: Run, journal: list[JournalFrame], camera: Camera) -> list[str]:
    """Against the card, where the camera still has it: a real one is emptied and used again."""
    if run.state not in ENDED:
        return []
    try:
        card = {one.number: one for one in camera.on_card(label=str(run.id))}
    except CameraError:
        return []
    found = []
    for frame in journal:
        stored = card.get(frame.number)
        if frame.outcome == "missed" and stored:
            found.append(f"{_name(run)}: frame {frame.number} is noted as missed, and is on the card.")
        if frame.outcome == "taken" and card and not (stored and frame.is_file(stored.size_bytes, stored.sha256)):
            found.append(f"{_name(run)}: frame {frame.number} is noted as taken, and is not on the card as it was.")
    extra = card.keys() - {frame.number for frame in journal}
    return found + [f"{_name(run)}: frame {number} is on the card and not in the journal." for number in sorted(extra)]


def _hash(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def _name(run: Run) -> str:
    return f"{run.shot.get('name', 'a run')} of {run.armed_at:%-d %b %Y, %H:%M} UTC"
