"""Every way to change what is made of a shot afterwards: outputs, their keys, what they go after, ways to begin."""

from bisect import bisect_left
from collections.abc import Sequence
from typing import Any, Literal, NamedTuple

import numpy as np
from pydantic import Field, ValidationError

from revani.core.documents import CropKey, Document, FilmOutput, Shot, SphereKey
from revani.core.documents.allowed import allowed_of
from revani.core.documents.output import MOST_OUTPUTS, FilmKey
from revani.core.move.axes import middle_mm
from revani.core.program.afterwards import CropWay, SphereWay, film_length_s, way_of
from revani.core.program.compiled import Program
from revani.core.quantities.arrays import Array
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import duration
from revani.core.reframe.follow import Limits, followed, thinned_to

# What one makes of a shot, in turn, as it is added: lying, upright, square.
_SHAPES = (("Film", 1920, 1080), ("Upright", 1080, 1920), ("Square", 1080, 1080))
_FOLLOW_WITHIN = 0.01
_NONE = {"kind": "none"}
_MOST_FOLLOWED = 200
# Nearer than this to a key, or to where a section begins, it is that one that is meant.
_NEAR_S = 0.05


class OutputEdit(Document):
    """A change of the outputs of a shot; outputs and keys count from 0.

    `put key` moves the key of the index, or sets one, at the moment `at_s` of the film, or at that at which what was
    filmed at the instant `wall_s` plays (seconds since 1970 UTC); `values` that are not named stay as they are
    there. `follow` writes keys that go after the thing named, `begin` those of a way to begin with, `push on` those
    of a push-in at a `rate`, ln zoom a second. `other speed` plays what is filmed from the instant `wall_s`, or the
    moment `at_s` of the shot's film, on so many times as fast (its `factor`, else 4); `one speed` ends that.
    """

    track: Literal["output"] = "output"
    do: Literal[
        "add", "take out", "put key", "take key", "clear", "follow", "begin", "push on", "other speed", "one speed"
    ]
    output: int = 0
    index: int | None = None
    at_s: float | None = Field(None, ge=0)
    wall_s: float | None = None
    values: dict[str, float] = Field(default={})
    name: str = Field("", max_length=80)


def check_output(program: Program, i: int) -> None:
    """Refuse an output that cannot be made of a shot: by its field and what is allowed."""
    output, shot = program.shot.outputs[i], program.shot
    body, path = shot.body, f"outputs.{i}."
    for side, most in (("pixels_wide", body.pixels_wide), ("pixels_high", body.pixels_high)):
        if getattr(output, side) > most:
            raise Refusal(path + side, f"At most the {most:,} px of the picture.", getattr(output, side))
    sphere = shot.recording.projection == "sphere"
    if output.sphere and not sphere:
        raise Refusal(path + "sphere", "Only a mode that records a sphere has pictures out of one.")
    if output.keys and sphere:
        raise Refusal(path + "keys", "A picture out of a sphere is led by yaw, pitch and view.")
    ends = film_length_s(program, output)
    for list_name, keys in (("keys", output.keys), ("sphere", output.sphere)):
        for k, key in enumerate(keys):
            if key.at_s > ends + 1e-6:
                raise Refusal(f"{path}{list_name}.{k}.at_s", f"The film is {duration(round(ends, 2))} long.", key.at_s)


def apply_output_edit(program: Program, edit: OutputEdit) -> Shot:
    """The shot of a program after an edit of its outputs. Raises Refusal("outputs…") for one that cannot be made."""
    shot, outputs = program.shot, list(program.shot.outputs)
    at = edit.output
    try:
        if edit.do == "add":
            outputs.append(_next(shot))
            at = len(outputs) - 1
            if at >= MOST_OUTPUTS:
                raise Refusal("outputs", f"At most {MOST_OUTPUTS} outputs.", at + 1)
        elif not 0 <= at < len(outputs):
            raise Refusal("outputs", f"From 0 to {len(outputs) - 1}." if outputs else "There is none yet.", at)
        elif edit.do == "take out":
            outputs.pop(at)
            return shot.with_outputs(outputs)
        else:
            outputs[at] = _changed(program, outputs[at], edit)
        after = shot.with_outputs(outputs)
    except ValidationError as error:
        raise Refusal("outputs", allowed_of(error.errors()[0])) from None
    check_output(program.with_shot(after), at)
    return after


