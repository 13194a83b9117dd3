"""What is to be said of shots that are cut together: one small rule a function."""

from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import lru_cache, wraps
from typing import get_args

import numpy as np

from revani.core.documents import Cut, Shot, ShotSequence
from revani.core.documents.sequence import Shape, View
from revani.core.findings import judge
from revani.core.findings.finding import WORST_FIRST, Severity
from revani.core.findings.take import USUAL_S
from revani.core.program.afterwards import CropWay, way_of
from revani.core.program.compiled import Misfit, Program, compile_shot
from revani.core.quantities.units import count, decimals, duration, plain_rate
from revani.core.reframe.crop import pushed_on
from revani.core.sequence.film import Film, Piece, drift_across, shape_of, view_of
from revani.core.sequence.matched import SAME_DEG, SAME_WIDTH, differences, looks, turned_deg
from revani.core.sequence.way import same_place

_SHAPES: tuple[Shape, ...] = get_args(Shape)
_LEAST_KEPT = 0.75
_SHORTEST_S, _LONGEST_S = 3.0, 15.0
_ALIKE_DEG, _ALIKE_WIDTH = 30.0, 1.5
_LENGTH_OFF = 0.1
_WHITE_OFF_K = 800.0


@dataclass(frozen=True)
class Change:
    """A changed sequence, the words on its button, and what it costs."""

    id: str
    label: str
    price: str
    sequence: ShotSequence


@dataclass(frozen=True)
class Remark:
    """A judgement over a sequence; `cut` is the place in the film that it speaks of, None for the whole."""

    severity: Severity
    sentence: str
    figures: str = ""
    turns: str = ""
    cut: int | None = None
    changes: tuple[Change, ...] = ()
    id: str = ""
    rule: str = ""
    source: str = ""


Judged = Callable[[Film], Iterator[Remark]]


@dataclass(frozen=True)
class AcrossRule:
    """A registered rule over a sequence: what it may say, in its own words, and where it has that from."""

    ids: tuple[str, ...]
    judge: Judged
    said: str
    source: str


ACROSS: list[AcrossRule] = []


def across(*ids: str, source: str) -> Callable[[Judged], Judged]:
    """Register a rule over a sequence; a remark that names no id has the first."""

    def register(rule: Judged) -> Judged:
        said = (rule.__doc__ or "").strip()

        @wraps(rule)
        def judged(film: Film) -> Iterator[Remark]:
            for one in rule(film):
                if one.id and one.id not in ids:
                    raise ValueError(f"{one.id} is none of {', '.join(ids)}")
                yield replace(one, id=one.id or ids[0], rule=said, source=source)

        ACROSS.append(AcrossRule(ids, judged, said, source))
        return judged

    return register


def judge_across(film: Film) -> tuple[Remark, ...]:
    """All that is to be said of a sequence, worst first, then in the order of the film."""
    found = [remark for rule in ACROSS for remark in rule.judge(film)]
    return tuple(sorted(found, key=lambda one: (WORST_FIRST.index(one.severity), -1 if one.cut is None else one.cut)))


def _with_cut(film: Film, at: int, **change: object) -> ShotSequence:
    cuts = list(film.sequence.cuts)
    cuts[at] = Cut.model_validate(cuts[at].model_dump() | change)
    return film.sequence.model_copy(update={"cuts": tuple(cuts)})


def _without(film: Film, at: int) -> ShotSequence:
    kept = tuple(cut for i, cut in enumerate(film.sequence.cuts) if i != at)
    return film.sequence.model_copy(update={"cuts": kept})


@across("across.gone", "across.put-away", "across.cannot-be-planned", source="arithmetic")
def not_there(film: Film) -> Iterator[Remark]:
    """A shot of the sequence is gone, put away, or cannot be planned any more; it keeps its place."""
    for piece in film.pieces:
        out = Change("leave-out", f"Leave {piece.name} out", "its place closes", _without(film, piece.at))
        if piece.trouble:
            id = "across.cannot-be-planned" if "planned" in piece.trouble else "across.gone"
            yield Remark("stop", f"{piece.name}: {piece.trouble}", cut=piece.at, changes=(out,), id=id)
        elif piece.archived:
            yield Remark(
                "mind", f"{piece.name} is put away.", "It is kept here, and can be used again from the list of shots.",
                cut=piece.at, changes=(out,), id="across.put-away",
            )  # fmt: skip


