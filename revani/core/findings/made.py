"""Judging what is made of a shot afterwards: a rule is asked of each output, its fixes are tried first."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray
from pydantic import ValidationError

from revani.core.documents import FilmOutput, Step
from revani.core.documents.output import FilmKey
from revani.core.edit.outputs import with_output
from revani.core.findings.finding import Finding, Fix, finding
from revani.core.program.afterwards import CropWay, SphereWay, way_of
from revani.core.program.compiled import Program
from revani.core.quantities.arrays import Array
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import duration

# Up to so many times beyond the pixels that are there few notice (common practice, no source).
FIFTH = 1.2


@dataclass(frozen=True)
class Made:
    """An output of a program that can be made, and its way."""

    program: Program
    i: int
    output: FilmOutput
    way: CropWay | SphereWay

    @property
    def keys(self) -> tuple[FilmKey, ...]:
        """Those that lead it."""
        return self.output.keys if isinstance(self.way, CropWay) else self.output.sphere

    def with_keys(self, keys: Iterable[FilmKey | dict[str, Any]]) -> FilmOutput:
        """It with other keys. Raises ValidationError."""
        return self.output.with_keys(keys, sphere=isinstance(self.way, SphereWay))


@lru_cache(maxsize=64)
def made_of(program: Program) -> tuple[Made, ...]:
    """The outputs of a program that can be made."""
    body, sphere = program.shot.body, program.round
    return tuple(
        Made(program, i, output, way_of(program, output))
        for i, output in enumerate(program.shot.outputs)
        if output.pixels_wide <= body.pixels_wide and output.pixels_high <= body.pixels_high
        if sphere or not output.sphere
    )


OfMade = Callable[[Made], Finding | None]


def of_each(step: Step, *ids: str, source: str) -> Callable[[OfMade], OfMade]:
    """Register a rule of an output: it is asked of each that can be made; the first that it speaks of is told."""

    def register(judge: OfMade) -> OfMade:
        def over(program: Program) -> Finding | None:
            return next((found for made in made_of(program) if (found := judge(made)) is not None), None)

        over.__doc__ = judge.__doc__
        finding(step, *ids, source=source)(over)
        return judge

    return register


def offered(
    made: Made, rule: OfMade, id: str, label: str, price: str, build: Callable[[], FilmOutput | None]
) -> tuple[Fix, ...]:
    """A fix of an output, where it can be made and the rule then says no more of it what it said."""
    before = rule(made)
    try:
        output = build()
        if output is None or before is None:
            return ()
        shot = with_output(made.program, made.i, output)
    except (Refusal, ValidationError):
        return ()
    program = made.program.with_shot(shot)
    after = rule(Made(program, made.i, output, way_of(program, output)))
    if after is not None and after.id == before.id:
        return ()
    return (Fix(id=id, label=label, price=price, shot=shot),)


def at_film(film_s: Array, where: NDArray[np.bool_]) -> str:
    """The part of a film in which something is so, in words."""
    at = film_s[np.flatnonzero(where)]
    first, last = float(at[0]), float(at[-1])
    return f"at {duration(round(first, 1))}" if last - first < 0.1 else (
        f"from {duration(round(first, 1))} to {duration(round(last, 1))}"
    )  # fmt: skip


def sized(output: FilmOutput, part: float) -> FilmOutput | None:
    """An output of the same shape, so many times as large; None where nothing would be left of it."""
    wide, high = (int(side * part) // 2 * 2 for side in (output.pixels_wide, output.pixels_high))
    if min(wide, high) < 64:
        return None
    return FilmOutput.model_validate(output.model_dump() | {"pixels_wide": wide, "pixels_high": high})


def retimed(made: Made, first_s: float, last_s: float) -> FilmOutput | None:
    """The keys spread anew, from one moment to another."""
    keys = made.keys
    a, b = keys[0].at_s, keys[-1].at_s
    if b <= a or last_s <= first_s:
        return made.with_keys([keys[0].model_dump() | {"at_s": round(max(first_s, 0), 3)}]) if b <= a else None
    to = [first_s + (one.at_s - a) * (last_s - first_s) / (b - a) for one in keys]
    # Rounded down, so that the last does not stand after the end.
    return made.with_keys([_soft(one) | {"at_s": int(at * 1000) / 1000} for one, at in zip(keys, to, strict=True)])


def _soft(key: FilmKey) -> dict[str, Any]:
    """A key whose eases fit whatever time there is."""
    document = key.model_dump()
    for side in ("arrive", "leave"):
        if getattr(key, side).s is not None:
            document[side] = {"kind": "jerk"}
    return document


def steps_of(way: CropWay | SphereWay) -> tuple[Array, Array]:
    """How far the picture goes from each film frame to the next, in widths, and its change of scale (m − 1,)."""
    if isinstance(way, CropWay):
        w = way.whole_px[0] / way.source_px[0]
        shape = way.source_px[0] / way.source_px[1]
        zoom = way.zoom[:-1]
        shift = np.hypot(np.diff(way.across), np.diff(way.down) / shape) / w * zoom
        # A roll moves the frame's ends.
        turned = np.radians(np.abs(np.diff(way.roll_deg))) / 2
        return shift + turned, np.abs(np.diff(np.log(way.zoom)))
    towards = np.stack(
        [np.cos(np.radians(way.pitch_deg)) * np.sin(np.radians(way.heading_deg)),
         np.cos(np.radians(way.pitch_deg)) * np.cos(np.radians(way.heading_deg)), np.sin(np.radians(way.pitch_deg))],
        axis=-1,
    )  # fmt: skip
    apart = np.degrees(2 * np.arcsin(np.clip(np.linalg.norm(np.diff(towards, axis=0), axis=-1) / 2, 0, 1)))
    turned = np.radians(np.abs(np.diff(way.roll_deg))) / 2
    # A little planet that comes changes its scale, and is meant to.
    return apart / way.view_deg[:-1] + turned, np.zeros_like(apart)
