"""What can come out of a shot, compared: stills as raw, JPEG or both, the body's own film, the modes of a film."""

from math import ceil
from typing import TypedDict

from pydantic import BaseModel, ConfigDict

from revani.core.documents import Mode, Shot
from revani.core.documents.gear import Usage
from revani.core.documents.mode import Keeps
from revani.core.feed.card import chapter_count, chapter_duration_s
from revani.core.light.firing import FIRES_WORDS, modes_for, recording_rates
from revani.core.program.compiled import Program
from revani.core.quantities.units import count, decimals, exact, gigabytes

# How wide a film is handed on as a rule (common practice, no source).
_DELIVERED_PX = 1_920
# By how much a frame may be lifted or lowered afterwards, stops; seconds of work at home that it takes (memory).
_ROOM_STOPS: dict[str, float] = {"raw": 2.5, "both": 2.5, "JPEG": 1.0, "film": 0.5}
_WORK_S: dict[str, float] = {"raw": 1.5, "both": 1.5, "JPEG": 0.4, "film": 0.0}
# To copy, name and put together what is there, whatever it is (memory).
_WORK_ONCE_MIN = 5


class Choice(BaseModel):
    """A value that is chosen: its field, and the text that chooses it."""

    model_config = ConfigDict(frozen=True)

    field: str
    text: str


class Output(BaseModel):
    """One thing that can come out, in words. `choose` are the values to choose, one after the other."""

    model_config = ConfigDict(frozen=True)

    name: str
    chosen: bool
    pixels: str
    crop_room: str
    size: str
    files: str
    room: str
    work: str
    work_min: int
    lost: str
    choose: tuple[Choice, ...]


def compare_outputs(program: Program) -> tuple[Output, ...]:
    """All that the body can make of a shot, at the same interval and length."""
    shot = program.shot
    if shot.live:
        rates = [mode for mode in modes_for(shot) if recording_rates(_in(shot, mode), program.timing.fps)]
        return tuple(_film(program, mode, (Choice(field="mode", text=mode.name),)) for mode in rates)
    stills = _mode_of(shot, "stills")
    rows = [_stills(program, stills, keeps) for keeps in _kept_in(stills)] if stills else []
    lapse = _mode_of(shot, "own lapse film")
    if lapse is not None:
        own = (Choice(field="fires", text=FIRES_WORDS["own lapse film"]), Choice(field="mode", text=lapse.name))
        rows.append(_film(program, lapse, own))
    return tuple(rows)


def _in(shot: Shot, mode: Mode) -> Shot:
    return shot.model_copy(update={"mode": mode.name})


def _mode_of(shot: Shot, makes: str) -> Mode | None:
    """The mode that makes stills, or a lapse film: the one that is chosen, else the first."""
    if shot.recording.makes == makes or (makes == "stills" and not shot.kit.body.modes):
        return shot.recording
    return next((mode for mode in shot.kit.body.table if mode.makes == makes), None)


def _kept_in(mode: Mode) -> tuple[Keeps, ...]:
    return ("raw", "JPEG", "both") if mode.raw else ("JPEG",)


def _stills(program: Program, mode: Mode, keeps: Keeps) -> Output:
    shot, n = program.shot, program.frame_count
    body = shot.kit.body.used(Usage(mode.name, keeps, brackets=shot.take.brackets))
    from_film = shot.fires == "own lapse film"
    turn = (Choice(field="fires", text=FIRES_WORDS["own timer"]), Choice(field="mode", text=mode.name))
    files = n * shot.take.brackets * (2 if keeps == "both" else 1)
    return Output(
        name="raw and JPEG" if keeps == "both" else keeps,
        chosen=not from_film and shot.keeps == keeps,
        pixels=f"{mode.pixels_wide:,} × {mode.pixels_high:,}",
        crop_room=_crop_room(mode),
        size=gigabytes(float(n * body.bytes_per_frame)),
        files=count(files, "file"),
        room=f"± {decimals(_ROOM_STOPS[keeps], 1)} stops",
        **_work(n * _WORK_S[keeps]),
        lost="the frame under way",
        choose=((*turn,) if from_film else ()) + (Choice(field="keeps", text=keeps),),
    )


def _film(program: Program, mode: Mode, choose: tuple[Choice, ...]) -> Output:
    shot, timing = program.shot, program.timing
    length = timing.event_s if shot.live else timing.playback_s
    rate = exact(mode.film_mbps if mode.film_mbps is not None else shot.kit.body.film_mbps)
    size = float(rate * 1_000_000 / 8 * length)
    whole = 1
    if mode.chapter_gb is not None:
        whole = chapter_count(length, chapter_duration_s(rate, int(mode.chapter_gb * 1e9)))
    return Output(
        name=mode.name if shot.live else "its own film",
        chosen=shot.recording.name == mode.name and shot.makes_film,
        pixels=f"{mode.pixels_wide:,} × {mode.pixels_high:,}",
        crop_room=_crop_room(mode),
        size=gigabytes(size),
        files=count(whole, "file"),
        room=f"± {decimals(_ROOM_STOPS['film'], 1)} stops",
        **_work(_WORK_S["film"]),
        lost="all, if its file was open" if whole == 1 else "the open file",
        choose=choose,
    )


def _crop_room(mode: Mode) -> str:
    return f"{decimals(mode.pixels_wide / _DELIVERED_PX, 1)} ×"


class _Work(TypedDict):
    work: str
    work_min: int


def _work(seconds: float) -> _Work:
    minutes = _WORK_ONCE_MIN + ceil(seconds / 60)
    return _Work(work=f"{minutes:,} min", work_min=minutes)
