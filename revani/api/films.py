"""The films of runs: assembled on the queue, played and kept."""

from contextlib import suppress
from math import hypot
from uuid import UUID

from fastapi import APIRouter
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import FileResponse, PlainTextResponse
from pydantic import BaseModel, Field

from revani.api.deps import Costly, Db
from revani.core.documents import FilmOutput, Shot
from revani.core.documents.run import Run
from revani.core.edit.fitting import compile_fitted
from revani.core.edit.outputs import check_output
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import count, decimals, duration, gigabytes, plain_rate
from revani.core.timing.pace import solved
from revani.exports.film_name import film_name
from revani.jobs.assemble import assemble as assemble_job
from revani.jobs.assemble import film_path
from revani.jobs.measure import shaken_as
from revani.jobs.source import Unreadable, own_folder, own_folders
from revani.store import films, records, runs, shots
from revani.store.films import Film

router = APIRouter(prefix="/api")


class FilmView(BaseModel):
    """A film being made or made."""

    id: UUID
    state: str
    reason: str
    step: str
    done: int
    total: int
    left: str
    summary: str
    name: str
    file: str
    picture: bool
    aligned: str


class FilmAsk(BaseModel):
    """What is to be made: an output of the shot, counted from 0, or the frames as they are; and of which pictures.

    `own` names a folder of one's own; without one, what came home from the camera is used.
    """

    output: int | None = Field(None, ge=0)
    own: str = Field("", max_length=200)


@router.post("/runs/{id}/films", status_code=201)
async def make_film(id: UUID, db: Db, ask: FilmAsk | None = None) -> FilmView:
    """Have a film made of the run's frames, as one of the outputs of its shot; the work is done on the queue."""
    ask = ask or FilmAsk()
    run = await runs.read(db, id)
    shot = Shot.model_validate(run.shot)
    if ask.own:
        own_folder(ask.own)
    if not run.taken and not ask.own:
        raise Refusal("id", "No frame of this run has been taken, so there is no film in it.")
    if shot.live and ask.output is None:
        raise Refusal("id", "This run is a film already; there is nothing to assemble.")
    output = None if ask.output is None else await _output(db, run, ask.output)
    fps = plain_rate((output and output.fps) or solved(shot).fps)
    film_id = await films.order(db, id, run.taken or run.frame_count, fps, output, ask.own)
    await db.commit()
    await assemble_job.defer_async(film_id=str(film_id))
    return _film_view(await films.read(db, film_id), shot)


async def _output(db: Db, run: Run, i: int) -> FilmOutput:
    """An output of a run's shot that can be made, as the shot has it now: one thinks of it afterwards."""
    outputs = await _outputs(db, run)
    if i >= len(outputs):
        told = f"From 0 to {len(outputs) - 1}." if outputs else "The shot has no outputs."
        raise Refusal("output", told, i)
    shot = Shot.model_validate(run.shot).with_outputs(outputs)
    await run_in_threadpool(lambda: check_output(compile_fitted(shot), i))
    return outputs[i]


async def _outputs(db: Db, run: Run) -> tuple[FilmOutput, ...]:
    """What is made of the shot of a run: as it stands now, or, where the shot is gone, as it was armed."""
    with suppress(records.NotThere):
        return Shot.model_validate((await shots.read(db, run.shot_id)).document).outputs
    return Shot.model_validate(run.shot).outputs


@router.get("/runs/{id}/to-make")
async def to_make(id: UUID, db: Db) -> list[str]:
    """What can be made of a run: the outputs of its shot by name, in their order."""
    return [one.name for one in await _outputs(db, await runs.read(db, id))]


class ShakeAsk(BaseModel):
    """A shot, one of its outputs, and the folder of one's own whose clip was held by hand."""

    shot: Shot
    output: int = Field(0, ge=0)
    own: str = Field(max_length=200)


@router.get("/own")
def own() -> list[str]:
    """The folders of one's own."""
    return own_folders()


