"""The rig-up list of a shot: made from its kit, its mode, who fires, and what is planned.

The backbone is common practice, without a source: stand, frame, focus, expose, set, switch off, plug, switch on, set
what was forgotten, home, try, cover, arm; at the end stop, let the file close, power down, unplug.
"""

from collections.abc import Iterator
from math import hypot

from revani.core.documents import Load, Shot, Source
from revani.core.light.firing import by_the_clock, fires_itself
from revani.core.program.compiled import Program
from revani.core.quantities.measures import DISTANCE, WEIGHT
from revani.core.quantities.units import count, decimals, gigabytes
from revani.core.rigup.step import RigStep, in_order
from revani.core.shown.dial_card import dial_card
from revani.core.shown.outputs import widest_needed

# What a body may forget when it is switched off, by the words in which that is said, and the step that sets it.
_FORGOTTEN = {
    "interval": "interval", "shutter": "exposure", "aperture": "exposure", "iso": "exposure", "exposure": "exposure",
    "white": "white-balance", "stabil": "stabilising", "focus": "focus", "drive": "drive", "noise": "noise-reduction",
    "mode": "interval", "clock": "clock",
}  # fmt: skip
_ON = "camera-on"


def rig_up(program: Program) -> tuple[RigStep, ...]:
    """All that is done for a shot, from the empty ground to the packed bag, in an order that can be followed."""
    shot = program.shot
    steps = [
        *_stand(shot), *_look(program), *_set(program), *_connect(shot), *_check(program), *_leave(program),
        *_afterwards(program),
    ]  # fmt: skip
    lost = forgotten(shot)
    changed = [_after_switching_on(step) if step.id in lost else step for step in steps]
    before_off = tuple(step.id for step in changed if step.phase == "camera" and step.id not in lost)
    doing = tuple(step.id for step in changed if step.phase not in ("leave", "afterwards"))
    found = []
    for step in changed:
        if step.id == "camera-off":
            step = _with(step, before_off)
        elif step.id == "arm":
            step = _with(step, (*doing, *(one.id for one in changed if one.phase == "leave" and one.id != "arm")))
        found.append(step)
    return in_order(found)


def forgotten(shot: Shot) -> frozenset[str]:
    """The steps that set what the body forgets in this mode when it is switched off."""
    said = shot.recording.forgets.casefold()
    return frozenset(step for word, step in _FORGOTTEN.items() if word in said)


def _with(step: RigStep, needs: tuple[str, ...]) -> RigStep:
    return RigStep(step.id, step.says, step.why, step.phase, (*step.needs, *needs), step.otherwise, step.answer)


def _after_switching_on(step: RigStep) -> RigStep:
    why = f"{step.why} It is forgotten when the camera is switched off, so it is set after the last switching on."
    needs = tuple(one for one in step.needs if one != "camera-off")
    return RigStep(step.id, step.says, why, step.phase, (*needs, _ON), step.otherwise, step.answer)


def _stand(shot: Shot) -> Iterator[RigStep]:
    kit = shot.kit
    for i, support in enumerate(kit.supports):
        id, weights = f"stand-{i + 1}", [one.name for one in kit.parts if one.is_a == "weight"]
        if support.stands_as in ("tripod", "mast"):
            weighed = f" with {weights[0]}" if weights else ""
            yield RigStep(
                id, f"Put {support.name} up and weigh it down{weighed}.", "Wind and a soft ground move what is light.",
                "stand", (), "The film shakes, or the camera falls.",
            )  # fmt: skip
        elif support.stands_as == "vehicle mount":
            yield RigStep(
                id, f"Fix {support.name}, pull at it, and tie the camera to the vehicle as well.",
                "A mount that lets go is a missile.", "stand", (), "The camera is lost, or hurts somebody.",
            )  # fmt: skip
        else:
            yield RigStep(id, f"Fix {support.name} and pull at it.", "What slips a little slips all night.", "stand")
    stands = tuple(f"stand-{i + 1}" for i in range(len(kit.supports)))
    for i, mover in enumerate(kit.movers):
        below = (f"mover-{i}",) if i else stands
        yield RigStep(
            f"mover-{i + 1}", f"Mount {mover.name} and level it.",
            f"It carries {WEIGHT.show(mover.payload_kg, 1)} at most, and moves as planned only where it is level.",
            "stand", below,
        )  # fmt: skip
    last = (f"mover-{len(kit.movers)}",) if kit.movers else stands
    yield RigStep("mount", f"Mount {kit.body.name} with {kit.lens.name}.", "All is framed from there.", "stand", last)
    if any(one.is_a == "tether" for one in kit.parts):
        yield RigStep("tether", "Tie the tether.", "It holds what a screw lets go.", "stand", ("mount",))


