"""A sequence as OpenTimelineIO, out and in, through that project's own library.

One track of pictures, a clip a cut. What the format has no word for stands in the metadata under `revani`.
"""

from collections.abc import Iterator, Mapping
from fractions import Fraction
from uuid import UUID

import opentimelineio as otio
from pydantic import ValidationError

from revani.core.documents import Cut, ShotSequence
from revani.core.documents.allowed import allowed_of
from revani.core.documents.sequence import MOST_CUTS
from revani.core.quantities.refusal import Refusal
from revani.core.sequence.film import Film, Piece
from revani.exports.sequence_csv import shot_named

_OURS = "revani"
_MOST_BYTES = 4_000_000


def sequence_otio(film: Film) -> str:
    """The film as a timeline; every clip says which part of its shot's film it is, in frames of that shot's rate."""
    sequence = film.sequence
    timeline = otio.schema.Timeline(sequence.name)
    timeline.metadata[_OURS] = {
        "id": str(sequence.id), "use": sequence.use, "shape": sequence.shape, "rate": str(sequence.fps),
    }  # fmt: skip
    track = otio.schema.Track("Film", kind=otio.schema.TrackKind.Video)
    track.extend([_clip(piece, sequence) for piece in film.pieces])
    timeline.tracks.append(track)
    text: str = otio.adapters.write_to_string(timeline, "otio_json")
    return text


def _clip(piece: Piece, sequence: ShotSequence) -> otio.schema.Clip:
    program, cut = piece.program, piece.cut
    rate = float(program.timing.fps if program else sequence.fps)
    reference = otio.schema.MissingReference(name=piece.name)
    if program is not None:
        reference.available_range = otio.opentime.TimeRange(
            otio.opentime.RationalTime(0, rate), otio.opentime.RationalTime(program.frame_count, rate)
        )
    used = otio.opentime.TimeRange(
        otio.opentime.RationalTime(round(piece.in_s * rate), rate),
        otio.opentime.RationalTime(round(piece.length_s * rate), rate),
    )
    ours = {
        "shot": str(cut.shot), "joins": cut.joins, "view": cut.view or "", "whole": cut.out_s is None,
        "in_s": str(cut.in_s), "out_s": "" if cut.out_s is None else str(cut.out_s),
    }  # fmt: skip
    return otio.schema.Clip(piece.name, reference, used, metadata={_OURS: ours})


def cuts_of_otio(text: str, known: Mapping[UUID, str]) -> tuple[Cut, ...]:
    """The cuts of the first track of pictures; shots are found by what Revani wrote, else by the clips' names.

    Raises Refusal at the clip at fault. Gaps and transitions have nothing that they could become here.
    """
    if len(text) > _MOST_BYTES:
        raise Refusal("file", f"At most {_MOST_BYTES // 1_000_000} MB.")
    try:
        timeline = otio.adapters.read_from_string(text, "otio_json")
    except Exception as error:
        # The library raises what its parser meets: a broken file, another format, a schema that it does not know.
        raise Refusal("file", f"No OpenTimelineIO that can be read: {str(error).splitlines()[0][:200]}") from None
    if not isinstance(timeline, otio.schema.Timeline):
        raise Refusal("file", f"A timeline is needed; this is a {type(timeline).__name__}.")
    tracks = [one for one in timeline.tracks if getattr(one, "kind", "") == otio.schema.TrackKind.Video]
    if not tracks:
        raise Refusal("file", "A track of pictures is needed.")
    if len(tracks) > 1:
        raise Refusal("tracks.1", "One track of pictures can be read; lay the others into it.")
    cuts = tuple(_cuts(tracks[0], known))
    if len(cuts) > MOST_CUTS:
        raise Refusal("tracks.0", f"At most {MOST_CUTS} cuts.", len(cuts))
    return cuts


def _cuts(track: otio.schema.Track, known: Mapping[UUID, str]) -> Iterator[Cut]:
    for at, item in enumerate(track):
        where = f"tracks.0.children.{at}"
        if not isinstance(item, otio.schema.Clip):
            raise Refusal(where, f"A clip is needed; there is no cut that a {type(item).__name__.lower()} could be.")
        if item.effects:
            raise Refusal(where, "A clip without effects: what changes its speed is the shot's own.", item.name)
        ours = item.metadata.get(_OURS, {})
        read = ours if hasattr(ours, "get") else {}
        id = shot_named(where, str(read.get("shot", "")), item.name, known)
        values: dict[str, object] = {"shot": id, "name": known[id]}
        values |= {name: read[name] for name in ("joins", "view") if read.get(name)}
        values |= _range(item, read)
        try:
            yield Cut.model_validate(values)
        except ValidationError as error:
            raise Refusal(where, allowed_of(error.errors()[0]), item.name) from None


def _range(clip: otio.schema.Clip, ours: Mapping[str, object]) -> dict[str, object]:
    """From where to where: exactly as Revani wrote it, where nobody has trimmed it since; else as the clip says."""
    used = clip.source_range
    if used is None:
        return {}
    rate = Fraction(used.start_time.rate).limit_denominator(1001)
    start = Fraction(used.start_time.value).limit_denominator(10**6) / rate
    end = start + Fraction(used.duration.value).limit_denominator(10**6) / rate
    found: dict[str, object] = {"in_s": start, "out_s": end}
    try:
        said = Fraction(str(ours.get("in_s", "")))
        written = Fraction(str(ours["out_s"])) if ours.get("out_s") else None
    except (ValueError, KeyError, ZeroDivisionError):
        return found
    near = 1 / rate
    available = clip.media_reference.available_range if clip.media_reference else None
    if abs(said - start) <= near:
        found["in_s"] = said
    if written is not None and abs(written - end) <= near:
        found["out_s"] = written
    elif ours.get("whole") and available is not None and abs(available.duration.value - float(end * rate)) <= 1:
        found["out_s"] = None
    return found
