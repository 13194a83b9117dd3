"""What is known of a run while it goes on, and of its gaps afterwards: nothing that nobody reported is claimed."""

from typing import Literal, NamedTuple

from revani.core.quantities.units import count, duration

Tone = Literal["good", "mind", "bad"]
# Parts of a battery at which one should know of it, and at which it ends (memory).
BATTERY_LOW, BATTERY_OUT = 0.2, 0.05
# A card with less room than this is told of (memory: some hundred raw frames).
CARD_LOW_BYTES = 4e9
# A frame that is later than this (real seconds), and a camera's clock that is further off, are worth a word (memory).
LATE_S, CLOCK_APART_S = 0.1, 0.5
# What a frame is missed for, for want of time.
PASSED, NOT_IN_PLACE = "Its time had passed.", "The rig was not in its place in time"
# So many slots without a picture are more than a slow card.
_OVERDUE_SLOTS = 2.5
# Without a word for so long (real seconds) nothing is known of a rig.
WORD_S = 8.0


class Seen(NamedTuple):
    """What is seen of a run. `state` is that of the run; ages and waits are in seconds of the stage's clock.

    `word_age_s` is the age of the runner's last sign of life (real seconds; None: none at all), `trouble` what the
    camera's link says is wrong. `reports` tells whether the body says that it records. `waits_for` is what
    stands before an armed run, in words. `starts` is the clock of the first frame; `slack_s` is how much
    later than its slot says a picture may come, for it has to be fetched and noted; `overdue_s` how long ago
    an armed run on the wall's clock ought to have begun; `waits` whether it waits for what begins it.
    """

    state: str
    live: bool
    reports: bool
    taken: int
    missed: int
    word_age_s: float | None
    trouble: str
    picture_age_s: float | None
    next_in_s: float | None
    slot_s: float
    starts: str
    waits_for: str = ""
    slack_s: float = 2.0
    overdue_s: float | None = None
    waits: bool = False


class Sign(NamedTuple):
    """What can be said of a run just now, in a few words, and whether that is good."""

    text: str
    tone: Tone


def sign_of(seen: Seen) -> Sign | None:
    """What is known of a run that has not ended; None once it has."""
    if seen.state == "armed":
        if seen.overdue_s is not None and seen.overdue_s > 0:
            ago = duration(max(1, round(seen.overdue_s)))
            return Sign(f"its start passed {ago} ago and no runner has taken it up", "bad")
        if seen.waits_for:
            return Sign(f"nothing is recorded yet; it waits for {seen.waits_for}", "mind")
        if seen.waits:
            return Sign(f"nothing is recorded yet; from {seen.starts} it waits for what begins it", "mind")
        return Sign(f"nothing is recorded yet; the first frame is due at {seen.starts}", "mind")
    if seen.state != "running":
        return None
    if seen.word_age_s is None or seen.word_age_s > WORD_S:
        age = "" if seen.word_age_s is None else f" for {duration(round(seen.word_age_s))}"
        return Sign(f"no word from the runner{age}: what happens is not known", "bad")
    if seen.trouble:
        return Sign("the camera does not answer", "bad")
    if seen.waits:
        return Sign("nothing is recorded yet; it waits for what begins it", "mind")
    if seen.live:
        return _of_film(seen)
    overdue = seen.picture_age_s is not None and seen.picture_age_s > _OVERDUE_SLOTS * seen.slot_s + seen.slack_s
    if overdue and seen.picture_age_s is not None:
        return Sign(f"no frame for {duration(round(seen.picture_age_s))}", "bad")
    if not seen.taken:
        first = f"the first frame is due at {seen.starts}"
        return Sign(f"none of {count(seen.missed, 'frame')} came" if seen.missed else f"the camera answers; {first}",
                    "bad" if seen.missed else "mind")  # fmt: skip
    if not seen.reports:
        return Sign("frames are asked for; this body does not say whether it keeps them", "mind")
    if seen.missed:
        return Sign(f"it records; {count(seen.missed, 'frame')} missed so far", "mind")
    return Sign("it records: the last frame is stored", "good")


def _of_film(seen: Seen) -> Sign:
    if seen.next_in_s is not None and seen.next_in_s > 0:
        return Sign(f"the camera answers; the film begins at {seen.starts}", "mind")
    if not seen.reports:
        return Sign("it was told to film; this body does not say whether it does", "mind")
    return Sign("it was told to film and answers; whether it films is known when its file is stored", "mind")


def of_clock(state: str, expected: int, starts: str) -> Sign | None:
    """What can be said of a run that nobody is linked to: what the clock says, and no more."""
    if state == "armed":
        return Sign(f"it begins by itself at {starts}; nobody will see it", "mind")
    if state != "running":
        return None
    return Sign(f"by now {count(expected, 'frame')} should be on its card; nobody has seen one", "mind")


def gaps_told(state: str, frame_count: int, taken: int, missed: int, reason: str) -> tuple[str, Literal["good", "bad"]]:
    """What became of all frames of a run that has ended, in one sentence."""
    never = frame_count - taken - missed
    if taken == frame_count:
        return "No gap: every frame was taken.", "good"
    parts = []
    if missed:
        parts.append(f"{count(missed, 'frame')} missed")
    if never > 0:
        parts.append(f"{count(never, 'frame')} never came to be taken, from frame {taken + missed + 1:,} on")
    why = f" {reason}" if reason and state != "finished" else ""
    return f"{taken:,} of {count(frame_count, 'frame')} taken; {'; '.join(parts)}.{why}", "bad"
