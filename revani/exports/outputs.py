"""What is made of a shot afterwards: a row a film frame, keys as JSON in and out, speeds as a timeline."""

import csv
import io
import json
from itertools import pairwise
from typing import Any

import numpy as np
import opentimelineio as otio
from pydantic import ValidationError

from revani.core.documents import FilmOutput, Shot
from revani.core.documents.allowed import allowed_of
from revani.core.documents.output import MOST_OUTPUTS
from revani.core.edit.outputs import check_output
from revani.core.program.afterwards import CropWay, Way, rate_of, way_of
from revani.core.program.compiled import Program, compile_shot
from revani.core.quantities.arrays import Array
from revani.core.quantities.refusal import Refusal
from revani.core.reframe.follow import thinned_to

_FORMAT = "revani.outputs/1"
_MOST_BYTES = 4_000_000
_CROP = ("zoom", "across", "down", "roll_deg")
_SPHERE = ("yaw_deg", "pitch_deg", "roll_deg", "view_deg", "curve")
_COLUMNS = tuple(dict.fromkeys((*_CROP, *_SPHERE)))


def _ways(program: Program) -> list[Way]:
    """The outputs of a shot over their films. Raises Refusal where there are none, or one cannot be made."""
    outputs = program.shot.outputs
    if not outputs:
        raise Refusal("outputs", "Nothing is made of this shot afterwards.")
    for i in range(len(outputs)):
        check_output(program, i)
    return [way_of(program, one) for one in outputs]


def outputs_csv(program: Program) -> str:
    """A row a film frame of every output: which frame of the shot it shows, and where its frame lies. RFC 4180."""
    text = io.StringIO()
    rows = csv.writer(text, lineterminator="\r\n")
    rows.writerow(["output", "film_frame", "film_s", "frame", *_COLUMNS])
    for way in _ways(program):
        mine = _CROP if isinstance(way, CropWay) else _SPHERE
        columns: dict[str, Array] = {name: getattr(way, name) for name in mine}
        for j in range(way.frame_count):
            values = [f"{columns[name][j]:.6f}" if name in columns else "" for name in _COLUMNS]
            rows.writerow([way.output.name, j + 1, f"{way.film_s[j]:.4f}", int(way.source[j]) + 1, *values])
    return text.getvalue()


def outputs_json(program: Program) -> str:
    """The outputs with their keys, as they are read again."""
    outputs = [one.model_dump(mode="json") for one in program.shot.outputs]
    return json.dumps({"format": _FORMAT, "shot": program.shot.name, "outputs": outputs}, indent=1) + "\n"


def outputs_from_json(shot: Shot, text: str) -> Shot:
    """The shot with the outputs of a JSON file in the place of its own. Raises Refusal at the key at fault."""
    if len(text) > _MOST_BYTES:
        raise Refusal("file", f"At most {_MOST_BYTES // 1_000_000} MB.")
    try:
        document: Any = json.loads(text)
    except ValueError as error:
        raise Refusal("file", f"No JSON that can be read: {error}.") from None
    except RecursionError:
        raise Refusal("file", "No JSON that can be read: it is nested too deeply.") from None
    if not isinstance(document, dict) or document.get("format") != _FORMAT:
        raise Refusal("format", f"{_FORMAT} is read.", document.get("format") if isinstance(document, dict) else None)
    given = document.get("outputs")
    if not isinstance(given, list) or len(given) > MOST_OUTPUTS:
        raise Refusal("outputs", f"A list of at most {MOST_OUTPUTS} outputs.")
    outputs = []
    for i, one in enumerate(given):
        try:
            outputs.append(FilmOutput.model_validate(one))
        except ValidationError as error:
            first = error.errors()[0]
            path = ".".join(str(part) for part in (f"outputs.{i}", *first["loc"]))
            raise Refusal(path, allowed_of(first)) from None
    now = shot.with_outputs(outputs)
    program = compile_shot(now)
    for i in range(len(outputs)):
        check_output(program, i)
    return now


def outputs_otio(program: Program) -> str:
    """Each output as a track of its own, in OpenTimelineIO: a clip a stretch of one speed, with its time effect."""
    timeline = otio.schema.Timeline(program.shot.name)
    for way in _ways(program):
        track = otio.schema.Track(way.output.name, kind=otio.schema.TrackKind.Video)
        track.metadata["revani"] = {"output": way.output.model_dump(mode="json")}
        track.extend(_stretches(program, way))
        timeline.tracks.append(track)
    text: str = otio.adapters.write_to_string(timeline, "otio_json")
    return text


def _stretches(program: Program, way: Way) -> list[otio.schema.Clip]:
    """Clips of one speed each. Their source is the recording: seconds after its start, at the rate of the output."""
    rate = float(rate_of(program, way.output))
    real = program.shot.live
    recorded = way.after_s if real else way.source / float(program.timing.fps)
    if way.frame_count < 3:
        return [_clip(program, way, recorded, (0, way.frame_count), 1.0, rate)]
    # Where its speed changes, to a film frame: what lies between is even.
    knots = thinned_to(way.film_s, recorded[:, None], 0.75 * float(np.diff(recorded).max()))
    clips = []
    for a, b in pairwise(knots):
        speed = round(float(np.median(np.diff(recorded[a : b + 1]))) * rate, 3)
        clips.append(_clip(program, way, recorded, (a, b + (b == knots[-1])), speed, rate))
    return clips


def _clip(
    program: Program, way: Way, recorded: Array, frames: tuple[int, int], speed: float, rate: float
) -> otio.schema.Clip:
    first, last = frames
    used = otio.opentime.TimeRange(
        otio.opentime.RationalTime(round(float(recorded[first]) * rate), rate),
        otio.opentime.RationalTime(last - first, rate),
    )
    clip = otio.schema.Clip(program.shot.name, otio.schema.MissingReference(name=program.shot.name), used)
    if abs(speed - 1) > 1e-3:
        clip.effects.append(otio.schema.LinearTimeWarp(name=f"{speed:g} ×", time_scalar=speed))
    return clip