def with_output(program: Program, i: int, output: FilmOutput) -> Shot:
    """The shot with another output in the place of one; it must be one that can be made. Raises Refusal."""
    outputs = list(program.shot.outputs)
    outputs[i] = output
    after = program.shot.with_outputs(outputs)
    check_output(program.with_shot(after), i)
    return after


def _next(shot: Shot) -> FilmOutput:
    body = shot.body
    taken = [one.name for one in shot.outputs]
    name, wide, high = _SHAPES[len(shot.outputs) % len(_SHAPES)]
    part = min(1.0, body.pixels_wide / wide, body.pixels_high / high)
    wide, high = (max(int(side * part) // 2 * 2, 64) for side in (wide, high))
    called = next(one for n in range(1, 99) if (one := name if n == 1 else f"{name} {n}") not in taken)
    return FilmOutput.model_validate({"name": called, "pixels_wide": wide, "pixels_high": high})


def _changed(program: Program, output: FilmOutput, edit: OutputEdit) -> FilmOutput:
    if edit.do in ("other speed", "one speed"):
        sections = _sped(program, output, edit) if edit.do == "other speed" else []
        return FilmOutput.model_validate(output.model_dump() | {"sections": sections})
    sphere = program.shot.recording.projection == "sphere"
    keys: list[FilmKey] = list(output.sphere if sphere else output.keys)
    if edit.do == "clear":
        keys = []
    elif edit.do == "take key":
        if edit.index is None or not 0 <= edit.index < len(keys):
            raise Refusal("outputs", f"From 0 to {len(keys) - 1}." if keys else "It has no keys.", edit.index)
        keys.pop(edit.index)
    elif edit.do == "put key":
        keys = _put(program, output, keys, edit)
    elif edit.do == "follow":
        keys = list(_followed(program, output, edit))
    elif edit.do == "push on":
        keys = _pushed_on(program, output, edit)
    else:
        keys = list(begun(program, output, edit.name))
    written = [one.model_dump() for one in keys]
    return FilmOutput.model_validate(output.model_dump() | {"sphere" if sphere else "keys": written})


def _sped(program: Program, output: FilmOutput, edit: OutputEdit) -> list[dict[str, Any]]:
    """The sections of an output with one more."""
    from_s = edit.at_s
    if edit.wall_s is not None:
        from_s = float(np.interp(edit.wall_s - program.start_s, program.t_s, program.film_s))
    if from_s is None:
        raise Refusal("outputs", "From which moment on?")
    rest = [one.model_dump() for one in output.sections if abs(one.from_s - from_s) >= _NEAR_S]
    section = {"from_s": round(from_s, 3), "factor": edit.values.get("factor", 4.0)}
    return sorted([*rest, section], key=lambda one: one["from_s"])


def _put(program: Program, output: FilmOutput, keys: Sequence[FilmKey], edit: OutputEdit) -> list[FilmKey]:
    way = way_of(program, output.unshaken)
    kind: type[FilmKey] = CropKey if isinstance(way, CropWay) else SphereKey
    numbers = [name for name, info in kind.model_fields.items() if info.annotation is float and name != "at_s"]
    unknown = next((name for name in edit.values if name not in numbers), None)
    if unknown is not None:
        raise Refusal("outputs", f"One of: {', '.join(numbers)}.", unknown)
    rest = list(keys)
    wanted_s = edit.at_s
    if edit.wall_s is not None:
        wanted_s = float(np.interp(edit.wall_s - program.start_s, way.after_s, way.film_s))
    if edit.index is not None:
        if not 0 <= edit.index < len(keys):
            raise Refusal("outputs", f"From 0 to {len(keys) - 1}." if keys else "It has no keys.", edit.index)
        old: dict[str, Any] = rest.pop(edit.index).model_dump()
        at_s = old["at_s"] if wanted_s is None else wanted_s
    else:
        if wanted_s is None:
            raise Refusal("outputs", "At which moment of the film?")
        at_s = wanted_s
        near = [one for one in rest if abs(one.at_s - at_s) < _NEAR_S]
        if near:
            rest.remove(near[0])
            old, at_s = near[0].model_dump(), near[0].at_s
        else:
            j = int(np.abs(way.film_s - at_s).argmin())
            old = {name: round(float(getattr(way, name)[j]), 4) for name in numbers}
            if "yaw_deg" in old:
                old["yaw_deg"], old["roll_deg"] = (_upright(old[name]) for name in ("yaw_deg", "roll_deg"))
    at_s = round(min(at_s, film_length_s(program, output)), 3)
    key = kind.model_validate(old | {name: round(value, 4) for name, value in edit.values.items()} | {"at_s": at_s})
    rest.insert(bisect_left([one.at_s for one in rest], at_s), key)
    return rest


def _upright(deg: float) -> float:
    return round((deg + 180) % 360 - 180, 4)


def _followed(program: Program, output: FilmOutput, edit: OutputEdit) -> Sequence[FilmKey]:
    """Keys that go after a thing: still while it is near the middle, quiet otherwise, as few as will do."""
    things = program.shot.move.things if program.shot.move else ()
    thing = next((one for one in things if one.name == edit.name), None)
    if thing is None:
        named = ", ".join(one.name for one in things)
        raise Refusal("outputs", f"One of: {named}." if named else "Nothing stands on the table.", edit.name)
    way = way_of(program, output.unshaken)
    pose = program.pose(way.after_s)
    if isinstance(way, SphereWay):
        away = middle_mm(thing) - pose.camera_mm
        bearing = np.degrees(np.arctan2(away[:, 0], away[:, 1])) + program.shot.framing.heading_deg
        yaw = np.unwrap(bearing - (way.heading_deg - way.yaw_deg), period=360)
        pitch = np.degrees(np.arctan2(away[:, 2], np.hypot(away[:, 0], away[:, 1])))
        at = _few(way.film_s, np.stack([yaw / 90, pitch / 90], axis=1))
        kept = {"view_deg": float(way.view_deg[0]), "curve": float(way.curve[0])}
        return [
            SphereKey.model_validate(
                kept | {"at_s": round(float(way.film_s[j]), 3), "yaw_deg": round(_upright(float(yaw[j])), 3),
                        "pitch_deg": round(float(pitch[j]), 3), "arrive": _NONE, "leave": _NONE}
            )
            for j in at
        ]  # fmt: skip
    x, y, depth = pose.sees(program.shot, middle_mm(thing))
    if (depth <= 0).any():
        raise Refusal("outputs", f"{thing.name} is not before the camera all the time.", edit.name)
    zoom = edit.values.get("zoom", float(way.zoom.max()))
    if not 1 <= zoom <= 40:
        raise Refusal("outputs", "A zoom from 1 to 40.", zoom)
    limits = Limits(*(edit.values.get(name, usual) for name, usual in zip(Limits._fields, Limits(), strict=True)))
    (wide, _), (w, h) = way.source_px, way.whole_px
    half_x, half_y = w / zoom / 2 / wide, h / zoom / 2 / way.source_px[1]
    step = float(way.film_s[1] - way.film_s[0]) if way.frame_count > 1 else 1.0
    middles = []
    for target, half in ((x, half_x), (y, half_y)):
        gone = followed(np.asarray(target) / (2 * half), step, limits) * 2 * half
        middles.append(np.clip(gone, half, 1 - half) if half < 0.5 else np.full(way.frame_count, 0.5))
    at = _few(way.film_s, np.stack([middles[0] / (2 * half_x), middles[1] / (2 * half_y)], axis=1))
    return [
        CropKey.model_validate(
            {"at_s": round(float(way.film_s[j]), 3), "zoom": round(zoom, 4), "across": round(float(middles[0][j]), 5),
             "down": round(float(middles[1][j]), 5), "arrive": _NONE, "leave": _NONE}
        )
        for j in at
    ]  # fmt: skip


def _few(film_s: Array, values: Array) -> list[int]:
    """The moments that matter, so many at most as keys may be."""
    within = _FOLLOW_WITHIN
    while len(found := thinned_to(film_s, values, within)) > _MOST_FOLLOWED:
        within *= 1.5
    return found


def _pushed_on(program: Program, output: FilmOutput, edit: OutputEdit) -> list[FilmKey]:
    """A push-in at an even rate, `rate` of ln zoom a second, over the whole film: the one before it goes on."""
    rate = edit.values.get("rate", 0.0)
    ends = film_length_s(program, output)
    last = float(np.exp(rate * ends))
    first = 1.0 if last >= 1 else 1 / last
    if max(first, last) > 40:
        raise Refusal("outputs", "At most 40 × at the end of the film.", rate)
    even: dict[str, Any] = {"arrive": _NONE, "leave": _NONE}
    return [
        CropKey.model_validate(even | {"at_s": 0.0, "zoom": round(first, 5)}),
        CropKey.model_validate(even | {"at_s": round(ends, 3), "zoom": round(first * last, 5)}),
    ]


class Beginning(NamedTuple):
    """A way to begin with: its name, and what it does in words."""

    name: str
    told: str


CROPS = (
    Beginning("a slow push", "from the whole to 1.15 ×, evenly"),
    Beginning("a slow pull", "from 1.15 × to the whole, evenly"),
    Beginning("along, to the right", "1.4 ×, from the left edge to the right one"),
    Beginning("along, to the left", "1.4 ×, from the right edge to the left one"),
)
SPHERES = (
    Beginning("sped-up self-portrait", "looks back at who carries it, wide, yaw with the way ahead"),
    Beginning("roll-through", "looks ahead and rolls once round in the middle"),
    Beginning("planet and back", "ahead, two seconds of little planet, ahead again"),
    Beginning("from stick to self", "from the way ahead over the top to who carries it"),
    Beginning("low, looking up", "close to the ground, bent, the sky above"),
)


def beginnings(program: Program) -> tuple[Beginning, ...]:
    """The ways to begin that an output of a shot has."""
    return SPHERES if program.shot.recording.projection == "sphere" else CROPS


def begun(program: Program, output: FilmOutput, name: str) -> Sequence[FilmKey]:
    """The keys of a way to begin, over the whole film. Raises Refusal for one that there is not."""
    offered = [one.name for one in beginnings(program)]
    if name not in offered:
        raise Refusal("outputs", f"One of: {', '.join(offered)}.", name)
    ends = round(film_length_s(program, output), 3)
    even: dict[str, Any] = {"arrive": _NONE, "leave": _NONE}
    if program.shot.recording.projection != "sphere":
        body = program.shot.body
        half = min(1.0, output.shape / (body.pixels_wide / body.pixels_high)) / 1.4 / 2
        between: dict[str, list[dict[str, float]]] = {
            "a slow push": [{"zoom": 1.0}, {"zoom": 1.15}],
            "a slow pull": [{"zoom": 1.15}, {"zoom": 1.0}],
            "along, to the right": [{"zoom": 1.4, "across": half}, {"zoom": 1.4, "across": 1 - half}],
            "along, to the left": [{"zoom": 1.4, "across": 1 - half}, {"zoom": 1.4, "across": half}],
        }
        first, last = between[name]
        eased = even if name.startswith("a slow") else {}
        return [
            CropKey.model_validate(first | eased | {"at_s": 0.0}),
            CropKey.model_validate(last | eased | {"at_s": ends}),
        ]
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