@across("across.fails", source="its own findings")
def fails_by_itself(film: Film) -> Iterator[Remark]:
    """A shot that will fail by itself is missing in the film, too."""
    told: set[str] = set()
    for piece, program in film.planned:
        if piece.name in told:
            continue
        told.add(piece.name)
        found = _failing(program.shot.model_dump_json(), program.misfits)
        if found:
            more = f" And {count(len(found) - 1, 'other')}." if len(found) > 1 else ""
            yield Remark("fix", f"{piece.name} will fail by itself.", f"{found[0]}{more}", cut=piece.at)


@lru_cache(maxsize=400)
def _failing(document: str, misfits: tuple[Misfit, ...]) -> tuple[str, ...]:
    """What will fail in a shot, kept by its document: a sequence is judged anew with every edit, its shots are not."""
    program = replace(compile_shot(Shot.model_validate_json(document)), misfits=misfits)
    return tuple(one.sentence for one in judge(program) if one.fails)


@across("across.beyond", source="arithmetic")
def beyond_its_end(film: Film) -> Iterator[Remark]:
    """A cut wants more than its shot's film has."""
    for piece, program in film.planned:
        whole = float(program.film_length_s)
        cut = piece.cut
        if float(cut.in_s) >= whole:
            start = Change(
                "from-its-start", "From its start", f"all {duration(whole)} of it", _with_cut(film, piece.at, in_s=0)
            )
            yield Remark(
                "stop", f"Nothing of {piece.name} is left.",
                f"Its film is {duration(whole)}; it is cut from {duration(cut.in_s)} on.", cut=piece.at,
                changes=(start,) if cut.out_s is None or cut.out_s > 0 else (),
            )  # fmt: skip
        elif cut.out_s is not None and float(cut.out_s) > whole + 1e-6:
            end = Change(
                "to-its-end", "To its end", f"{duration(float(cut.out_s) - whole)} less",
                _with_cut(film, piece.at, out_s=None),
            )  # fmt: skip
            yield Remark(
                "fix", f"{piece.name} is over before it is cut.",
                f"Its film is {duration(whole)}, {duration(cut.out_s)} are wanted.", cut=piece.at, changes=(end,),
                turns=f"{duration(float(cut.out_s) - whole)} more film, or less of the cut.",
            )  # fmt: skip


@across("across.rate", source="arithmetic")
def unlike_in_rate(film: Film) -> Iterator[Remark]:
    """A shot that plays at another rate than the film stutters in it, or runs faster or slower."""
    rates = Counter(program.timing.fps for _, program in film.planned)
    wanted = film.sequence.fps
    if not rates or set(rates) == {wanted}:
        return
    usual, often = max(rates.items(), key=lambda one: (one[1], -one[0]))
    changes: tuple[Change, ...] = ()
    if usual != wanted:
        price = f"{often} of {count(len(film.planned), 'cut')} have it"
        as_most = film.sequence.model_copy(update={"fps": usual})
        changes = (Change("rate-of-most", f"The film at {plain_rate(usual)} fps", price, as_most),)
    unlike = [piece for piece, program in film.planned if program.timing.fps != wanted]
    told = sorted({f"{piece.name} at {plain_rate(piece.program.timing.fps)}" for piece in unlike if piece.program})
    yield Remark(
        "mind", f"{count(len(unlike), 'cut')} at another rate than {plain_rate(wanted)} fps.", ", ".join(told) + ".",
        cut=unlike[0].at if len(unlike) == 1 else None, changes=changes,
    )  # fmt: skip


