"""The runner's own notes as a machine of rules: whatever is noted and wherever it is cut, they say what was noted."""

import shutil
import tempfile
from copy import deepcopy
from pathlib import Path
from uuid import uuid4

from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, invariant, precondition, rule

from revani.core.documents.run import Intervention, JournalFrame
from revani.runner.spool import Spool, TakenUp


class Known:
    """What must be known: what became of which number, what is open, what was told and remarked."""

    def __init__(self) -> None:
        self.outcome: dict[int, str] = {}
        self.open: int | None = None
        self.told: dict[int, str] = {}
        self.notes: list[str] = []
        self.brought_home = 0


class SpoolRules(RuleBasedStateMachine):
    def __init__(self) -> None:
        super().__init__()
        self.folder, self.id = Path(tempfile.mkdtemp(prefix="revani-spool-")), uuid4()
        self.spool = Spool(self.folder, self.id)
        self.spool.take_up(TakenUp(id=self.id, shot={"name": "x"}, speed=1, frame_count=999, fence=1))
        self.known = Known()
        self.before, self.size_before = deepcopy(self.known), self._size()

    def teardown(self) -> None:
        shutil.rmtree(self.folder, ignore_errors=True)

    def _size(self) -> int:
        return (self.folder / f"{self.id}.jsonl").stat().st_size

    def _remember(self) -> None:
        self.before, self.size_before = deepcopy(self.known), self._size()

    @property
    def next_number(self) -> int:
        return max([*self.known.outcome, self.known.open or 0], default=0) + 1

    @precondition(lambda self: self.known.open is None)
    @rule()
    def a_frame_is_about_to_be_taken(self) -> None:
        self._remember()
        number = self.next_number
        self.spool.firing(number)
        self.known.open = number

    @precondition(lambda self: self.known.open is not None)
    @rule(taken=st.booleans())
    def something_became_of_it(self, taken: bool) -> None:
        self._remember()
        number = self.known.open
        assert number is not None
        outcome = "taken" if taken else "missed"
        self.spool.note(JournalFrame(number=number, planned_s=1.0, outcome=outcome, reason="" if taken else "why"))  # type: ignore[arg-type]
        self.known.outcome[number], self.known.open = outcome, None

    @rule(kind=st.sampled_from(["pause", "resume", "brighter"]))
    def a_person_changes_it(self, kind: str) -> None:
        self._remember()
        nth = len(self.known.told) + 1
        self.spool.heed(Intervention(nth=nth, kind=kind, from_number=self.next_number))  # type: ignore[arg-type]
        self.known.told[nth] = kind

    @rule(text=st.sampled_from(["a stall", "a clock", "a card"]))
    def something_is_remarked(self, text: str) -> None:
        self._remember()
        self.spool.remark(text)
        if text not in self.known.notes:
            self.known.notes.append(text)

    @rule()
    def what_there_is_is_brought_home(self) -> None:
        self._remember()
        self.known.brought_home += len(self.spool.after(self.known.brought_home))
        self.spool.home(self.known.brought_home)

    @rule(part=st.floats(0, 1))
    def the_process_is_ended_while_it_writes(self, part: float) -> None:
        """The last line may be cut anywhere; those before it are on the disk."""
        path, size = self.folder / f"{self.id}.jsonl", self._size()
        cut = self.size_before + round(part * (size - self.size_before))
        path.write_bytes(path.read_bytes()[:cut])
        # A line that wants nothing but its end is read.
        if cut < size - 1:
            self.known = deepcopy(self.before)
        self.spool = Spool(self.folder, self.id)
        self.known.brought_home = 0
        self._remember()

    @invariant()
    def what_is_known_is_what_was_noted(self) -> None:
        assert self.spool.numbers == set(self.known.outcome)
        assert self.spool.unfinished == self.known.open
        assert set(self.spool.missed) == {one for one, what in self.known.outcome.items() if what == "missed"}
        assert {nth: one.kind for nth, one in self.spool.told.items()} == self.known.told

    @invariant()
    def a_runner_that_comes_now_knows_the_same(self) -> None:
        again = Spool(self.folder, self.id)
        entries = again.after(0)
        numbers = [entry.frame.number for entry in entries if entry.frame is not None]
        assert numbers == sorted(self.known.outcome) and again.unfinished == self.known.open
        assert [entry.note for entry in entries if entry.note] == self.known.notes
        assert again.taken_up is not None and again.taken_up.fence == 1


TestSpoolRules = SpoolRules.TestCase
TestSpoolRules.settings = settings(max_examples=30, stateful_step_count=30, deadline=None)
