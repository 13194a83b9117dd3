"""The films of runs: assembled on the queue, played and kept."""

from uuid import UUID

from fastapi import APIRouter
from fastapi.responses import FileResponse
from pydantic import BaseModel

from revani.api.deps import Db
from revani.core.documents import Shot
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import count, duration, gigabytes, plain_rate
from revani.core.timing.pace import solved
from revani.exports.film_name import film_name
from revani.jobs.assemble import assemble as assemble_job
from revani.jobs.assemble import film_path
from revani.store import films, records, runs
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


@router.post("/runs/{id}/films", status_code=201)
async def make_film(id: UUID, db: Db) -> FilmView:
    """Have the run's frames assembled; the work is done on the queue."""
    run = await runs.read(db, id)
    if not run.taken:
        raise Refusal("id", "No frame of this run has been taken, so there is no film in it.")
    if Shot.model_validate(run.shot).live:
        raise Refusal("id", "This run is a film already; there is nothing to assemble.")
    fps = plain_rate(solved(Shot.model_validate(run.shot)).fps)
    film_id = await films.order(db, id, run.taken, fps)
    await db.commit()
    await assemble_job.defer_async(film_id=str(film_id))
    return _film_view(await films.read(db, film_id))


@router.get("/runs/{id}/films")
async def list_films(id: UUID, db: Db) -> list[FilmView]:
    """The run's films, newest first."""
    return [_film_view(film) for film in await films.of_run(db, id)]


@router.post("/films/{id}/cancel")
async def cancel_film(id: UUID, db: Db) -> FilmView:
    """Give a film up."""
    return _film_view(await films.want_cancel(db, id))


@router.get("/films/{id}/file")
async def film_file(id: UUID, db: Db, download: bool = False) -> FileResponse:
    """The film itself, under the name of its shot and its date; to be kept where `download` is said."""
    film = await films.read(db, id)
    path = film_path(film.run_id, id)
    if film.state != "finished" or not path.exists():
        raise records.NotThere("This film is not made yet.")
    kind = "attachment" if download else "inline"
    name = film_name(Shot.model_validate((await runs.read(db, film.run_id)).shot))
    return FileResponse(path, media_type="video/mp4", filename=name, content_disposition_type=kind)


def _film_view(film: Film) -> FilmView:
    left = ""
    if film.state == "working" and film.done and film.elapsed_s:
        left = duration(max(1, round(film.elapsed_s / film.done * (film.total - film.done))))
    summary = ""
    if film.state == "finished" and film.frame_count and film.size_bytes:
        summary = f"{film.frame_count:,} frames at {film.fps} fps, {gigabytes(film.size_bytes)}"
        if film.closed_over:
            summary += f"; closed over {count(film.closed_over, 'frame')} without a picture"
    return FilmView(
        id=film.id, state=film.state, reason=film.reason, step=film.step, done=film.done, total=film.total,
        left=left, summary=summary,
    )  # fmt: skip