@across("across.shape", source="arithmetic; that a quarter is much is common practice, no source")
def unlike_in_shape(film: Film) -> Iterator[Remark]:
    """A picture of another shape than the film's is cut to it, and was framed for what is then gone."""
    wanted = shape_of(film.sequence.shape)
    kept = []
    for piece, program in film.planned:
        shape = program.shot.body.pixels_wide / program.shot.body.pixels_high
        kept.append((piece, min(shape / wanted, wanted / shape)))
    lost = [(piece, part) for piece, part in kept if part < _LEAST_KEPT]
    if not lost:
        return
    changes = tuple(
        Change(f"as-{one}", f"The film in {one}", "every picture keeps three quarters and more",
               film.sequence.model_copy(update={"shape": one}))
        for one in _SHAPES
        if all(
            min(a / shape_of(one), shape_of(one) / a) >= _LEAST_KEPT
            for a in (p.shot.body.pixels_wide / p.shot.body.pixels_high for _, p in film.planned)
        )
    )[:2]  # fmt: skip
    names = sorted({f"{piece.name} keeps {part:.0%}" for piece, part in lost})
    yield Remark(
        "mind", f"{count(len(lost), 'picture')} of another shape than {film.sequence.shape}.",
        f"{', '.join(names)}: frame it for what is left, wider.", cut=lost[0][0].at if len(lost) == 1 else None,
        changes=changes, turns="Said where less than three quarters of a picture are left.",
    )  # fmt: skip


_PUSH_S, _PUSH_UNLIKE, _PUSHES = 0.25, 0.15, 0.004


def push_per_s(piece: Piece, program: Program, shape: float, at_s: float) -> float:
    """How fast a cut is pushed in at a moment of its shot's film: ln zoom a second of the output of that shape."""
    output = next((one for one in program.shot.outputs if abs(one.shape - shape) < 0.01 * shape), None)
    if output is None or output.sphere:
        return 0.0
    way = way_of(program, output.unshaken)
    if not isinstance(way, CropWay):
        return 0.0
    a, b = max(at_s - _PUSH_S / 2, piece.in_s), min(at_s + _PUSH_S / 2, piece.in_s + piece.length_s)
    if b - a < 1e-6:
        return 0.0
    zoom = np.interp([a, b], way.shot_film_s, np.log(way.zoom))
    return float(zoom[1] - zoom[0]) / (b - a)


@across("across.push", source="a push that looks even has one rate of ln zoom (geometry); over a cut: common practice")
def push_goes_on(film: Film) -> Iterator[Remark]:
    """A push that should go on over a cut stands still on one side of it, or goes on at another rate."""
    shape = shape_of(film.sequence.shape)
    for before, a, after, b in film.joins:
        if after.cut.joins != "continued push":
            continue
        left = push_per_s(before, a, shape, before.in_s + before.length_s)
        comes = push_per_s(after, b, shape, after.in_s)
        if abs(left - comes) <= _PUSH_UNLIKE * abs(left) + _PUSHES / 2 and abs(left) > _PUSHES:
            continue
        if abs(left) <= _PUSHES:
            yield Remark(
                "mind", f"{before.name} is not pushed where it ends, so that nothing can go on in {after.name}.",
                f"Its output of {film.sequence.shape} changes by {decimals(left * 100, 2)} % a second there.",
                cut=after.at, turns=f"From {decimals(_PUSHES * 100, 1)} % a second on there is a push.",
            )  # fmt: skip
            continue
        length = after.length_s
        yield Remark(
            "mind", f"The push does not go on in {after.name}.",
            f"{decimals(left * 100, 2)} % a second, then {decimals(comes * 100, 2)} %: over its {duration(length)} "
            f"it would go from 1 to {decimals(pushed_on(left, length), 3)} ×.",
            cut=after.at, turns=f"Within {_PUSH_UNLIKE:.0%} of each other they read as one push.",
        )  # fmt: skip


_LIGHTS = ((6.0, "day"), (-4.0, "low sun"), (-12.0, "dusk"), (-91.0, "night"))


