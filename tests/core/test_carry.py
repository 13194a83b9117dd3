"""Gear that comes along on a shot, or stays at home."""

import pytest

from revani.core.documents import Filter
from revani.core.edit.apply import CarryEdit, apply
from revani.core.quantities.refusal import Refusal
from tests.conftest import make_shot
from tests.core.moving import axis, rig


def test_a_body_changes_places_with_the_one_that_was() -> None:
    shot = make_shot()
    other = shot.kit.body.model_copy(update={"name": "Second body"})
    assert apply(shot, CarryEdit(piece=other)).kit.body.name == "Second body"


def test_a_filter_that_stays_at_home_is_not_before_the_lens() -> None:
    smoke, grad = Filter(name="Smoke 3", stops=3), Filter(name="Smoke 6", stops=6)
    shot = make_shot()
    for piece in (smoke, grad):
        shot = apply(shot, CarryEdit(piece=piece))
    shot = shot.with_light(filters=(smoke.id, grad.id))
    shot = apply(shot, CarryEdit(piece=smoke, take=False))
    assert [one.name for one in shot.kit.filters] == ["Smoke 6"]
    assert shot.light.filters == (grad.id,)
    # Taken twice it comes once.
    assert apply(shot, CarryEdit(piece=grad)).kit.filters == (grad,)


def test_two_movers_of_one_axis_are_refused_in_words() -> None:
    (slider,) = rig(axis("slide")).movers
    (second,) = rig(axis("slide"), axis("pan")).movers
    shot = apply(make_shot(), CarryEdit(piece=slider))
    with pytest.raises(Refusal, match="same axis") as refusal:
        apply(shot, CarryEdit(piece=second))
    assert refusal.value.path == "kit"
    assert apply(shot, CarryEdit(piece=slider, take=False)).kit.movers == ()