@router.post("/shakes", dependencies=[Costly])
def shake_of_clip(ask: ShakeAsk) -> Shot:
    """The shot, its output shaken as a clip that was held by hand is: measured, its meant motion taken off."""
    folder = own_folder(ask.own)
    if ask.output >= len(ask.shot.outputs):
        raise Refusal("output", "One of the outputs of the shot.", ask.output)
    outputs = list(ask.shot.outputs)
    try:
        outputs[ask.output] = shaken_as(outputs[ask.output], folder)
    except Unreadable as error:
        raise Refusal("own", str(error), ask.own) from None
    return ask.shot.with_outputs(outputs)


@router.get("/films/{id}/aligned", response_class=PlainTextResponse)
async def aligned_stills(id: UUID, db: Db) -> PlainTextResponse:
    """How each still of a film was off its neighbour, and what was left after it was brought back, as CSV."""
    film = await films.read(db, id)
    if not film.aligned:
        raise records.NotThere("No stills of this film were aligned.")
    head = "number,right_px,down_px,roll_deg,scale,left_px\n"
    rows = [f"{n},{a:.3f},{b:.3f},{c:.4f},{d:.5f},{e:.3f}\n" for n, a, b, c, d, e, _ in film.aligned]
    return PlainTextResponse(head + "".join(rows), media_type="text/csv")


@router.get("/runs/{id}/films")
async def list_films(id: UUID, db: Db) -> list[FilmView]:
    """The run's films, newest first."""
    shot = Shot.model_validate((await runs.read(db, id)).shot)
    return [_film_view(film, shot) for film in await films.of_run(db, id)]


@router.post("/films/{id}/cancel")
async def cancel_film(id: UUID, db: Db) -> FilmView:
    """Give a film up."""
    film = await films.want_cancel(db, id)
    return _film_view(film, Shot.model_validate((await runs.read(db, film.run_id)).shot))


@router.get("/films/{id}/file")
async def film_file(id: UUID, db: Db, download: bool = False) -> FileResponse:
    """The film itself, under the name of its shot and its date; to be kept where `download` is said."""
    film = await films.read(db, id)
    path = film_path(film)
    if film.state != "finished" or not path.exists():
        raise records.NotThere("This film is not made yet.")
    kind = "attachment" if download else "inline"
    name = film_name(Shot.model_validate((await runs.read(db, film.run_id)).shot), _name(film), path.suffix)
    media = "video/mp4" if path.suffix == ".mp4" else "image/png"
    return FileResponse(path, media_type=media, filename=name, content_disposition_type=kind)


def _film_view(film: Film, shot: Shot) -> FilmView:
    left = ""
    if film.state == "working" and film.done and film.elapsed_s:
        left = duration(max(1, round(film.elapsed_s / film.done * (film.total - film.done))))
    summary = ""
    if film.state == "finished" and film.frame_count and film.size_bytes:
        made = f"{film.frame_count:,} frames at {film.fps} fps" if not _is_picture(film) else "a picture"
        summary = f"{made}, {gigabytes(film.size_bytes)}"
        if film.closed_over:
            summary += f"; closed over {count(film.closed_over, 'frame')} without a picture"
    return FilmView(
        id=film.id, state=film.state, reason=film.reason, step=film.step, done=film.done, total=film.total,
        left=left, summary=summary, name=_name(film), file=film_name(shot, _name(film), film_path(film).suffix),
        picture=_is_picture(film), aligned=_aligned_told(film),
    )  # fmt: skip


def _name(film: Film) -> str:
    """The name of the output that it is; nothing where the frames are shown as they are."""
    return str(film.output["name"]) if film.output else ""


def _is_picture(film: Film) -> bool:
    return film.output is not None and not FilmOutput.model_validate(film.output).is_film


def _aligned_told(film: Film) -> str:
    """How far the stills were off and are now, in words; nothing where none were aligned."""
    if not film.aligned:
        return ""
    off = max(hypot(row[1], row[2]) for row in film.aligned)
    left = sorted(row[5] for row in film.aligned)[len(film.aligned) // 2]
    roll = max(abs(row[3]) for row in film.aligned)
    return (
        f"{count(len(film.aligned), 'still')} aligned: off by up to {decimals(off, 1)} px and {decimals(roll, 2)}° "
        f"from one to the next, {decimals(left, 2)} px are left."
    )