def light_word(sun_deg: float) -> tuple[int, str]:
    """The kind of light at an altitude of the sun, and its place from day to night."""
    return next((i, name) for i, (least, name) in enumerate(_LIGHTS) if sun_deg >= least)


@across("across.light", "across.backwards", source="common practice, no source")
def light_jumps(film: Film) -> Iterator[Remark]:
    """From one shot to the next the light jumps from day to night, or goes back in time."""
    for before, a, after, b in film.joins:
        last, first = before.frames[1], after.frames[0]
        (i, left), (j, comes) = (
            light_word(float(a.sun_altitude_deg[last])),
            light_word(float(b.sun_altitude_deg[first])),
        )
        same_day = abs(a.at_s[last] - b.at_s[first]) < 20 * 3600
        names = f"{before.name} ends in {left}, {after.name} begins in {comes}"
        if same_day and b.at_s[first] < a.at_s[last] and i != j:
            yield Remark(
                "mind", f"{after.name} goes back in time.",
                f"{names}, {duration(round(float(a.at_s[last] - b.at_s[first]), -1))} earlier by the clock.",
                cut=after.at, id="across.backwards", changes=_swapped(film, before, after),
            )  # fmt: skip
        elif abs(i - j) >= 2:
            yield Remark("mind", "The light jumps.", f"{names}: it reads as hours passing.", cut=after.at)


def _swapped(film: Film, before: Piece, after: Piece) -> tuple[Change, ...]:
    cuts = list(film.sequence.cuts)
    cuts[before.at], cuts[after.at] = cuts[after.at], cuts[before.at]
    swapped = film.sequence.model_copy(update={"cuts": tuple(cuts)})
    return (Change("swap", f"{after.name} first", "the other way round", swapped),)


@across("across.colour", source="from memory")
def colour_jumps(film: Film) -> Iterator[Remark]:
    """Neighbours in like light with another white balance: one looks yellow beside the other, or blue."""
    for before, a, after, b in film.joins:
        if a.shot.light.white_balance == "automatic" or b.shot.light.white_balance == "automatic":
            continue
        last, first = before.frames[1], after.frames[0]
        off = float(b.white_balance_k[first] - a.white_balance_k[last])
        alike = light_word(float(a.sun_altitude_deg[last]))[0] == light_word(float(b.sun_altitude_deg[first]))[0]
        if alike and abs(off) > _WHITE_OFF_K:
            yield Remark(
                "mind", f"The colour jumps from {before.name} to {after.name}.",
                f"White balance {float(a.white_balance_k[last]):,.0f} K, then {float(b.white_balance_k[first]):,.0f} K "
                "in the same light.", cut=after.at,
                turns=f"Up to {_WHITE_OFF_K:.0f} K nothing is said; these are {abs(off) - _WHITE_OFF_K:.0f} K more.",
            )  # fmt: skip


def _apart(before: Piece, after: Piece) -> tuple[float, float, bool]:
    """Degrees between where two look, how many times wider one sees than the other, and whether from one place."""
    a, b = (piece.program for piece in (before, after))
    assert a is not None and b is not None
    one, other = looks(before, before.frames[1]), looks(after, after.frames[0])
    wider = max(one.wide_deg, other.wide_deg) / min(one.wide_deg, other.wide_deg)
    return turned_deg(one, other), wider, same_place(a.shot.place, b.shot.place)


