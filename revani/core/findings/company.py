"""Does the shot go with the others that will be cut beside it?"""

from collections import Counter
from collections.abc import Sequence
from fractions import Fraction

from pydantic import BaseModel, ConfigDict, Field

from revani.core.edit.retime import price, retimed
from revani.core.findings.finding import Finding, Fix, named, usable
from revani.core.program.compiled import Program
from revani.core.quantities.units import Rate, plain_rate


class Neighbour(BaseModel):
    """Another shot that will be cut beside this one."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    name: str = Field(max_length=80)
    fps: Rate = Field(ge=Fraction(1, 100), le=1_000)


def playback_rate_unlike(program: Program, neighbours: Sequence[Neighbour]) -> Finding | None:
    """The film plays at another rate than most of its neighbours, and will stutter among them."""
    rates = Counter(neighbour.fps for neighbour in neighbours)
    if not rates:
        return None
    usual, often = max(rates.items(), key=lambda pair: (pair[1], -pair[0]))
    mine = program.timing.fps
    if mine == usual or rates[mine] >= often:
        return None
    timing = program.timing
    keep_length = retimed(
        program.shot, fps=usual, playback_s=timing.playback_s, interval_s=timing.interval_s,
        frame_count=None, event_s=None,
    )  # fmt: skip
    keep_frames = retimed(
        program.shot, fps=usual, frame_count=timing.frame_count, interval_s=timing.interval_s,
        playback_s=None, event_s=None,
    )  # fmt: skip
    like = [neighbour.name for neighbour in neighbours if neighbour.fps == usual]
    found = Finding(
        severity="mind",
        turns=f"At {plain_rate(usual)} fps nothing is said.",
        sentence=f"Its neighbours play at {plain_rate(usual)} fps, this one at {plain_rate(mine)}.",
        figures=f"{', '.join(like[:3])}{' and others' if len(like) > 3 else ''}: cut together, one of them stutters.",
        offer=lambda: usable(
            Fix(
                id="same-frames",
                label=f"{plain_rate(usual)} fps, same frames",
                price=price(timing, keep_frames),
                shot=keep_frames,
            ),
            Fix(
                id="same-length",
                label=f"{plain_rate(usual)} fps, same film length",
                price=price(timing, keep_length),
                shot=keep_length,
            ),
        ),
    )
    said = (playback_rate_unlike.__doc__ or "").strip()
    return named("time", ("company.playback-rate",), found, said, "common practice")
