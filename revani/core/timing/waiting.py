"""A shot that waits: when it begins to, until when, and what it is once it has begun."""

from revani.core.documents import Shot
from revani.core.documents.trigger import LONGEST_WAIT_S
from revani.core.timing.start import start_s, started_now


def closes_s(shot: Shot) -> float:
    """When a shot that waits gives up, seconds since 1970 UTC. Raises Refusal("start")."""
    assert shot.waits is not None
    return start_s(shot) + float(shot.waits.for_s)


def first_frame_s(shot: Shot, met_s: float) -> float:
    """When the first frame is due after what is waited for came: after the lead-in, and when the body is awake."""
    assert shot.waits is not None
    return round(met_s + float(max(shot.waits.lead_in_s, shot.kit.body.wake_s)), 3)


def begun(shot: Shot, met_s: float, not_before_s: float = 0.0) -> Shot:
    """The shot as it is once what it waits for came at an instant; what is left of the wait is kept with it.

    Its first frame is due after the lead-in, and not before an instant at which it can be taken.
    """
    first_s = max(first_frame_s(shot, met_s), round(not_before_s, 3))
    left_s = max(closes_s(shot) - first_s, 1.0)
    waited_s = min(max(met_s - start_s(shot), 0.0), LONGEST_WAIT_S)
    return started_now(shot.with_waits(for_s=round(left_s, 3), waited_s=round(waited_s, 3)), first_s)


def again(shot: Shot, now_s: float) -> Shot | None:
    """The shot that waits once more when one that has begun is over; None where it is not to, or the time is over."""
    if shot.waits is None or shot.waits.times < 2:
        return None
    opens_s = now_s + float(shot.waits.dead_s)
    left_s = closes_s(shot) - opens_s
    if left_s < 1:
        return None
    rest = shot.with_waits(times=shot.waits.times - 1, for_s=round(left_s, 3), waited_s=0)
    return started_now(rest, round(opens_s, 3))


def at_the_latest(shot: Shot) -> Shot:
    """The shot as it is if it begins at the last moment; one that does not wait is as it is.

    What is not begun is planned so: until then no frame is late.
    """
    return shot if shot.waits is None else begun(shot, closes_s(shot))