@across("across.alike", source="the 30° rule: common practice, no source")
def looks_alike(film: Film) -> Iterator[Remark]:
    """Two neighbours that look the same way and equally wide: the cut between them reads as a fault."""
    for before, _, after, _ in film.joins:
        degrees, wider, same_place = _apart(before, after)
        if after.cut.joins != "a plain cut" or before.cut.shot == after.cut.shot or not same_place:
            continue
        if degrees < _ALIKE_DEG and wider < _ALIKE_WIDTH:
            yield Remark(
                "mind", f"{before.name} and {after.name} look alike, so the cut jumps.",
                f"{degrees:.0f}° apart and {wider:.1f} × as wide; at least {_ALIKE_DEG:.0f}°, or another view, reads "
                "as a cut.", cut=after.at,
                turns=f"{_ALIKE_DEG - degrees:.0f}° more to a side, or {_ALIKE_WIDTH:g} × as wide.",
                changes=(
                    Change("same-position", "It is the same position", "held against what that asks",
                           _with_cut(film, after.at, joins="same position")),
                ) if degrees <= SAME_DEG and wider <= SAME_WIDTH else (),
            )  # fmt: skip


@across("across.size-jump", source="common practice, no source")
def jumps_in_size(film: Film) -> Iterator[Remark]:
    """From wide to close in one cut, of the same thing, one loses where one is."""
    for before, _, after, _ in film.joins:
        degrees, _, same_place = _apart(before, after)
        views = {view_of(before), view_of(after)}
        if after.cut.joins == "a plain cut" and same_place and degrees < 60 and views == {"wide", "close"}:
            yield Remark(
                "mind", f"From {view_of(before)} to {view_of(after)} in one cut.",
                f"{before.name}, then {after.name}: a middle view between them leads there.", cut=after.at,
            )  # fmt: skip


@across("across.direction", source="the direction of motion is kept over a cut: common practice, no source")
def turns_round(film: Film) -> Iterator[Remark]:
    """The picture goes one way in a shot and the other way in the next."""
    for before, _, after, _ in film.joins:
        left, comes = drift_across(before), drift_across(after)
        if left * comes == -1:
            yield Remark(
                "mind", f"The picture turns round from {before.name} to {after.name}.",
                f"It goes to the {_SIDE[left]}, then to the {_SIDE[comes]}; a still shot between them, or a move the "
                "other way round, keeps it going.", cut=after.at,
            )  # fmt: skip


_SIDE = {1: "right", -1: "left"}


@across("across.too-short", "across.too-long", source="common practice, no source")
def lengths_of_cuts(film: Film) -> Iterator[Remark]:
    """A cut too short to be read, or so long that one looks away."""
    for piece, program in film.planned:
        whole = float(program.film_length_s)
        if 0 < piece.length_s < _SHORTEST_S:
            longer = min(whole, piece.in_s + _SHORTEST_S)
            price = f"{duration(longer - piece.in_s - piece.length_s)} more"
            more = Change(
                "longer", f"{duration(_SHORTEST_S)} of it", price, _with_cut(film, piece.at, out_s=_exactly(longer))
            )
            yield Remark(
                "mind", f"{piece.name} is too short to read.", f"{duration(piece.length_s)} of it are used.",
                cut=piece.at, id="across.too-short", changes=(more,) if longer - piece.in_s >= _SHORTEST_S else (),
                turns=f"{duration(_SHORTEST_S)} and more are read.",
            )  # fmt: skip
        spoken = program.shot.take.sound != "off"
        if film.sequence.use == "part of a longer film" and piece.length_s > _LONGEST_S and not spoken:
            shorter = Change(
                "shorter", f"{duration(_LONGEST_S)} of it", f"{duration(piece.length_s - _LONGEST_S)} less",
                _with_cut(film, piece.at, out_s=_exactly(piece.in_s + _LONGEST_S)),
            )  # fmt: skip
            yield Remark(
                "mind", f"{piece.name} is long for one cut.",
                f"{duration(piece.length_s)} without a word in them; {_LONGEST_S:.0f} s are much.", cut=piece.at,
                id="across.too-long", changes=(shorter,), turns=f"Up to {_LONGEST_S:.0f} s nothing is said.",
            )  # fmt: skip


def _exactly(seconds: float) -> Fraction:
    return Fraction(seconds).limit_denominator(1000)