def _look(program: Program) -> Iterator[RigStep]:
    shot = program.shot
    times = 1.0 if program.round else widest_needed(program)
    wider = f", {decimals(times, 2)} × wider than the film ends with" if times > 1.0005 else ""
    yield RigStep(
        "frame", f"Frame and level it{wider}.", "What is made of it afterwards can only be cut out of what was framed."
        if wider else "A horizon that leans is straightened at the price of the edges.", "camera", ("mount",),
        "Black edges, or a head cut off." if wider else "",
    )  # fmt: skip
    if shot.light.filters:
        names = [one.name for one in shot.kit.filters if one.id in shot.light.filters]
        yield RigStep(
            "filter", f"Screw on {' and '.join(names)}.", "Before focus and exposure, which it changes.", "camera",
            ("frame",), "The first frames are white.",
        )  # fmt: skip
    thing = shot.subject
    where = f" on {thing.name}, {DISTANCE.show(hypot(thing.x_mm, thing.y_mm) / 1000, 1)} away" if thing else ""
    if shot.take.focus == "manual":
        yield RigStep(
            "focus", f"Focus{where}, then switch to manual focus.", "An autofocus hunts in the dark.", "camera",
            ("frame", "filter"), "Frames in the middle of the night are soft, each another.",
        )  # fmt: skip
    else:
        yield RigStep("focus", f"Focus: {shot.take.focus}.", "As it was decided.", "camera", ("frame", "filter"))
    yield RigStep(
        "exposure", "Take a test exposure and look at its histogram.", "The plan's light is computed; yours is there.",
        "camera", ("focus",),
    )  # fmt: skip


def _set(program: Program) -> Iterator[RigStep]:
    shot, light = program.shot, program.shot.light
    if fires_itself(shot):
        dialled = ", ".join(f"{row.dial} {row.to}" for row in dial_card(program)[1:4])
        yield RigStep(
            "interval", f"Dial its own timer as the dial card says: {dialled}.", "It fires by itself.", "camera",
            ("exposure",), "It takes what it took last time.",
        )  # fmt: skip
    elif not shot.live:
        who = {"controller": "The controller", "by hand": "You", "linked": "Revani"}[shot.fires]
        yield RigStep(
            "drive", "Set the drive to single; its own interval mode is off.",
            f"{who} fire{'s' if who != 'You' else ''}; two who fire count each other's frames.", "camera", ("mount",),
            "It takes two frames for one, or none.", "drive" if shot.fires == "linked" else None,
        )  # fmt: skip
    if light.white_balance != "automatic":
        yield RigStep(
            "white-balance", f"Fix the white balance at {light.white_balance_k:,} K.",
            "An automatic one drifts from frame to frame.", "camera", ("mount",), "The film changes colour by itself.",
            "white balance" if shot.fires == "linked" else None,
        )  # fmt: skip
    steadied, carried = shot.take.stabilised, shot.walk is not None
    if steadied or not program.round:
        says = f"Stabilising {shot.take.stabilising}." if steadied else "Stabilising off."
        why = (
            "As it was decided."
            if steadied
            else (
                "It is done afterwards, or not at all." if carried else "On a stand it looks for a shake and makes one."
            )
        )
        yield RigStep("stabilising", says, why, "camera", ("mount",), "" if steadied else "The picture swims.")
    longest = float(program.exposures.shutter_s.max())
    if not shot.live and longest >= 1 and not light.noise_reduction:
        yield RigStep(
            "noise-reduction", "Long-exposure noise reduction off.", "It takes a dark frame after each.", "camera",
            ("mount",), "Every other frame is missing.",
        )  # fmt: skip
    phone = " The telephone goes to airplane mode." if shot.live and shot.take.sound != "off" else ""
    yield RigStep(
        "quiet", f"Automatic power-off, beeps, lights and radios off, what is not needed of them.{phone}",
        "They end it, warm it, light the scene or buzz through the sound.", "camera", ("mount",),
        "It falls asleep after some minutes.",
    )  # fmt: skip
    wanted = float(program.card_bytes[-1])
    yield RigStep(
        "card", f"{shot.kit.card.name} is in and empty; {gigabytes(wanted)} are wanted.",
        "What is on it was copied, and compared, before.", "camera", (), "It is full in the middle of the night.",
        "card" if shot.fires == "linked" else None,
    )  # fmt: skip


