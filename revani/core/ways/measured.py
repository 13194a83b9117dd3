"""What a way of doing a shot comes to: all that ways are compared by."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from revani.core.documents import Shot
from revani.core.edit.fitting import compile_fitted
from revani.core.findings import Finding, judge
from revani.core.light.dials import marked_iso, show_shutter
from revani.core.light.flicker import flicker_stops, smoothed_stops
from revani.core.light.gathered import sky_stops
from revani.core.optics.star_limits import POINT_PX, STARS_FROM_DEG, stars_in
from revani.core.picture.planned import exposed_stops
from revani.core.program.compiled import Program
from revani.core.quantities.arrays import Array
from revani.core.rehearsal.film import RehearsedFilm, rehearsed
from revani.core.rehearsal.lost import blur_px, clipped
from revani.core.rehearsal.night import gap_px
from revani.core.rehearsal.outcome import Outcome, rehearse
from revani.core.rehearsal.outputs import compare_outputs


@dataclass(frozen=True, eq=False)
class Measured:
    """A way, compiled, judged and rehearsed once."""

    name: str
    program: Program

    @property
    def shot(self) -> Shot:
        """The shot done that way."""
        return self.program.shot

    @cached_property
    def outcome(self) -> Outcome:
        """What it would come to."""
        return rehearse(self.program)

    @cached_property
    def film(self) -> RehearsedFilm:
        """The film of it, as ways are shown beside each other."""
        return rehearsed(self.program, 480)

    @cached_property
    def findings(self) -> tuple[Finding, ...]:
        """All that is said of it."""
        return judge(self.program)

    @cached_property
    def fails_minds(self) -> tuple[int, int]:
        """How much of it fails, how much is to mind."""
        minds = sum(one.severity == "mind" for one in self.findings)
        return sum(one.fails for one in self.findings), minds

    @property
    def darkest(self) -> int:
        """The frame whose scene is the darkest."""
        return int(np.argmin(self.program.scene_ev))

    @cached_property
    def flicker(self) -> tuple[float, float]:
        """Flicker as it comes, and after smoothing, stops."""
        error, fps = self.program.exposures.error_stops, self.program.timing.fps
        return flicker_stops(error, fps), flicker_stops(smoothed_stops(error, fps), fps)

    @property
    def clipped(self) -> int:
        """Frames in which more is lost than the body keeps, bright or dark."""
        return int(clipped(self.shot.body, self.program.exposures.error_stops).sum())

    @property
    def shutter(self) -> str:
        """The shutter of the darkest frame, in words."""
        return show_shutter(float(self.program.exposures.shutter_s[self.darkest]))

    @property
    def iso(self) -> int:
        """The highest ISO that it comes to, as dials have it."""
        return marked_iso(float(self.program.exposures.iso.max()))

    @property
    def gathered_stops(self) -> float:
        """Light of the sky on a pixel in its darkest frame, stops against 1 s at f/1."""
        got, at = self.program.exposures, self.darkest
        return float(sky_stops(got.shutter_s[at], got.aperture[at]))

    @property
    def foreground_stops(self) -> float:
        """How the ground comes out in its darkest frame, stops over a grey; lit by sky and moon alone."""
        return float(exposed_stops(self.program, self.darkest)) - self.program.scene_offset_stops

    @property
    def starry(self) -> NDArray[np.bool_]:
        """Frames in which stars are to be seen (n,)."""
        return np.asarray(self.program.sun_altitude_deg < STARS_FROM_DEG)

    @cached_property
    def _trails_px(self) -> Array:
        return np.asarray(stars_in(self.shot).fastest_px_s * self.program.exposures.shutter_s)

    @property
    def trail_px(self) -> float:
        """The longest way of a star in a frame, pixels."""
        return float(self._trails_px[self.starry].max())

    @property
    def gap_px(self) -> float:
        """The widest gap between the trails of two frames, pixels."""
        return float(gap_px(self.program)[self.starry].max())

    @property
    def largest_step_stops(self) -> float:
        """The largest step of brightness from one frame to the next."""
        error = self.program.exposures.error_stops
        return float(np.abs(np.diff(error)).max()) if error.size > 1 else 0.0

    @cached_property
    def sharp_share(self) -> float:
        """The share of frames in which neither stars nor the rig's own way draw more than is wanted."""
        program, shot = self.program, self.shot
        sharp = np.ones(program.frame_count, dtype=np.bool_)
        if not shot.trails:
            sharp &= ~(self.starry & (self._trails_px > POINT_PX))
        for blurred in blur_px(program).values():
            sharp &= blurred <= (shot.move.blur_limit_px if shot.move else 0.0)
        return float(sharp.mean())

    @property
    def work_min(self) -> int | None:
        """Minutes of work at home for what comes out of it; None where that is not known."""
        return next((one.work_min for one in compare_outputs(self.program) if one.chosen), None)

    @property
    def ends(self) -> str:
        """When it is over, on the place's clock."""
        return self.program.clock_told(self.outcome.ends_at_s, "%H:%M")


def measured(name: str, shot: Shot) -> Measured:
    """A way, ready to be compared. Raises Refusal."""
    return Measured(name, compile_fitted(shot))
