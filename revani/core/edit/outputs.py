"""Every way to change what is made of a shot afterwards: outputs, their keys, what they go after, ways to begin."""

from bisect import bisect_left
from collections.abc import Sequence
from math import log
from typing import Any, Literal

import numpy as np
from pydantic import Field, ValidationError

from revani.core.documents import CropKey, Document, FilmOutput, Shot, SphereKey
from revani.core.documents.allowed import allowed_of
from revani.core.documents.output import CLOSEST, MOST_KEYS, MOST_OUTPUTS, FilmKey, most_view_deg
from revani.core.edit.outputs_to_begin_with import begun
from revani.core.move.axes import middle_mm
from revani.core.program.afterwards import CropWay, SphereWay, film_length_s, way_of
from revani.core.program.compiled import Program
from revani.core.quantities.arrays import Array
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import decimals, duration
from revani.core.reframe.crop import push_rate_per_s, pushed_on
from revani.core.reframe.follow import Limits, followed, thinned_to

# What one makes of a shot, in turn, as it is added: lying, upright, square.
_SHAPES = (("Film", 1920, 1080), ("Upright", 1080, 1920), ("Square", 1080, 1080))
_FOLLOW_WITHIN = 0.01
_NONE = {"kind": "none"}
# Nearer than this to a key, or to where a section begins, it is that one that is meant.
_NEAR_S = 0.05


class OutputEdit(Document):
    """A change of the outputs of a shot; outputs and keys count from 0.

    `shift` moves the frame as it stands at a moment by parts of the picture, `across` and `down`, and `closer` so many
    times; over a sphere it turns the look. `put key` moves the key of the index, or sets one, at the moment `at_s` of
    the film, or at that at which what was filmed at the instant `wall_s` plays (seconds since 1970 UTC); `values`
    that are not named stay as they are there. `follow` writes keys that go after the thing named, `begin` those of a
    way to begin with. `other speed` plays what is filmed from the instant `wall_s`, or the moment `at_s` of the
    shot's film, on so many times as fast (its `factor`, else 4); `one speed` ends that.
    """

    track: Literal["output"] = "output"
    do: Literal[
        "add", "take out", "shift", "put key", "take key", "clear", "follow", "begin", "other speed", "one speed"
    ]
    output: int = 0
    index: int | None = None
    at_s: float | None = Field(None, ge=0)
    wall_s: float | None = None
    values: dict[str, float] = Field(default={})
    name: str = Field("", max_length=80)


def check_output(program: Program, i: int) -> None:
    """Refuse an output that cannot be made of a shot: by its field and what is allowed.

    Keys of the other kind than the mode records wait until it records theirs again.
    """
    output, shot = program.shot.outputs[i], program.shot
    body, path = shot.body, f"outputs.{i}."
    for side, most in (("pixels_wide", body.pixels_wide), ("pixels_high", body.pixels_high)):
        if getattr(output, side) > most:
            raise Refusal(path + side, f"At most the {most:,} px of the picture.", getattr(output, side))
    sphere = shot.recording.projection == "sphere"
    if output.sphere and not sphere:
        raise Refusal(path + "sphere", "Only a mode that records a sphere has pictures out of one.")
    ends = film_length_s(program, output)
    name = "sphere" if sphere else "keys"
    for k, key in enumerate(getattr(output, name)):
        if key.at_s > ends + 1e-6:
            raise Refusal(f"{path}{name}.{k}.at_s", f"The film is {duration(round(ends, 2))} long.", key.at_s)


def _check_edited(program: Program, after: Shot, i: int) -> None:
    """Refuse an edit after which an output cannot be made that could be made before, or is new.

    One that could not be made before, for another mode or a shorter film, is mended step by step.
    """
    if i < len(program.shot.outputs):
        try:
            check_output(program, i)
        except Refusal:
            return
    check_output(program.with_shot(after), i)


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
    _check_edited(program, after, at)
    return after


