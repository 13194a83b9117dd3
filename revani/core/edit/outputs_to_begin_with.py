"""Ways to begin with what is made of a shot afterwards: pushes and passes of a crop, looks about in a sphere."""

from typing import Any, NamedTuple

from revani.core.documents import CropKey, FilmOutput, SphereKey
from revani.core.program.afterwards import film_length_s
from revani.core.program.compiled import Program
from revani.core.quantities.refusal import Refusal

# Push-ins 1.1 to 1.2, sideways moves about 1.4 (common practice, no source).
_PUSHED, _ALONG = 1.15, 1.4
_NONE = {"kind": "none"}


class Beginning(NamedTuple):
    """A way to begin with: its name, and what it does in words."""

    name: str
    told: str


CROPS = (
    Beginning("a slow push", f"from the whole to {_PUSHED} ×, evenly"),
    Beginning("a slow pull", f"from {_PUSHED} × to the whole, evenly"),
    Beginning("along, to the right", f"{_ALONG} ×, from the left edge to the right one"),
    Beginning("along, to the left", f"{_ALONG} ×, from the right edge to the left one"),
)
SPHERES = (
    Beginning("sped-up self-portrait", "looks back at who carries it, wide"),
    Beginning("roll-through", "looks ahead and rolls once round in the middle"),
    Beginning("planet and back", "ahead, two seconds of little planet, ahead again"),
    Beginning("from stick to self", "turns from the way ahead to who carries it"),
    Beginning("low, looking up", "bent, the sky above; carry it close to the ground"),
)


def beginnings(program: Program) -> tuple[Beginning, ...]:
    """The ways to begin that an output of a shot has."""
    return SPHERES if program.round else CROPS


def begun(program: Program, output: FilmOutput, name: str) -> FilmOutput:
    """An output with the keys of a way to begin, over its whole film; a sphere that is walked looks the way ahead.

    Raises Refusal for a way that there is not.
    """
    offered = [one.name for one in beginnings(program)]
    if name not in offered:
        raise Refusal("outputs", f"One of: {', '.join(offered)}.", name)
    if not program.round:
        return output.with_keys(_crop_keys(program, output, name), sphere=False)
    lock = "the way ahead" if program.carried is not None else "the world"
    keys = _sphere_keys(film_length_s(program, output), name)
    return output.model_copy(update={"lock": lock}).with_keys(keys, sphere=True)


def _crop_keys(program: Program, output: FilmOutput, name: str) -> list[CropKey]:
    body, ends = program.shot.body, film_length_s(program, output)
    half = min(1.0, output.shape / (body.pixels_wide / body.pixels_high)) / _ALONG / 2
    left, right = {"zoom": _ALONG, "across": half}, {"zoom": _ALONG, "across": 1 - half}
    whole, close = {"zoom": 1.0}, {"zoom": _PUSHED}
    first, last = {
        "a slow push": (whole, close), "a slow pull": (close, whole),
        "along, to the right": (left, right), "along, to the left": (right, left),
    }[name]  # fmt: skip
    # A push is even from the first frame to the last; a way along begins and ends softly.
    eased: dict[str, Any] = {"arrive": _NONE, "leave": _NONE} if "slow" in name else {}
    return [
        CropKey.model_validate(first | eased | {"at_s": 0.0}),
        CropKey.model_validate(last | eased | {"at_s": int(ends * 1000) / 1000}),
    ]


def _sphere_keys(whole_s: float, name: str) -> list[SphereKey]:
    ends = int(whole_s * 1000) / 1000
    third = round(ends / 3, 3)
    # A change to the little planet takes a second at least, and stands for two (common practice); a turn of the sky
    # within them is quiet in two and a half.
    change = min(2.5, max((ends - 2) / 2, 0.4))
    out_s, back_s = max(ends / 2 - 1 - change, 0.0), min(ends / 2 + 1 + change, ends)
    roll_s = min(3.0, ends / 2)
    ramp = {"kind": "linear", "s": 0.5}
    rolls = {"view_deg": 100, "arrive": ramp, "leave": ramp}
    planet = {"pitch_deg": -90, "view_deg": 260, "curve": 1}
    steps: dict[str, list[dict[str, Any]]] = {
        "sped-up self-portrait": [{"at_s": 0.0, "yaw_deg": 180, "view_deg": 100, "curve": 0.3}],
        "roll-through": [
            {"at_s": 0.0, "view_deg": 100}, rolls | {"at_s": ends / 2 - roll_s},
            rolls | {"at_s": ends / 2, "roll_deg": 180, "arrive": _NONE, "leave": _NONE},
            rolls | {"at_s": ends / 2 + roll_s, "roll_deg": 360},
        ],
        "planet and back": [
            {"at_s": 0.0}, {"at_s": out_s}, planet | {"at_s": out_s + change}, planet | {"at_s": back_s - change},
            {"at_s": back_s},
        ],
        "from stick to self": [
            {"at_s": 0.0, "view_deg": 100}, {"at_s": third, "view_deg": 100},
            {"at_s": 2 * third, "yaw_deg": 180, "pitch_deg": -15, "view_deg": 120, "curve": 0.5},
        ],
        "low, looking up": [{"at_s": 0.0, "pitch_deg": 35, "view_deg": 150, "curve": 0.6}],
    }  # fmt: skip
    found: list[SphereKey] = []
    for step in steps[name]:
        key = SphereKey.model_validate(step | {"at_s": min(round(step["at_s"], 3), ends)})
        if not found or key.at_s > found[-1].at_s + 0.01:
            found.append(key)
    return found