@across("across.length", "across.long-for-use", source="usual lengths: common practice, no source")
def length_of_the_whole(film: Film) -> Iterator[Remark]:
    """The film is not as long as it is wanted, or longer than its use bears."""
    length, wanted = film.length_s, film.sequence.wanted_s
    if not film.planned:
        return
    if wanted is not None and abs(length - float(wanted)) > _LENGTH_OFF * float(wanted):
        long = length > float(wanted)
        yield Remark(
            "mind", f"The film is {duration(abs(length - float(wanted)))} {'longer' if long else 'shorter'} than "
            "wanted.", f"{duration(length)} of {duration(wanted)}.", changes=_fitted(film, float(wanted)),
            turns=f"Within {_LENGTH_OFF:.0%} of what is wanted nothing is said.",
        )  # fmt: skip
    usual = USUAL_S.get(film.sequence.use)
    # What is part of something longer is judged cut by cut.
    if usual is not None and film.sequence.use != "part of a longer film" and length > usual[1]:
        yield Remark(
            "mind", f"{duration(length)} are long for {film.sequence.use}.",
            f"Usual are {usual[0]} s to {duration(usual[1])}.", id="across.long-for-use",
            changes=_fitted(film, float(usual[1])),
        )  # fmt: skip


def _fitted(film: Film, wanted_s: float) -> tuple[Change, ...]:
    """Every cut made shorter by the same part, or given all that its shot has."""
    length = film.length_s
    cuts = list(film.sequence.cuts)
    if length > wanted_s:
        part = wanted_s / length
        # What cannot be planned is counted with what its cut says, so it gives its part too.
        for piece in film.pieces:
            out = _exactly(piece.in_s + piece.length_s * part)
            if out > cuts[piece.at].in_s:
                cuts[piece.at] = cuts[piece.at].model_copy(update={"out_s": out})
        label, price = f"Every cut to {part:.0%}", f"{duration(wanted_s)} in all"
    else:
        gained = 0.0
        for piece, program in film.planned:
            whole = float(program.film_length_s)
            if piece.cut.out_s is not None and float(piece.cut.out_s) < whole:
                gained += whole - piece.out_s
                cuts[piece.at] = cuts[piece.at].model_copy(update={"out_s": None})
        if gained < 0.5 or length + gained > wanted_s * (1 + _LENGTH_OFF):
            return ()
        label, price = "Every cut to its end", f"{duration(length + gained)} in all"
    return (Change("fit", label, price, film.sequence.model_copy(update={"cuts": tuple(cuts)})),)


@across("across.cannot-match", source="what two frames that match agree in: common practice, no source")
def cannot_match(film: Film) -> Iterator[Remark]:
    """A cut that should match joins shots that differ in what must be the same."""
    for join in film.joins:
        off = differences(join)
        if off:
            before, after = join.before, join.after
            simple = _with_cut(film, after.at, joins="a plain cut")
            plain = Change("plain", "A plain cut", "nothing has to match", simple)
            yield Remark(
                "fix", f"{before.name} and {after.name} cannot match by {after.cut.joins}.", f"{'; '.join(off)}.",
                cut=after.at, changes=(plain,),
                turns="The same rate, projection and white balance, exposures within 1/3 stop, 1° of roll; "
                + ("the subject within 3 % and 5 % as large." if after.cut.joins == "same action"
                   else "within 1° and 2 % as wide."),
            )  # fmt: skip


_VIEWS: tuple[View, ...] = get_args(View)


@across("across.missing", source="wide, middle and close: common practice, no source")
def what_is_missing(film: Film) -> Iterator[Remark]:
    """A film of several shots wants one that shows where one is, and one that is near."""
    if len(film.planned) < 3:
        return
    seen = Counter(view_of(piece) for piece, _ in film.planned)
    missing = [view for view in ("wide", "close") if not seen[view]]
    if missing:
        there = ", ".join(f"{seen[view]} {view}" for view in _VIEWS if seen[view])
        yield Remark(
            "mind", f"No {' and no '.join(missing)} view.",
            f"There are {there}: " + ("who watches does not know where they are." if "wide" in missing
            else "nobody sees what it is made of."),
        )  # fmt: skip