def with_output(program: Program, i: int, output: FilmOutput) -> Shot:
    """The shot with another output in the place of one; one that could be made still must be. Raises Refusal."""
    outputs = list(program.shot.outputs)
    outputs[i] = output
    after = program.shot.with_outputs(outputs)
    _check_edited(program, after, i)
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
    if edit.do == "begin":
        return begun(program, output, edit.name)
    keys: list[FilmKey] = list(output.sphere if program.round else output.keys)
    if edit.do == "clear":
        keys = []
    elif edit.do == "take key":
        keys.pop(_index(keys, edit))
    elif edit.do == "follow":
        keys = list(_followed(program, output, edit))
    else:
        keys = _put(program, output, keys, edit if edit.do == "put key" else _shifted(program, output, edit))
    return output.with_keys(keys, program.round)


def _index(keys: Sequence[FilmKey], edit: OutputEdit) -> int:
    if edit.index is None or not 0 <= edit.index < len(keys):
        raise Refusal("outputs", f"From 0 to {len(keys) - 1}." if keys else "It has no keys.", edit.index)
    return edit.index


def _shifted(program: Program, output: FilmOutput, edit: OutputEdit) -> OutputEdit:
    """A shift of the frame as the key that it makes: parts of the picture become places, or turns of the look."""
    way = way_of(program, output.unshaken)
    if edit.at_s is None:
        raise Refusal("outputs", "At which moment of the film?")
    j = int(np.abs(way.film_s - edit.at_s).argmin())
    across, down = edit.values.get("across", 0.0), edit.values.get("down", 0.0)
    closer = edit.values.get("closer", 1.0)
    if not 0.01 <= closer <= 100:
        raise Refusal("outputs", "From 0.01 to 100 times as close.", closer)
    if isinstance(way, CropWay):
        values = {
            "across": min(max(float(way.across[j]) + across, 0.0), 1.0),
            "down": min(max(float(way.down[j]) + down, 0.0), 1.0),
            "zoom": min(max(float(way.zoom[j]) * closer, 1.0), CLOSEST),
        }
    else:
        # The whole width is once round, the whole height from zenith to nadir.
        values = {
            "yaw_deg": _upright(float(way.yaw_deg[j]) + 360 * across),
            "pitch_deg": min(max(float(way.pitch_deg[j]) - 180 * down, -90.0), 90.0),
            "view_deg": min(max(float(way.view_deg[j]) / closer, 5.0), float(most_view_deg(way.curve[j]))),
        }
    moved = {"across": ("across", "yaw_deg"), "down": ("down", "pitch_deg"), "closer": ("zoom", "view_deg")}
    asked = {name for asks in edit.values for name in moved.get(asks, ())}
    named = {name: value for name, value in values.items() if name in asked}
    return edit.model_copy(update={"do": "put key", "values": named})


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
        old: dict[str, Any] = rest.pop(_index(keys, edit)).model_dump()
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
    things = program.shot.things
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
    if not 1 <= zoom <= CLOSEST:
        raise Refusal("outputs", f"A zoom from 1 to {CLOSEST:g}.", zoom)
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
    while len(found := thinned_to(film_s, values, within)) > MOST_KEYS:
        within *= 1.5
    return found


def push_per_s(output: FilmOutput) -> float | None:
    """How fast an output is pushed in where it is by two keys, evenly: ln zoom a second; None where it is not."""
    if len(output.keys) != 2 or any(one.arrive.kind != "none" or one.leave.kind != "none" for one in output.keys):
        return None
    a, b = output.keys
    return push_rate_per_s(a.zoom, b.zoom, b.at_s - a.at_s)


def pushed(program: Program, output: FilmOutput, rate: float) -> FilmOutput:
    """An output pushed in evenly over its whole film, ln zoom a second; pulled out where that is negative.

    Raises Refusal where it would end, or begin, closer than any key may be.
    """
    ends = film_length_s(program, output)
    if program.round:
        raise Refusal("", "A picture out of a sphere is led by yaw, pitch and view.")
    if abs(rate) * ends > log(CLOSEST):
        raise Refusal(
            "", f"At most {CLOSEST:g} × over the film: {decimals(log(CLOSEST) / ends * 100, 2)} % a second.", rate
        )
    times = pushed_on(abs(rate), ends)
    first, last = (1.0, times) if rate >= 0 else (times, 1.0)
    even: dict[str, Any] = {"arrive": _NONE, "leave": _NONE}
    keys = [
        CropKey.model_validate(even | {"at_s": at_s, "zoom": round(zoom, 5)})
        for at_s, zoom in ((0.0, first), (int(ends * 1000) / 1000, last))
    ]  # fmt: skip
    return output.with_keys(keys, program.round)
