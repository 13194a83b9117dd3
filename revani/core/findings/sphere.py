"""Will a picture out of a sphere hold: dense enough, not drawn out, its little planets long enough to be seen?"""

from itertools import pairwise
from typing import Any

import numpy as np

from revani.core.documents import FilmOutput, SphereKey
from revani.core.findings.finding import Finding
from revani.core.findings.made import FIFTH, Made, at_film, of_each, offered, sized
from revani.core.program.afterwards import SphereWay, film_length_s
from revani.core.quantities.units import decimals, duration
from revani.core.reframe.sphere import px_per_deg

_EDGE = 1e-6
_BENDS_DEG, _STRAIGHT = 110.0, 0.05
_POOR = 2.0
_PLANET, _PLANET_S, _CHANGE_S = 0.9, 2.0, 1.0


@of_each(
    "after", "sphere.soft", source="pixels a degree against those of the sphere; over 1.2 soft, over 2 poor: memory"
)
def sphere_soft(made: Made) -> Finding | None:
    """A picture out of a sphere is narrower than the sphere has pixels for."""
    way = made.way
    if not isinstance(way, SphereWay):
        return None
    source = made.program.shot.body.pixels_wide / 360
    dense = px_per_deg(made.output.pixels_wide, way.view_deg, way.curve) / source
    worst = float(dense.max())
    if worst <= FIFTH:
        return None
    return Finding(
        severity="fix" if worst > _POOR else "mind",
        sentence=f"{made.output.name}: {'poor' if worst > _POOR else 'soft'}, "
        f"{at_film(way.film_s, dense > FIFTH)}.",
        figures=f"{decimals(worst, 2)} pixels of the film for one of the sphere; its narrowest view is "
        f"{decimals(float(way.view_deg.min()), 0)}°.",
        turns=f"Up to {FIFTH} nothing is said.",
        offer=lambda: (
            *offered(made, sphere_soft, "wider", "Look wider", "what is looked at becomes smaller",
                     lambda: _wider(made)),
            *offered(made, sphere_soft, "smaller", "A smaller film", "fewer pixels, all of them sharp",
                     lambda: sized(made.output, FIFTH / worst)),
        ),
    )  # fmt: skip


def _wider(made: Made) -> FilmOutput | None:
    source = made.program.shot.body.pixels_wide / 360
    keys: list[dict[str, Any]] = [one.model_dump() for one in made.output.sphere or (SphereKey(),)]
    for key in keys:
        while (
            float(px_per_deg(made.output.pixels_wide, key["view_deg"], key["curve"])) / source > FIFTH
            and key["view_deg"] < 165
        ):
            key["view_deg"] = round(key["view_deg"] + 1, 4)
    return made.with_keys(keys)


@of_each("after", "sphere.bends", source="a straight picture bends visibly over 110°: common practice")
def sphere_bends(made: Made) -> Finding | None:
    """A straight picture out of a sphere is so wide that its edges are drawn out."""
    way = made.way
    if not isinstance(way, SphereWay):
        return None
    bent = (way.curve < _STRAIGHT) & (way.view_deg > _BENDS_DEG)
    if not bent.any():
        return None
    return Finding(
        severity="mind",
        sentence=f"{made.output.name}: its edges are drawn out, {at_film(way.film_s, bent)}.",
        figures=f"{decimals(float(way.view_deg[bent].max()), 0)}° in a straight picture.",
        turns=f"Up to {_BENDS_DEG:.0f}°, or with some curve, nothing is said.",
        offer=lambda: offered(
            made, sphere_bends, "curve", "With a curve of 0.4", "lines bend instead",
            lambda: made.with_keys(
                [one.model_dump() | {"curve": max(getattr(one, "curve", 0), 0.4)} for one in made.keys]
            ),
        ),
    )  # fmt: skip


@of_each(
    "after", "sphere.planet-quick",
    source="a change to the little planet takes a second and stands for two: common practice",
)  # fmt: skip
def planet_quick(made: Made) -> Finding | None:
    """A little planet comes, or is gone again, before it is seen."""
    if not isinstance(made.way, SphereWay) or len(made.output.sphere) < 2:
        return None
    keys = made.output.sphere
    quick = [b for a, b in pairwise(keys) if abs(b.curve - a.curve) >= 0.5 and b.at_s - a.at_s < _CHANGE_S - _EDGE]
    stands = _stands_s(keys, film_length_s(made.program, made.output))
    if not quick and stands >= _PLANET_S - 0.01:
        return None
    ends = film_length_s(made.program, made.output)
    return Finding(
        severity="mind",
        sentence=f"{made.output.name}: the little planet "
        + (f"comes too quickly, at {duration(round(quick[0].at_s, 1))}." if quick else "is gone before it is seen."),
        figures=f"It stands for {duration(round(stands, 1))}." if np.isfinite(stands) else "It is no whole planet.",
        turns=f"From {_CHANGE_S:.0f} s of change and {_PLANET_S:.0f} s of standing on nothing is said.",
        offer=lambda: offered(
            made, planet_quick, "hold", "Let it come slowly and stand", "what comes after it comes later",
            lambda: _held(made, ends),
        ),
    )  # fmt: skip


def _held(made: Made, ends_s: float) -> FilmOutput | None:
    """The keys with a second for each change of the curve and two for each planet; None where the film is too short."""
    later, found = 0.0, list[SphereKey]()
    since: float | None = None
    for key in made.output.sphere:
        at = key.at_s + later
        if found:
            before = found[-1]
            if key.curve < _PLANET and since is not None and before.at_s - since < _PLANET_S:
                found.append(before.model_copy(update={"at_s": round(since + _PLANET_S, 3)}))
                before = found[-1]
            least = _CHANGE_S if abs(key.curve - before.curve) >= 0.5 else key.at_s + later - before.at_s
            at = max(at, before.at_s + max(least, 0.05))
        at = round(at, 3)
        later = at - key.at_s
        since = (at if since is None else since) if key.curve >= _PLANET else None
        found.append(key.model_copy(update={"at_s": at}))
    if since is not None and ends_s - since < _PLANET_S:
        return None
    return made.with_keys(found) if found[-1].at_s <= ends_s else None


def _stands_s(keys: tuple[SphereKey, ...], ends_s: float) -> float:
    """For how long the shortest of its little planets stands; infinite where there is none."""
    found, since = float("inf"), None
    for key in keys:
        if key.curve >= _PLANET and since is None:
            since = key.at_s
        elif key.curve < _PLANET and since is not None:
            before = next(one for one in reversed(keys) if one.at_s < key.at_s)
            found, since = min(found, before.at_s - since), None
    return min(found, ends_s - since) if since is not None else found
