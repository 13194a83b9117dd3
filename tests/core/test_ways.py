"""The same shot done in several ways: kept in its document, compared, locked under one cursor, taken."""

import json

import numpy as np
import pytest
from hypothesis import HealthCheck, assume, given, settings

from revani.core.documents import Light, Shot
from revani.core.documents.way import KeptWay, WayChange
from revani.core.edit.fitting import compile_fitted
from revani.core.findings import judge
from revani.core.quantities.refusal import Refusal
from revani.core.rehearsal.schools import compare_schools
from revani.core.ways.kept import WayEdit, apply_way_edit, kept_beside, way_shot
from revani.core.ways.lockstep import STEPS, lockstep
from revani.core.ways.measured import measured
from revani.core.ways.table import cause, compared
from tests.conftest import make_shot
from tests.core.legal import legal_shots
from tests.core.small import night


def lit(shot: Shot, **change: object) -> Shot:
    return shot.with_light(**change)


def told(shot: Shot) -> dict[str, object]:
    """What two ways must share to be the same plan."""
    return shot.model_dump(mode="json", exclude={"ways"})


def test_the_three_nights_beside_each_other_say_what_makes_the_difference() -> None:
    # Common practice (handbook): a ceiling of 64,000 takes about 2.5 s, one of 100 its longest, about 30 s, which
    # gathers 3.6 stops more, has the least grain and shows the faintest stars.
    shot = night(64_000)
    for ceiling in (6_400, 100):
        shot = kept_beside(shot, lit(shot, iso_ceiling=ceiling))
    assert [one.name for one in shot.ways] == ["ISO ceiling 6400", "ISO ceiling 100"]
    ways = [
        measured("As it is", shot.model_copy(update={"ways": ()})),
        *(measured(one.name, way_shot(shot, one)) for one in shot.ways),
    ]
    rows = {row.label: row.cells for row in compared(ways)}
    best = {label: [cell.best for cell in cells] for label, cells in rows.items()}
    for label in ("light gathered", "grain", "faintest star"):
        assert best[label] == [False, False, True], label
    assert best["star moves"] == [True, False, False]
    gathered = [float(cell.text.replace("−", "-").split()[0]) for cell in rows["light gathered"]]
    assert gathered[0] == 0 and gathered[2] == pytest.approx(3.6, abs=0.25) and gathered[0] < gathered[1] < gathered[2]
    # Δm = 1.25 log10(t₂/t₁) for one lens (photon statistics; memory).
    shutters = [float(np.median(way.program.exposures.shutter_s)) for way in ways]
    fainter = float(rows["faintest star"][2].text.split()[0])
    assert fainter == pytest.approx(1.25 * np.log10(shutters[2] / shutters[0]), abs=0.06)
    # The noise of counted photons against their number goes as the root of it (photon statistics).
    assert float(rows["grain"][2].text.split()[0]) == pytest.approx((shutters[0] / shutters[2]) ** 0.5, abs=0.06)
    said = cause(ways[0], ways[2])
    assert "differs in one thing: ISO ceiling 100, not 64000." in said
    assert "gathers 3." in said and "the interval leaves the shutter no more than 29.6 s" in said


def test_the_foreground_is_as_dark_as_the_ground_is_under_the_sky() -> None:
    # In a night without a moon the ground reads 2.5 stops under the sky (handbook), whatever the way; two stops less
    # light make it two stops darker.
    ways = [measured("As it is", night(6_400)), measured("Darker", lit(night(6_400), compensation_stops=-2))]
    (row,) = [row for row in compared(ways) if row.label == "foreground"]
    first, second = (float(cell.text.replace("−", "-").split()[0]) for cell in row.cells)
    assert second - first == pytest.approx(-2, abs=0.35) and [cell.best for cell in row.cells] == [True, False]
    program, at = ways[0].program, ways[0].darkest
    ground, got = program.scene_ev[at] - program.scene_offset_stops, program.exposures
    # EV 100 = log2(N²/t) − log2(S/100) (ISO 2720).
    taken = np.log2(got.aperture[at] ** 2 / got.shutter_s[at] / (got.iso[at] / 100))
    assert first == pytest.approx(float(ground - taken), abs=0.06)


