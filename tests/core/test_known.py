"""How a judgement is known: from the rule itself, with its source and what would change it."""

import re
from datetime import date
from pathlib import Path

from revani.core.findings import judge
from revani.core.findings.finding import RULES
from revani.core.program.compiled import compile_shot
from revani.core.sequence.across import ACROSS
from revani.jobs.sample import sample_shots

TRADE = ("common practice", "memory", "textbook", "geometry", "arithmetic", "own figure", "own hours")
PUBLISHED = ("ISO 2720", "PASP", "Naval Observatory", "Explanatory Supplement", "JPL", "cos δ", "photon",
             "how the runner",
             "figures of the kit", "projection of")  # fmt: skip


def test_every_rule_says_what_it_is_and_where_it_is_from() -> None:
    for rule in RULES:
        assert rule.said.endswith(".") and len(rule.said) > 20, rule.ids
        assert any(word in rule.source for word in TRADE + PUBLISHED), (rule.ids, rule.source)
    ids = [id for rule in RULES for id in rule.ids]
    assert len(ids) == len(set(ids))


def test_what_is_found_carries_its_rule_and_how_far_off_it_is() -> None:
    shot = next(one for one in sample_shots(date(2026, 11, 29)) if one.name == "Stars over the stack")
    said = {one.id: one for one in judge(compile_shot(shot))}
    for one in said.values():
        assert one.rule and one.source, one.id
    assert "Krisciunas" in said["night.moon"].source
    short = said["exposure.too-dark"]
    assert short.turns.startswith("From 1 stop short on") and "more light in the worst frame" in short.turns
    assert said["feed.battery-short"].turns.startswith("It is quiet while 20% are left at the end")


def test_the_pictures_of_the_handbook_are_of_rules_that_there_are() -> None:
    drawn = (Path(__file__).parents[2] / "web/src/handbook/pictures.tsx").read_text()
    named = {id for line in re.findall(r"rules: \[(.*?)\]", drawn) for id in re.findall(r'"(.*?)"', line)}
    known = {id for rule in (*RULES, *ACROSS) for id in rule.ids}
    assert named <= known and len(named) > 15