def _connect(shot: Shot) -> Iterator[RigStep]:
    kit = shot.kit
    pieces = {one.id: one for one in kit.pieces}
    names = {one.id: one for one in kit.parts}
    into_body = [wire for wire in kit.wires if wire.to == kit.body.id and not _cells(pieces[wire.source])]
    plugged = []
    for i, wire in enumerate(kit.wires):
        source, to = pieces[wire.source], pieces[wire.to]
        if _cells(source):
            continue
        by = " by " + " and ".join(names[one].name for one in wire.by) if wire.by else ""
        ends = ""
        if wire.by:
            first, last = names[wire.by[0]], names[wire.by[-1]]
            ends = f" ({first.end_a} to {source.name}, {last.end_b} to {to.name})" if first.ends != ("", "") else ""
        fires = isinstance(source, Load)
        id = f"plug-{i + 1}"
        plugged.append(id)
        yield RigStep(
            id, f"Plug {source.name} into {to.name}{by}{ends}.",
            "It knows when; the camera does not." if fires else f"{to.name} runs from it.", "connect",
            ("camera-off", "mount") if wire in into_body else ("mount",),
            "Ends swapped, or plugged with the camera on: it does not fire." if fires
            else "A camera that is on may take the plug for a computer and wait." if wire in into_body else "",
        )  # fmt: skip
    if shot.fires == "controller" and not any(isinstance(pieces[wire.source], Load) for wire in into_body):
        plugged.append("trigger-cable")
        yield RigStep(
            "trigger-cable", "Plug the trigger cable: the controller's end there, the camera's end into the camera.",
            "Label the ends; they look alike in the dark.", "connect", ("camera-off", "mount"),
            "Ends swapped, or plugged with the camera on: it does not fire.",
        )  # fmt: skip
    needs_off = any(id == "trigger-cable" for id in plugged) or bool(into_body)
    if needs_off:
        yield RigStep(
            "camera-off", "Switch the camera off.", "Nothing is plugged into it while it is on.", "connect", ("mount",),
            "It hangs, or does not see what was plugged in.",
        )  # fmt: skip
    yield RigStep(
        _ON, "Switch the camera on, for the last time.", "What it forgets is set from here on.", "connect",
        ("camera-off", "mount", "card", *plugged), "", "camera answers" if shot.fires == "linked" else None,
    )  # fmt: skip


def _cells(piece: object) -> bool:
    return isinstance(piece, Source) and piece.cells


