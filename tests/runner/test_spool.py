"""The runner's own notes: cut, damaged, on a full disk, in the way."""

from pathlib import Path
from uuid import uuid4

from hypothesis import given
from hypothesis import strategies as st

from revani.core.documents.run import JournalFrame
from revani.runner.spool import Spool, TakenUp, left_over

RUN = uuid4()


def missed(number: int) -> JournalFrame:
    return JournalFrame(number=number, planned_s=float(number), outcome="missed", reason="test")


def filled(folder: Path, frames: int = 8) -> bytes:
    spool = Spool(folder, RUN)
    spool.take_up(TakenUp(id=RUN, shot={"name": "x"}, speed=1, frame_count=9, fence=3))
    for number in range(1, frames + 1):
        spool.firing(number)
        spool.note(missed(number))
    return (folder / f"{RUN}.jsonl").read_bytes()


def test_a_spool_tells_after_a_restart_what_was_noted_and_what_was_being_taken(tmp_path: Path) -> None:
    filled(tmp_path, 3)
    spool = Spool(tmp_path, RUN)
    spool.firing(4)
    spool.remark("The mover was away.")
    again = Spool(tmp_path, RUN)
    assert sorted(again.numbers) == [1, 2, 3] and again.unfinished == 4
    assert [entry.frame.number for entry in again.after(1) if entry.frame] == [2, 3]
    assert again.after(3)[0].note == "The mover was away."
    # What is home needs no memory, and the file has all of it still.
    again.home(2)
    assert [entry.frame.number for entry in again.after(2) if entry.frame] == [3]
    assert sorted(Spool(tmp_path, RUN).numbers) == [1, 2, 3]
    assert again.taken_up and again.taken_up.fence == 3 and left_over(tmp_path) == [RUN]


@given(cut=st.integers(0, 2000))
def test_a_spool_cut_anywhere_is_read_up_to_the_cut_and_goes_on(tmp_path_factory, cut: int) -> None:  # type: ignore[no-untyped-def]
    folder = tmp_path_factory.mktemp("spool")
    whole = filled(folder)
    (folder / f"{RUN}.jsonl").write_bytes(whole[:cut])
    again = Spool(folder, RUN)
    used = max([*again.numbers, again.unfinished or 0])
    assert sorted(again.numbers) == list(range(1, len(again.numbers) + 1)) and not any(e.note for e in again.after(0))
    again.note(missed(used + 1))
    assert max(Spool(folder, RUN).numbers) == used + 1


@given(at=st.integers(0, 1500), length=st.integers(1, 60), dirt=st.binary(min_size=1, max_size=60))
def test_a_damaged_spool_is_set_aside_by_line_told_and_blocks_nothing(  # type: ignore[no-untyped-def]
    tmp_path_factory, at: int, length: int, dirt: bytes
) -> None:
    folder = tmp_path_factory.mktemp("spool")
    whole = filled(folder)
    (folder / f"{RUN}.jsonl").write_bytes(whole[:at] + dirt + whole[at + length :])
    again = Spool(folder, RUN)
    again.note(missed(9))
    once_more = Spool(folder, RUN)
    assert 9 in once_more.numbers and again.numbers <= once_more.numbers
    told = [entry.note for entry in once_more.after(0) if entry.note]
    assert len(told) == (folder / f"{RUN}.damaged").exists()


def test_a_full_disk_costs_no_note_and_says_so(tmp_path: Path) -> None:
    spool = Spool(tmp_path, RUN)
    spool.note(missed(1))
    # /dev/full takes nothing, as a full disk does.
    path = tmp_path / f"{RUN}.jsonl"
    kept = path.read_bytes()
    spool._close()
    path.unlink()
    path.symlink_to("/dev/full")
    for number in (2, 3):
        spool.note(missed(number))
    assert spool.in_memory and sorted(spool.numbers) == [1, 2, 3]
    path.unlink()
    path.write_bytes(kept)
    spool.note(missed(4))
    assert not spool.in_memory
    again = Spool(tmp_path, RUN)
    assert sorted(again.numbers) == [1, 2, 3, 4]
    assert ["took no notes" in entry.note for entry in again.after(0) if entry.note] == [True]


def test_something_in_the_place_of_a_spool_blocks_no_run(tmp_path: Path) -> None:
    (tmp_path / f"{RUN}.jsonl").mkdir()
    spool = Spool(tmp_path, RUN)
    spool.note(missed(1))
    assert spool.in_memory and [entry.frame.number for entry in spool.after(0) if entry.frame] == [1]
