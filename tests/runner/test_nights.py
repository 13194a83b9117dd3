"""A few of the nights of `python -m bench nights`: whatever happens, the journal is true and the night can go on."""

from pathlib import Path

import pytest

from tests.nights import a_night


@pytest.mark.parametrize("seed", range(8))
def test_whatever_happens_in_a_night_its_journal_is_true(simulated: tuple[str, str], tmp_path: Path, seed: int) -> None:
    night = a_night(seed, simulated[1], tmp_path)
    assert night.untrue == [], (sorted(night.happened), night.end)
