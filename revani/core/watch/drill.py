"""Faults to practise on simulated gear: what each is, and what one should see and do."""

from typing import Literal

from pydantic import BaseModel

DrillName = Literal[
    "camera silent", "camera asleep", "camera refuses", "answers late", "answers lost", "nonsense", "card full",
    "card slow", "another card", "another camera", "battery empty", "battery dies", "clock jumps", "microphone dead",
    "slide stalls",
    "mover slow", "mover refuses", "another mover", "something passes", "a card is held",
]  # fmt: skip


class Drill(BaseModel):
    """A fault that can be switched on; `order` is what the simulated camera or mover is told."""

    name: DrillName
    gear: Literal["camera", "mover"]
    told: str
    order: dict[str, str | int | float]


def _camera(name: DrillName, told: str, kind: str, **more: str | int | float) -> Drill:
    return Drill(name=name, gear="camera", told=told, order={"kind": kind} | more)


def _mover(name: DrillName, told: str, kind: str, **more: str | int | float) -> Drill:
    return Drill(name=name, gear="mover", told=told, order={"kind": kind} | more)


DRILLS: tuple[Drill, ...] = (
    _camera("camera silent", "The next three frames get no answer for ten seconds.", "hang", count=3, seconds=10),
    _camera("camera asleep", "It answers nobody for twenty seconds, then wakes.", "asleep", seconds=20),
    _camera("camera refuses", "It says no to the next five frames.", "refuse", count=5),
    _camera("answers late", "The next ten frames are told of two seconds late.", "slow", count=10, seconds=2),
    _camera("answers lost", "The next three frames are taken, and their answers are lost.", "drop", count=3),
    _camera("nonsense", "The next six questions are answered with nonsense.", "garble", count=6),
    _camera("card full", "The card is full from now on: the run ends politely.", "full card"),
    _camera("card slow", "The card takes twenty times as long: its buffer fills.", "slow card"),
    _camera("another card", "It comes back with another card: what was taken lies on the first.", "other card"),
    _camera(
        "another camera", "For thirty seconds another camera answers at its address.", "another camera", seconds=30
    ),
    _camera("battery empty", "The battery is empty from now on: the run ends politely.", "empty battery"),
    _camera(
        "battery dies",
        "Its battery gives out in the middle of the next frame; after twenty seconds it has another.",
        "dies",
        seconds=20,
    ),
    _camera("clock jumps", "Its clock jumps an hour ahead; frames keep their pace.", "clock jump", seconds=3_600),
    _camera("microphone dead", "What is filmed from now on has a track of sound, and nothing on it.", "no sound"),
    _camera("something passes", "Something dark goes through the picture for six seconds.", "passes", seconds=6),
    _camera(
        "a card is held", "A code card with the word “begin” is held before the lens.", "card", seconds=6, word="begin"
    ),
    _mover("slide stalls", "The slide stops where it is until it is mended.", "stall", axis="slide"),
    _mover("mover slow", "Each answer of the mover takes half a second.", "slow", seconds=0.5),
    _mover("mover refuses", "It says no to the next three moves.", "refuse", count=3),
    _mover("another mover", "Another mover answers at its address until it is mended.", "another"),
)


def drill(name: DrillName) -> Drill:
    """The drill of a name."""
    return next(one for one in DRILLS if one.name == name)
