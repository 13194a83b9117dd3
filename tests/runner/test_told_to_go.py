"""A run looks at its own first frames, whether or not anybody watches."""

import httpx
import psycopg

from revani.core.watch.first_frames import GoFix, GoReason, GoVerdict
from tests.conftest import eventually
from tests.runs import saved, short, shot_whole


def test_a_run_says_by_itself_that_one_may_go(client: httpx.Client) -> None:
    run = shot_whole(client, saved(client, **short(12, name="May I go")), 12)
    verdict = eventually(lambda: client.get(f"/api/runs/{run['id']}").json()["verdict"], 60)
    # A machine that stands still may cost one of the first frames, which is then told.
    assert verdict["level"] in ("go", "mind") and verdict["after"] >= 5, verdict
    if verdict["level"] == "mind":
        assert "did not come" in verdict["told"]


def test_what_the_verdict_offers_changes_the_shot_and_not_the_run(
    client: httpx.Client, connection: psycopg.Connection
) -> None:
    shot = saved(client, **short(6, name="To be mended"))
    run = shot_whole(client, shot, 6)
    why = GoReason(
        level="stop", text="By their own clock the frames come every 1 min 10 s, 1 min was planned.",
        field="timing.interval_s", fix=GoFix(label="Plan a frame every 1 min 10 s", price="longer", typed="1 min 10 s"),
    )  # fmt: skip
    verdict = GoVerdict(
        level="stop", after=6, told="Stop: …", reasons=(why, GoReason(level="mind", text="", field="x"))
    )
    connection.execute(
        "INSERT INTO first_frames (run_id, after, verdict) VALUES (%s, 6, %s)", [run["id"], verdict.model_dump_json()]
    )
    refused = client.post(f"/api/runs/{run['id']}/mend", json={"field": "x"})
    assert refused.status_code == 422 and refused.json()["path"] == "field"
    told = client.post(f"/api/runs/{run['id']}/mend", json={"field": "timing.interval_s"}).json()
    assert told["shot_id"] == str(shot.id) and "goes on as it was armed" in told["told"]
    assert client.get(f"/api/shots/{shot.id}").json()["document"]["timing"]["interval_s"] == 70
    armed = connection.execute(
        "SELECT (shot->'timing'->>'interval_s')::float8 FROM run WHERE id = %s", [run["id"]]
    ).fetchone()
    assert armed == (60,)
