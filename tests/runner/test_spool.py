from pathlib import Path
from uuid import uuid4

from hypothesis import given
from hypothesis import strategies as st

from revani.runner.spool import Spool
from revani.store.runs import JournalFrame


def missed(number: int) -> JournalFrame:
    return JournalFrame(number=number, planned_s=float(number), outcome="missed", reason="test")


def test_a_spool_tells_after_a_restart_what_was_noted_and_what_was_being_taken(tmp_path: Path) -> None:
    run = uuid4()
    spool = Spool(tmp_path, run)
    for number in (1, 2, 3):
        spool.firing(number)
        spool.note(missed(number))
    spool.firing(4)
    again = Spool(tmp_path, run)
    assert again.last_number == 3 and again.unfinished == 4
    assert [frame.number for frame in again.after(1)] == [2, 3]


@given(cut=st.integers(0, 2000))
def test_a_spool_cut_anywhere_is_read_up_to_the_cut_and_goes_on(tmp_path_factory, cut: int) -> None:  # type: ignore[no-untyped-def]
    folder = tmp_path_factory.mktemp("spool")
    run = uuid4()
    spool = Spool(folder, run)
    for number in range(1, 9):
        spool.firing(number)
        spool.note(missed(number))
    path = folder / f"{run}.jsonl"
    path.write_bytes(path.read_bytes()[:cut])
    again = Spool(folder, run)
    used = max(again.last_number, again.unfinished or 0)
    assert [frame.number for frame in again.after(0)] == list(range(1, again.last_number + 1))
    again.note(missed(used + 1))
    assert Spool(folder, run).last_number == used + 1
