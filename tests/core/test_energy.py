"""Energy: against a simulation second by second, and what is said of it."""

import json
from fractions import Fraction
from uuid import UUID

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from revani.core.documents import Body, Card, Kit, Load, Mode, Shot, SmallPart, Source, Support
from revani.core.documents.sockets import connects
from revani.core.edit.apply import Edit, apply
from revani.core.edit.carrying import CarryEdit, WireEdit
from revani.core.feed.battery import cold_factor
from revani.core.feed.card import chapter_bytes, chapter_duration_s, promised_mb_s, wraps_at
from revani.core.feed.energy import CAUTIOUS, OPTIMISTIC, Bank, Drain, spent
from revani.core.feed.heat import inside_c
from revani.core.findings import apply_fix, judge
from revani.core.findings.finding import FixEdit
from revani.core.program.compiled import compile_shot
from revani.core.quantities.measures import measured_in
from revani.core.quantities.refusal import Refusal
from revani.core.rehearsal.outcome import rehearse
from revani.core.shown.feed_panel import feed_panel
from revani.core.shown.records import measured_told
from tests.conftest import make_kit, make_shot
from tests.feeding import BANK, BODY, CELLS, LEAD, STRAP, gear, shot_with


def second_by_second(drains: list[Drain], bank: Bank, slot_s: float, air_c: np.ndarray) -> tuple[list[float], float]:
    """Where each drain has run dry (seconds; infinite: never), and what is left in the bank."""
    own = [(one.own_wh or 0.0) for one in drains]
    cells = [list(one.cells) for one in drains]
    full = own.copy()
    dry = [float("inf")] * len(drains)
    left, off = 1.0, False
    for second in range(int(slot_s * air_c.size)):
        slot = int(second // slot_s)
        cold = float(cold_factor(air_c[slot]))
        wants = [float(one.watts[slot]) for one in drains]
        fed = [i for i, one in enumerate(drains) if one.fed]
        if fed and left > 0 and not off:
            asked = sum(wants[i] for i in fed)
            room = {i: max(full[i] - own[i], 0.0) * cold / 0.9 * 3600 if drains[i].own_wh else 0.0 for i in fed}
            if asked + sum(room.values()) < bank.cut_off_w:
                off = True
            else:
                most = min(bank.most_w, left * bank.gives_wh * cold * 3600)
                given = min(asked, most)
                spare, used = most - given, given
                for i in fed:
                    fills = min(room[i], spare)
                    spare, used = spare - fills, used + fills
                    wants[i] -= wants[i] * (given / asked if asked else 0)
                    own[i] += fills / 3600 * 0.9 / cold
                left -= used / 3600 / (bank.gives_wh * cold)
        for i in range(len(drains)):
            own[i] -= wants[i] / 3600 / cold
            if own[i] < 0 and cells[i]:
                full[i] = cells[i].pop(0)
                own[i] += full[i]
            if own[i] < -1e-9 and dry[i] == float("inf"):
                dry[i] = second
    return dry, left


@given(
    watts=st.lists(st.floats(0.3, 20), min_size=2, max_size=2),
    swings=st.floats(0, 0.9),
    own=st.lists(st.one_of(st.none(), st.floats(2, 40)), min_size=2, max_size=2),
    cells=st.integers(0, 2),
    gives=st.floats(1, 60),
    most=st.floats(2, 30),
    cut_off=st.sampled_from([0.0, 0.0, 1.5]),
    both=st.booleans(),
    air=st.tuples(st.floats(-20, 25), st.floats(-20, 25)),
)
def test_batteries_and_banks_end_when_a_simulation_by_the_second_says(
    watts: list[float], swings: float, own: list[float | None], cells: int, gives: float, most: float,
    cut_off: float, both: bool, air: tuple[float, float],
) -> None:  # fmt: skip
    slot_s, n = 30.0, 400
    wave = 1 + swings * np.sin(np.arange(n) / 9)
    drains = [
        Drain(UUID(int=1), "a", "records", watts[0] * wave, own[0], (own[0],) * cells if own[0] else (), 0.0, (0,)),
        Drain(UUID(int=2), "b", "carries", watts[1] * wave, own[1], (), 0.0, (0,) if both or own[1] is None else ()),
    ]
    bank = Bank(UUID(int=3), "bank", gives, most, cut_off)
    air_c = np.linspace(*air, n)
    dry, left = second_by_second(drains, bank, slot_s, air_c)
    found = {one.name: one for one in spent(drains, [bank], np.full(n, slot_s), air_c)}
    for drain, at in zip(drains, dry, strict=True):
        ends = found[drain.name].ends_at
        # A slot more or less: within one the simulation knows what happens, the rule does not.
        assert (n if ends is None else ends) == pytest.approx(min(at / slot_s, n), abs=2.5)
    assert float(found["bank"].left[-1]) == pytest.approx(left, abs=0.02)


def test_a_battery_alone_is_the_closed_form_and_the_band_lies_about_it() -> None:
    slot, air = np.full(100, 60.0), np.full(100, 20.0)
    drain = Drain(UUID(int=1), "a", "records", np.full(100, 3.0), 10.0)
    (left,) = (one.left for one in spent([drain], [], slot, air))
    assert left[-1] == pytest.approx(1 - 3 * 100 / 60 / 10)
    (best,) = (one.left for one in spent([drain], [], slot, air, OPTIMISTIC))
    (worst,) = (one.left for one in spent([drain], [], slot, air, CAUTIOUS))
    assert (best >= left).all() and (worst <= left).all()


def said(shot: Shot) -> dict[str, object]:
    return {one.id: one for one in judge(compile_shot(shot))}


def test_a_short_night_is_mended_by_what_the_kit_has() -> None:
    shot = shot_with(BANK, CELLS, LEAD)
    program = compile_shot(shot)
    found = next(one for one in judge(program) if one.id == "feed.battery-short")
    assert found.severity == "fix" and "more" in found.figures
    ids = [fix.id for fix in found.fixes]
    assert f"feed-from-{UUID(int=1)}" in ids and f"feed-from-{UUID(int=2)}" in ids
    fed = apply_fix(program, FixEdit(finding=found.id, fix=f"feed-from-{UUID(int=1)}"))
    # The lead that fits is plugged in with it.
    assert fed.kit.wires[0].by == (UUID(int=4),)
    assert "feed.battery-short" not in said(fed) and "feed.cannot-connect" not in said(fed)
    assert compile_shot(fed).battery_left[-1] > 0.2
    assert rehearse(compile_shot(fed)).end == "whole"


def test_a_change_of_cells_costs_frames_and_is_told() -> None:
    shot = apply(shot_with(CELLS), WireEdit(source=UUID(int=2), to=BODY))
    program = compile_shot(shot)
    changes = program.supplies[0].swaps
    assert changes and "feed.cells-changed" in said(shot)
    outcome = rehearse(program)
    # 90 s at a frame every 30 s: two frames fall between the first and the last of it.
    assert outcome.frames_changing == 2 * len(changes)
    assert outcome.frames_taken == program.frame_count - outcome.frames_changing


def test_a_bank_that_is_asked_for_little_switches_off_and_a_heater_keeps_it_awake() -> None:
    sleepy = gear(Source, 1, capacity_wh=100, cut_off_w=3, sockets="USB-A")
    wires = [{"source": UUID(int=1), "to": BODY}]
    alone = shot_with(sleepy, wires=wires, idle_w=1.0, frame_j=3)
    found = said(alone)["feed.bank-off"]
    assert "3 W" in found.figures  # type: ignore[attr-defined]
    strap = {"source": UUID(int=1), "to": UUID(int=3)}
    warm = shot_with(sleepy, STRAP, wires=[*wires, strap], idle_w=1.0, frame_j=3)
    assert "feed.bank-off" not in said(warm)


def test_what_cannot_be_connected_is_known_at_the_table() -> None:
    wrong = gear(SmallPart, 5, end_a="USB-C, bank", end_b="3.5 mm jack")
    tip = gear(SmallPart, 6, is_a="adapter", end_a="3.5 mm jack", end_b="barrel")
    bad = shot_with(BANK, wrong, wires=[{"source": UUID(int=1), "to": BODY, "by": [UUID(int=5)]}])
    assert "cannot be connected" in said(bad)["feed.cannot-connect"].sentence  # type: ignore[attr-defined]
    mended = [{"source": UUID(int=1), "to": BODY, "by": [UUID(int=5), UUID(int=6)]}]
    assert "feed.cannot-connect" not in said(shot_with(BANK, wrong, tip, wires=mended))
    assert connects("", [], "USB-C") is None


def test_a_strap_that_nothing_feeds_is_told_of() -> None:
    assert "feed.unfed" in said(shot_with(BANK, STRAP))
    fed = [{"source": UUID(int=1), "to": UUID(int=3)}]
    assert "feed.unfed" not in said(shot_with(BANK, STRAP, wires=fed))


def test_gear_that_stays_at_home_takes_its_wires_along() -> None:
    shot = shot_with(BANK, STRAP, wires=[{"source": UUID(int=1), "to": UUID(int=3)}])
    assert apply(shot, CarryEdit(piece=Source.model_validate(BANK), take=False)).kit.wires == ()


@pytest.mark.parametrize(
    ("extras", "wires", "words"),
    [
        ([BANK], [{"source": UUID(int=9), "to": UUID(int=1)}], "must come from power"),
        ([BANK, STRAP], [{"source": UUID(int=1), "to": UUID(int=3)}] * 2, "it is there already"),
        ([BANK, STRAP], [{"source": UUID(int=1), "to": UUID(int=3), "by": [UUID(int=8)]}], "must come along"),
        ([BANK], [{"source": UUID(int=1), "to": UUID(int=1)}], "must lead to"),
    ],
)
def test_wires_that_cannot_be_are_refused(extras: list[object], wires: list[object], words: str) -> None:
    kit = json.loads(make_kit().model_dump_json()) | {"extras": extras, "wires": wires}
    with pytest.raises(ValueError, match=words):
        Kit.model_validate(kit)


def test_a_cable_with_two_like_ends_and_a_capacity_of_nothing_are_refused() -> None:
    with pytest.raises(ValueError, match="told apart"):
        gear(SmallPart, 1, end_a="USB-C", end_b="usb-c ")
    with pytest.raises(ValueError, match="greater than 0"):
        gear(Source, 1, capacity_wh=0)
    shot = shot_with(BANK, STRAP)
    with pytest.raises(Refusal, match="must lead to"):
        apply(shot, WireEdit(source=UUID(int=1), to=UUID(int=1)))


def test_a_measured_figure_stands_beside_the_nominal_one() -> None:
    row = {"figure": "battery_wh", "value": 14.12, "on": "2026-11-24", "runs": 3}
    body = Body.model_validate({"name": "Body", "measured": [row]})
    assert measured_told(body) == ("Battery: 14.12 Wh measured, over 3 runs, 24 Nov 2026",)
    for wrong in ("name", "warp"):
        with pytest.raises(ValueError, match="no figure of it"):
            Body.model_validate({"name": "Body", "measured": [row | {"figure": wrong}]})


# Microsoft, FAT32 File System Specification: a file ends at 2³² − 1 bytes; handbook: 343.6 s at 100 Mbit/s.
def test_a_file_system_ends_a_recording_where_the_mode_does_not() -> None:
    plain, old = Card(name="New"), Card(name="Old", file_system="FAT32")
    free, own = Mode(name="Free"), Mode(name="Own", chapter_gb=4)
    assert chapter_bytes(plain, free) is None and chapter_bytes(plain, own) == 4_000_000_000
    assert chapter_bytes(old, free) == 2**32 - 1 and chapter_bytes(old, own) == 4_000_000_000
    assert float(chapter_duration_s(Fraction(100), 2**32 - 1)) == pytest.approx(343.6, abs=0.05)
    assert float(chapter_duration_s(Fraction(100), 12_000_000_000)) == pytest.approx(960)


# SD Association, speed classes: C10, U1 and V10 write 10 MB/s, U3 and V30 30, V60 60, V90 90.
@pytest.mark.parametrize(("name", "sure"), [("C10", 10), ("U1", 10), ("V10", 10), ("U3", 30), ("V30", 30), ("V90", 90)])
def test_a_class_promises_what_it_says_and_a_measured_speed_is_not_more(name: str, sure: int) -> None:
    card = Card.model_validate({"name": "Card", "speed_class": name, "write_mb_s": 400})
    assert promised_mb_s(card) == sure
    assert promised_mb_s(card.model_copy(update={"write_mb_s": 5.0})) == 5


def test_a_counter_begins_anew_after_9999() -> None:
    assert wraps_at(None, 10**6) is None
    assert wraps_at(9_990, 10) is None and wraps_at(9_990, 11) == 10
    shot = shot_with(next_number=9_000)
    assert "9000, so that 1,000 names are left" in said(shot)["feed.counter"].figures  # type: ignore[attr-defined]


def test_a_sealed_body_in_the_sun_gets_hot_and_one_at_night_does_not() -> None:
    # Memory: some 18 °C of sun on a dark case, some degrees a watt.
    assert inside_c(30, 90, 0, 4, True) == pytest.approx(48)
    assert inside_c(30, -10, 3, 10, True) == pytest.approx(60)
    hot = {"sealed": True, "heats_c_per_w": 12, "film_w": 4, "stops_at_c": 55}
    noon: dict[str, object] = {
        "start": {"by": "clock", "time": "11:00"}, "date": "2026-06-21", "move": {"kind": "live"},
        "timing": {"fps": 30, "interval_s": "1/30", "event_s": 600}, "light": {"shutter_s": "1/60"},
    }  # fmt: skip
    day = Shot.model_validate(shot_with(**hot).model_dump() | noon)
    assert "feed.heat" in said(day)
    night = Shot.model_validate(day.model_dump() | {"start": {"by": "clock", "time": "01:00"}})
    cold = night.model_copy(update={"place": night.place.model_copy(update={"temperature_c": 0.0})})
    assert "feed.heat" not in said(cold)


def test_a_heater_keeps_the_dew_off_as_long_as_it_has_power() -> None:
    wet = [{"at_s": 1_795_460_000 + 3_600 * i, "temperature_c": 4, "humidity_percent": 99} for i in range(40)]
    place = make_shot().place.model_dump() | {"weather": wet}

    def dews(*extras: dict[str, object], wires: list[dict[str, object]]) -> bool:
        shot = Shot.model_validate(shot_with(*extras, wires=wires).model_dump() | {"place": place})
        return "feed.dew" in said(shot)

    fed = [{"source": UUID(int=1), "to": UUID(int=3)}]
    large = gear(Source, 1, capacity_wh=200)
    assert dews(large, STRAP, wires=[]) and not dews(large, STRAP, wires=fed)
    # One that goes out in the night is told of, and dew from then on.
    assert dews(gear(Source, 1, capacity_wh=5), STRAP, wires=fed)


def test_a_load_that_one_set_and_a_weak_support_are_told() -> None:
    stick = gear(Support, 40, payload_kg=0.2)
    shot = shot_with(stick)
    assert "move.support" in said(shot) and "move.load" not in said(shot)
    kit = shot.kit.model_copy(update={"carries_at_most_kg": 1.0})
    assert "move.load" in said(shot.model_copy(update={"kit": kit}))


def test_a_body_that_fires_itself_ends_with_its_battery_whatever_is_in_the_pocket() -> None:
    wires: list[dict[str, object]] = [{"source": UUID(int=2), "to": BODY}]
    shot = shot_with(CELLS, wires=wires)
    own = shot.model_copy(update={"fires": "own timer", "light": shot.light.model_copy(update={"school": "automatic"})})
    assert compile_shot(shot).supplies[0].ends_at is None
    program = compile_shot(own)
    assert program.supplies[0].ends_at is not None and not program.changing.any()
    assert "feed.cells-idle" in said(own) and "feed.cells-idle" not in said(shot)
    # And it is not offered as a way out.
    alone = compile_shot(own.model_copy(update={"kit": shot_with(CELLS).kit}))
    short = next(one for one in judge(alone) if one.id == "feed.battery-short")
    assert not [fix.id for fix in short.fixes if fix.id.startswith("feed-from")]


def test_two_pieces_of_one_name_are_told_apart() -> None:
    twins = [gear(Load, 60 + i, name="Strap", draws_w=3, battery_wh=size) for i, size in ((0, 100.0), (1, 2.0))]
    program = compile_shot(shot_with(*twins))
    rows = {row.id: row for row in feed_panel(program).rows}
    assert not rows[UUID(int=60)].fails and rows[UUID(int=61)].fails


def test_the_load_is_typed_in_the_measures_that_are_chosen() -> None:
    field = "kit.carries_at_most_kg"
    with measured_in("imperial"):
        shot = apply(shot_with(), Edit(field=field, text="22"))
    assert shot.kit.carries_at_most_kg == pytest.approx(22 * 0.45359237)
    assert apply(shot, Edit(field=field, text="–")).kit.carries_at_most_kg is None
    assert apply(shot_with(), Edit(field=field, nudge=1)).kit.carries_at_most_kg == pytest.approx(
        shot_with().kit.weight_kg + 1, abs=0.06
    )
    with pytest.raises(Refusal, match="More than 0 kg"):
        apply(shot, Edit(field=field, text="-4 kg"))
