"""What is said of a shot, as JSON."""

import json
from typing import Any

from revani.core.findings import Finding, judge
from revani.core.program.compiled import Program


def findings_json(program: Program) -> str:
    """The findings of a program, worst first, as a JSON list; `from_s` and `to_s` are seconds since 1970, UTC."""
    return json.dumps([_row(one) for one in judge(program)], indent=1, ensure_ascii=False) + "\n"


def _row(one: Finding) -> dict[str, Any]:
    return {
        "id": one.id,
        "severity": one.severity,
        "step": one.step,
        "sentence": one.sentence,
        "figures": one.figures,
        "from_s": one.from_s,
        "to_s": one.to_s,
        "fixes": [
            {"id": fix.id, "label": fix.label, "price": fix.price, "shot": fix.shot.model_dump(mode="json")}
            for fix in one.fixes
        ],
    }
