"""A run looks at its own first frames, whether or not anybody watches."""

import httpx

from tests.conftest import eventually
from tests.runs import saved, short, shot_whole


def test_a_run_says_by_itself_that_one_may_go(client: httpx.Client) -> None:
    run = shot_whole(client, saved(client, **short(30, name="May I go")), 30)
    verdict = eventually(lambda: client.get(f"/api/runs/{run['id']}").json()["verdict"], 60)
    # A machine that stands still may cost one of the first frames, which is then told.
    assert verdict["level"] in ("go", "mind") and verdict["after"] >= 5, verdict
    if verdict["level"] == "mind":
        assert "did not come" in verdict["told"]
