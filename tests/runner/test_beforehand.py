"""What is kept of what a camera saw before it began: how far back, and what becomes of it when a runner is killed."""

import asyncio
import uuid
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from revani.runner.beforehand import Ring, Seen, bring_home, keep
from revani.runner.spool import Spool, TakenUp

ID = uuid.UUID(int=7)


@given(st.lists(st.floats(0.01, 40), max_size=60), st.floats(1, 60), st.data())
def test_a_ring_has_all_of_its_span_and_just_one_picture_more(
    apart: list[float], keeps_s: float, data: st.DataObject
) -> None:
    ring, seen = Ring(keeps_s), [Seen(sum(apart[: k + 1]), bytes([k])) for k in range(len(apart))]
    for one in seen:
        ring.add(*one)
    now_s = seen[-1].at_s if seen else 0.0
    young = [one for one in seen if one.at_s > now_s - keeps_s]
    older = [one for one in seen if one.at_s <= now_s - keeps_s]
    assert ring.until(now_s) == older[-1:] + young
    at_s = data.draw(st.floats(0, now_s + 1))
    assert ring.until(at_s) == [one for one in older[-1:] + young if one.at_s <= at_s]


def test_nothing_is_kept_where_nothing_is_to_be() -> None:
    ring = Ring(0)
    ring.add(1.0, b"picture")
    assert ring.until(2.0) == []


def test_what_was_kept_lies_in_the_spool_until_it_is_thrown_away(tmp_path: Path) -> None:
    spool = Spool(tmp_path, ID)
    spool.take_up(TakenUp(id=ID, shot={}, speed=1, frame_count=3, fence=1))
    keep(spool, [Seen(10.0, b"first"), Seen(12.5, b"second")], 12.5)
    again = Spool(tmp_path, ID)
    assert {path.name: path.read_bytes() for path in again.before.iterdir()} == {
        "0001-2500.jpg": b"first",
        "0002-0.jpg": b"second",
    }
    assert [entry.note for entry in again.after(0)] == ["Kept of what it saw before it began: 2 pictures."]
    again.leave()
    assert sorted(path.suffix for path in tmp_path.iterdir()) == [".superseded"] * 2


def test_what_is_home_is_thrown_away_with_the_spool(tmp_path: Path) -> None:
    spool = Spool(tmp_path, ID)
    spool.take_up(TakenUp(id=ID, shot={}, speed=1, frame_count=3, fence=1))
    keep(spool, [Seen(10.0, b"first")], 10.0)
    spool.discard()
    assert not list(tmp_path.iterdir())


def test_a_disk_that_takes_nothing_is_told_and_keeps_nothing_from_beginning(tmp_path: Path) -> None:
    spool = Spool(tmp_path, ID)
    spool.before.write_text("a file where the folder is to be")
    keep(spool, [Seen(1.0, b"picture")], 1.0)
    assert "is not all kept" in spool.after(0)[0].note
    keep(spool, [], 1.0)
    assert "showed no picture" in spool.after(0)[1].note


def test_a_picture_that_cannot_be_read_keeps_no_run_from_ending(tmp_path: Path) -> None:
    spool = Spool(tmp_path, ID)
    (spool.before / "0001-2500.jpg").mkdir(parents=True)
    # No database is asked for what cannot be brought there.
    asyncio.run(bring_home(None, spool))  # type: ignore[arg-type]
    assert "cannot be read" in spool.after(0)[0].note
