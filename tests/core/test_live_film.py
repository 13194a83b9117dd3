"""A film at live speed: one stream on the card, judged by its bit rate and not by frames."""

import pytest

from revani.core.documents import Shot
from revani.core.documents.timing import Timing
from revani.core.findings import judge
from revani.core.program.compiled import compile_shot
from revani.core.rehearsal.outcome import rehearse
from tests.core.moving import axis, key, rig, shot_of


def live(write_mb_s: float = 90, capacity_gb: float = 128, minutes: float = 3) -> Shot:
    """A slide back and forth for some minutes at 30 fps, 100 Mbit/s."""
    kit = rig(axis("slide"))
    card = kit.card.model_copy(update={"write_mb_s": write_mb_s, "capacity_gb": capacity_gb})
    timing = Timing.model_validate({"fps": 30, "interval_s": "1/30", "event_s": minutes * 60})
    keys = (key(0, slide=200), key(20, slide=1000))
    return shot_of(*keys, kit=kit.model_copy(update={"card": card}), timing=timing, kind="live", repeat="ping-pong")


def test_a_film_waits_for_no_buffer_and_takes_its_bit_rate_from_the_card() -> None:
    outcome = rehearse(compile_shot(live()))
    assert (outcome.end, outcome.frames_taken, outcome.frames_blocked) == ("whole", 5_400, 0)
    # 100 Mbit/s for 180 s are 2.25 GB.
    assert 128e9 - outcome.card_free_bytes == pytest.approx(2.25e9, rel=1e-6)
    assert "all 5,400 frames" in outcome.told


def test_a_card_that_fills_ends_the_film_where_it_is_full() -> None:
    outcome = rehearse(compile_shot(live(capacity_gb=1)))
    # 1 GB at 12.5 MB/s is full after 80 s.
    assert outcome.end == "card full" and outcome.film_s == pytest.approx(80, abs=0.1)


@pytest.mark.parametrize(("write_mb_s", "told"), [(90, False), (12.5, False), (12.4, True), (5, True)])
def test_a_card_slower_than_the_bit_rate_is_a_finding(write_mb_s: float, told: bool) -> None:
    found = [one for one in judge(compile_shot(live(write_mb_s))) if one.id == "feed.card-slow"]
    assert bool(found) == told
    if found:
        assert found[0].severity == "stop" and "12.5 MB/s" in found[0].figures


def test_a_time_lapse_is_not_judged_by_the_bit_rate_of_a_film() -> None:
    slow = live(write_mb_s=5)
    still = slow.with_move(kind="continuous", repeat="once").model_copy(
        update={"timing": Timing.model_validate({"fps": 30, "interval_s": 30, "frame_count": 600})}
    )
    assert "feed.card-slow" not in [one.id for one in judge(compile_shot(still))]
