"""What a run is to shoot, as its own runner knows it: what it has noted counts, also where the database lags behind."""

import structlog

from revani.core.documents import Shot
from revani.core.documents.run import Begun, Intervention
from revani.core.program.compiled import Program, compile_shot
from revani.core.program.intervened import intervened, shot_to_run
from revani.core.quantities.refusal import Refusal
from revani.core.timing.start import start_s
from revani.core.timing.triggers import Met
from revani.core.timing.waiting import again, at_the_latest, begun
from revani.rig.ports import printable
from revani.rig.stage import StageClock
from revani.runner.shooter import End
from revani.runner.spool import Spool, TakenUp
from revani.store import runs

log = structlog.get_logger()


def as_noted(run: TakenUp, spool: Spool) -> TakenUp:
    """The run, begun where its runner's own notes say so."""
    if run.begins_s is not None or spool.begun is None:
        return run
    known = spool.begun
    return run.model_copy(update={"shot": known.shot, "begins_s": known.begins_s, "frame_count": known.frame_count})


def told_of(run: TakenUp, spool: Spool) -> list[Intervention]:
    """What was changed by hand and taken up, as the database and the runner's own notes have it."""
    told = {one.nth: one for one in run.interventions if one.from_number is not None or one.refused} | spool.told
    return [told[nth] for nth in sorted(told)]


def program_for(run: TakenUp, spool: Spool) -> Program:
    """The program of a run, with what was changed until now; of one that waits, as it would begin at the latest."""
    return intervened(compile_shot(shot_to_run(run.shot, run.begins_s)), told_of(run, spool))


def waiting_shot(run: TakenUp) -> Shot | None:
    """The shot of a run that waits still; None where it does not."""
    shot = Shot.model_validate(run.shot)
    return shot if run.begins_s is None and shot.waits is not None else None


def begin(shot: Shot, come: Met, not_before_s: float, spool: Spool) -> Program | End:
    """Begin a shot that has waited, and note it; an End where it cannot be compiled from then."""
    try:
        program = compile_shot(begun(shot, come.at_s, not_before_s))
    except Refusal as refusal:
        return End("failed", f"It came ({come.told}), but cannot be shot from then. {refusal.allowed}")
    spool.begin(
        Begun(
            told=f"{program.local(come.at_s):%H:%M:%S}: it begins, for {come.told}.", begins_s=program.start_s,
            shot=program.shot.model_dump(mode="json"), frame_count=program.frames_to_take, end_s=program.end_s,
        )
    )  # fmt: skip
    return program


def once_more(run: TakenUp, rig: str) -> runs.Order | None:
    """The order for a run that waits once more; None where it is not to, or cannot be compiled from then."""
    if run.begins_s is None or run.clock is None:
        return None
    try:
        shot = again(Shot.model_validate(run.shot), StageClock.model_validate(run.clock).now_s())
        if shot is None:
            return None
        latest = compile_shot(at_the_latest(shot))
    except ValueError as error:
        log.warning("not armed once more", error=printable(str(error)))
        return None
    return runs.Order(
        shot=shot, rig=rig, speed=run.speed, frame_count=latest.frames_to_take, planned_start_s=start_s(shot),
        planned_end_s=latest.end_s,
    )  # fmt: skip
