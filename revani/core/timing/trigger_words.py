"""What a shot waits for, as it is said and typed: `it moves and the sun is under −6°, or I say so`."""

import re

from pydantic import ValidationError

from revani.core.documents.trigger import (
    MOST_AT_ONCE,
    MOST_WAYS_TO_BEGIN,
    ClockStands,
    CodeShown,
    Condition,
    LightPasses,
    Louder,
    RunReaches,
    SaidSo,
    Stirs,
    SunStands,
    Ways,
)
from revani.core.quantities.refusal import Refusal
from revani.core.quantities.units import MINUS, decimals

_ALLOWED = (
    "Type what it waits for, such as: it moves · it moves by 5 % · the light is under EV 3 · it is louder than "
    f"{MINUS}30 dBFS · the sun is under {MINUS}6° · it is after 22:30 · I say so · "
    "code card dusk · “Ridge” begins, ends, is at key 2 or "
    "is at frame 100; joined by “and” and “or”."
)
_NUMBER = r"([+-]?\d+(?:\.\d+)?)"
_STIRS = re.compile(rf"(?:it|something) moves(?: by {_NUMBER} ?%)?")
_LIGHT = re.compile(rf"the light is (under|over) ev {_NUMBER}")
_SOUND = re.compile(rf"it is louder than {_NUMBER} ?db(?:fs)?")
_SUN = re.compile(rf"the sun is (under|over) {_NUMBER} ?°?")
_CLOCK = re.compile(r"it is (after|before) (\d{1,2}):(\d{2})")
_CARD = re.compile(r"code card ([A-Za-z0-9][A-Za-z0-9-]{0,39})", re.IGNORECASE)
_RUN = re.compile(
    r"[“\"](.+?)[”\"] (?:(begins|ends)|(?:is at|reaches) (?:its )?(key|frame) ([\d,]{1,9}))", re.IGNORECASE
)
_BY_HAND = ("i say so", "i say", "i press")
_LEAST_PART = Stirs.model_fields["part"].default


def show_condition(one: Condition) -> str:
    """One condition in words, as `parse_ways` reads it."""
    if isinstance(one, Stirs):
        return "it moves" if one.part == _LEAST_PART else f"it moves by {decimals(one.part * 100, 2)} %"
    if isinstance(one, LightPasses):
        return f"the light is {one.side} EV {decimals(one.ev, 2)}"
    if isinstance(one, Louder):
        return f"it is louder than {decimals(one.than_dbfs, 1)} dBFS"
    if isinstance(one, SunStands):
        return f"the sun is {one.side} {decimals(one.altitude_deg, 2)}°"
    if isinstance(one, ClockStands):
        return f"it is {one.side} {one.at}"
    if isinstance(one, CodeShown):
        return f"code card {one.word}"
    if isinstance(one, RunReaches):
        at = one.what if one.what in ("begins", "ends") else f"is at {one.what} {one.number:,}"
        return f"“{one.of}” {at}"
    return "I say so"


def show_ways(ways: Ways) -> str:
    """All ways in words: `it moves and the sun is under −6° or I say so`."""
    return " or ".join(" and ".join(show_condition(one) for one in way) for way in ways)


def parse_ways(text: str) -> Ways:
    """What is waited for, from words. Raises Refusal("")."""
    clean = " ".join(text.replace(MINUS, "-").replace("–", "-").split()).removeprefix("until ").removeprefix("when ")
    ways = tuple(tuple(_condition(one, text) for one in _split(way, "and")) for way in _split(clean, "or"))
    if len(ways) > MOST_WAYS_TO_BEGIN or any(len(way) > MOST_AT_ONCE for way in ways):
        raise Refusal("", f"At most {MOST_WAYS_TO_BEGIN} ways, of at most {MOST_AT_ONCE} conditions each.", text)
    return ways


def _split(text: str, word: str) -> list[str]:
    """The parts of a text between a word; one inside quotes is part of a name."""
    parts, quoted = [""], False
    for piece in re.split(rf"([“”\"]|,? {word} )", text):
        if piece.strip(", ").lower() == word and not quoted:
            parts.append("")
            continue
        quoted = piece == "“" or (quoted and piece != "”") if piece != '"' else not quoted
        parts[-1] += piece
    return [part.strip(" ,") for part in parts]


def _condition(words: str, text: str) -> Condition:
    lower = words.lower()
    try:
        if found := _STIRS.fullmatch(lower):
            return Stirs(part=round(float(found[1]) / 100, 6) if found[1] else _LEAST_PART)
        if found := _LIGHT.fullmatch(lower):
            return LightPasses.model_validate({"side": found[1], "ev": float(found[2])})
        if found := _SOUND.fullmatch(lower):
            return Louder(than_dbfs=float(found[1]))
        if found := _SUN.fullmatch(lower):
            return SunStands.model_validate({"side": found[1], "altitude_deg": float(found[2])})
        if found := _CLOCK.fullmatch(lower):
            return ClockStands.model_validate({"side": found[1], "at": f"{int(found[2]):02}:{found[3]}"})
        if found := _CARD.fullmatch(words):
            return CodeShown(word=found[1])
        if found := _RUN.fullmatch(words):
            what, number = (found[2] or found[3]).lower(), found[4]
            reached = {"of": found[1], "what": what} | ({"number": number.replace(",", "")} if number else {})
            return RunReaches.model_validate(reached)
    except ValidationError as error:
        first = error.errors()[0]
        raise Refusal("", f"“{words}”: {first['msg'][0].lower()}{first['msg'][1:]}.", text) from None
    if lower in _BY_HAND:
        return SaidSo()
    raise Refusal("", _ALLOWED, text)