def test_what_is_taken_stands_and_what_stood_is_kept_in_its_place() -> None:
    shot = kept_beside(make_shot(), lit(make_shot(), iso_ceiling=400))
    shot = kept_beside(shot, lit(make_shot(), compensation_stops=-1), "Darker")
    meant = [told(way_shot(shot, one)) for one in shot.ways]
    taken = apply_way_edit(shot, WayEdit(act="take", name="Darker"))
    assert told(taken) == meant[1]
    assert [one.name for one in taken.ways] == ["ISO ceiling 400", "As it was"]
    # The other way is what it was, though what it lies over is another now; and the way back is one step.
    assert [told(way_shot(taken, one)) for one in taken.ways] == [meant[0], told(shot)]
    assert told(apply_way_edit(taken, WayEdit(act="take", name="As it was"))) == told(shot)


def test_a_way_that_fits_no_more_is_refused_at_its_field_and_the_others_stay() -> None:
    shot = kept_beside(make_shot(), lit(make_shot(), aperture=4.0), "Stopped down")
    shot = kept_beside(shot, lit(make_shot(), compensation_stops=-1), "Darker")
    wide_only = shot.kit.lens.model_copy(update={"aperture_narrowest": 3.5})
    changed = shot.model_copy(update={"kit": shot.kit.model_copy(update={"lens": wide_only})})
    with pytest.raises(Refusal) as refused:
        way_shot(changed, changed.ways[0])
    assert refused.value.path == "light.aperture" and "Stopped down" in refused.value.allowed
    assert way_shot(changed, changed.ways[1]).light.compensation_stops == -1
    gone = KeptWay(name="Gone", changes=(WayChange(path="light.candle", value=1),))
    with pytest.raises(Refusal, match="has no more"):
        way_shot(shot, gone)
    # Where another is taken it stays as it stands, to be dropped.
    taken = apply_way_edit(changed, WayEdit(act="take", name="Darker"))
    assert taken.ways[0] == changed.ways[0]
    assert [one.name for one in apply_way_edit(taken, WayEdit(act="drop", name="Stopped down")).ways] == ["As it was"]


def test_what_cannot_be_kept_beside_is_refused() -> None:
    shot = make_shot()
    with pytest.raises(Refusal, match="Nothing is other"):
        kept_beside(shot, shot.model_copy(update={"name": "Another", "note": "Words."}))
    for stops in (-3, -2, -1, 1, 2, 3):
        shot = kept_beside(shot, lit(shot, compensation_stops=stops))
        with pytest.raises(Refusal, match=r"kept already|keeps 6 ways"):
            kept_beside(shot, lit(shot, compensation_stops=stops))
    assert len({one.name for one in shot.ways}) == 6
    with pytest.raises(Refusal, match="keeps 6 ways"):
        kept_beside(shot, lit(shot, iso_ceiling=400))
    first, second = shot.ways[0].name, shot.ways[1].name
    with pytest.raises(Refusal, match="name of its own"):
        apply_way_edit(shot, WayEdit(act="rename", name=first, to=second))
    with pytest.raises(Refusal, match="A name is needed"):
        apply_way_edit(shot, WayEdit(act="rename", name=first, to=" "))
    long = kept_beside(make_shot(), lit(make_shot(), iso_ceiling=400), "An endless name " * 9)
    assert len(long.ways[0].name) <= 80
    # One that fits no more can still be called otherwise.
    broken = KeptWay(name="Broken", changes=(WayChange(path="light.candle", value=1),))
    with_it = make_shot().model_copy(update={"ways": (broken,)})
    assert apply_way_edit(with_it, WayEdit(act="rename", name="Broken", to="Lost")).ways[0].name == "Lost"
    with pytest.raises(Refusal, match="One of"):
        apply_way_edit(shot, WayEdit(act="take", name="Nowhere"))


