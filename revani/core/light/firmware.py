"""A body's own exposure: which frame its firmware takes of the light that it meters.

Common practice, no source: within its ISO limits an *ISO-first* body holds a short shutter while ISO
rises to its ceiling and lengthens the shutter only then, so that a high ceiling gives a short shutter
in the dark and a ceiling of 100 a long one; a *shutter-first* body does the opposite.
"""

from dataclasses import dataclass
from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import ArrayLike

from revani.core.documents import Body, Lens
from revani.core.light.dials import true_aperture, true_iso, true_shutter_s
from revani.core.quantities.arrays import Array

Mode = Literal["automatic", "aperture priority"]


class Taken(NamedTuple):
    """Settings that a body takes by itself: arrays of one shape."""

    shutter_s: Array
    aperture: Array
    iso: Array


class Asked(NamedTuple):
    """What a person sets on a body in an automatic mode: marked aperture and ISO limits."""

    mode: Mode
    aperture: float
    iso: float
    iso_ceiling: float


@dataclass(frozen=True)
class Firmware:
    """What a body may choose from in an automatic mode; true values, not those on the dials.

    `longest_s` may be an array of one value a frame, where the interval changes.
    """

    shortest_s: float
    longest_s: float | Array
    knee_s: float
    iso_floor: float
    iso_ceiling: float
    aperture: float
    aperture_widest: float
    aperture_narrowest: float

    @classmethod
    def of(cls, body: Body, lens: Lens, focal_length_mm: float, asked: "Asked", room_s: float | Array) -> "Firmware":
        """The firmware of a body behind a lens in an automatic mode; `room_s` is what the interval leaves."""
        aperture = true_aperture(asked.aperture)
        held = asked.mode == "aperture priority" or not lens.electronic_aperture
        return cls(
            shortest_s=true_shutter_s(float(body.shutter_min_s)),
            longest_s=np.minimum(room_s, float(body.automatic_shutter_max_s)),
            knee_s=true_shutter_s(float(body.automatic_knee_s)) if body.automatic_order == "ISO first" else np.inf,
            iso_floor=true_iso(asked.iso),
            iso_ceiling=true_iso(asked.iso if asked.mode == "aperture priority" else asked.iso_ceiling),
            aperture=aperture,
            aperture_widest=aperture if held else true_aperture(lens.widest_at(focal_length_mm)),
            aperture_narrowest=aperture if held else true_aperture(lens.narrowest_at(focal_length_mm)),
        )

    def take(self, metered_ev: ArrayLike) -> Taken:
        """The settings for light that is metered as `metered_ev` (EV at ISO 100, any shape).

        Everything stands on thirds of a stop, but for a shutter that a limit cuts.
        """
        ev = np.round(np.asarray(metered_ev, dtype=np.float64) * 3) / 3
        aperture = np.full_like(ev, self.aperture)
        longest = np.maximum(self.longest_s, self.shortest_s)
        # What shutter (s) times ISO / 100 must come to at this aperture.
        product = self.aperture**2 / 2.0**ev
        knee = np.clip(self.knee_s, self.shortest_s, longest)
        first = np.clip(product / (self.iso_floor / 100), self.shortest_s, knee)
        iso = np.clip(_thirds(product / first) * 100, self.iso_floor, self.iso_ceiling)
        shutter = np.clip(product / (iso / 100), self.shortest_s, longest)
        # Where shutter and ISO stand at their limits, an aperture that can be driven goes on.
        wanted = np.sqrt(2.0**ev * shutter * iso / 100)
        limited = np.clip(
            np.round(np.log2(wanted) * 6) / 6, np.log2(self.aperture_widest), np.log2(self.aperture_narrowest)
        )
        stuck = np.abs(np.log2(wanted / self.aperture)) > 1 / 12
        return Taken(shutter, np.where(stuck, 2.0**limited, aperture), iso)


def _thirds(factor: Array) -> Array:
    """A factor brought to the nearest third of a stop."""
    return np.asarray(2.0 ** (np.round(np.log2(factor) * 3) / 3))