def _check(program: Program) -> Iterator[RigStep]:
    shot, kit = program.shot, program.shot.kit
    yield RigStep(
        "clock", "Set its clock to a tenth of a second.", "Frames and sky events are found again by it.", "check",
        (_ON,), "", "clock" if shot.fires == "linked" else None,
    )  # fmt: skip
    moved = shot.move is not None and shot.move.keys
    if kit.movers and moved:
        plugs = tuple(f"plug-{i + 1}" for i in range(len(kit.wires)))
        yield RigStep(
            "home", "Home and zero the axes.", "They count from there.", "check", ("mount", *plugs),
            "It drives into its end, or looks beside the subject.", "homed",
        )  # fmt: skip
        yield RigStep(
            "dry-run", "Run the move once without taking frames, and look at the cables.",
            "A cable that catches stops a motor.", "check", ("home",), "It hangs on its own cable in the night.",
        )  # fmt: skip
    if shot.walk is not None:
        yield RigStep(
            "walk-once", "Walk the way once without the camera.", "Steps and stones are learned by the feet.", "check"
        )
    yield RigStep(
        "test-frame", "Take one test frame and look at what it says of itself." if not shot.live
        else "Film ten seconds, listen, and look at the file.",
        "Shutter, aperture, ISO, size and time stand in it.", "check",
        (_ON, "clock", "interval", "exposure", "white-balance", "drive", "stabilising", "noise-reduction", "focus",
         "dry-run", "quiet"),
        "The file says 2.5 s where 30 s was planned.",
    )  # fmt: skip
    if shot.live and shot.take.sound != "off":
        yield RigStep(
            "level", f"Speak as loud as you will: peaks at {decimals(shot.take.level_dbfs, 0)} dBFS.",
            "What is too loud is cut for good.", "check", (_ON,),
        )  # fmt: skip


def _leave(program: Program) -> Iterator[RigStep]:
    shot, kit = program.shot, program.shot.kit
    heaters = [one.name for one in kit.loads if one.is_a == "heater"]
    if heaters:
        yield RigStep(
            "heater", f"Switch {' and '.join(heaters)} on.", "A lens that is wet once stays wet.", "leave",
            ("test-frame", *(f"plug-{i + 1}" for i in range(len(kit.wires)))), "Dew takes the picture, unseen.",
        )  # fmt: skip
    cells = [one for one in kit.sources if one.cells and any(wire.source == one.id for wire in kit.wires)]
    for one in cells:
        yield RigStep(
            f"cells-{cells.index(one) + 1}", f"Put {one.count} × {one.name} into an inner pocket.",
            "Cold takes a third of what they hold.", "leave", (),
        )  # fmt: skip
    if not shot.live and not program.round and shot.walk is None:
        yield RigStep(
            "viewfinder", "Cover the viewfinder.", "Light from behind gets into the meter and the frame.", "leave",
            ("test-frame",),
        )  # fmt: skip
    if by_the_clock(shot):
        press = (
            "Press it"
            if fires_itself(shot) or shot.live
            else "Start the controller"
            if shot.fires == "controller"
            else "Begin"
        )
        says = f"{press} at {program.local(program.start_s):%H:%M:%S}, wait for the first frame, then leave."
    else:
        says = "Arm it, and wait for the first frame."
    yield RigStep(
        "arm", says, "Nothing is recorded before.", "leave", ("test-frame", "viewfinder", "heater"),
        "It stands there all night and waits.",
    )  # fmt: skip


def _afterwards(program: Program) -> Iterator[RigStep]:
    shot = program.shot
    frames = "film" if shot.live else count(program.frame_count, "frame")
    yield RigStep(
        "stop", f"Stop it, from {program.local(program.end_s):%H:%M} on.",
        f"By then the {frames} should be there.", "afterwards", ("arm",),
    )  # fmt: skip
    yield RigStep(
        "file-closed", "Wait until it has written: its light is out.", "A file is closed at its end.", "afterwards",
        ("stop",), "Power pulled while a file is open: the file is damaged.",
    )  # fmt: skip
    goes_off = shot.take.when_over == "switches off" and not by_the_clock(shot)
    says = "See that it is off: it is switched off once its file is closed." if goes_off else "Switch it off."
    yield RigStep("power-down", says, "", "afterwards", ("file-closed",))
    yield RigStep(
        "unplug", "Unplug, and pack the card apart.", "A card that is apart is not filmed over.", "afterwards",
        ("power-down",),
    )  # fmt: skip