def test_one_cursor_finds_the_frame_that_stood_at_that_hour_and_that_second() -> None:
    slow = make_shot()
    fast = slow.model_copy(update={"timing": slow.timing.model_copy(update={"interval_s": 45})})
    ways = [measured("slow", slow), measured("fast", fast)]
    by_film, places = lockstep(ways, "film")
    lengths = [float(way.program.film_length_s) for way in ways]
    assert len(places) == STEPS and {
        int(row[0] * float(way.film.fps)) for row, way in zip(by_film, ways, strict=True)
    } == {0}
    last = [max(one for one in row if one is not None) for row in by_film]
    assert last == pytest.approx(lengths, rel=0.02)
    by_clock, hours = lockstep(ways, "clock")
    at = np.linspace(
        min(way.program.start_s for way in ways), max(float(w.program.at_s[-1] + w.program.slot_s[-1]) for w in ways),
        STEPS,
    )  # fmt: skip
    assert hours[0] == f"{ways[0].program.local(at[0]):%H:%M}"
    for way, row in zip(ways, by_clock, strict=True):
        for moment, second in list(zip(at, row, strict=True))[::17]:
            if second is None:
                assert moment > way.program.at_s[-1] or moment < way.program.start_s
                continue
            number = int(second * float(way.program.timing.fps))
            assert way.program.at_s[number] <= moment + 1e-3
            assert number == way.program.frame_count - 1 or moment < way.program.at_s[number + 1] + 1e-3


@settings(max_examples=8, deadline=None, suppress_health_check=list(HealthCheck))
@given(shot=legal_shots())
def test_any_way_of_any_shot_is_kept_whole_and_compared(shot: Shot) -> None:
    try:
        program = compile_fitted(shot)
    except Refusal:
        assume(False)
        raise
    shot = program.shot
    others = [one.shot for one in compare_schools(compile_fitted(shot)) if not one.refused and not one.chosen]
    others += [fix.shot for one in judge(compile_fitted(shot)) for fix in one.fixes][:2]
    kept = []
    for other in others[-4:]:
        try:
            shot = kept_beside(shot, other)
        except Refusal as refusal:
            assert refusal.path == "ways" or "fits this shot no more" in refusal.allowed
            continue
        kept.append(other)
    again = Shot.model_validate_json(shot.model_dump_json())
    assert again == shot and len(again.ways) == len(kept)
    same = {"name", "note", "ways", "id"}
    for way, other in zip(again.ways, kept, strict=True):
        assert way_shot(again, way).model_dump(exclude=same) == other.model_dump(exclude=same)
    ways = [
        measured("As it is", shot.model_copy(update={"ways": ()})),
        *(measured(one.name, way_shot(shot, one)) for one in shot.ways[:2]),
    ]
    for row in compared(ways):
        assert all(cell.text for cell in row.cells) and not {"nan", "inf"} & {cell.text for cell in row.cells}
    assert all(cause(ways[0], way) for way in ways[1:])
    if all(len(way.film.frames) for way in ways):
        for lock in ("film", "clock"):
            rows, places = lockstep(ways, lock)  # type: ignore[arg-type]
            assert len(places) == STEPS
            assert json.dumps(rows, allow_nan=False) and all(any(one is not None for one in row) for row in rows)


def test_ways_of_a_light_that_is_fixed_compare_too() -> None:
    shot = make_shot()
    fixed = shot.model_copy(update={"light": Light(school="fixed", aperture=4, shutter_s=10, iso=800)})
    ways = [measured("As it is", shot), measured("Fixed", fixed)]
    rows = {row.label: row for row in compared(ways)}
    assert rows["clipped frames"].cells[0].best and not rows["clipped frames"].cells[1].best
    assert "things:" in cause(*ways)
